"""Comparing: the methods against worked examples, ladders, the audit, claims and the planner."""

from __future__ import annotations

import unittest
from dataclasses import replace

from samovar.core.claims import check
from samovar.core.compare import Sample, audit, difference, holm, ladder, student_quantile
from samovar.core.reading import Reading, read
from samovar.core.results.compute import results_of
from samovar.core.results.figure import RunResult, figure_of
from samovar.core.results.result import BY_HAND, Result
from samovar.core.uncertainty import Measured
from tests.recordings import FACTS, simple_run


def sample(name: str, *values: float, width: float | None = None) -> Sample:
    return Sample(name, tuple(Measured(v, width) for v in values))


class MethodsTest(unittest.TestCase):
    def test_student_against_the_table(self) -> None:
        for dof, value in ((1, 12.706), (2, 4.303), (10, 2.228)):
            self.assertAlmostEqual(student_quantile(0.975, dof), value, places=3)

    def test_welch_against_another_implementation(self) -> None:
        from scipy.stats import ttest_ind

        a = (27.5, 21.0, 19.0, 23.6, 17.0, 17.9, 16.9, 20.1, 21.9, 22.6, 23.1, 19.6, 19.0, 21.7, 21.4)
        b = (27.1, 22.0, 20.8, 23.4, 23.4, 23.5, 25.8, 22.0, 24.8, 20.2, 21.9, 22.1, 22.9, 30.5, 24.9)
        found = difference(sample("a", *a), sample("b", *b), margin=1.0)
        other = ttest_ind(a, b, equal_var=False)
        self.assertAlmostEqual(found.p, float(other.pvalue), places=9)
        self.assertAlmostEqual(
            found.value + (found.half_width or 0), float(other.confidence_interval().high), places=9
        )
        self.assertTrue(found.shown)
        self.assertFalse(found.equivalent)

    def test_holm_against_his_rule(self) -> None:
        self.assertEqual([round(p, 3) for p in holm([0.01, 0.04, 0.03])], [0.03, 0.06, 0.06])

    def test_equivalence_needs_to_be_shown(self) -> None:
        close = difference(
            sample("a", 50.0, 50.1, 50.0, width=0.1), sample("b", 50.1, 50.0, 50.1, width=0.1), 1.0
        )
        self.assertTrue(close.equivalent)
        loose = difference(sample("a", 48.0, 52.0), sample("b", 47.0, 53.0), 1.0)
        self.assertFalse(loose.equivalent)
        self.assertFalse(loose.shown)

    def test_one_pass_is_never_equivalent_and_says_so(self) -> None:
        found = difference(sample("a", 50.0, width=0.3), sample("b", 50.0, 50.1, width=0.3), 1.0)
        self.assertTrue(found.one_pass)
        self.assertFalse(found.equivalent)

    def test_lucky_agreement_is_no_better_than_the_sensor(self) -> None:
        self.assertEqual(sample("a", 50.0, 50.0, width=0.3).interval().half_width, 0.3)


def result(run: str, shift_k: float = 0.0, state: str = "sealed", noise: float | None = None) -> RunResult:
    recording = simple_run(seed=int(run[1:]))
    reading: Reading = read(recording, FACTS)
    results = [
        replace(r, value=r.value + shift_k) if r.statistic == "rise" else r
        for r in results_of(recording, reading)
    ]
    if noise is not None:
        results.append(Result(None, None, "noise", "level", "dBA", noise, 1.4, source=BY_HAND))
    return RunResult(run, reading, tuple(results), state)


class ReviewTest(unittest.TestCase):
    cells: dict[str, list[RunResult]]

    @classmethod
    def setUpClass(cls) -> None:
        cls.cells = {
            "Plain": [result("r1"), result("r2")],
            "Cool": [result("r3", -8.0, noise=24.0), result("r4", -8.1, noise=24.2)],
            "Same": [result("r5", 0.02), result("r6", -0.02, "did-not-finish")],
        }

    def test_the_ladder_has_the_best_first(self) -> None:
        rungs = ladder(self.cells, "Plain", figure_of("rise"))
        self.assertEqual(rungs[0].name, "Cool")
        gap = rungs[0].difference
        assert gap is not None
        self.assertAlmostEqual(gap.value, -8.05, delta=0.1)
        self.assertTrue(gap.shown)
        self.assertIsNone(next(r for r in rungs if r.name == "Plain").difference)
        self.assertEqual(next(r for r in rungs if r.name == "Same").passes, 1)

    def test_the_audit_names_what_is_unlike(self) -> None:
        texts = [f"{i.level}: {i.text}" for i in audit(self.cells, "Plain", figure_of("rise"))]
        self.assertTrue(any("one pass only: Same" in t for t in texts))
        self.assertTrue(any("Same did not finish (r6)" in t for t in texts))
        self.assertTrue(any(t.startswith("same: heat within") for t in texts))
        self.assertTrue(
            any(
                "no run of the reference" in t
                for t in (i.text for i in audit(self.cells, "Gone", figure_of("rise")))
            )
        )

    def claim(self, kind: str, name: str, other: str | None) -> str:
        found = check(
            kind,
            name,
            self.cells[name],
            other,
            self.cells[other] if other else [],
            "worst",
            noise_limit_dba=28.0,
        )
        return found.state

    def test_claims_hold_or_do_not(self) -> None:
        self.assertEqual(self.claim("cooler", "Cool", "Plain"), "holds")
        self.assertEqual(self.claim("cooler", "Plain", "Cool"), "contradicted")
        self.assertEqual(self.claim("cooler", "Cool", "Same"), "weak")
        self.assertEqual(self.claim("more-work", "Cool", "Plain"), "contradicted")
        self.assertEqual(self.claim("quiet-enough", "Cool", None), "holds")
        self.assertEqual(self.claim("quiet-enough", "Plain", None), "open")
        self.assertEqual(self.claim("not-held", "Plain", None), "holds")

    def test_a_contradicted_claim_says_what_is_so(self) -> None:
        found = check("cooler", "Plain", self.cells["Plain"], "Cool", self.cells["Cool"], "worst")
        self.assertIn("hotter than Cool", found.sentence)


if __name__ == "__main__":
    unittest.main()
