"""Live fields: read, put in place, agreed to, and marked where they have changed."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.live_fields import LiveField, agreed, changed_in, fields_in, with_values

ARTICLE = (
    "It stays at {rise | Osprey 161 | worst case = 49.6 ±0.4 K}, and costs {price|Osprey 161|worst case}."
)


def value(field: LiveField) -> str | None:
    return {"rise": "50.1 ±0.4 K"}.get(field.figure)


class LiveFieldTest(unittest.TestCase):
    def test_fields_are_read_and_stand_in_place(self) -> None:
        first, second = fields_in(ARTICLE)
        self.assertEqual(
            (first.figure, first.setup, first.load, first.agreed),
            ("rise", "Osprey 161", "worst case", "49.6 ±0.4 K"),
        )
        self.assertEqual(second.agreed, "")
        self.assertEqual(with_values(ARTICLE, value), "It stays at 50.1 ±0.4 K, and costs not known.")

    def test_what_changed_since_it_was_agreed_to_is_told_old_beside_new(self) -> None:
        (changed,) = changed_in(ARTICLE, value)
        self.assertEqual((changed.field.agreed, changed.now), ("49.6 ±0.4 K", "50.1 ±0.4 K"))
        self.assertEqual(changed_in(agreed(ARTICLE, value), value), [])

    @given(st.text(max_size=120))
    def test_words_without_fields_stay_as_they_are(self, words: str) -> None:
        if not fields_in(words):
            self.assertEqual(with_values(words, value), words)
            self.assertEqual(agreed(words, value), words)


if __name__ == "__main__":
    unittest.main()
