"""What held the clock on machines of another make (`habits`): judged, named, timed and priced."""

from __future__ import annotations

import unittest

import numpy as np

from samovar.core.held.causes import CAUSES
from samovar.core.held.path import CHANGE_COST, likeliest
from samovar.core.reading import read
from samovar.core.sentence import sentence
from tests.core.habits import TALES, habit
from tests.held_score import Stretches

SEEDS = range(66)
FIGURES: list[str] = []


class HabitsTest(unittest.TestCase):
    def test_all_tales(self) -> None:
        score, judged, right = Stretches(), 0, 0
        for seed in SEEDS:
            log = habit(seed)
            reading = read(log.recording, log.facts)
            score.add(reading, log.recording.time_s, log.truth, log.clock, log.free)
            judged, right = judged + 1, right + (reading.judgement == log.judgement)
        FIGURES.extend([score.line("habits"), f"habits: judgement right in {right} of {judged}"])
        self.assertGreaterEqual(right / judged, 0.97)
        self.assertGreaterEqual(score.named / score.asked, 0.96)
        self.assertGreaterEqual(score.onset / score.asked, 0.93)
        self.assertGreaterEqual(score.cost / score.asked, 0.95)
        self.assertEqual(score.falsely, 0)

    def test_what_the_graphics_take_is_said_however_it_is_counted(self) -> None:
        names = [t.__name__ for t in TALES]
        for name, words in (
            ("graphics_inside_the_package", "both in the package's power"),
            ("graphics_beside_the_package", "of one budget"),
        ):
            for turn in range(3):
                log = habit(names.index(name) + turn * len(TALES))
                shared = [h for h in read(log.recording, log.facts).held if h.by == "shared"]
                self.assertTrue(shared, log.name)
                self.assertIn(words, shared[0].evidence, log.name)

    def test_a_log_that_begins_under_load_is_read_by_its_limit(self) -> None:
        names = [t.__name__ for t in TALES]
        for turn in range(4):
            log = habit(names.index("at_its_limit_from_the_middle") + turn * len(TALES))
            self.assertEqual({h.by for h in read(log.recording, log.facts).held}, {"thermal"}, log.name)

    def test_what_coarse_steps_and_low_clocks_hide_is_told_by_what_was_kept(self) -> None:
        for seed, cause in (
            (9050, "power"),  # a clock that stands in steps of 100 MHz after a burst
            (9122, "thermal"),  # a settled die at its stated limit, by a whole-degree sensor
            (9230, "power"),  # a battery that leaves two fifths of the clock, and gives back as the die cools
        ):
            log = habit(seed)
            self.assertEqual({h.by for h in read(log.recording, log.facts).held}, {cause}, log.name)

    def test_a_policy_is_not_told_as_the_chips_limit(self) -> None:
        names = [t.__name__ for t in TALES]
        told = 0
        for turn in range(6):
            log = habit(names.index("a_quiet_profile") + turn * len(TALES))
            reading = read(log.recording, log.facts)
            if reading.judgement == "rides-limit":
                told += 1
                self.assertIn("a policy, not the chip", sentence(reading, log.facts), log.name)
        self.assertGreater(told, 0)


class PathTest(unittest.TestCase):
    def test_a_moment_is_not_worth_a_change(self) -> None:
        a, b = np.full(60, 0.6), np.full(60, 0.3)
        b[20:25] = 0.9
        none = np.zeros(60, dtype=bool)
        self.assertEqual(set(likeliest(np.array([a, b]), np.ones(60), none)), {0})
        # Thirty seconds that are the better by 0.3 are worth going and coming back.
        b[20:50] = 0.9
        self.assertGreater(30 * 0.3, 2 * CHANGE_COST)
        self.assertEqual(
            list(np.flatnonzero(likeliest(np.array([a, b]), np.ones(60), none))), list(range(20, 50))
        )

    def test_behind_a_gap_a_change_costs_nothing(self) -> None:
        a, b = np.array([0.6, 0.6, 0.3, 0.3]), np.array([0.3, 0.3, 0.6, 0.6])
        gap = np.array([False, False, True, False])
        self.assertEqual(list(likeliest(np.array([a, b]), np.ones(4), gap)), [0, 0, 1, 1])
        self.assertEqual(list(likeliest(np.zeros((2, 0)), np.zeros(0), np.zeros(0, dtype=bool))), [])

    def test_the_causes_are_those_that_are_promised(self) -> None:
        self.assertEqual(set(CAUSES), {"thermal", "power", "shared", "firmware", "unexplained"})


if __name__ == "__main__":
    unittest.main()
