"""What a review asks, as people write it; who meets it; and the pick that follows."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.compare.estimates import Correlated
from samovar.core.compare.rungs import Ladder, Margins, Rung, climbed
from samovar.core.demands import Decision, Demand, Wish, decide, decision_words, judge, read_demand
from samovar.core.measured import AT_LEAST, AT_MOST, Measured
from samovar.core.results.figure import figure_of
from samovar.core.units import Unreadable


class LinesTest(unittest.TestCase):
    def test_lines_as_people_write_them(self) -> None:
        for line, key, side, limit, load in (
            ("noise at most 28 dBA", "noise", AT_MOST, 28.0, None),
            (
                "regulators at most 85 °C under worst case",
                "steady:temperature:vrm",
                AT_MOST,
                85.0,
                "worst case",
            ),
            ("regulators under 185 °F", "steady:temperature:vrm", AT_MOST, 85.0, None),
            ("peak die at most 95 °C", "peak:temperature:die", AT_MOST, 95.0, None),
            ("regulators by hand at most 85 °C", "at:temperature:vrm", AT_MOST, 85.0, None),
            ("vrm back at most 90 °C", "at:temperature:vrm back", AT_MOST, 90.0, None),
            ("clock at least 3.4 GHz", "clock", AT_LEAST, 3400.0, None),
            ("price at most 120 EUR", "price", AT_MOST, 120.0, None),
            ("work at least 800", "work", AT_LEAST, 800.0, None),
            ("time at most 17:46", "time", AT_MOST, 1066.0, None),
            ("rise at most 50 K", "rise", AT_MOST, 50.0, None),
            ("wish work", "work", "", None, None),
            (
                "wish steady:temperature:memory under heavy work",
                "steady:temperature:memory",
                "",
                None,
                "heavy work",
            ),
        ):
            with self.subTest(line=line):
                found = read_demand(line)
                self.assertEqual(figure_of(found.figure.key).key, figure_of(key).key)
                self.assertEqual((found.side, found.load), (side, load))
                if limit is None:
                    self.assertTrue(found.is_wish)
                else:
                    self.assertAlmostEqual(found.limit or 0.0, limit, places=6)
                self.assertEqual(read_demand(found.line), found)

    def test_what_is_none_says_how_to_write_one(self) -> None:
        for line in (
            "",
            "quiet",
            "noise",
            "swiftness at most 3",
            "price at most 120",
            "clock at least fast",
            "wish noise at most 3 dBA",
        ):
            with self.subTest(line=line), self.assertRaisesRegex(Unreadable, "write "):
                read_demand(line)

    @given(st.text(max_size=60))
    def test_whatever_is_typed_is_read_or_refused(self, typed: str) -> None:
        try:
            read_demand(typed)
        except Unreadable as problem:
            self.assertTrue(str(problem))


def demand(line: str) -> Demand:
    return read_demand(line)


def ladder(key: str, **values: float) -> Ladder:
    """A ladder whose intervals are all of 0.5."""
    import numpy as np

    model = Correlated(tuple(values), np.array(list(values.values())), np.eye(len(values)) * 0.03, 30.0)
    plain = [Rung(n, model.value(n), 2, None, None) for n in values]
    return climbed(plain, None, figure_of(key), Margins(), model)


class DecisionTest(unittest.TestCase):
    def test_a_demand_is_judged_by_the_whole_interval_and_a_bound_on_its_own_side(self) -> None:
        quiet = demand("noise at most 28 dBA")
        for value, state in (
            (Measured(26.0, 1.5), "met"), (Measured(27.0, 1.5), "not shown"), (Measured(30.0, 1.5), "not met"),
            (Measured(27.9, 1.5, AT_MOST), "met"), (Measured(29.0, 1.5, AT_MOST), "not shown"), (None, "not shown"),
            (Measured(31.0, 1.5, AT_LEAST), "not met"), (Measured(20.0, 1.5, AT_LEAST), "not shown"),
        ):  # fmt: skip
            self.assertEqual(judge(quiet, value), state)
        self.assertEqual(judge(demand("work at least 800"), Measured(810.0, 5.0)), "met")

    def test_what_nothing_tells_apart_is_no_pick(self) -> None:
        level = Wish("work done", ladder("work", A=100.0, B=99.9), 2.0)
        standing = {"noise at most 28 dBA": {"A": "met", "B": "met"}}
        found = decide(["A", "B"], standing, [level], {})
        self.assertEqual((found.pick, found.level_with), (None, ("A", "B")))
        words = decision_words(found, [demand("noise at most 28 dBA")])
        self.assertIn("No pick: A, B meet all that is asked", words)
        self.assertEqual(decide(["A", "B"], standing, [level], {"A": 90.0, "B": 90.0}).pick, None)
        self.assertEqual(decide(["A", "B"], standing, [level], {"A": 90.0, "B": 80.0}).pick, "B")

    def decision(self, **noise: str) -> Decision:
        work = Wish("work done", ladder("work", A=100.0, B=99.5, C=90.0), 2.0)
        rise = Wish("rise", ladder("rise", A=50.0, B=50.2, C=40.0), 1.0)
        return decide(("A", "B", "C"), {"noise at most 28 dBA": noise}, [work, rise], {"A": 90.0, "B": 60.0})

    def test_the_price_tells_those_apart_that_are_level(self) -> None:
        found = self.decision(A="met", B="met", C="met")
        self.assertEqual((found.pick, found.level_with, found.by), ("B", ("A",), "work done"))
        self.assertIsNone(found.hangs_on)

    def test_it_says_what_it_hangs_on_and_what_is_open(self) -> None:
        found = self.decision(A="not met", B="not shown", C="met")
        self.assertEqual((found.pick, found.open), ("C", ("B",)))
        self.assertEqual(found.hangs_on, ("noise at most 28 dBA", "B"))
        words = decision_words(found, [demand("noise at most 28 dBA")])
        for part in ("The pick is C", "It hangs on", "without that it would be B", "Not shown to meet it"):
            self.assertIn(part, words)

    def test_where_nothing_is_shown_nothing_is_picked(self) -> None:
        found = self.decision(A="not met", B="not shown", C="not met")
        self.assertIsNone(found.pick)
        self.assertIn("not shown either way: B", decision_words(found, [demand("noise at most 28 dBA")]))


if __name__ == "__main__":
    unittest.main()
