"""Ladders of setups, the audit beside them, and the claims that stand on them."""

from __future__ import annotations

import unittest
from dataclasses import replace

from samovar.core.claims.judged import Checked, check_ahead, check_not_held, check_quiet_enough
from samovar.core.compare.audit import audit
from samovar.core.compare.rungs import Margins, Rung, compared
from samovar.core.measured import AT_LEAST
from samovar.core.reading import Reading, read
from samovar.core.results.compute import results_of
from samovar.core.results.figure import RunResult, figure_of
from samovar.core.results.result import BY_HAND, Result
from samovar.core.setup_changes import Arrangement
from tests.recordings import FACTS, simple_run


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
        rungs = compared(self.cells, "Plain", figure_of("rise")).rungs
        self.assertEqual(rungs[0].name, "Cool")
        gap = rungs[0].difference
        assert gap is not None
        self.assertAlmostEqual(gap.value, -8.05, delta=0.1)
        self.assertTrue(gap.shown)
        self.assertIsNone(next(r for r in rungs if r.name == "Plain").difference)
        self.assertEqual(next(r for r in rungs if r.name == "Same").passes, 1)

    def texts(self, reference: str) -> list[str]:
        found = compared(self.cells, reference, figure_of("rise"))
        setups = {
            "Plain": Arrangement("Halden 8", [("cooler", "Plain")]),
            "Cool": Arrangement("Halden 8", [("cooler", "Cool")], {"fan_rpm": 900.0}),
        }
        return [
            f"{i.level}: {i.text}" for i in audit(self.cells, reference, figure_of("rise"), found, setups)
        ]

    def test_the_audit_names_what_is_unlike(self) -> None:
        texts = self.texts("Plain")
        self.assertTrue(any("one pass only: Same; how a pass scatters is borrowed" in t for t in texts))
        self.assertTrue(any("Same did not finish (r6)" in t for t in texts))
        self.assertTrue(any(t.startswith("same: heat within") for t in texts))
        self.assertTrue(
            any("Cool differs from Plain in more than one thing: cooler and fan" in t for t in texts)
        )
        self.assertTrue(any("no run of the reference" in t for t in self.texts("Gone")))

    def test_words_and_intervals_never_contradict_each_other(self) -> None:
        found = compared(self.cells, "Plain", figure_of("rise"))
        for a in found.rungs:
            for b in found.rungs:
                gap = found.difference(a.name, b.name, 1.0) if a is not b else None
                if gap is not None and gap.half_width is not None:
                    self.assertEqual(gap.equivalent, abs(gap.value) + gap.half_width < 1.0)
                    self.assertEqual(gap.shown, abs(gap.value) > gap.half_width)
                    self.assertEqual(
                        gap.words() == "not shown to differ", not gap.shown and not gap.equivalent
                    )

    def test_setups_shown_to_be_the_same_are_level(self) -> None:
        close = {"A": [1.0, 1.1, 0.9], "B": [1.05, 0.95, 1.0], "C": [9.0, 9.1, 8.9]}
        cells = {
            name: [result(f"r{20 + 3 * k + n}", shift) for n, shift in enumerate(shifts)]
            for k, (name, shifts) in enumerate(close.items())
        }
        self.assertEqual([set(g) for g in compared(cells, "A", figure_of("rise")).level], [{"A", "B"}])

    def test_a_bound_supports_its_own_side_alone(self) -> None:
        def limited(one: RunResult) -> RunResult:
            results = [
                replace(r, bound=AT_LEAST, value=r.value + 20.0) if r.statistic == "rise" else r
                for r in one.results
            ]
            return replace(one, results=tuple(results))

        cells = {**self.cells, "Hot": [limited(result("r7")), limited(result("r8"))]}
        found = {r.name: r for r in compared(cells, "Hot", figure_of("rise")).rungs}
        hot, cool = found["Hot"], found["Cool"]
        self.assertEqual(hot.figure.bound, AT_LEAST)
        assert cool.difference is not None
        self.assertEqual((cool.difference.bound, cool.difference.words()), ("at most", "differs"))
        against: Rung = {r.name: r for r in compared(cells, "Plain", figure_of("rise")).rungs}["Hot"]
        assert against.difference is not None
        self.assertEqual(against.difference.bound, AT_LEAST)

    def ahead(
        self, key: str, name: str, other: str, cells: dict[str, list[RunResult]] | None = None
    ) -> Checked:
        cells = self.cells if cells is None else cells
        figure = figure_of(key)
        return check_ahead(figure, name, other, cells, compared(cells, other, figure), "worst", Margins())

    def test_claims_hold_or_do_not(self) -> None:
        self.assertEqual(self.ahead("rise", "Cool", "Plain").state, "holds")
        self.assertEqual(self.ahead("rise", "Plain", "Cool").state, "contradicted")
        # One pass, whose scatter is borrowed from the others; where none has a second, nothing is claimed.
        self.assertEqual(self.ahead("rise", "Cool", "Same").state, "holds")
        alone = {name: runs[:1] for name, runs in self.cells.items()}
        self.assertEqual(self.ahead("rise", "Cool", "Same", alone).state, "weak")
        self.assertIn(self.ahead("work", "Cool", "Plain").state, ("weak", "contradicted"))
        noise = compared(self.cells, None, figure_of("noise"))
        self.assertEqual(check_quiet_enough("Cool", noise.rung("Cool"), "worst", 28.0, ()).state, "holds")
        self.assertEqual(check_quiet_enough("Plain", noise.rung("Plain"), "worst", 28.0, ()).state, "open")
        self.assertEqual(check_not_held("Plain", self.cells["Plain"], "worst", ()).state, "holds")

    def test_a_contradicted_claim_says_what_is_so(self) -> None:
        self.assertIn("hotter than Cool", self.ahead("rise", "Plain", "Cool").sentence)


if __name__ == "__main__":
    unittest.main()
