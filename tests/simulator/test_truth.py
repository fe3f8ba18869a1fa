"""What Samovar reads from a run, held against what the simulator knows was so."""

from __future__ import annotations

import unittest
from collections import Counter

import numpy as np
from bench.settling import case_of

from samovar.bench.course_spec import CourseSpec
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.demo import relay_site, van
from samovar.demo.plan import FACTS
from samovar.simulator.harbour import SETUPS
from tests.recordings import SimulatedRun, simulate

_BOOTH: dict[tuple[str, str], str] = {
    ("Plain 65", "heavy work"): "rides-limit", ("Plain 65", "worst case"): "throttles",
    ("Tern 47", "heavy work"): "rides-limit", ("Tern 47", "worst case"): "rides-limit",
    ("Osprey 161", "heavy work"): "budget", ("Osprey 161", "worst case"): "budget",
    ("Fjord 280", "heavy work"): "budget", ("Loam P", "worst case"): "budget",
    ("Plain 65", "everyday"): "clear", ("Osprey 161", "everyday"): "clear",
    ("Osprey 161", "memory"): "clear", ("Osprey 161", "storage"): "clear",
}  # fmt: skip
_VAN = {
    ("Closed", "worst case"): "budget", ("Vent kit", "worst case"): "budget", ("Closed, 22 W", "worst case"): "rides-limit",
}  # fmt: skip
EXPECTED = {
    **{cell: (judgement, FACTS) for cell, judgement in _BOOTH.items()},
    **{cell: (judgement, van.FACTS) for cell, judgement in _VAN.items()},
    ("As delivered", "worst case"): ("rides-limit", relay_site.FACTS),
}
"""What the simulator's physics make of each cell, by what binds there."""


def settled_binding(run: SimulatedRun) -> str:
    """What bound the clock over the last minute of the load, by the simulator's own account."""
    busy = [k for k, b in enumerate(run.truth) if b != "none"]
    return Counter(run.truth[k] for k in busy[-60:]).most_common(1)[0][0]


class TruthTest(unittest.TestCase):
    def test_the_demos_setups(self) -> None:
        for (setup, load), (judgement, facts) in EXPECTED.items():
            with self.subTest(setup=setup, load=load):
                spec = CourseSpec(load, load_most_s=3600.0, cool_down_most_s=120.0)
                run = simulate(setup, load, seed=5, spec=spec)
                reading = read(run.recording, facts)
                self.assertEqual(reading.judgement, judgement)
                if judgement == "clear":
                    self.assertEqual(reading.held, [])
                    continue
                assert reading.die is not None
                self.assertAlmostEqual(reading.steady[reading.die].mean, run.steady_die_c, delta=0.5)
                self.assertEqual(reading.held[-1].by, settled_binding(run))

    def test_fixed_fans_and_a_larger_budget_are_felt(self) -> None:
        from samovar.simulator.harbour import changed

        quiet = simulate(changed(SETUPS["Osprey 161"], {"fan_rpm": 500.0}), "worst case", seed=5)
        fast = simulate(changed(SETUPS["Osprey 161"], {"fan_share": 1.0}), "worst case", seed=5)
        self.assertGreater(quiet.steady_die_c, fast.steady_die_c + 3.0)
        fed = simulate(changed(SETUPS["Osprey 161"], {"sustained_power_w": 115.0}), "worst case", seed=5)
        found = read(fed.recording, FACTS).steady_mean("power", ("package",))
        self.assertAlmostEqual(found.value if found else 0.0, 115.0, delta=1.5)

    def test_fans_that_a_setup_fixed_still_turn_at_full_speed_when_told_to(self) -> None:
        from samovar.simulator.harbour import changed
        from samovar.simulator.rig import SimulatedRig

        rig = SimulatedRig(changed(SETUPS["Osprey 161"], {"fan_rpm": 500.0}))
        rig.advance_to(60.0)
        self.assertAlmostEqual(rig.rpm, 500.0, delta=5.0)
        rig.fix_fans(1.0)
        rig.advance_to(120.0)
        self.assertAlmostEqual(rig.rpm, SETUPS["Osprey 161"].fan.curve[-1][1], delta=5.0)

    def test_held_stretches_agree_with_the_truth_in_time(self) -> None:
        right = total = 0
        for setup in ("Plain 65", "Tern 47", "Osprey 161"):
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
        for setup in ("Osprey 161", "Fjord 280", "Loam P"):
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

    def test_a_course_ends_soon_after_the_die_has_settled(self) -> None:
        # `make bench` does the same over all rigs and fifty seeds.
        for setup in ("Plain 65", "Osprey 161", "Vent kit, 22 W"):
            case = case_of(setup, seed=7)
            with self.subTest(setup=setup):
                self.assertLess(case.late, 1.2)
                self.assertLess(abs(case.error_k if case.error_k is not None else 9.0), 0.5)
                covered = [look is not None and abs(look[0]) <= look[1] for look in case.looks]
                self.assertGreaterEqual(sum(covered), len(covered) - 1)

    def test_ten_samples_a_second_say_the_same(self) -> None:
        slow, fast = (read(simulate("Tern 47", "worst case", rate_hz=r).recording, FACTS) for r in (1.0, 5.0))
        self.assertEqual(slow.judgement, fast.judgement)
        a, b = slow.rise(), fast.rise()
        assert a is not None and b is not None
        self.assertAlmostEqual(a.value, b.value, delta=0.3)


if __name__ == "__main__":
    unittest.main()
