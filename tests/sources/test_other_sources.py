"""The sources beside the kernel's: typed by hand, replayed, and the program's own share."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace

import numpy as np

from samovar.bench.recorder import Recorder
from samovar.core.idle import idle_load
from samovar.core.marks import Change, Mark
from samovar.core.phases import activity, find_phases
from samovar.core.quantity import Channel
from samovar.core.recording import Recording
from samovar.exchange.titles import channel_named
from samovar.sources.hand import HandSource
from samovar.sources.own_share import CHANNEL, OwnShare
from samovar.sources.replay import ReplaySource
from tests.recordings import simple_run

ROOM = Channel("Room by hand", "temperature", "°C", "inlet", "case", "hand:room")


class FastClock:
    """A clock whose time passes only by waiting."""

    speed = 100.0

    def __init__(self) -> None:
        self.time = 0.0

    def now(self) -> float:
        return self.time

    def wait_until(self, moment: float, wake: object = None) -> None:
        self.time = max(self.time, moment)

    def started(self) -> str:
        return "2026-03-02T09:00:00Z"


class Memory:
    def __init__(self) -> None:
        self.times: list[float] = []
        self.rows: list[list[float]] = []

    def append(self, at_s: float, values: list[float]) -> None:
        self.times.append(at_s)
        self.rows.append(list(values))

    def change(self, change: Change) -> None:
        pass

    def mark(self, mark: Mark) -> None:
        pass


class HandTest(unittest.TestCase):
    def test_a_value_holds_until_the_next_or_until_it_is_old(self) -> None:
        now = [0.0]
        source = HandSource([ROOM], lambda: now[0], hold_s=100.0)
        self.assertTrue(math.isnan(source.sample()[0]))
        source.enter(ROOM.name, 22.4)
        now[0] = 60.0
        self.assertEqual(source.sample(), [22.4])
        source.enter(ROOM.name, 22.9, seconds_ago=50.0)
        now[0] = 105.0
        self.assertEqual(source.sample(), [22.9])
        now[0] = 111.0
        self.assertTrue(math.isnan(source.sample()[0]))
        with self.assertRaises(KeyError):
            source.enter("another", 1.0)


class ReplayTest(unittest.TestCase):
    def replayed(self, recording: Recording, rate_hz: float, seconds: float) -> tuple[np.ndarray, np.ndarray]:
        clock, sink = FastClock(), Memory()
        source = ReplaySource(recording, clock.now)
        Recorder([source], clock, sink, rate_hz=rate_hz, for_s=seconds, patience_s=None).run()
        return np.array(sink.times), np.array(sink.rows).T

    def test_a_run_replayed_at_its_own_rate_is_the_run(self) -> None:
        whole = simple_run(300)
        time_s, values = self.replayed(whole, 1.0, whole.duration_s)
        np.testing.assert_allclose(time_s, whole.time_s)
        np.testing.assert_array_equal(values, whole.values)

    def test_a_gap_stays_a_gap_and_the_end_is_the_end(self) -> None:
        whole = simple_run(100)
        keep = (whole.time_s < 30) | (whole.time_s > 50)
        source_run = Recording(whole.channels, whole.time_s[keep], whole.values[:, keep])
        time_s, values = self.replayed(source_run, 1.0, whole.duration_s + 20.0)
        missing = np.isnan(values).all(axis=0)
        self.assertTrue(missing[(time_s > 32) & (time_s < 50)].all())
        self.assertFalse(missing[(time_s > 51) & (time_s < whole.duration_s)].any())
        self.assertTrue(missing[time_s > whole.duration_s + 2].all())


class OwnShareTest(unittest.TestCase):
    def test_the_share_is_of_one_core_and_never_taken_for_a_load(self) -> None:
        now, spent = [0.0], [0.0]
        source = OwnShare(lambda: now[0], lambda: spent[0])
        self.assertTrue(math.isnan(source.sample()[0]))
        now[0], spent[0] = 2.0, 0.05
        self.assertAlmostEqual(source.sample()[0], 2.5)
        whole = simple_run(400)
        loud = np.full(len(whole.time_s), 80.0)
        joined = Recording((*whole.channels, CHANNEL), whole.time_s, np.vstack([whole.values, loud]))
        self.assertEqual(find_phases(joined), find_phases(whole))
        only = Recording((CHANNEL,), whole.time_s, loud[None, :])
        self.assertIsNone(activity(only))
        self.assertEqual(
            replace(channel_named(CHANNEL.name, "load"), id=CHANNEL.id), CHANNEL, "an export keeps what it is"
        )

    def test_a_busy_idle_is_told(self) -> None:
        time_s = np.arange(200.0)
        load = np.where(time_s < 60, 12.0, 100.0)
        recording = Recording((Channel("Utilisation", "load", "%", "package", "cpu"),), time_s, load[None, :])
        self.assertAlmostEqual(idle_load(recording, find_phases(recording)) or 0, 12.0)
        self.assertIsNone(idle_load(recording, []))


if __name__ == "__main__":
    unittest.main()
