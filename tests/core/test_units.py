"""Units as people write them: worked conversions, what is refused, and that nothing is lost on the way."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.units import DIMENSIONS, Unreadable, exact, parse, shown

WORKED = (
    # dimension, as typed, kept; factors from ISO 80000 and the inch and pound of 1959
    ("length", "161", 0.161), ("length", "161mm", 0.161), ("length", "16,1 cm", 0.161), ("length", "6.34 in", 0.161036),
    ("length", '1 1/2"', 0.0381), ("length", "5' 2\"", 1.5748), ("mass", "2 lb 10 oz", 1.19067997125),
    ("mass", "420 g", 0.42), ("airflow", "56 CFM", 0.0264290568), ("airflow", "95 m³/h", 95 / 3600),
    ("pressure", "2.35 mmH2O", 23.0456275), ("temperature", "93.2 °F", 34.0), ("temperature", "307.15 K", 34.0),
    ("temperature", "-5 °C", -5.0), ("voltage", "-50 mV", -0.05), ("clock", "4.9 GHz", 4900.0), ("term", "6 years", 72.0),
    ("time", "1:30", 90.0), ("time", "12 min", 720.0), ("share", "60 %", 0.6), ("level", "24.6 dB(A)", 24.6),
    ("speed", "1.200,5 rpm", 1200.5), ("speed", "1,200.5 rpm", 1200.5), ("conductivity", "8.5 W/mK", 8.5), ("data", "32 GB", 32e9),
)  # fmt: skip


class UnitsTest(unittest.TestCase):
    def test_worked_conversions(self) -> None:
        for dimension, typed, kept in WORKED:
            with self.subTest(typed=typed):
                self.assertAlmostEqual(parse(dimension, typed), kept, delta=1e-9 * max(1.0, abs(kept)))

    def test_what_cannot_be_read_is_refused_with_an_example(self) -> None:
        for typed in (
            "",
            "abc",
            "12 parsec",
            "161 mm mm",
            "9 m",
            "1/0 in",
            "-3 mm",
            "2 in -3 mm",
            "1.2.3e",
            "mm",
            "1 2 3 mm",
        ):
            with self.subTest(typed=typed), self.assertRaisesRegex(Unreadable, "write "):
                parse("length", typed)

    def test_a_comma_before_three_digits_may_be_either_and_is_asked_about(self) -> None:
        with self.assertRaisesRegex(Unreadable, "may be 1200 or 1.200"):
            parse("speed", "1,200 rpm")

    @given(st.sampled_from(sorted(DIMENSIONS)), st.floats(0.0, 1.0))
    def test_what_is_typed_back_is_what_was_kept(self, name: str, at: float) -> None:
        dimension = DIMENSIONS[name]
        kept = dimension.least + at * (dimension.most - dimension.least)
        again = parse(name, exact(name, kept))
        self.assertAlmostEqual(again, kept, delta=1e-9 * max(1.0, abs(kept)))
        self.assertEqual(exact(name, again), exact(name, parse(name, exact(name, again))))
        self.assertTrue(shown(name, kept))

    @given(st.floats(0.001, 4.0), st.sampled_from(["mm", "cm", "in", "m", "ft"]))
    def test_a_unit_changes_what_is_written_not_what_is_meant(self, metres: float, unit: str) -> None:
        written = f"{metres / DIMENSIONS['length'].factors[unit]!r} {unit}"
        self.assertAlmostEqual(parse("length", written), metres, delta=1e-9)

    @given(st.text(max_size=24), st.sampled_from(sorted(DIMENSIONS)))
    def test_anything_typed_is_read_or_refused(self, typed: str, name: str) -> None:
        try:
            value = parse(name, typed)
        except Unreadable as problem:
            self.assertNotIn("\n", str(problem).replace(typed, ""))
        else:
            self.assertTrue(DIMENSIONS[name].least <= value <= DIMENSIONS[name].most)


if __name__ == "__main__":
    unittest.main()
