"""Reviews in the archive: their parts, their order, what counts of their runs; and a headless run's course."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from samovar.archive import Archive
from samovar.archive.review_data import load_review
from samovar.core.by_hand.reading import HandReading, results_by_hand
from samovar.core.entered import file_stem, free_stem
from samovar.core.product import Price
from samovar.core.results.figure import figure_of
from samovar.recording.headless import course_for
from tests.recordings import FACTS, simple_run


class ReviewsTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.archive = Archive(Path(folder.name) / "a.sqlite")
        self.addCleanup(self.archive.close)
        store = self.archive.reviews
        rig = self.archive.shelf.add_rig("Halden 8", FACTS)
        price = Price(84.5, "EUR", "2026-03-02")
        product = self.archive.shelf.add_product("Osprey 161", "air cooler", {"height_m": 0.161}, [price])
        self.key = store.add_review("Voice booth: PC", "Which?", ["heavy", "worst"], noise_limit_dba=28.0)
        self.first = store.add_setup(self.key, "Plain 65", rig)
        self.second = store.add_setup(
            self.key, "Osprey 161", rig, [product], reference=True, changes={"fan_rpm": 1000.0}
        )

    def add(self, setup: int, load: str = "worst", state: str = "sealed", seed: int = 1) -> int:
        return self.archive.runs.add(
            simple_run(400, seed=seed),
            load,
            "2026-03-02T09:00:00Z",
            state,
            review_id=self.key,
            setup_id=setup,
            facts=FACTS,
        )

    def test_a_review_comes_back_whole(self) -> None:
        review = self.archive.reviews.review("voice-booth-pc")
        assert review is not None
        self.assertEqual([s.name for s in review.setups], ["Plain 65", "Osprey 161"])
        self.assertEqual(review.reference and review.reference.name, "Osprey 161")
        setup = review.setups[1]
        self.assertEqual(
            (setup.rig.name if setup.rig else None, setup.facts, setup.changes),
            ("Halden 8", FACTS, {"fan_rpm": 1000.0}),
        )
        self.assertEqual(
            [(p.name, p.price) for p in setup.products], [("Osprey 161", Price(84.5, "EUR", "2026-03-02"))]
        )
        self.assertEqual(self.archive.reviews.review("VOICE BOOTH: PC"), review)
        self.assertIsNone(self.archive.reviews.review("another"))

    def test_names_for_files(self) -> None:
        self.assertEqual(file_stem("Osprey 161, fans 1000 rpm"), "osprey-161-fans-1000-rpm")
        self.assertEqual(
            [free_stem("…", taken := set(), "review"), free_stem("観", taken, "review")],
            ["review", "review-2"],
        )

    def test_only_finished_runs_that_are_not_left_out_count(self) -> None:
        one, two = self.add(self.second), self.add(self.second, seed=2)
        self.add(self.second, state="did-not-finish", seed=3)
        review = self.archive.reviews.review(self.key)
        assert review is not None
        cell = load_review(self.archive, review).cell(review.setups[1], "worst")
        self.assertEqual((cell.passes, len(cell.runs)), (2, 3))
        self.archive.runs.leave_out(two, "panel was off")
        data = load_review(self.archive, review)
        self.assertEqual(data.cell(review.setups[1], "worst").passes, 1)
        self.assertEqual([run.number for _, run, _ in data.latest("worst")], [one])
        self.assertEqual(data.latest("heavy"), [])

    def test_cells_are_done_when_all_passes_are_in(self) -> None:
        review = self.archive.reviews.review(self.key)
        assert review is not None
        self.assertEqual(load_review(self.archive, review).measured_cells(), (0, 4))
        self.add(self.first)
        self.assertEqual(load_review(self.archive, review).measured_cells(), (0, 4))
        self.add(self.first, seed=2)
        self.assertEqual(load_review(self.archive, review).measured_cells(), (1, 4))

    def test_a_faster_run_of_the_same_load_changes_what_another_says(self) -> None:
        import numpy as np

        slow = simple_run(400)
        values = slow.values.copy()
        # No burst to be seen in this one: budget and clock the same from the first second.
        values[1] = np.where(values[1] > 3000.0, 4000.0, values[1])
        values[2] = np.minimum(values[2], 95.0)
        held_all_along = type(slow)(slow.channels, slow.time_s, values)
        number = self.archive.runs.add(held_all_along, "worst", "x", review_id=self.key, setup_id=self.first)
        # Its slopes tell of a budget, but not of what it costs.
        self.assertEqual([h.clock_loss_pct for h in self.archive.runs.reading(number).held], [None])
        self.archive.runs.reading(self.add(self.second))
        again = self.archive.runs.reading(number)
        self.assertEqual({h.by for h in again.held}, {"power"})
        self.assertGreater(again.held[0].clock_loss_pct or 0.0, 5.0)
        self.assertIn("not from this run", again.held[0].evidence)

    def test_the_last_noise_counts(self) -> None:
        readings = [
            HandReading(t, kind, v, 1.4, "dBA")
            for t, kind, v in ((10.0, "noise", 30.0), (20.0, "room", 22.0), (30.0, "noise", 27.0))
        ]
        noise = figure_of("noise").among(results_by_hand(readings))
        self.assertEqual(noise and noise.value, 27.0)
        self.assertIsNone(figure_of("noise").among(results_by_hand(readings[1:2])))


class HeadlessCourseTest(unittest.TestCase):
    def test_a_short_load_gets_a_short_course(self) -> None:
        spec = course_for("worst case", 2, 8.0, 95.0)
        self.assertEqual(
            (spec.load_s, spec.idle_most_s, spec.cool_down_most_s, spec.stop_above_c), (8.0, 2.0, 8.0, 95.0)
        )
        self.assertEqual(course_for("worst case", None, 1200.0, 105.0).idle_most_s, 600.0)
        self.assertIsNone(course_for("worst case", None, None, 105.0).load_s)


if __name__ == "__main__":
    unittest.main()
