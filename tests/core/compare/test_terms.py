"""Other terms than as they ran: at equal noise through fan speeds, at equal heat by the resistance."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from samovar.core.compare.noise_curves import NoiseCurve, Point, at_level, curves_of, pchip
from samovar.core.compare.rungs import Margins
from samovar.core.compare.terms import Terms, noise_range, under_terms
from samovar.core.measured import AT_MOST, Measured
from samovar.core.reading import read
from samovar.core.results.compute import results_of
from samovar.core.results.figure import RunResult, figure_of
from samovar.core.results.result import BY_HAND, Result
from samovar.core.setup_changes import Arrangement
from tests.recordings import FACTS, simple_run

RUN = simple_run(600)
READING = read(RUN, FACTS)
RESULTS = results_of(RUN, READING)
RISE = figure_of("rise")


def run(name: str, rise_k: float, dba: float, bound: str | None = None) -> RunResult:
    results = [replace(r, value=rise_k, half_width=0.2) if r.statistic == "rise" else r for r in RESULTS]
    noise = Result(None, None, "noise", "level", "dBA", dba, 1.4, bound, BY_HAND, common_of="class 2 meter")
    return RunResult(name, READING, (*results, noise))


def rise_at(dba: float, best: float) -> float:
    """A cooler's rise over its level: the louder, the cooler, with less and less to gain."""
    return best + 30.0 * float(np.exp(-(dba - 18.0) / 8.0))


def setups(
    name: str, best: float, levels: Sequence[float]
) -> tuple[dict[str, list[RunResult]], dict[str, Arrangement]]:
    cells, arrangements = {}, {}
    for k, dba in enumerate(levels):
        setup = f"{name}, {600 + 200 * k} rpm"
        cells[setup] = [run(f"r{len(name)}{k}{n}", rise_at(dba, best) + 0.1 * n, dba) for n in range(2)]
        arrangements[setup] = Arrangement("rig", [("cooler", name)], {"fan_rpm": 600.0 + 200.0 * k})
    return cells, arrangements


class NoiseTest(unittest.TestCase):
    def both(self) -> tuple[dict[str, list[RunResult]], dict[str, Arrangement]]:
        one, two = setups("Osprey", 40.0, (20.0, 24.0, 29.0, 34.0)), setups("Tern", 46.0, (22.0, 27.0, 33.0))
        return one[0] | two[0], one[1] | two[1]

    def test_interpolation_is_that_of_the_standard_package(self) -> None:
        from scipy.interpolate import PchipInterpolator

        rng = np.random.default_rng(2)
        for count in (3, 4, 7):
            x, y = np.sort(rng.uniform(18, 40, count)), rng.normal(50, 8, count)
            at = rng.uniform(x[0], x[-1], 40)
            mine = pchip(np.tile(x, (40, 1)), np.tile(y, (40, 1)), at)
            np.testing.assert_allclose(mine, PchipInterpolator(x, y)(at), atol=1e-9)

    def test_setups_that_differ_in_fan_speed_alone_are_one_product_at_a_level(self) -> None:
        cells, arrangements = self.both()
        found = under_terms(
            Terms(noise_dba=26.0), cells, "Tern, 600 rpm", RISE, Margins(), None, arrangements
        )
        self.assertEqual([r.name for r in found.rungs], ["Osprey", "Tern"])
        self.assertAlmostEqual(found.rungs[0].figure.value, rise_at(26.0, 40.0), delta=0.5)
        gap = found.rungs[0].difference
        assert gap is not None and gap.half_width is not None
        self.assertEqual((gap.other, gap.words()), ("Tern", "differs"))
        # What the meter is off by moves both: their difference is better known than either.
        self.assertLess(gap.half_width, found.rungs[0].figure.half_width or 0.0)

    def test_nothing_is_had_beyond_what_was_measured_and_it_says_which_run_would_tell(self) -> None:
        cells, arrangements = self.both()
        quiet = under_terms(Terms(noise_dba=21.0), cells, None, RISE, Margins(), None, arrangements)
        self.assertEqual([r.name for r in quiet.rungs], ["Osprey"])
        self.assertIn("a run with slower fans", quiet.left_out["Tern"])
        self.assertEqual(noise_range(curves_of(cells, RISE, arrangements)), (20.0, 34.0))
        few = {k: v for k, v in cells.items() if k.startswith(("Tern, 6", "Tern, 8"))}
        sparse = under_terms(Terms(noise_dba=24.0), few, None, RISE, Margins(), None, arrangements)
        self.assertIn("record 1 more", sparse.left_out["Tern"])

    def test_a_level_that_is_a_bound_is_no_point(self) -> None:
        cells = {"A": [run("r1", 50.0, 20.0, AT_MOST)]}
        found = under_terms(Terms(noise_dba=20.0), cells, None, RISE, Margins(), None, {})
        self.assertIn("more than bounds", found.left_out["A"])

    def test_intervals_cover_what_is_so(self) -> None:
        levels, hits = np.array([20.0, 24.0, 29.0, 34.0]), 0
        for seed in range(100):
            rng = np.random.default_rng(seed)
            off = rng.normal(0.0, 0.7)
            points = tuple(
                Point(
                    Measured(x + off + rng.normal(0.0, 0.3), 1.4),
                    Measured(rise_at(x, 40.0) + rng.normal(0.0, 0.2), 0.4), 2, "meter", 1.4,
                )
                for x in levels
            )  # fmt: skip
            found = at_level([NoiseCurve("A", points)], 26.0)
            assert found is not None
            value = found.value("A")
            hits += abs(value.value - rise_at(26.0, 40.0)) <= (value.half_width or 0.0)
        self.assertGreaterEqual(hits, 90)

    def test_at_equal_noise_noise_ranks_nothing(self) -> None:
        with self.assertRaisesRegex(ValueError, "rank by rise"):
            under_terms(Terms(noise_dba=26.0), {}, None, figure_of("noise"), Margins(), None, {})


class HeatTest(unittest.TestCase):
    def test_the_rise_at_another_heat_is_the_resistance_times_it(self) -> None:
        cells = {"A": [RunResult(f"r{k}", READING, tuple(RESULTS)) for k in range(2)]}
        resistance, power = figure_of("resistance").among(RESULTS), figure_of("power").among(RESULTS)
        assert resistance is not None and power is not None
        near = under_terms(Terms(heat_w=1.1 * power.value), cells, "A", RISE, Margins(), None, {})
        self.assertAlmostEqual(near.rungs[0].figure.value, 1.1 * power.value * resistance.value, places=6)
        self.assertEqual(near.cautions, ())
        far = under_terms(Terms(heat_w=2.0 * power.value), cells, "A", RISE, Margins(), None, {})
        self.assertIn("extrapolated", far.cautions[0])
        with self.assertRaisesRegex(ValueError, "rank by rise"):
            under_terms(Terms(heat_w=50.0), cells, "A", figure_of("work"), Margins(), None, {})


if __name__ == "__main__":
    unittest.main()
