"""Criteria as people write them: what they are of, which way is better, what they weigh."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.chosen import (
    FAULT,
    JUDGED,
    MARKS,
    MEASURED,
    MISSING,
    OF_SHELF,
    WORDS,
    YES_NO,
    read_chosen,
)  # fmt: skip
from samovar.core.compare.criteria import LEVEL, WINS, plain_criterion, weighed
from samovar.core.units import Unreadable


class ChosenTest(unittest.TestCase):
    def test_each_kind_is_told_by_how_it_is_written(self) -> None:
        for line, kind, label in (
            ("noise", MEASURED, "noise"),
            ("steady:temperature:memory", MEASURED, "memory"),
            ("height less", OF_SHELF, "height"),
            ("judgement", JUDGED, "judgement"),
            ("looks: Osprey 161 = 8, Tern 47 = 6.5", MARKS, "looks"),
            ("remote start: Osprey 161 = yes, Tern 47 = no", YES_NO, "remote start"),
            ("connector: Osprey 161 = 12+4, Tern 47 = 8", WORDS, "connector"),
            ("missing Tern 47: a fan hub, a cable", MISSING, "Tern 47"),
            ("fault Fjord 280: the pump ticks", FAULT, "Fjord 280"),
        ):
            with self.subTest(line=line):
                one = read_chosen(line)
                self.assertEqual(one.kind, kind)
                self.assertIn(label, one.label)
                self.assertEqual(read_chosen(one.line), one)

    def test_better_weight_and_load_stand_behind_the_name(self) -> None:
        one = read_chosen("Noise more is better x2.5 under heavy work")
        self.assertEqual((one.better, one.weight, one.load), ("more", 2.5, "heavy work"))
        ports = read_chosen("USB more: A = 6 of them, B = 4 of them")
        self.assertEqual([ports.worth(n) for n in "ABC"], [6.0, 4.0, None])

    def test_what_cannot_be_told_is_refused(self) -> None:
        for line in ("", "hum", "looks: A", "ports more: A = 4, B = none", "noise x101"):
            with self.subTest(line=line), self.assertRaises(Unreadable):
                read_chosen(line)

    @given(st.text(max_size=60))
    def test_whatever_is_typed_is_read_again_as_it_was_or_refused(self, typed: str) -> None:
        try:
            one = read_chosen(typed)
        except Unreadable as problem:
            self.assertTrue(str(problem))
            return
        self.assertEqual(read_chosen(one.line), one)

    def test_a_total_is_made_of_weights_alone(self) -> None:
        yes = read_chosen("remote x2: A = yes, B = no")
        row = plain_criterion(yes.label, yes.better, {n: yes.worth(n) for n in "AB"}, yes.told)
        self.assertEqual((row.verdict, row.best), (WINS, ("A",)))
        same = plain_criterion("looks", "more", {"A": 7.0, "B": 7.0}, {"A": "7", "B": "7"})
        self.assertEqual(same.verdict, LEVEL)
        self.assertEqual(weighed([row, same], "AB"), {})
        from dataclasses import replace

        rows = [replace(row, weight=2.0), replace(same, weight=1.0)]
        self.assertEqual(weighed(rows, "AB"), {"A": 3.0, "B": 1.0})


if __name__ == "__main__":
    unittest.main()
