"""Every figure of a run: each channel over a window of its own, and what cannot be had costs itself alone."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from samovar.core.facts import Facts
from samovar.core.quantity import Channel
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.results.compute import results_of
from samovar.core.results.core_groups import core_groups, group_of
from samovar.core.results.result import Result
from samovar.core.results.steps import results_of_steps, steps_of
from tests.recordings import CLOCK, DIE, FACTS, POWER, USE, simple_run, stepped

VRM = Channel("VRM", "temperature", "°C", "vrm", "board")
DRIVE = Channel("Drive", "temperature", "°C", "storage", "storage")
ROOM = Channel("Room", "temperature", "°C", "inlet", "case")


def with_rows(recording: Recording, *more: tuple[Channel, np.ndarray]) -> Recording:
    channels = (*recording.channels, *(c for c, _ in more))
    return Recording(channels, recording.time_s, np.vstack([recording.values, *(row for _, row in more)]))


def found(recording: Recording, facts: Facts | None = FACTS) -> dict[tuple[str | None, str, str], Result]:
    results = results_of(recording, read(recording, facts))
    return {(r.part, r.quantity, r.statistic): r for r in results}


class ResultsTest(unittest.TestCase):
    def test_the_run_of_known_answers(self) -> None:
        results = found(simple_run())
        # 95 W from 28 s on through 0.2 + 0.3 K/W, over an idle of 27.5 °C at 10 W: 70 °C in a room of 22.5 °C.
        steady, rise = results["die", "temperature", "steady"], results["die", "temperature", "rise"]
        self.assertAlmostEqual(steady.value, 70.0, delta=0.3)
        self.assertAlmostEqual(rise.value, 47.5, delta=0.4)
        self.assertEqual(
            (rise.unit, rise.source, rise.bound, rise.channel), ("K", "measured", None, "CPU die")
        )
        assert steady.window is not None and rise.half_width is not None and steady.half_width is not None
        self.assertGreater(rise.half_width, steady.half_width)
        self.assertAlmostEqual(results["die", "temperature", "idle"].value, 27.5, delta=0.2)
        self.assertAlmostEqual(results["package", "power", "burst"].value, 140.0, delta=0.1)
        self.assertAlmostEqual(results["package", "power", "steady"].value, 95.0, delta=0.1)
        # The mean over the whole load has the burst in it: 28 s of 1200 at 140 W.
        self.assertAlmostEqual(results["package", "power", "mean"].value, 95 + 45 * 28 / 1200, delta=0.2)
        self.assertAlmostEqual(results["package", "energy", "total"].value, 95 * 1170 + 140 * 28, delta=600)
        self.assertAlmostEqual(results["die", "temperature", "resistance"].value, 0.5, delta=0.005)
        held = results["die", "held", "held_share"]
        self.assertEqual(held.by, "power")
        self.assertAlmostEqual(held.value, 100 * 1172 / 1200, delta=1.0)
        self.assertGreater(
            results["die", "temperature", "peak"].value, results["die", "temperature", "least"].value
        )

    def test_a_graphics_chip_that_heats_alone_has_a_resistance(self) -> None:
        recording = simple_run()
        heat, draws = (
            Channel("edge", "temperature", "°C", "gpu", "gpu"),
            Channel("GPU", "power", "W", "gpu", "gpu"),
        )
        room = np.full(len(recording.time_s), 22.5)
        busy = recording.values[2] > 20.0
        watts = np.where(busy, 400.0, 8.0)
        edge = stepped(watts, [(0.1, 20.0)], 22.5 + 0.8, 8.0)
        alone = found(with_rows(recording, (heat, edge), (draws, watts), (ROOM, room)))
        self.assertAlmostEqual(alone["gpu", "temperature", "resistance"].value, 0.1, delta=0.003)
        both = found(with_rows(recording, (heat, edge), (draws, watts / 4.0), (ROOM, room)))
        self.assertNotIn(("gpu", "temperature", "resistance"), both)

    def test_a_steady_row_is_the_mean_of_its_channel_over_its_window(self) -> None:
        recording = simple_run()
        for result in results_of(recording, read(recording, FACTS)):
            if result.statistic == "steady" and result.channel is not None and result.window is not None:
                index = [c.name for c in recording.channels].index(result.channel)
                part = recording.between(*result.window)
                self.assertAlmostEqual(
                    float(np.nanmean(recording.values[index][part])), result.value, places=6
                )

    def test_what_settles_later_is_averaged_later(self) -> None:
        recording = simple_run(load_s=2400)
        slow = stepped(recording.values[2], [(0.4, 300.0)], 30.0, 10.0)
        rng = np.random.default_rng(4)
        results = found(with_rows(recording, (VRM, np.round(slow + rng.normal(0, 0.1, len(slow)), 1))))
        die, vrm = results["die", "temperature", "steady"], results["vrm", "temperature", "steady"]
        assert die.window is not None and vrm.window is not None
        self.assertGreater(vrm.window[0], die.window[0] + 300.0)
        self.assertAlmostEqual(vrm.value, 30 + 0.4 * 85, delta=0.3)
        self.assertAlmostEqual(results["vrm", "temperature", "rise"].value, vrm.value - 22.5, delta=0.01)

    def test_what_never_settles_has_all_but_a_steady_value(self) -> None:
        recording = simple_run()
        busy = recording.values[2] > 50
        climb = 40.0 + np.where(busy, 0.01 * np.cumsum(busy), 0.0)
        results = found(with_rows(recording, (DRIVE, climb)))
        self.assertNotIn(("storage", "temperature", "steady"), results)
        self.assertAlmostEqual(results["storage", "temperature", "peak"].value, 52.0, delta=0.2)
        self.assertAlmostEqual(results["storage", "temperature", "mean"].value, 46.0, delta=0.2)

    def test_without_a_room_only_the_rise_is_missing(self) -> None:
        results = found(simple_run(), None)
        self.assertNotIn(("die", "temperature", "rise"), results)
        self.assertIn(("die", "temperature", "steady"), results)

    def test_a_run_without_a_die_is_a_run_with_results(self) -> None:
        n = 900
        rng = np.random.default_rng(2)
        warm = 60.0 - 25.0 * np.exp(-np.arange(n) / 80.0) + rng.normal(0, 0.1, n)
        room = np.full(n, 23.0) + rng.normal(0, 0.02, n)
        results = found(Recording((DRIVE, ROOM), np.arange(float(n)), np.array([warm, room])), None)
        self.assertAlmostEqual(results["storage", "temperature", "steady"].value, 60.0, delta=0.3)
        self.assertAlmostEqual(results["storage", "temperature", "rise"].value, 37.0, delta=0.4)
        self.assertNotIn(("inlet", "temperature", "rise"), results)

    def test_a_die_at_its_limit_bounds_its_rise_from_below(self) -> None:
        n = 1200
        t = np.arange(float(n))
        busy = (t >= 120) & (t < 1000)
        rng = np.random.default_rng(3)
        power = np.where(busy, 70.0 + 60.0 * np.exp(-np.maximum(t - 120, 0) / 60.0), 10.0) + rng.normal(
            0, 0.2, n
        )
        die = np.where(busy, np.minimum(95.0, 30 + 8 * (t - 119)), 30.0) + rng.normal(0, 0.1, n)
        clock = np.where(busy, 3400 + 900 * np.exp(-np.maximum(t - 120, 0) / 60.0), 800.0)
        recording = Recording(
            (DIE, CLOCK, POWER, USE), t, np.array([die, clock, power, np.where(busy, 100.0, 1.0)])
        )
        results = found(recording)
        if ("die", "temperature", "rise") in results:
            self.assertEqual(results["die", "temperature", "rise"].bound, "at least")
        self.assertEqual(results["die", "held", "held_share"].by, "thermal")

    def test_unlike_cores_are_told_apart(self) -> None:
        for name, group in (
            ("P-core 3 clock", "fast cores"), ("E-Core #2", "slow cores"), ("Fast core 0 clock", "fast cores"), ("little cluster", "slow cores"),
            ("CCD1 (Tdie)", "CCD 1"), ("Core 4", None), ("Performance core", "fast cores"),
        ):  # fmt: skip
            self.assertEqual(group_of(name), group, name)
        cores = [
            Channel(f"{kind}-core {k}", "clock", "MHz", "core", "cpu") for kind in "PE" for k in range(2)
        ]
        self.assertEqual(core_groups(cores, "clock"), {"fast cores": [0, 1], "slow cores": [2, 3]})
        self.assertEqual(core_groups(cores[:2], "clock"), {})
        recording = simple_run()
        rows = [(c, recording.values[1] * (1.0 if k < 2 else 0.6)) for k, c in enumerate(cores)]
        results = found(with_rows(recording, *rows))
        fast, slow = results["fast cores", "clock", "steady"], results["slow cores", "clock", "steady"]
        self.assertAlmostEqual(slow.value / fast.value, 0.6, delta=0.01)
        self.assertIsNone(fast.channel)


CHANNELS = (
    DIE, VRM, DRIVE, ROOM, CLOCK, POWER, USE,
    Channel("Write Rate", "work", "MB/s", "storage", "storage"),
    Channel("Vcore", "voltage", "V", "other", "cpu"),
    Channel("Level", "noise", "dBA", "other", "board"),
    Channel("Fan duty", "load", "%", "other", "board"),
    Channel("Fan", "fan", "rpm", "other", "cpu"),
)  # fmt: skip


class AnyRecordingTest(unittest.TestCase):
    @given(
        st.integers(0, 400), st.lists(st.sampled_from(CHANNELS), min_size=1, max_size=6, unique=True), st.integers(0, 2**32 - 1),
        st.floats(0.0, 1.0), st.sampled_from([0.1, 1.0, 5.0]),
    )  # fmt: skip
    def test_whatever_was_recorded_gives_results_that_hang_together(
        self, n: int, channels: list[Channel], seed: int, missing: float, step_s: float
    ) -> None:
        chance = np.random.default_rng(seed)
        values = np.cumsum(chance.normal(0, 1.0, (len(channels), n)), axis=1) + chance.uniform(
            0, 90, (len(channels), 1)
        )
        values[chance.random(values.shape) < missing * chance.random()] = np.nan
        recording = Recording(tuple(channels), step_s * np.arange(n), values)
        reading = read(recording, FACTS)
        results = results_of(recording, reading)
        results += [
            r
            for one in results_of_steps(recording, reading, steps_of(recording, reading))
            for r in one.results
        ]
        for result in results:
            self.assertTrue(np.isfinite(result.value), result)
            self.assertTrue(
                result.half_width is None or (np.isfinite(result.half_width) and result.half_width >= 0.0),
                result,
            )
            if result.window is not None:
                self.assertLessEqual(result.window[0], result.window[1])
        by = {
            (r.channel, r.statistic): r.value
            for r in results_of(recording, reading)
            if r.quantity not in ("held", "time")
        }
        for channel in channels:
            if (channel.name, "mean") in by and channel.quantity != "work":
                self.assertLessEqual(by[channel.name, "least"], by[channel.name, "mean"] + 1e-9)
                self.assertLessEqual(by[channel.name, "mean"], by[channel.name, "peak"] + 1e-9)


if __name__ == "__main__":
    unittest.main()
