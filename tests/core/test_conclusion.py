"""The conclusion's lines: read, gathered in the order of print, and of what there is one of the last."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.conclusion import gathered, read_concluded
from samovar.core.units import Unreadable


class ConclusionTest(unittest.TestCase):
    def test_lines_are_gathered_in_the_order_of_print(self) -> None:
        lines = ["not for: low cases", "good: quiet", "pick: A", "good: cheap", "rating: 9", "pick: B"]
        self.assertEqual(
            gathered(lines),
            [
                ("The pick", ["B"]),
                ("Good", ["quiet", "cheap"]),
                ("Not for whom", ["low cases"]),
                ("Rating", ["9/10"]),
            ],
        )

    def test_what_is_no_line_is_refused(self) -> None:
        for line in ("quiet", "great: quiet", "good:", "rating: eleven", "rating: 11/10"):
            with self.subTest(line=line), self.assertRaises(Unreadable):
                read_concluded(line)

    @given(st.text(max_size=60))
    def test_whatever_is_typed_is_read_again_as_it_was_or_refused(self, typed: str) -> None:
        try:
            one = read_concluded(typed)
        except Unreadable as problem:
            self.assertTrue(str(problem))
            return
        self.assertEqual(read_concluded(one.line), one)


if __name__ == "__main__":
    unittest.main()
