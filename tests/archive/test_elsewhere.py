"""Figures that others published: read as people note them, marked on the ladder, and out of the statistics."""

from __future__ import annotations

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from samovar.archive import Archive
from samovar.archive.review_data import load_review
from samovar.archive.rig_comparison import compare_on
from samovar.core.compare.criteria import criterion_of
from samovar.core.elsewhere import against_norm, read_elsewhere
from samovar.core.measured import Measured
from samovar.core.results.figure import figure_of
from samovar.core.units import Unreadable
from tests.demo_archive import demo_archive


class LinesTest(unittest.TestCase):
    def test_lines_as_people_note_them(self) -> None:
        one = read_elsewhere(
            "score 5012 points, Kestrel 9, by Quay Bench, 2026-01-12, under worst case, 28 W, room 21 °C"
        )
        self.assertEqual((one.figure.key, one.value.value, one.name), ("score", 5012.0, "Kestrel 9"))
        self.assertEqual((one.source, one.day, one.load), ("Quay Bench", "2026-01-12", "worst case"))
        self.assertEqual(one.known, "28 W, room 21 °C")
        self.assertEqual(read_elsewhere(one.line), one)
        wide = read_elsewhere("rise 48.5 ± 1.5 K, Kestrel 9, by Quay Bench, 2026-01-12")
        self.assertEqual((wide.value.value, wide.value.half_width), (48.5, 1.5))
        self.assertIn("nothing is known", wide.caution)
        self.assertAlmostEqual(read_elsewhere("time 17:46, K, by Q, 2026-01-12").value.value, 1066.0)

    def test_what_lacks_something_says_what(self) -> None:
        for line in (
            "score 5012",
            "score 5012, K, by Q",
            "score 5012, K, 2026-01-12, x",
            "price 80 EUR, K, by Q, 2026-01-12",
        ):
            with self.subTest(line=line), self.assertRaises(Unreadable):
                read_elsewhere(line)

    def test_a_row_pasted_from_a_table_is_a_line(self) -> None:
        wanted = read_elsewhere(
            "score 5012 points, Kestrel 9, by Quay Bench, 2026-01-12, under worst case, 28 W"
        )
        for row in (
            "score,5012,points,Kestrel 9,Quay Bench,2026-01-12,worst case,28 W",
            "score\t5012\tpoints\tKestrel 9\tQuay Bench\t2026-01-12\tworst case\t28 W",
        ):
            self.assertEqual(read_elsewhere(row), wanted)

    def test_a_norm_tells_how_far_each_is_from_it(self) -> None:
        norm = Measured(4000.0, 0.0)
        self.assertEqual(
            against_norm(Measured(3520.0, 40.0), norm, "norm of 28 W chips"),
            "12 ±1 % under the norm of 28 W chips",
        )
        self.assertEqual(
            against_norm(Measured(4010.0, 40.0), norm, "norm of 28 W chips"), "at the norm of 28 W chips"
        )

    @given(st.text(max_size=80))
    def test_whatever_is_typed_is_read_or_refused(self, typed: str) -> None:
        try:
            read_elsewhere(typed)
        except Unreadable as problem:
            self.assertTrue(str(problem))


class LadderTest(unittest.TestCase):
    def test_it_stands_on_the_ladder_and_changes_nothing(self) -> None:
        with tempfile.TemporaryDirectory() as folder, Archive(demo_archive(Path(folder))) as archive:
            review = archive.reviews.reviews()[0]
            plain = compare_on(load_review(archive, review), "worst case", figure_of("rise"))
            lines = (
                "rise 30 ± 1 K, Kestrel 9, by Quay Bench, 2026-01-12",
                "rise 20 K, Other, by Q, 2026-01-12, under everyday",
            )
            archive.reviews.save_review(replace(review, elsewhere=lines))
            kept = archive.reviews.review(review.slug)
            assert kept is not None
            self.assertEqual(kept.elsewhere, lines)
            found = compare_on(load_review(archive, kept), "worst case", figure_of("rise"))
        self.assertEqual(found.ladder.rungs[0].name, "Kestrel 9")
        self.assertEqual(
            (found.ladder.rungs[0].source, found.ladder.rungs[0].difference), ("elsewhere", None)
        )
        self.assertEqual(found.ladder.own, plain.ladder.rungs)
        self.assertEqual(found.ladder.level, plain.ladder.level)
        self.assertIn("takes no part", found.audit[0].text)
        self.assertIsNone(found.ladder.difference("Kestrel 9", "Plain 65", 1.0))
        row = criterion_of(found.figure, found.ladder)
        assert row is not None
        self.assertEqual(row.best, ("Fjord 280",))


if __name__ == "__main__":
    unittest.main()
