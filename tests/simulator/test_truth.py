"""What Samovar reads from a run, held against what the simulator knows was so."""

from __future__ import annotations

import unittest
from collections import Counter

import numpy as np

from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.demo.plan import FACTS
from samovar.simulator.harbour import LOADS, SETUPS
from tests.recordings import SimulatedRun, simulate

EXPECTED = {
    ("Plain 65", "heavy work"): "rides-limit", ("Plain 65", "worst case"): "throttles",
    ("Tern L9", "heavy work"): "rides-limit", ("Tern L9", "worst case"): "rides-limit",
    ("Osprey D14", "heavy work"): "budget", ("Osprey D14", "worst case"): "budget",
    ("Fjord 280", "heavy work"): "budget", ("Fjord 280", "worst case"): "budget",
    ("Loam P", "heavy work"): "budget", ("Loam P", "worst case"): "budget",
}  # fmt: skip


def settled_binding(run: SimulatedRun) -> str:
    """What bound the clock over the last minute of the load, by the simulator's own account."""
    busy = [k for k, b in enumerate(run.truth) if b != "none"]
    return Counter(run.truth[k] for k in busy[-60:]).most_common(1)[0][0]


class TruthTest(unittest.TestCase):
    def test_the_demos_setups(self) -> None:
        for setup in SETUPS:
            for load in LOADS:
                with self.subTest(setup=setup, load=load):
                    run = simulate(setup, load, seed=5)
                    reading = read(run.recording, FACTS)
                    self.assertEqual(reading.judgement, EXPECTED.get((setup, load), "clear"))
                    if load == "everyday":
                        self.assertEqual(reading.held, [])
                        continue
                    assert reading.die is not None
                    self.assertAlmostEqual(reading.steady[reading.die].mean, run.steady_die_c, delta=0.5)
                    self.assertEqual(reading.held[-1].by, settled_binding(run))

    def test_held_stretches_agree_with_the_truth_in_time(self) -> None:
        right = total = 0
        for setup in ("Plain 65", "Tern L9", "Osprey D14"):
            run = simulate(setup, "worst case", seed=9)
            reading = read(run.recording, FACTS)
            time_s = run.recording.time_s
            said = np.full(len(time_s), "none", dtype=object)
            for held in reading.held:
                said[(time_s >= held.start_s) & (time_s <= held.end_s)] = held.by
            truth = np.array(run.truth, dtype=object)
            right += int((said == truth).sum())
            total += len(truth)
        self.assertGreater(right / total, 0.97)

    def test_the_forecast_covers_where_the_die_ends_up(self) -> None:
        # Fans speed up while these runs heat, so no fixed network fits them: the interval has to allow for it.
        covered = total = 0
        for setup in ("Osprey D14", "Fjord 280", "Loam P"):
            run = simulate(setup, "worst case", seed=4)
            recording = run.recording
            begin, end = (
                next(m.at_s for m in recording.marks if m.text.startswith(w)) for w in ("load on", "load off")
            )
            for share in (0.1, 0.2, 0.33, 0.5, 0.7, 0.95):
                part = recording.between(0.0, begin + share * (end - begin))
                reading = read(
                    Recording(recording.channels, recording.time_s[part], recording.values[:, part]), FACTS
                )
                assert reading.forecast is not None and reading.forecast.half_width is not None
                covered += abs(reading.forecast.value - run.steady_die_c) <= reading.forecast.half_width
                total += 1
        self.assertGreaterEqual(covered / total, 0.9)

    def test_ten_samples_a_second_say_the_same(self) -> None:
        slow, fast = (read(simulate("Tern L9", "worst case", rate_hz=r).recording, FACTS) for r in (1.0, 5.0))
        self.assertEqual(slow.judgement, fast.judgement)
        a, b = slow.rise(), fast.rise()
        assert a is not None and b is not None
        self.assertAlmostEqual(a.value, b.value, delta=0.3)


if __name__ == "__main__":
    unittest.main()
