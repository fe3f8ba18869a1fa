"""Readings entered in the interface after the run, what a review is about, and a change that is claimed."""

from __future__ import annotations

import shutil
import sys
import tempfile
import time
import unittest
from pathlib import Path

from textual.pilot import Pilot
from textual.widgets import Input

from samovar.archive import Archive
from samovar.archive.claim_checks import check_claim
from samovar.core.marks import FANS, Change
from samovar.tui.app import SamovarApp
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from tests.demo_archive import demo_archive
from tests.tui.driving import Driven, screen_text, text_of, until
from tests.tui.terminal import Terminal


class EnteredTest(Driven):
    async def open_run(self, app: SamovarApp, pilot: Pilot[None], number: int) -> None:
        app.session.trace_run = number
        await pilot.press("4")
        await until(pilot, lambda: f"r{number:04d}" in text_of(app, "#title"))
        await until(pilot, lambda: "steady" in text_of(app, "#panel"))

    async def type_in(self, app: SamovarApp, pilot: Pilot[None], text: str) -> None:
        await until(pilot, lambda: isinstance(app.screen, Ask))
        app.screen.query_one(Input).value = text
        await pilot.press("enter")

    def test_a_reading_is_entered_changed_and_taken_back_and_each_can_be_undone(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            hands = app.session.archive.runs.hands
            await self.open_run(app, pilot, 9)
            await pilot.press("b")
            await until(pilot, lambda: isinstance(app.screen, Choose))
            await pilot.press("enter")
            # What cannot be read is said, and what was typed stands there again.
            await self.type_in(app, pilot, "loud")
            await until(
                pilot, lambda: isinstance(app.screen, Ask) and app.screen.query_one(Input).value == "loud"
            )
            await self.type_in(app, pilot, "33 to 36 dBA at 3 ft, phone, background 30")
            await until(pilot, lambda: "at most 32 ±5 dBA" in text_of(app, "#panel"))
            (kept,) = hands.of(9)
            self.assertEqual((kept.instrument, kept.n), ("phone", 1))
            await pilot.press("b")
            await until(
                pilot, lambda: "at most 32 ±5 dBA" in screen_text(app) and isinstance(app.screen, Choose)
            )
            await pilot.press("down", "enter")
            await self.type_in(app, pilot, "31 dBA, class 2")
            await until(pilot, lambda: "30.8 ±1.4 dBA" in text_of(app, "#panel"))
            await pilot.press("u")
            await until(pilot, lambda: "at most 32 ±5 dBA" in text_of(app, "#panel"))
            await pilot.press("b")
            await until(pilot, lambda: isinstance(app.screen, Choose))
            await pilot.press("down", "enter")
            await self.type_in(app, pilot, "")
            await until(pilot, lambda: hands.of(9) == [])
            await pilot.press("u")
            await until(pilot, lambda: hands.of(9) == [kept])
            await pilot.press("u")
            await until(pilot, lambda: hands.of(9) == [])

        self.drive(steps)

    def test_the_grid_and_the_desk_show_what_the_review_is_about(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("2")
            await until(pilot, lambda: "49.6 ±0." in screen_text(app))
            await pilot.press("w")
            await until(pilot, lambda: isinstance(app.screen, Choose))
            app.screen.query_one("#narrow", Input).value = "steady regul temp"
            await pilot.pause()
            await pilot.press("enter")
            await until(pilot, lambda: "steady regulators temperature" in text_of(app, "#title"))
            await until(pilot, lambda: "°C" in screen_text(app) and "49.6 ±0." not in screen_text(app))
            await pilot.press("0")
            await until(pilot, lambda: "°C vrm" in screen_text(app))
            await pilot.press("2", "z")
            await until(pilot, lambda: "49.6 ±0." in screen_text(app))

        self.drive(steps)

    def test_what_a_change_did_is_claimed_and_holds(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            store = app.session.archive.runs
            load = store.reading(4).load_phase()
            assert load is not None
            store.change_change(4, None, Change(load.start_s, "load", "worst case"))
            store.change_change(4, None, Change(load.start_s + 120.0, FANS, value=1.0))
            await self.open_run(app, pilot, 4)
            await until(pilot, lambda: "what changes did" in text_of(app, "#panel"))
            self.assertRegex(text_of(app, "#panel"), r"fans 100 %\n +added \d+\.\d ±\d+\.\d K to Tdie")
            await pilot.press("c")
            await until(pilot, lambda: isinstance(app.screen, Choose))
            await pilot.press("enter")
            await until(pilot, lambda: len(app.session.archive.reviews.claims(1)) == 7)
            claim = app.session.archive.reviews.claims(1)[-1]
            await until(pilot, lambda: claim.id in app.session.data.effects)  # type: ignore[union-attr]
            data = app.session.data
            assert data is not None
            checked = check_claim(data, claim)
            self.assertEqual((claim.kind, checked.state), ("change", "holds"))
            self.assertRegex(
                checked.sentence, r"^Osprey 161, worst case: fans 100 % added \d+\.\d ±\d+\.\d K to Tdie"
            )
            await pilot.press("6")
            await until(pilot, lambda: len(app.screen.query("#claims ListItem")) == 7)
            await pilot.press(*["down"] * 6)
            await until(pilot, lambda: "fans 100 % added" in screen_text(app))

        self.drive(steps)


@unittest.skipUnless(shutil.which("tmux"), "tmux is not installed")
class RealProgramTest(unittest.TestCase):
    def test_a_score_is_entered_for_a_run_of_a_cell_in_the_real_program(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            archive = demo_archive(folder)
            terminal = Terminal(
                sys.executable, "-m", "samovar", "demo", "--archive", str(archive), folder=folder
            )
            self.addCleanup(terminal.close)
            terminal.until("Latest runs")
            for keys, words in (
                (("2",), "cells have all passes"), (("Right",), "here Tern 47 ▸ heavy work"), (("Enter",), "read it closely"), (("b",), "Read by hand"), (("Enter",), "What was read"),
            ):  # fmt: skip
                terminal.keys(*keys)
                terminal.until(words)
                time.sleep(0.3)
            terminal.keys("Down", "Down", "Down", "Down", "Down", "Enter")
            terminal.until("what a benchmark printed")
            time.sleep(0.3)
            terminal.type("5012 points")
            terminal.keys("Enter")
            terminal.until("score 5012 points kept")
            terminal.keys("Escape", "q")
            terminal.until("ended with 0")
            with Archive(archive) as opened:
                kept = [
                    h
                    for hands in opened.runs.hands.of_all(list(range(1, 24))).values()
                    for h in hands
                    if h.kind == "score"
                ]
            self.assertEqual([(h.value, h.unit, h.at_s) for h in kept], [(5012.0, "points", None)])


if __name__ == "__main__":
    unittest.main()
