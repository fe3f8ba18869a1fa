"""The model behind every comparison: against tables, another implementation, and experiments whose truth is known."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.compare.experiment import Experiment, Pass, fit
from samovar.core.compare.pooling import Spread, prior_of, shrunk
from samovar.core.compare.simultaneous import extremes
from samovar.core.measured import Measured
from tests.core.compare.contests import contest

FIGURES: list[str] = []
TRIED = 100


def experiment(
    values: dict[str, list[float]], width: float = 0.0, orders: dict[str, list[float]] | None = None
) -> Experiment:
    passes = [
        Pass(name, orders[name][k] if orders else 0.0, Measured(v, width or None))
        for name, mine in values.items()
        for k, v in enumerate(mine)
    ]
    found = fit(passes)
    assert found is not None
    return found


class TablesTest(unittest.TestCase):
    def critical(self, count: int, dof: float, pairs: bool) -> float:
        rows = []
        for a in range(count + (not pairs)):
            for b in range(a) if pairs else [0]:
                if a != b:
                    row = np.zeros(count + (not pairs))
                    row[a], row[b] = 1.0, -1.0
                    rows.append(row)
        return extremes(np.array(rows), np.eye(count + (not pairs)), dof).critical

    def test_dunnetts_table(self) -> None:
        # Dunnett, Biometrics 20 (1964) 482, table III, two-sided 95 %: treatments, degrees of freedom.
        for treatments, dof, value in ((2, 5, 3.03), (4, 10, 2.89), (4, 20, 2.65), (9, 20, 2.95)):
            self.assertAlmostEqual(self.critical(treatments, dof, False), value, delta=0.04)

    def test_the_studentised_range(self) -> None:
        # The upper 5 % points of the studentised range, over the root of two: setups, degrees of freedom.
        for setups, dof, value in ((3, 10, 3.877), (5, 20, 4.232), (4, 6, 4.896)):
            self.assertAlmostEqual(self.critical(setups, dof, True), value / 2**0.5, delta=0.05)

    def test_all_pairs_against_another_implementation(self) -> None:
        from scipy.stats import tukey_hsd

        rng = np.random.default_rng(3)
        groups = {n: list(rng.normal(50.0 + k, 0.8, 4 + k)) for k, n in enumerate("abc")}
        found, other = experiment(groups), tukey_hsd(*groups.values())
        high = other.confidence_interval(0.95).high
        for a, b in ((0, 1), (0, 2), (1, 2)):
            value, half, p = found.gap("abc"[a], "abc"[b], found.all_pairs)
            self.assertAlmostEqual(value + (half or 0.0), float(high[a, b]), delta=0.05)
            self.assertAlmostEqual(p or 0.0, float(other.pvalue[a, b]), delta=0.01)

    def test_experiments_too_unlike_to_gather_tell_nothing(self) -> None:
        self.assertIsNone(prior_of([Spread(1e-13, 1.0), Spread(1e-2, 1.0), Spread(1e-24, 1.0)]))

    def test_a_history_gathers_its_variances(self) -> None:
        from scipy.special import polygamma

        from samovar.core.compare.pooling import _inverse_trigamma

        for value in (0.02, 0.3, 2.0, 40.0):
            self.assertAlmostEqual(float(polygamma(1, _inverse_trigamma(value))), value, delta=1e-6 * value)
        rng = np.random.default_rng(1)
        alike = prior_of([Spread(0.09 * float(rng.chisquare(5)) / 5.0, 5.0) for _ in range(40)])
        assert alike is not None
        self.assertAlmostEqual(alike.variance, 0.09, delta=0.02)
        self.assertGreater(alike.dof, 20.0)
        unlike = prior_of(
            [Spread(0.09 * s * float(rng.chisquare(5)) / 5.0, 5.0) for s in (0.1, 0.3, 1, 3, 10)]
        )
        assert unlike is not None
        self.assertLess(unlike.dof, 3.0)
        self.assertIsNone(prior_of([Spread(0.1, 4.0)]))
        self.assertEqual(shrunk(Spread(0.1, 2.0), Spread(0.4, 4.0)), Spread(0.3, 6.0))


class ModelTest(unittest.TestCase):
    def test_a_drift_is_taken_off_and_shown(self) -> None:
        orders = {"a": [0, 5], "b": [1, 4], "c": [2, 3]}
        values = {n: [50.0 + k + 0.2 * o for o in orders[n]] for k, n in enumerate("abc")}
        found = experiment(values, 0.02, {n: [float(x) for x in o] for n, o in orders.items()})
        assert found.drift is not None
        self.assertAlmostEqual(found.drift.value, 0.2, places=9)
        self.assertAlmostEqual(found.gap("c", "a", found.from_reference("a"))[0], 2.0, places=9)
        self.assertFalse(found.hidden)

    def test_passes_in_a_row_hide_a_drift(self) -> None:
        orders = {"a": [0.0, 1.0], "b": [2.0, 3.0], "c": [4.0, 5.0]}
        self.assertTrue(experiment({n: [1.0, 1.1] for n in "abc"}, 0.1, orders).hidden)

    def test_a_single_pass_borrows_or_claims_nothing(self) -> None:
        alone = experiment({"a": [84.0], "b": [84.3]}, 0.1)
        self.assertEqual(alone.gap("b", "a", alone.from_reference("a"))[1:], (None, None))
        self.assertEqual(alone.value("a").half_width, 0.1)
        lent = experiment({"a": [84.0], "b": [84.3], "c": [80.0, 80.6, 80.3]}, 0.1)
        _, half, p = lent.gap("b", "a", lent.from_reference("a"))
        assert half is not None and p is not None
        self.assertGreater(half, 0.3)
        self.assertGreater(p, 0.05)

    def test_what_all_share_cancels_and_more_passes_do_not_shrink_it(self) -> None:
        def told(of: str) -> list[Pass]:
            return [Pass(n, 0.0, Measured(v, 1.4), 1.4, of if n == "b" else "meter") for n, v in
                    (("a", 30.0), ("a", 30.1), ("a", 30.05), ("b", 33.0), ("b", 33.1), ("b", 33.05))]  # fmt: skip

        one, two = fit(told("meter")), fit(told("another meter"))
        assert one is not None and two is not None
        self.assertGreaterEqual(one.value("a").half_width or 0.0, 1.4)
        self.assertLess(one.gap("b", "a", one.from_reference("a"))[1] or 9.0, 0.3)
        self.assertGreater(two.gap("b", "a", two.from_reference("a"))[1] or 0.0, 1.9)

    def test_unlike_scatter_is_not_pooled(self) -> None:
        from scipy.stats import ttest_ind

        rng = np.random.default_rng(5)
        groups = {"a": list(rng.normal(50.0, 0.05, 8)), "b": list(rng.normal(51.0, 3.0, 8))}
        found = experiment(groups)
        self.assertTrue(found.unequal)
        _, half, p = found.gap("b", "a", found.from_reference("a"))
        other = ttest_ind(groups["b"], groups["a"], equal_var=False)
        self.assertAlmostEqual(p or 0.0, float(other.pvalue), places=6)
        self.assertAlmostEqual(
            half or 0.0,
            float(
                other.confidence_interval().high
                - np.diff([0.0, np.mean(groups["b"]) - np.mean(groups["a"])])[0]
            ),
            places=6,
        )

    def test_lucky_agreement_is_no_better_than_the_runs_own(self) -> None:
        lucky = experiment({"a": [50.0, 50.0], "b": [50.0, 50.0]}, 0.3)
        self.assertGreater(lucky.value("a").half_width or 0.0, 0.2)

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(
            st.tuples(st.sampled_from("abcd"), st.floats(-1e6, 1e6), st.floats(0, 10)),
            min_size=1,
            max_size=14,
        )
    )
    def test_whatever_comes_there_is_an_answer(self, rows: list[tuple[str, float, float]]) -> None:
        found = fit([Pass(n, k, Measured(v, w)) for k, (n, v, w) in enumerate(rows)])
        assert found is not None
        for name in found.setups:
            half = found.value(name).half_width
            self.assertTrue(half is None or (half >= 0.0 and np.isfinite(half)))
            for other in found.setups:
                if other != name:
                    _, half, p = found.gap(name, other, found.all_pairs)
                    self.assertTrue(p is None or -1e-9 <= p <= 1.0 + 1e-9)
                    self.assertTrue(half is None or np.isfinite(half))


class CoverageTest(unittest.TestCase):
    def test_two_passes_of_five_setups_tell_what_they_can(self) -> None:
        for drift_k, history, most_k in ((0.0, 0, 1.2), (0.2, 0, 1.2), (0.2, 8, 0.85)):
            told = [contest(seed, drift_k, history) for seed in range(TRIED)]
            covered = float(np.mean([c.together for c in told]))
            FIGURES.append(
                f"contests: drift {drift_k} K a run, {history} behind it: all differences covered {covered:.3f}, "
                f"±{np.mean([c.together_half_k for c in told]):.2f} K at once, ±{np.mean([c.own_half_k for c in told]):.2f} K alone, "
                f"2 K found {np.mean([c.found for c in told]):.2f}"
            )
            # Of so few the share itself is known to four points.
            self.assertGreater(covered, 0.88)
            self.assertGreater(float(np.mean([c.found for c in told])), 0.89)
            self.assertLess(float(np.mean([c.together_half_k for c in told])), most_k)
            self.assertLess(float(np.mean([c.own_half_k for c in told])), 0.8)


if __name__ == "__main__":
    unittest.main()
