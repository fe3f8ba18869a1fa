"""The shelf and the plans in the archive: kept, renamed, deleted and back; an older archive brought up."""

from __future__ import annotations

import sqlite3
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from samovar.archive import Archive
from samovar.archive.database import ArchiveError
from samovar.archive.kept import ARCHIVED, DELETED, KEPT
from samovar.archive.plans import NamedCourse
from samovar.archive.shelf import with_price
from samovar.bench.loads.catalogue import OwnLoad
from samovar.bench.loads.protocol import LoadError
from samovar.core.money import Rate
from samovar.core.product import Note, Price
from tests.recordings import FACTS, simple_run


class ShelfTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "a.sqlite"
        self.archive = Archive(self.path)
        self.addCleanup(self.archive.close)
        self.shelf = self.archive.shelf

    def test_a_product_comes_back_whole(self) -> None:
        price, note = (
            Price(84.5, "EUR", "2026-03-02", "list", True, 0.19, "Kaimann"),
            Note("rating", "silent", 8.5),
        )
        key = self.shelf.add_product(
            "Osprey", "air cooler", {"height_m": 0.161, "sockets": ["HL8"]}, [price], [note]
        )
        found = self.shelf.product(key)
        assert found is not None
        self.assertEqual(
            (found.prices, found.notes, found.specification["sockets"]), ((price,), (note,), ["HL8"])
        )
        self.shelf.save_product(
            replace(with_price(found, Price(79.0, "EUR", "2026-02-01")), name="Osprey 161")
        )
        changed = self.shelf.product(key)
        assert changed is not None
        self.assertEqual(
            (changed.name, [p.day for p in changed.prices]), ("Osprey 161", ["2026-02-01", "2026-03-02"])
        )

    def test_names_are_told_apart(self) -> None:
        key = self.shelf.add_product("Osprey", "fan")
        with self.assertRaisesRegex(ArchiveError, "another product has this name"):
            self.shelf.add_product("Osprey", "fan")
        first = self.shelf.product(key)
        assert first is not None
        names = [self.shelf.product(self.shelf.duplicate_product(first)) for _ in range(2)]
        self.assertEqual([p.name for p in names if p], ["Osprey (2)", "Osprey (3)"])

    def test_what_is_deleted_gives_its_name_free_and_comes_back(self) -> None:
        key = self.shelf.add_product("Osprey", "fan")
        product = self.shelf.product(key)
        assert product is not None
        self.shelf.set_product_state(product, DELETED)
        self.assertEqual(self.shelf.products(), [])
        self.shelf.add_product("Osprey", "fan")
        self.shelf.set_product_state(product, KEPT)
        self.assertEqual([p.name for p in self.shelf.products()], ["Osprey", "Osprey (2)"])
        self.shelf.set_product_state(product, ARCHIVED)
        self.assertEqual([p.name for p in self.shelf.products(ARCHIVED)], ["Osprey (2)"])

    def test_what_a_setup_stands_on_is_not_deleted(self) -> None:
        rig = self.shelf.add_rig("Rig", FACTS, {"panel_m": 0.165}, {"hwmon:x": "die"})
        product = self.shelf.add_product("Osprey", "fan")
        review = self.archive.reviews.add_review("Booth", "Which?", ["worst case"])
        setup = self.archive.reviews.add_setup(review, "With it", rig, [product])
        found, held = self.shelf.product(product), self.shelf.rig(rig)
        assert found is not None and held is not None
        with self.assertRaisesRegex(ArchiveError, "stands in With it; take it out"):
            self.shelf.set_product_state(found, DELETED)
        with self.assertRaisesRegex(ArchiveError, "another rig first"):
            self.shelf.set_rig_state(held, DELETED)
        self.archive.reviews.set_setup_state(setup, DELETED)
        self.shelf.set_product_state(found, DELETED)
        self.shelf.set_rig_state(held, DELETED)
        self.assertEqual((self.shelf.products(), self.shelf.rigs()), ([], []))

    def test_setups_are_changed_deleted_and_back_with_their_runs(self) -> None:
        store = self.archive.reviews
        review_id = store.add_review("Booth", "Which?", ["worst case"])
        one = store.add_setup(review_id, "One", None, reference=True)
        two = store.add_setup(review_id, "Two", None)
        self.archive.runs.add(simple_run(400), "worst case", "x", review_id=review_id, setup_id=two)
        review = store.review(review_id)
        assert review is not None
        store.save_setup(replace(review.setups[1], name="Second", reference=True, changes={"panel": "off"}))
        again = store.review(review_id)
        assert again is not None
        self.assertEqual(
            [(s.name, s.reference, s.changes) for s in again.setups],
            [("One", False, {}), ("Second", True, {"panel": "off"})],
        )
        store.set_setup_state(two, DELETED)
        self.assertEqual([s.id for s in store.review(review_id).setups], [one])  # type: ignore[union-attr]
        store.set_setup_state(two, KEPT)
        self.assertEqual([s.name for s in store.review(review_id).setups], ["One", "Second"])  # type: ignore[union-attr]
        self.assertEqual(self.archive.runs.runs(review_id=review_id)[0].setup_id, two)

    def test_reviews_are_renamed_archived_deleted_and_back(self) -> None:
        store = self.archive.reviews
        key = store.add_review("Booth", "Which?", ["a"], courses={"a": "Long"})
        with self.assertRaisesRegex(ArchiveError, "another review has this name"):
            store.add_review("booth", "Which?", ["a"])
        review = store.review(key)
        assert review is not None
        store.save_review(replace(review, name="Quiet booth", loads=("a", "b"), passes_wanted=3))
        found = store.review("quiet-booth")
        self.assertEqual(
            (found.loads, found.passes_wanted, found.courses) if found else None,
            (("a", "b"), 3, {"a": "Long"}),
        )
        store.set_review_state(key, DELETED)
        self.assertIsNone(store.review("quiet-booth"))
        store.add_review("Quiet booth", "Again?", ["a"])
        store.set_review_state(key, KEPT)
        self.assertEqual(sorted(r.slug for r in store.reviews()), ["quiet-booth", "quiet-booth-2"])

    def test_a_run_is_taken_to_another_cell_and_the_inbox(self) -> None:
        store = self.archive.reviews
        review = store.add_review("Booth", "Which?", ["a", "b"])
        one, two = store.add_setup(review, "One", None), store.add_setup(review, "Two", None)
        first = self.archive.runs.add(simple_run(400), "a", "x", review_id=review, setup_id=one)
        second = self.archive.runs.add(simple_run(400, seed=2), "b", "x", review_id=review, setup_id=two)
        self.archive.runs.move(first, review, two, "b")
        moved = self.archive.runs.run(first)
        assert moved is not None
        self.assertEqual((moved.setup_id, moved.load, moved.pass_number), (two, "b", 2))
        self.archive.runs.move(second, None, None, "b")
        inbox = self.archive.runs.run(second)
        self.assertEqual((inbox.review_id, inbox.pass_number) if inbox else None, (None, 1))

    def test_courses_loads_and_rates(self) -> None:
        plans = self.archive.plans
        key = plans.add_course("Long", {"load_s": 3600.0})
        plans.save_course(NamedCourse(key, "Longer", {"load_s": 7200.0}))
        self.assertEqual(
            (plans.body_of("Longer"), plans.body_of("gone"), plans.body_of(None)),
            ({"load_s": 7200.0}, {}, {}),
        )
        load = plans.add_load(OwnLoad("half", "ours", "memory", duty=0.5))
        with self.assertRaises(LoadError):
            plans.add_load(OwnLoad("bad", "several", parts=("half", "gone")))
        plans.save_load(load, OwnLoad("third", "ours", "memory", duty=0.33))
        self.assertEqual(list(plans.own_loads()), ["third"])
        rate = self.shelf.add_rate(Rate("EUR", "NOK", 11.5, "2026-03-01"))
        self.assertEqual(self.shelf.rates()[0][1].value, 11.5)
        self.shelf.drop_rate(rate)
        self.assertEqual(self.shelf.rates(), [])

    def test_an_archive_of_the_first_schema_is_brought_up_and_kept_aside(self) -> None:
        old = self.path.with_name("old.sqlite")
        with sqlite3.connect(old) as base:
            base.executescript(FIRST_SCHEMA)
        with Archive(old) as archive:
            product = archive.shelf.products()[0]
            self.assertEqual(
                (product.specification, product.prices),
                ({"height_m": 0.161, "mass_kg": 1.18}, (Price(84.5, "EUR", "1970-01-01"),)),
            )
            rig = archive.shelf.rigs()[0]
            self.assertEqual((rig.facts.cpu.name, rig.details), ("Halden 8", {"case": "Larch C2"}))
            setup = archive.reviews.reviews()[0].setups[0]
            self.assertEqual((setup.changes, setup.rig), ({"other": "fan 1000 rpm"}, rig))
            archive.plans.add_course("Long", {})
            archive.reviews.set_setup_state(setup.id, DELETED)
            noise, surface = archive.runs.hands.of(1)
            self.assertEqual(
                (noise.n, noise.kind, noise.value, noise.instrument),
                (1, "noise", 21.5, "sound level meter at 1 m"),
            )
            self.assertEqual((surface.n, surface.kind, surface.place), (2, "contact", "vrm"))
        self.assertTrue((old.with_name("old.sqlite.backups") / "before-schema-10.sqlite").exists())
        Archive(old).close()


FIRST_SCHEMA = """
CREATE TABLE meta (key VARCHAR(40) PRIMARY KEY, value TEXT NOT NULL);
INSERT INTO meta VALUES ('schema_version', '1');
CREATE TABLE product (id INTEGER PRIMARY KEY, name VARCHAR(120) NOT NULL UNIQUE, kind VARCHAR(40) NOT NULL,
  specification JSON NOT NULL, price FLOAT, currency VARCHAR(3));
INSERT INTO product VALUES (1, 'Osprey', 'air cooler', '{"height_mm": 161, "mass_kg": 1.18}', 84.5, 'EUR');
CREATE TABLE rig (id INTEGER PRIMARY KEY, name VARCHAR(120) NOT NULL UNIQUE, facts JSON NOT NULL, conditions JSON NOT NULL);
INSERT INTO rig VALUES (1, 'Halden', '{"cpu": {"name": "Halden 8"}}', '{"case": "Larch C2"}');
CREATE TABLE review (id INTEGER PRIMARY KEY, slug VARCHAR(80) NOT NULL UNIQUE, name VARCHAR(160) NOT NULL, question TEXT NOT NULL,
  verdict TEXT NOT NULL, margin_k FLOAT NOT NULL, margin_share FLOAT NOT NULL, noise_limit_dba FLOAT,
  passes_wanted INTEGER NOT NULL, loads JSON NOT NULL);
INSERT INTO review VALUES (1, 'booth', 'Booth', 'Which?', '', 1.0, 0.02, NULL, 2, '["worst case"]');
CREATE TABLE setup (id INTEGER PRIMARY KEY, review_id INTEGER NOT NULL, rig_id INTEGER, name VARCHAR(120) NOT NULL,
  position INTEGER NOT NULL, reference INTEGER NOT NULL, changes JSON NOT NULL, UNIQUE (review_id, name));
INSERT INTO setup VALUES (1, 1, 1, 'One', 0, 1, '{"fan": "1000 rpm"}');
CREATE TABLE setup_product (id INTEGER PRIMARY KEY, setup_id INTEGER NOT NULL, product_id INTEGER NOT NULL);
INSERT INTO setup_product VALUES (1, 1, 1);
CREATE TABLE run (id INTEGER PRIMARY KEY, review_id INTEGER, setup_id INTEGER, load VARCHAR(80) NOT NULL, pass_number INTEGER NOT NULL,
  state VARCHAR(20) NOT NULL, reason TEXT, started VARCHAR(32) NOT NULL, duration_s FLOAT NOT NULL, interval_s FLOAT,
  channels INTEGER NOT NULL, samples INTEGER NOT NULL, facts JSON NOT NULL, course JSON, owner JSON, left_out TEXT);
INSERT INTO run VALUES (1, 1, 1, 'worst case', 1, 'sealed', NULL, '2026-01-02T10:00:00Z', 900.0, 1.0, 0, 0, '{}', NULL, NULL, NULL);
CREATE TABLE hand_reading (id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL, at_s FLOAT NOT NULL, quantity VARCHAR(20) NOT NULL,
  value FLOAT NOT NULL, half_width FLOAT, unit VARCHAR(10) NOT NULL, instrument TEXT NOT NULL);
CREATE INDEX ix_hand_reading_run_id ON hand_reading (run_id);
INSERT INTO hand_reading VALUES (1, 1, 600.0, 'noise', 21.5, 1.4, 'dBA', 'sound level meter at 1 m');
INSERT INTO hand_reading VALUES (2, 1, 610.0, 'surface', 61.3, 1.7, '°C', 'vrm: contact probe, K class 1');
CREATE TABLE claim (id INTEGER PRIMARY KEY, review_id INTEGER NOT NULL, position INTEGER NOT NULL, kind VARCHAR(40) NOT NULL,
  setup_id INTEGER, other_id INTEGER, load VARCHAR(80) NOT NULL, accepted TEXT);
"""


if __name__ == "__main__":
    unittest.main()
