"""Rows that are not what they should be: each costs itself, is named, and can no longer be entered in the first place."""

from __future__ import annotations

import math
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

from sqlalchemy import insert, select, update

from samovar.archive import Archive
from samovar.archive.database import ArchiveError
from samovar.archive.schema import COURSE, LOAD, PRODUCT, REVIEW, RIG, RUN
from samovar.bench.loads.catalogue import OwnLoad
from samovar.bench.loads.protocol import LoadError
from samovar.core.facts import Facts, ProcessorFacts
from samovar.core.money import Rate
from samovar.core.product import Note, Price
from tests.recordings import FACTS, simple_run


class UnreadableTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.archive = Archive(Path(folder.name) / "a.sqlite")
        self.addCleanup(self.archive.close)
        self.good = self.archive.reviews.add_review("Good", "?", ["idle"])
        self.bad = self.archive.reviews.add_review("Bad", "?", ["idle"])

    def spoil(self, table: Any, key: int, **values: Any) -> dict[str, Any]:
        """Put values where they cannot stand; the answer is those that stood there."""
        with self.archive._engine.begin() as connection:
            row = connection.execute(select(table).where(table.c.id == key)).mappings().one()
            connection.execute(update(table).where(table.c.id == key).values(**values))
        return {name: row[name] for name in values}

    def test_a_row_that_cannot_be_read_costs_that_row_alone(self) -> None:
        shelf, plans = self.archive.shelf, self.archive.plans
        product, rig = shelf.add_product("Vane", "fan"), shelf.add_rig("R", FACTS)
        course, load = plans.add_course("C", {"load_s": 60.0}), plans.add_load(OwnLoad("L", of="memory"))
        shelf.add_product("Whole", "fan")
        for table, key, values, words in (
            (REVIEW, self.bad, {"passes_wanted": 1.5}, "review Bad cannot be read: passes_wanted: 1.5"),
            (REVIEW, self.bad, {"margin_k": -1.0}, "review Bad cannot be read: margin_k"),
            (REVIEW, self.bad, {"loads": "idle"}, "review Bad cannot be read: loads"),
            (COURSE, course, {"body": {"load_s": "x"}}, "course C cannot be read: load_s"),
            (COURSE, course, {"body": {"stop_above_c": 9999.0}}, "course C cannot be read"),
            (LOAD, load, {"body": {"kind": "magic"}}, "load L cannot be read: kind"),
            (PRODUCT, product, {"specification": {"height_m": 161}}, "product Vane cannot be read: height_m"),
            (PRODUCT, product, {"prices": [{"amount": "x"}]}, "product Vane cannot be read: prices 1"),
            (RIG, rig, {"facts": {"cpu": {"cores": "eight"}}}, "rig R cannot be read: cpu.cores"),
        ):
            with self.subTest(words=words):
                before = self.spoil(table, key, **values)
                names = [r.name for r in self.archive.reviews.reviews()]
                self.assertIn("Good", names)
                self.assertEqual([p.name for p in shelf.products()][-1], "Whole")
                plans.courses(), plans.own_loads(), shelf.rigs()
                self.assertTrue(
                    any(words in s for s in self.archive.problems.said), self.archive.problems.said
                )
                self.spoil(table, key, **before)

    def test_facts_of_a_run_that_cannot_be_read_cost_the_facts(self) -> None:
        number = self.archive.runs.add(simple_run(300), "idle", "2026-03-02T09:00:00Z", facts=FACTS)
        self.spoil(RUN, number, facts={"cpu": {"cores": []}})
        run = self.archive.runs.run(number)
        assert run is not None
        self.assertEqual(run.facts, Facts())
        self.assertGreater(self.archive.runs.reading(number).rows, 0)

    def test_what_is_wrong_is_refused_where_it_enters(self) -> None:
        store, shelf, plans = self.archive.reviews, self.archive.shelf, self.archive.plans
        review = store.review(self.good)
        assert review is not None
        refused: list[tuple[Any, str]] = [
            (lambda: store.add_review("N", "?", ["idle"], passes_wanted=1.5), "whole number"),  # type: ignore[arg-type]
            (lambda: store.add_review("N", "?", ["idle"], margin_k=math.nan), "nan is not from 0 to 100 K"),
            (lambda: store.add_review("N", "?", ["idle"], noise_limit_dba=math.inf), "inf is not from"),
            (lambda: store.save_review(replace(review, margin_share=-0.1)), "not from 0 to 1"),
            (lambda: store.add_setup(self.good, "S", None, changes={"panel": "ajar"}), "none of on, off"),
            (lambda: shelf.add_product("P", "toy"), "no kind of product"),
            (lambda: shelf.add_product("P", "fan", {"height_m": math.nan}), "height_m"),
            (
                lambda: shelf.add_product("P", "fan", prices=[Price(math.inf, "EUR", "2026-03-02")]),
                "inf is not",
            ),
            (lambda: shelf.add_product("P", "fan", notes=[Note("hunch", "x")]), "no kind of note"),
            (
                lambda: shelf.add_rig("Q", Facts(ProcessorFacts(temperature_limit_c=math.inf))),
                "inf is not from 1",
            ),
            (lambda: shelf.add_rig("Q", Facts(), sensors={"a": "nose"}), "no role"),
            (lambda: shelf.add_rate(Rate("EUR", "NOK", -1.0, "2026-03-02")), "is not from"),
            (lambda: plans.add_course("K", {"load_s": math.nan}), "load_s"),
            (lambda: plans.add_load(OwnLoad("M", of="memory", duty=math.nan)), "duty"),
        ]
        for act, words in refused:
            with (
                self.subTest(words=words),
                self.assertRaisesRegex((ArchiveError, LoadError, ValueError), words),
            ):
                act()
        self.assertEqual((shelf.products(), plans.courses(), plans.own_loads()), ([], [], {}))

    def test_a_fault_that_is_no_name_taken_is_not_called_one(self) -> None:
        with self.assertRaisesRegex(ArchiveError, "check what it stands on"):
            self.archive.reviews.add_setup(99, "S", None)
        with self.assertRaisesRegex(ArchiveError, "another review has this name"):
            self.archive.reviews.add_review("good", "?", ["idle"])

    def test_all_or_nothing(self) -> None:
        with self.assertRaises(RuntimeError), self.archive.all_or_nothing() as whole:
            whole.shelf.add_product("Half", "fan")
            whole.reviews.add_review("Half", "?", ["idle"])
            raise RuntimeError
        self.assertEqual(self.archive.shelf.products(), [])
        self.assertEqual([r.name for r in self.archive.reviews.reviews()], ["Good", "Bad"])
        with self.archive.all_or_nothing() as whole:
            key = whole.reviews.add_review("Whole", "?", ["idle"])
            whole.reviews.add_setup(key, "S", None)
        found = self.archive.reviews.review(key)
        self.assertEqual([s.name for s in found.setups] if found else None, ["S"])

    def test_reviews_of_names_without_latin_letters_have_slugs_of_their_own(self) -> None:
        for name in ("静か", "速い", "Bad!"):
            self.archive.reviews.add_review(name, "?", ["idle"])
        slugs = [r.slug for r in self.archive.reviews.reviews()]
        self.assertEqual(slugs, ["good", "bad", "review", "review-2", "bad-2"])
        self.assertEqual(getattr(self.archive.reviews.review("review-2"), "name", None), "速い")

    def test_a_row_without_a_place_is_left_alone(self) -> None:
        with self.archive._engine.begin() as connection:
            connection.execute(
                insert(PRODUCT).values(name="", kind="fan", specification=[], prices={}, notes=1)
            )
        self.assertEqual(self.archive.shelf.products(), [])
        self.assertEqual(len(self.archive.problems.said), 1)


if __name__ == "__main__":
    unittest.main()
