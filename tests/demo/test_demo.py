"""The demo: the same each time, there in good time, and the tour goes all the way."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from samovar.archive import Archive
from samovar.archive.review_data import load_review
from samovar.demo.plan import FACTS, RUNS
from samovar.demo.record import record
from tests.demo_archive import demo_archive


class DemoTest(unittest.TestCase):
    def test_a_planned_run_is_the_same_each_time(self) -> None:
        course = {"load_most_s": 900.0, "cool_down_most_s": 60.0}
        first, second = record(RUNS[3], FACTS, course), record(RUNS[3], FACTS, course)
        self.assertEqual(first.recording.values[:, 1:].tobytes(), second.recording.values[:, 1:].tobytes())
        self.assertEqual(first.reading, second.reading)

    def test_what_is_set_out(self) -> None:
        with tempfile.TemporaryDirectory() as folder, Archive(demo_archive(Path(folder))) as archive:
            self.assertEqual(len(archive.runs.runs()), len(RUNS))
            for other in archive.reviews.reviews()[1:]:
                data = load_review(archive, other)
                done, total = data.measured_cells()
                self.assertTrue(data.cells, "something is measured")
                self.assertLess(done, total, "and gaps are left to be filled")
                self.assertTrue(all(s.rig is not None and s.products for s in other.setups))
            currencies = {p.currency for product in archive.shelf.products() for p in product.prices}
            self.assertEqual(currencies, {"EUR", "NOK"})
            review = archive.reviews.reviews()[0]
            self.assertEqual(
                [s.name for s in review.setups], ["Plain 65", "Tern 47", "Osprey 161", "Fjord 280", "Loam P"]
            )
            self.assertEqual(review.reference.name if review.reference else None, "Plain 65")
            self.assertEqual(review.noise_limit_dba, 28.0)
            runs = archive.runs.runs(review_id=review.id)
            self.assertEqual(len(runs), 20)
            self.assertEqual(runs[0].started, "2026-03-02T09:00:00Z")
            self.assertEqual(sum(r.state == "did-not-finish" for r in runs), 1)
            self.assertEqual(len({p.name for s in review.setups for p in s.products}), 5)

    def test_the_tour_goes_all_the_way(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            archive, target = demo_archive(Path(folder)), Path(folder) / "tour"
            done = subprocess.run(
                [sys.executable, "-m", "samovar", "demo", "--tour", "--archive", str(archive), "--to", str(target)],
                capture_output=True, text=True, timeout=180, check=False,
            )  # fmt: skip
            self.assertEqual((done.returncode, done.stderr), (0, ""))
            for words in (
                "Recording Loam P",
                "Read r0039: budget",
                "Compared under worst case",
                "index.html",
            ):
                self.assertIn(words, done.stdout)
            self.assertIn("2 passes", next(x for x in done.stdout.splitlines() if "Loam P  " in x))
            self.assertTrue((target / "index.html").exists())


if __name__ == "__main__":
    unittest.main()
