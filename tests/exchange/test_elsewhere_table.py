"""A table of others' figures: every row a line, or one clear line that says which is none."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.exchange.elsewhere_table import elsewhere_lines
from samovar.exchange.problems import InputError

HEAD = "figure;value;unit;name;source;day;load;known\n"


def written(text: bytes) -> Path:
    with tempfile.NamedTemporaryFile(delete=False, suffix=".csv") as file:
        file.write(text)
    return Path(file.name)


class ElsewhereTableTest(unittest.TestCase):
    def test_rows_become_lines(self) -> None:
        path = written(
            (HEAD + "score;5012;points;Kestrel 9;Quay Bench;2026-01-12;worst case;28 W\n\n").encode()
        )
        self.assertEqual(
            elsewhere_lines(path),
            ["score 5012 points, Kestrel 9, by Quay Bench, 2026-01-12, under worst case, 28 W"],
        )

    def test_a_row_that_lacks_something_is_named(self) -> None:
        for text, words in (
            (HEAD + "score;5012;points;Kestrel 9;;2026-01-12;;\n", "line 2"),
            ("figure,value,unit,name,day\nscore,1,points,K,2026-01-12\n", "no column 'source'"),
            (HEAD, "no row"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                elsewhere_lines(written(text.encode()))

    @settings(max_examples=60, deadline=None)
    @given(st.binary(max_size=200))
    def test_whatever_the_file_holds_is_read_or_refused(self, noise: bytes) -> None:
        path = written(HEAD.encode() + noise)
        try:
            elsewhere_lines(path)
        except InputError as problem:
            self.assertNotIn("\n", str(problem))


if __name__ == "__main__":
    unittest.main()
