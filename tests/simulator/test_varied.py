"""Held stretches on rigs unlike the demo's, against the simulator's truth; and quiet ones that must stay quiet."""

from __future__ import annotations

import unittest
from collections import Counter

import numpy as np

from samovar.bench.course_spec import CourseSpec
from samovar.core.reading import Reading, read
from samovar.simulator.chip import ChipSpec
from tests.recordings import SimulatedRun, simulate
from tests.simulator.varied import VariedRig, varied_rig

SEEDS = range(100, 145)


def said_and_true(rig: VariedRig, run: SimulatedRun, reading: Reading) -> tuple[np.ndarray, np.ndarray]:
    """For each sample, what the reading says held the clock, and what did; under 2 % counts as free."""
    time_s, chip = run.recording.time_s, rig.setup.chip
    said = np.full(len(time_s), "none", dtype=object)
    for held in reading.held:
        said[(time_s >= held.start_s) & (time_s <= held.end_s)] = held.by
    clock = run.recording.cpu_clock()
    assert clock is not None and isinstance(chip, ChipSpec)
    free = clock > 980.0 * chip.natural_ghz(rig.load.threads)
    return said, np.where(free, "none", np.array(run.truth, dtype=object))


class VariedTest(unittest.TestCase):
    def test_forty_five_rigs(self) -> None:
        right: Counter[str] = Counter()
        over: Counter[str] = Counter()
        missed: Counter[str] = Counter()
        falsely = quiet = 0
        for seed in SEEDS:
            rig = varied_rig(seed)
            run = simulate(
                rig.setup, rig.load, seed, CourseSpec("varied", load_s=600.0, cool_down_most_s=30.0)
            )
            reading = read(run.recording, rig.facts)
            said, true = said_and_true(rig, run, reading)
            for a, b in zip(said, true, strict=True):
                if a == b:
                    right[a] += 1
                else:
                    over[a] += 1
                    missed[b] += 1
            if rig.kind == "clear":
                quiet += len(said)
                falsely += int(((said != "none") & (true == "none")).sum())
        for kind in ("power", "thermal", "firmware", "shared"):
            with self.subTest(kind=kind):
                f1 = 2 * right[kind] / (2 * right[kind] + over[kind] + missed[kind])
                self.assertGreater(f1, 0.9)
        self.assertLess(falsely / quiet, 0.005)


if __name__ == "__main__":
    unittest.main()
