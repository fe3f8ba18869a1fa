"""What is entered in words: fields, prices, rates, notes, changes; read, shown, told apart."""

from __future__ import annotations

import itertools
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.fields import Field, check_value, read_field, value_shown, value_typed
from samovar.core.handling import note_typed, read_note
from samovar.core.money import Rate, convert, price_typed, read_price, read_rate, without_tax
from samovar.core.product import KINDS, NOTE_KINDS, Note, Price, Product
from samovar.core.setup_changes import Arrangement, change_words, differences, hand_work
from samovar.core.units import DIMENSIONS, Unreadable


def value_for(field: Field, draw: Any) -> Any:
    """Some value of a field."""
    if field.of == "words":
        return draw(
            st.lists(
                st.text("abcXYZ 128-", min_size=1, max_size=9).map(str.strip).filter(bool),
                min_size=1,
                max_size=3,
            )
        )
    if field.of == "range":
        return sorted(draw(st.tuples(*[st.integers(0, 5000).map(float)] * 2)))
    if field.of == "count":
        return draw(st.integers(0, 999))
    if field.of == "text":
        return draw(st.text("abc XYZ 1.-", min_size=1, max_size=12).map(str.strip).filter(bool))
    dimension = DIMENSIONS[field.of]
    return dimension.least + draw(st.integers(0, 1000)) / 1000.0 * (dimension.most - dimension.least)


class FieldsTest(unittest.TestCase):
    def test_a_section_of_a_kind_begins_once(self) -> None:
        for kind, fields in KINDS.items():
            begun = [section for section, _ in itertools.groupby(f.section for f in fields)]
            self.assertEqual(len(begun), len(set(begun)), kind)

    @given(st.data(), st.sampled_from(sorted(KINDS)))
    def test_every_field_of_every_kind_is_typed_back_as_it_was(self, data: Any, kind: str) -> None:
        for field in KINDS[kind]:
            value = value_for(field, data.draw)
            again = read_field(field, value_typed(field, value))
            if isinstance(value, float):
                self.assertAlmostEqual(again, value, delta=1e-9 * max(1.0, abs(value)))
            else:
                self.assertEqual(again, value)
            self.assertEqual(check_value(field, value), value)

    def test_empty_is_not_known_and_needed_is_said(self) -> None:
        self.assertIsNone(read_field(Field("x", "x", "length"), "  "))
        self.assertEqual(value_shown(Field("x", "x", "length"), None), "not known")
        with self.assertRaisesRegex(Unreadable, "needed"):
            read_field(Field("x", "x", "length", needed=True), "")

    def test_choices_are_read_by_their_beginning(self) -> None:
        field = Field("panel", "panel", "choice", ("on", "off", "vented"))
        self.assertEqual(read_field(field, "V"), "vented")
        with self.assertRaisesRegex(Unreadable, "on, off, vented"):
            read_field(field, "o")
        self.assertIs(read_field(Field("x", "x", "yes-no"), "Yes"), True)

    def test_a_range_runs_upwards(self) -> None:
        field = Field("speed_rpm", "speed", "range")
        self.assertEqual(read_field(field, "500-1500 rpm"), [500.0, 1500.0])
        self.assertEqual(read_field(field, "900 rpm"), [900.0, 900.0])
        with self.assertRaisesRegex(Unreadable, "downwards"):
            read_field(field, "1500 to 500 rpm")

    def test_a_file_may_hold_text_with_a_unit_but_no_nonsense(self) -> None:
        height = Field("height_m", "height", "length")
        self.assertAlmostEqual(check_value(height, "6.34 in"), 0.161036)
        for wrong in (True, 99.0, [1], "tall", -1):
            with self.subTest(wrong=wrong), self.assertRaises(Unreadable):
                check_value(height, wrong)


class MoneyTest(unittest.TestCase):
    def test_a_price_in_one_line(self) -> None:
        price = read_price("84,50 eur sale 2026-03-02 tax 19 % at Kaimann & Co", "2026-01-01")
        self.assertEqual(price, Price(84.5, "EUR", "2026-03-02", "sale", True, 0.19, "Kaimann & Co"))
        self.assertEqual(read_price(price_typed(price), "x"), price)
        self.assertAlmostEqual(without_tax(price) or 0, 71.0084, delta=1e-4)
        self.assertIsNone(without_tax(read_price("10 EUR", "2026-01-01")))
        self.assertEqual(without_tax(read_price("10 EUR untaxed", "2026-01-01")), 10.0)

    def test_what_is_no_price_is_refused(self) -> None:
        for typed in ("84.50", "84.50 EUX", "EUR 84.50", "84.50 EUR cheap", "", "1 e"):
            with self.subTest(typed=typed), self.assertRaisesRegex(Unreadable, "write "):
                read_price(typed, "2026-01-01")

    @given(
        st.builds(
            Price, st.integers(0, 10**7).map(lambda n: n / 100), st.sampled_from(["EUR", "NOK", "JPY"]),
            st.dates().map(lambda d: d.isoformat()).filter(lambda d: d > "1000"), st.sampled_from(["list", "street", "sale"]),
            st.booleans(), st.none() | st.integers(0, 400).map(lambda n: n / 1000), st.sampled_from(["", "Kaimann", "Fjellbod 2"]),
        )
    )  # fmt: skip
    def test_every_price_is_typed_back_as_it_was(self, price: Price) -> None:
        again = read_price(price_typed(price), "x")
        self.assertAlmostEqual(again.amount, price.amount, delta=1e-5 * max(1.0, price.amount))
        self.assertEqual(
            (again.currency, again.day, again.kind, again.taxed, again.shop),
            (price.currency, price.day, price.kind, price.taxed, price.shop),
        )

    def test_nothing_is_converted_without_a_rate_and_the_latest_counts(self) -> None:
        self.assertIsNone(convert(10.0, "EUR", "NOK", []))
        rates = [
            Rate("EUR", "NOK", 11.0, "2026-01-01"),
            Rate("NOK", "EUR", 0.1, "2026-02-01"),
            Rate("EUR", "SEK", 11.5, "2026-03-01"),
        ]
        found = convert(10.0, "EUR", "NOK", rates)
        assert found is not None and found.rate is not None
        self.assertAlmostEqual(found.amount, 100.0)
        self.assertEqual(found.rate.day, "2026-02-01")
        self.assertEqual(
            read_rate("1 EUR = 11.45 NOK", "2026-03-02"), Rate("EUR", "NOK", 11.45, "2026-03-02")
        )
        for wrong in ("EUR NOK", "1 EUR = 0 NOK", "1 EUR = 2 EUR", "1 EUX = 2 NOK"):
            with self.subTest(wrong=wrong), self.assertRaises(Unreadable):
                read_rate(wrong, "2026-03-02")

    def test_the_street_price_counts_before_a_list_price(self) -> None:
        product = Product(
            1,
            "x",
            "fan",
            prices=(
                Price(9, "EUR", "2026-05-01", "list"),
                Price(7, "EUR", "2026-01-01"),
                Price(8, "EUR", "2026-02-01"),
            ),
        )
        self.assertEqual(product.price, Price(8, "EUR", "2026-02-01"))


class NotesAndChangesTest(unittest.TestCase):
    def test_notes_in_one_line(self) -> None:
        self.assertEqual(read_note("Rating 8,5/10: silent"), Note("rating", "silent", 8.5))
        self.assertEqual(read_note("just words"), Note("note", "just words"))
        for kind in NOTE_KINDS:
            note = Note(kind, "some words: more", 3.0 if kind == "rating" else None)
            self.assertEqual(read_note(note_typed(note)), note)
        for wrong in ("rating 11: x", "rating: x", "rating 5:", "gossip: x", "quirk:"):
            with self.subTest(wrong=wrong), self.assertRaises(Unreadable):
                read_note(wrong)

    def test_two_setups_are_told_apart_in_words(self) -> None:
        one = Arrangement(
            "Rig A", [("air cooler", "Osprey"), ("paste", "Dab 6")], {"fan_rpm": 1000.0, "panel": "on"}
        )
        other = Arrangement(
            "Rig B",
            [("air cooler", "Tern"), ("paste", "Dab 6")],
            {"panel": "off", "sustained_power_w": 110.0},
        )
        self.assertEqual(
            [d.words for d in differences(one, other)],
            ["rig: Rig A, not Rig B", "air cooler: Osprey, not Tern", "fan speed: 1000 rpm, not as the rig has it",
             "side panel: on, not off", "sustained budget: as the rig has it, not 110 W"],
        )  # fmt: skip
        self.assertEqual(differences(one, one), [])
        self.assertEqual(
            hand_work(one, other),
            [
                "go to Rig B",
                "take off Osprey",
                "fit Tern",
                "fan speed: as the rig has it",
                "side panel: off",
                "sustained budget: 110 W",
            ],
        )
        self.assertEqual(hand_work(one, one), [])
        back = [(d.what, d.other, d.one) for d in differences(other, one)]
        self.assertEqual(sorted(back), sorted((d.what, d.one, d.other) for d in differences(one, other)))
        self.assertEqual(
            change_words({"voltage_offset_v": -0.05, "older": "kept"}),
            ["voltage offset -0.05 V", "older kept"],
        )


if __name__ == "__main__":
    unittest.main()
