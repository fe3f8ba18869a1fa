"""Loads that ended early, and budgets that no clock shows, in logs of other making."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from samovar.core.facts import Facts, ProcessorFacts
from samovar.core.quantity import Channel
from samovar.core.reading import read
from samovar.core.recording import Recording
from tests.recordings import CLOCK, DIE, FACTS, POWER, USE, simple_run

GUARD = Channel("Guard tripped", "flag", "", "other", "board")


def cut(
    recording: Recording, until_s: float, die_from_k: float = 0.0, rise_k_per_s: float = 0.0
) -> Recording:
    """A run that breaks off; `rise_k_per_s` makes its die climb over its last minute."""
    keep = recording.time_s <= until_s
    values = recording.values[:, keep].copy()
    time_s = recording.time_s[keep]
    values[0] += die_from_k + rise_k_per_s * np.maximum(0.0, time_s - (until_s - 60.0))
    return Recording(recording.channels, time_s, values)


def with_flag(recording: Recording, name: str, from_s: float, to_s: float = 1e9) -> Recording:
    up = ((recording.time_s >= from_s) & (recording.time_s <= to_s)).astype(float)
    channel = replace(GUARD, name=name)
    return Recording((*recording.channels, channel), recording.time_s, np.vstack([recording.values, up]))


class StoppedTest(unittest.TestCase):
    def test_a_log_that_breaks_off_over_the_limit_and_rising(self) -> None:
        # 70 °C at the end of the load, 20 K on top and a K every two seconds: over 95 and still rising.
        self.assertEqual(read(cut(simple_run(), 700.0, 10.0, 0.5), FACTS).judgement, "stopped")

    def test_one_that_merely_ends_under_load_was_not_stopped(self) -> None:
        for recording in (
            cut(simple_run(), 700.0),
            # Over its limit, but settled there; rising, but under it.
            cut(simple_run(), 700.0, 27.0),
            cut(simple_run(), 700.0, 0.0, 0.2),
        ):
            self.assertNotEqual(read(recording, FACTS).judgement, "stopped")
        self.assertNotEqual(read(cut(simple_run(), 700.0, 10.0, 0.5), Facts()).judgement, "stopped")

    def test_a_guards_or_shutdowns_column(self) -> None:
        for name in ("Guard", "Shutdown", "Emergency stop", "Thermal trip"):
            self.assertEqual(read(with_flag(simple_run(), name, 1319.0), FACTS).judgement, "stopped", name)
        # A flag of throttling, one that passed in mid-load, and one that stood from the beginning end no load.
        for name, from_s, to_s in (
            ("Thermal throttling", 1319.0, 1e9),
            ("Guard", 300.0, 320.0),
            ("Guard armed", 0.0, 1e9),
        ):
            self.assertNotEqual(
                read(with_flag(simple_run(), name, from_s, to_s), FACTS).judgement, "stopped", name
            )

    def test_a_run_of_our_own_that_is_known_to_have_ended_well_was_not_stopped(self) -> None:
        recording = replace(cut(simple_run(), 700.0, 10.0, 0.5), stopped_early=False, _cache={})
        self.assertNotEqual(read(recording, FACTS).judgement, "stopped")


class BudgetWithoutAClockTest(unittest.TestCase):
    def without_clock(self, scale: float = 1.0) -> Recording:
        run = simple_run()
        keep = [k for k, c in enumerate(run.channels) if c in (DIE, POWER, USE)]
        values = run.values[keep].copy()
        values[1] *= scale
        return Recording(tuple(run.channels[k] for k in keep), run.time_s, values)

    def test_a_power_that_steps_to_the_budget_of_the_facts(self) -> None:
        self.assertEqual(read(self.without_clock(), FACTS).judgement, "budget")

    def test_another_level_or_no_budget_known_is_not_judged(self) -> None:
        self.assertIsNone(read(self.without_clock(0.8), FACTS).judgement)
        self.assertIsNone(
            read(self.without_clock(), Facts(ProcessorFacts(temperature_limit_c=95.0))).judgement
        )
        self.assertNotIn(CLOCK, self.without_clock().channels)


if __name__ == "__main__":
    unittest.main()
