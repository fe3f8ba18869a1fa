"""What Versus shows of the demo's reviews beyond ladders: criteria, prices, before and after, trade."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from samovar.archive import Archive
from samovar.archive.before_after import steps_on
from samovar.archive.coverage import coverages
from samovar.archive.deciding import decided_on
from samovar.archive.review_data import ReviewData, load_review
from samovar.archive.rig_comparison import across, compare_all, compare_on, setup_prices
from samovar.archive.versus_views import criteria_on, loads_on, trade_on
from samovar.core.demands import decision_words
from samovar.core.money import Rate
from samovar.core.price_terms import PriceTerms
from samovar.core.product import Price, Product
from samovar.core.results.figure import figure_of
from samovar.core.setup_price import price_of
from tests.demo_archive import demo_archive

LOAD = "worst case"


class DemoViewsTest(unittest.TestCase):
    folder: tempfile.TemporaryDirectory[str]
    archive: Archive
    booth: ReviewData
    van: ReviewData
    relay: ReviewData

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = tempfile.TemporaryDirectory()
        cls.archive = Archive(demo_archive(Path(cls.folder.name)))
        cls.booth, cls.van, cls.relay, _ = (
            load_review(cls.archive, r) for r in cls.archive.reviews.reviews()
        )

    @classmethod
    def tearDownClass(cls) -> None:
        cls.archive.close()
        cls.folder.cleanup()

    def rig(self, data: ReviewData) -> str:
        return data.review.setups[0].rig_name

    def test_what_kit_and_budget_each_gain_in_the_van(self) -> None:
        steps = {(s.before, s.after): s.words() for s in steps_on(self.van, LOAD, self.rig(self.van))}
        kit = steps["Closed", "Vent kit"]
        self.assertIn("fit Vent kit V1", kit)
        self.assertRegex(kit, r"rise over the room −1\d\.\d ±0\.\d K.*work done \+3\.\d ±0\.\d %")
        self.assertRegex(steps["Closed", "Closed, 22 W"], r"sustained budget: 22 W.*work done \+17\.\d")
        self.assertIn("nothing measured of both yet", steps["Vent kit", "Vent kit, 22 W"])
        # One cooler in the place of another grows out of none.
        self.assertEqual(steps_on(self.booth, LOAD, self.rig(self.booth)), [])

    def test_one_kit_helps_the_one_machine_and_hurts_the_other(self) -> None:
        gains = {a.rig: a for a in across(self.van, compare_all(self.van, LOAD, figure_of("rise")))}
        first, spare = gains["Pebble K4 in its flight case"], gains["Pebble K2 in the small case"]
        self.assertEqual({first.product, spare.product}, {"Vent kit V1"})
        self.assertTrue(first.difference.shown and spare.difference.shown)
        self.assertLess(first.difference.value, -10.0)
        self.assertGreater(spare.difference.value, 2.0)

    def test_a_run_in_steps_is_no_pass_in_the_grid_as_it_is_none_in_a_comparison(self) -> None:
        review, runs = self.booth.review, self.archive.runs
        covered = coverages([review], runs.counts(review.id))[review.id]
        osprey = next(s for s in review.setups if s.name == "Osprey 161")
        found = covered.cells[osprey.id, LOAD]
        self.assertEqual((found.plain, found.in_steps, covered.passes(osprey, LOAD)), (2, 1, 2))
        self.assertEqual(covered.passes(osprey, LOAD), self.booth.cell(osprey, LOAD).passes)

    def test_which_load_is_harder_is_told_by_heat_and_not_by_work(self) -> None:
        rig = self.rig(self.booth)
        shown = loads_on(self.booth, figure_of("rise"), rig)
        self.assertEqual([r.label for r in shown.rows], ["everyday", "heavy work", LOAD])
        self.assertIn("Osprey 161", shown.hardest["heavy work and worst case are level"])
        self.assertEqual(loads_on(self.booth, figure_of("work"), rig).hardest, {})

    def test_a_gain_is_priced_by_what_was_added_for_it(self) -> None:
        rows = {r.label: r.cells for r in criteria_on(self.van, LOAD, self.rig(self.van))}
        self.assertTrue(all(cells for cells in rows.values()), "no row without a value")
        self.assertRegex(rows["EUR for each K under Closed"]["Vent kit"], r"2\.6\d? ±0\.0\d")
        booth = {r.label: r.cells for r in criteria_on(self.booth, LOAD, self.rig(self.booth))}
        self.assertTrue(booth["EUR for each K under Plain 65"]["Osprey 161"].startswith("≤3.8"))

    def test_the_relay_site_by_sensor_and_by_spot(self) -> None:
        decided = decided_on(self.relay)
        assert decided is not None
        spot = decided.standing["regulators by hand at most 85 °C"]
        self.assertEqual(spot, {"As delivered": "met", "With duct": "met"})
        self.assertEqual(decided.standing["regulators at most 85 °C"]["With duct"], "met")
        spots = [decided.standing[f"vrm {spot} at most 85 °C"]["As delivered"] for spot in ("back", "coils")]
        self.assertEqual(spots, ["met", "met"])
        self.assertIn("The pick is With duct", decision_words(decided.decision, decided.demands))

    def test_what_was_never_recorded_is_left_out_with_the_reason(self) -> None:
        found = compare_on(self.van, LOAD, figure_of("rise"))
        self.assertEqual(found.ladder.left_out["Vent kit, 22 W"], "no run under this load")

    def test_what_nothing_beats(self) -> None:
        found = trade_on(self.booth, compare_on(self.booth, LOAD, figure_of("rise")), figure_of("noise"))
        assert found is not None
        self.assertEqual([p.name for p in found.unbeaten], ["Loam P", "Osprey 161", "Fjord 280"])
        curve = next(p for p in found.points if p.name == "Fjord 280").curve
        self.assertGreaterEqual(len(curve), 3)
        self.assertEqual(sorted(curve), list(curve))

    def test_prices_are_of_all_that_is_fitted_or_none(self) -> None:
        prices = setup_prices(self.van.review.setups, self.van.rates)
        self.assertAlmostEqual(prices["Vent kit"].amount or 0.0, 527.0)
        self.assertAlmostEqual(prices["Closed"].amount or 0.0, 489.0)


class PriceTest(unittest.TestCase):
    def test_rates_and_tax(self) -> None:
        def product(name: str, *prices: Price) -> Product:
            return Product(1, name, "air cooler", {}, prices)

        eur, nok = "EUR", "NOK"
        one = product("A", Price(119.0, eur, "2026-03-02", "street", True, 0.19))
        two = product("B", Price(1162.0, nok, "2026-03-03", "street", True, 0.25))
        rates = [Rate("EUR", "NOK", 11.62, "2026-02-27")]
        self.assertAlmostEqual(price_of([one, two], "EUR", rates).amount or 0.0, 219.0)
        self.assertAlmostEqual(price_of([one, two], "EUR", rates, PriceTerms("", False)).amount or 0.0, 180.0)
        self.assertEqual(price_of([one, two], "EUR", rates).days, ("2026-03-02", "2026-03-03"))
        self.assertIn("no rate from NOK to EUR", price_of([one, two], "EUR", []).why_not)
        self.assertIn("C has no price", price_of([one, product("C")], "EUR", rates).why_not)
        self.assertIsNone(price_of([], "EUR", rates).amount)


if __name__ == "__main__":
    unittest.main()
