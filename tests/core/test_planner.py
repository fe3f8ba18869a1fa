"""The plan: its order, its swaps, its time; what stands in a cell's way; claims of makers."""

from __future__ import annotations

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.planner import PlannedCell, bench_time, plan, propose, remaining, swaps
from samovar.core.product import Product
from samovar.core.rated import rated_items
from samovar.core.reading import read
from samovar.core.results.figure import RunResult
from samovar.core.results.result import BY_HAND, Result
from samovar.core.standing import in_the_way
from tests.recordings import FACTS, simple_run

SETUPS, LOADS = ("Ref", "A", "B"), ("heavy", "worst")


def short(cells: list[PlannedCell]) -> str:
    return " ".join(f"{c.setup}{c.load[0]}{c.pass_number}" for c in cells)


def walk(wanted: int) -> list[tuple[str, str]]:
    """The order one follows by taking each proposal."""
    done: dict[tuple[str, str], int] = {}
    fitted, out = None, []
    while (found := propose(SETUPS, LOADS, "Ref", done, wanted, fitted)) is not None:
        out.append((found.setup, found.load))
        done[found.setup, found.load] = done.get((found.setup, found.load), 0) + 1
        fitted = found.setup
        assert len(out) < 60
    return out


class PlanTest(unittest.TestCase):
    def test_orders_made_by_hand(self) -> None:
        self.assertEqual(short(plan(SETUPS, LOADS, "Ref", 1)), "Refh1 Refw1 Ah1 Aw1 Bh1 Bw1 Refw2")
        self.assertEqual(
            short(plan(SETUPS, LOADS, "Ref", 2)), "Refh1 Refw1 Ah1 Aw1 Bh1 Bw1 Bw2 Bh2 Aw2 Ah2 Refw2 Refh2"
        )
        self.assertEqual(swaps(plan(SETUPS, LOADS, "Ref", 2), None), 4)
        self.assertEqual(short(plan(("Ref",), ("w",), "Ref", 1)), "Refw1")
        self.assertEqual(short(plan((), LOADS, None, 2)), "")

    @given(st.integers(1, 6), st.integers(1, 4), st.integers(1, 5))
    def test_reference_first_and_last_every_cell_full_swaps_few(
        self, setups: int, loads: int, wanted: int
    ) -> None:
        names = [f"s{k}" for k in range(setups)]
        order = plan(names, [f"l{k}" for k in range(loads)], "s0", wanted)
        self.assertEqual((order[0].setup, order[-1].setup), ("s0", "s0"))
        for name in names:
            for k in range(loads):
                passes = [c.pass_number for c in order if (c.setup, c.load) == (name, f"l{k}")]
                self.assertEqual(passes[:wanted], list(range(1, wanted + 1)))
        self.assertLessEqual(swaps(order, None), setups * wanted)

    def test_a_room_that_warms_evenly_favours_no_setup_over_two_rounds(self) -> None:
        order = plan(SETUPS, LOADS, "Ref", 2)
        mean = {s: sum(k for k, c in enumerate(order) if c.setup == s) / 4 for s in SETUPS}
        self.assertEqual(len(set(mean.values())), 1)

    def test_a_bench_that_drifts_favours_no_setup_whatever_the_passes(self) -> None:
        for count, wanted, apart in (
            (3, 3, 0.0),
            (5, 3, 0.0),
            (7, 3, 0.0),
            (5, 5, 0.0),
            (5, 4, 0.0),
            (4, 3, 2.0),
            (6, 3, 2.0),
        ):
            with self.subTest(count=count, wanted=wanted):
                names = [f"s{k}" for k in range(count)]
                order = plan(names, LOADS, "s0", wanted)
                sums = [sum(k // len(LOADS) for k, c in enumerate(order) if c.setup == s) for s in names]
                self.assertLessEqual(max(sums) - min(sums), apart)

    def test_following_the_proposals_is_the_plan(self) -> None:
        for wanted in (1, 2, 3):
            self.assertEqual(walk(wanted), [(c.setup, c.load) for c in plan(SETUPS, LOADS, "Ref", wanted)])

    def test_after_a_run_out_of_turn_what_is_fitted_goes_on(self) -> None:
        found = propose(SETUPS, LOADS, "Ref", {("B", "worst"): 1}, 2, "B")
        assert found is not None
        self.assertEqual((found.setup, found.load), ("B", "heavy"))
        self.assertIn("no part to swap", found.reason)
        left = remaining(SETUPS, LOADS, "Ref", {("B", "worst"): 1, ("B", "heavy"): 1}, 2, "B")
        self.assertEqual(left[0].setup, "Ref")

    def test_reasons_are_given(self) -> None:
        first = propose(SETUPS, LOADS, "Ref", {}, 2, None)
        last = propose(
            SETUPS,
            LOADS,
            "Ref",
            dict.fromkeys([(s, x) for s in SETUPS for x in LOADS], 2) | {("Ref", "heavy"): 1},
            2,
            "A",
        )
        self.assertIn("held against", first.reason if first else "")
        self.assertIn("drifted", last.reason if last else "")
        self.assertIsNone(
            propose(SETUPS, LOADS, "Ref", dict.fromkeys([(s, x) for s in SETUPS for x in LOADS], 2), 2, "Ref")
        )

    def test_time_left_goes_by_what_runs_took(self) -> None:
        left = plan(SETUPS, LOADS, "Ref", 1)
        known = bench_time(left, None, {"heavy": [600.0, 800.0], "worst": [1000.0]}, {})
        self.assertEqual(
            (known.runs, known.swaps, known.seconds, known.guessed), (7, 3, 3 * 700.0 + 4 * 1000.0, 0)
        )
        guess = bench_time(left, "Ref", {}, {"heavy": 1200.0, "worst": 2400.0})
        self.assertEqual((guess.seconds, guess.guessed), (3 * 1200.0 + 4 * 2400.0, 7))


def result(state: str = "sealed", room_k: float = 0.0, noise: float | None = None) -> RunResult:
    reading = read(simple_run(), FACTS)
    assert reading.thermal is not None and reading.thermal.room_c is not None
    thermal = replace(reading.thermal, room_c=reading.thermal.room_c + room_k, headroom_w=150.0, power_w=95.0)
    level = Result(None, None, "noise", "level", "dBA", noise or 0.0, 1.4, source=BY_HAND)
    return RunResult("r1", replace(reading, thermal=thermal), (level,) if noise else (), state)


class StandingTest(unittest.TestCase):
    def test_what_stands_in_the_way(self) -> None:
        one, far, failed = result(), result(room_k=3.0), result("did-not-finish")
        self.assertEqual(in_the_way([one], 2, reference=[]), ["no reference yet", "one pass only"])
        self.assertEqual(in_the_way([one, one], 2, reference=[one]), [])
        self.assertEqual(in_the_way([failed], 2, reference=[one]), ["did not finish"])
        self.assertEqual(in_the_way([far, far], 2, reference=[one], others=[one]), ["room +3 K off"])
        self.assertEqual(in_the_way([one, one, failed], 3, reference=None), ["1 to go", "1 did not finish"])
        self.assertEqual(in_the_way([], 2, reference=[]), [])

    def test_claims_stand_beside_what_was_measured(self) -> None:
        product = Product(1, "x", "air cooler", {"rated_noise_dba": 25.0, "rated_heat_w": 210.0})
        heat, noise = rated_items(product, [result(noise=27.0), result(noise=27.0)])
        self.assertEqual((heat.label, heat.verdict), ("rated heat", "short of the claim"))
        self.assertIn("extrapolated by 58 % from 95 W", heat.what)
        assert noise.difference is not None
        self.assertAlmostEqual(noise.difference.value, 2.0, places=6)
        self.assertEqual(noise.verdict, "short of the claim")
        self.assertEqual(
            rated_items(product, [result(noise=25.5)])[1].verdict, "agrees within the uncertainty"
        )
        self.assertEqual(rated_items(product, [])[0].verdict, "not measured yet")
        self.assertEqual(rated_items(Product(1, "x", "paste"), [result()]), [])


if __name__ == "__main__":
    unittest.main()
