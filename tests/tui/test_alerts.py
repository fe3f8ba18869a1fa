"""What must be noticed from across the room: given once for as long as it is so, and the numbers made large."""

from __future__ import annotations

import unittest
from types import SimpleNamespace
from typing import Any

import numpy as np
from textual.pilot import Pilot

from samovar.bench.course_spec import CourseSpec, DueReading
from samovar.core.quantity import Channel
from samovar.tui.alerts import Alert, AlertBook, alerts_of
from samovar.tui.app import SamovarApp
from samovar.tui.widgets.far_view import huge
from samovar.tui.widgets.settle_panel import SettleView
from tests.tui.driving import Driven, screen_text, until

DIE, FAN = Channel("Tdie", "temperature", "°C", "die", "cpu"), Channel("Fan", "fan", "rpm", "other", "cpu")


def live(
    step: str = "load", readings: tuple[DueReading, ...] = (), taken: tuple[str, ...] = (), **more: Any
) -> Any:
    """As much of a run under way as alerts look at."""
    values: dict[str, Any] = {
        "channels": (DIE, FAN), "step": step, "waiting": False, "spec": CourseSpec("worst case", readings=readings),
        "course": SimpleNamespace(steps=[("idle", 0.0), ("load", 10.0)]), "writer": SimpleNamespace(problem=None),
        "recorder": SimpleNamespace(strides=[1, 1]),
        "hand_readings": [SimpleNamespace(kind=q) for q in taken],
    }  # fmt: skip
    return SimpleNamespace(**{**values, **more})


def words(run: Any, view: SettleView | None = None, samples: int = 60, silent_from: int = 60) -> list[str]:
    time_s = np.arange(float(samples))
    values = np.vstack([np.full(samples, 60.0), np.full(samples, 900.0)])
    values[0, silent_from:] = np.nan
    return [a.words for a in alerts_of(run, view or SettleView(), time_s, values)]


class AlertTest(unittest.TestCase):
    def test_a_lost_sensor_is_told_after_five_seconds(self) -> None:
        self.assertEqual(words(live(), silent_from=57), [])
        self.assertEqual(words(live(), silent_from=40), ["SENSOR LOST: Tdie silent for 5 s"])
        self.assertEqual(words(live(), silent_from=0), [], "it never was there")

    def test_readings_are_due_when_the_course_says(self) -> None:
        course = (DueReading("noise"), DueReading("wall power", "at", 30.0))
        self.assertEqual(words(live(readings=course), samples=35), [])
        self.assertEqual(words(live(readings=course)), ["READ WALL POWER NOW: press b"])
        settled = SettleView(settled=True)
        self.assertEqual(
            words(live(readings=course, taken=("wall power",)), settled),
            ["SETTLED", "READ NOISE NOW: press n"],
        )
        self.assertEqual(words(live("cool-down", readings=course)), [])

    def test_what_is_not_written_and_who_is_waited_for(self) -> None:
        run = live(writer=SimpleNamespace(problem="the disk is full"), waiting=True)
        self.assertEqual(words(run), ["NOT WRITTEN: the disk is full", "START WORST CASE NOW, then press g"])

    def test_each_is_given_once_and_again_after_it_was_over(self) -> None:
        book, lost, settled = AlertBook(), Alert("lost", "x"), Alert("settled", "y")
        self.assertEqual(book.new([lost]), [lost])
        self.assertEqual(book.new([lost, settled]), [settled])
        self.assertEqual(book.new([]), [])
        self.assertEqual(book.new([lost, settled]), [lost], "settled is said once a run")

    def test_digits_grow_without_losing_their_shape(self) -> None:
        small, tall = huge("4", 1), huge("4", 3)
        self.assertEqual((len(small), len(small[0]), len(tall), len(tall[0])), (3, 3, 9, 9))
        self.assertEqual(
            sum(u + b for row in tall for u, b in row), 9 * sum(u + b for row in small for u, b in row)
        )


class FarTest(Driven):
    def test_the_far_view_and_the_banner(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            app.session.chosen = ("Osprey 161", "worst case")
            await pilot.press("3", "r")
            live_run = app.session.live
            assert live_run is not None
            await until(pilot, lambda: live_run.step == "load")
            await pilot.press("f")
            await until(pilot, lambda: "die, °C" in screen_text(app) and "work, 1/s" in screen_text(app))
            await until(pilot, lambda: "N O I S E" in screen_text(app), 60.0)
            await pilot.press("f")
            await until(pilot, lambda: "held by" in screen_text(app))
            await pilot.press("n")
            await until(pilot, lambda: "a sound level, dBA" in screen_text(app))
            await pilot.press(*"31.5", "enter")
            await until(pilot, lambda: "N O I S E" not in screen_text(app))
            self.assertEqual(app.session.archive.runs.hands.of(live_run.number)[0].background, 17.0)

        self.drive(steps, speed=60.0)


if __name__ == "__main__":
    unittest.main()
