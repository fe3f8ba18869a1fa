"""Damage: bytes flipped, files cut off, disks full; each costs what it reaches, is named, and no undamaged run is lost."""

from __future__ import annotations

import random
import sqlite3
import tempfile
import unittest
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path

import numpy as np
from sqlalchemy.exc import DatabaseError

from samovar.archive import Archive, ArchiveError
from samovar.archive.backup import DAILY_KEPT, backups_of, copy_file, keep_daily
from samovar.archive.check import check
from samovar.archive.damage import DamagedRun
from samovar.archive.database import BrokenArchive
from samovar.archive.rescue import rescue
from samovar.archive.review_data import load_review
from samovar.archive.rig_comparison import compare_on
from samovar.core.by_hand.reading import HandReading
from samovar.core.exclusions import Exclusion
from samovar.core.marks import FANS, Change, Mark
from samovar.core.recording import Recording
from samovar.core.results.figure import figure_of
from tests.recordings import FACTS, simple_run

RUNS = 6
FLIPS, CUTS = 200, 60


def filled(path: Path) -> None:
    """A small archive with a bit of everything in it."""
    with Archive(path) as archive:
        review = archive.reviews.add_review("Booth", "Which?", ["worst case"])
        plain = archive.reviews.add_setup(review, "Plain", None, reference=True)
        tall = archive.reviews.add_setup(review, "Tall", None)
        for k in range(RUNS):
            recording = simple_run(60 + k)
            recording = replace(
                recording, marks=(Mark(20.0, f"panel {k} off"),), changes=(Change(30.0, FANS, value=0.5),)
            )
            number = archive.runs.add(
                recording, "worst case", "2026-03-02T09:00:00Z", facts=FACTS, review_id=review,
                setup_id=(plain, tall)[k % 2], hand_readings=[HandReading(None, "noise", 24.0 + k, 1.5, "dBA")],
            )  # fmt: skip
            archive.runs.annotations.set_note(number, f"note {k}")
            archive.runs.annotations.set_excluded(number, [Exclusion(10.0, 12.0, "door opened")])
            archive.runs.reading(number)
        with archive.connect() as connection:
            connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")


def same(first: Recording, second: Recording) -> bool:
    """Whether two recordings are one and the same."""
    return (
        first.channels == second.channels
        and first.marks == second.marks
        and first.changes == second.changes
        and np.array_equal(first.time_s, second.time_s)
        and np.array_equal(first.values, second.values, equal_nan=True)
    )


class DamageTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        kept = tempfile.TemporaryDirectory()
        cls.addClassCleanup(kept.cleanup)
        whole = Path(kept.name) / "whole.sqlite"
        filled(whole)
        cls.bytes = whole.read_bytes()
        with Archive(whole) as archive:
            assert check(archive).whole
            cls.runs = {run.number: archive.runs.recording(run.number) for run in archive.runs.runs()}

    def setUp(self) -> None:
        kept = tempfile.TemporaryDirectory()
        self.addCleanup(kept.cleanup)
        self.path = Path(kept.name) / "archive.sqlite"
        self.path.write_bytes(self.bytes)

    def execute(self, *statements: str) -> None:
        with sqlite3.connect(self.path) as base:
            for statement in statements:
                base.execute(statement)

    def lost_by_rescue(self) -> set[int]:
        """The runs that a rescue says it lost something of; all others are in it as they were."""
        saved = self.path.with_name("saved.sqlite")
        saved.unlink(missing_ok=True)
        found = rescue(self.path, saved)
        named = {int(one.run[1:]) for one in found.lost if one.run}
        with Archive(saved) as archive:
            self.assertEqual(check(archive).damaged, ())
            there = {run.number for run in archive.runs.runs()}
            for number, recording in self.runs.items():
                if number in there and number not in named:
                    self.assertTrue(same(archive.runs.recording(number), recording), number)
        return named | (set(self.runs) - there)

    def test_a_byte_that_changed_anywhere_costs_one_run_at_most(self) -> None:
        places, lost = random.Random(20261128), 0
        for _ in range(FLIPS):
            at, bit = places.randrange(len(self.bytes)), 1 << places.randrange(8)
            body = bytearray(self.bytes)
            body[at] ^= bit
            self.path.write_bytes(body)
            with self.subTest(byte=at, bit=bit):
                try:
                    with Archive(self.path) as archive:
                        named = check(archive).by_run()
                        for run in archive.runs.runs():
                            try:
                                found = archive.runs.recording(run.number)
                            except DamagedRun:
                                self.assertIn(run.number, named)
                                continue
                            self.assertTrue(same(found, self.runs[run.number]) or run.number in named)
                except (ArchiveError, DatabaseError):
                    # It cannot be read as it stands: what can be is saved.
                    pass
                lost += len(self.lost_by_rescue())
        # Where a page holds something of several runs, its loss costs each of them; mostly a byte costs one or none.
        self.assertLessEqual(lost, FLIPS)

    def test_a_series_whose_own_place_is_damaged_is_named_all_the_same(self) -> None:
        number = next(iter(self.runs))
        self.execute(f"UPDATE series SET position = 'x' WHERE run_id = {number} AND position = 1")
        with Archive(self.path) as archive:
            self.assertEqual(list(check(archive).by_run()), [number])
            with self.assertRaises(DamagedRun):
                archive.runs.recording(number)

    def test_damage_in_the_description_of_its_tables_is_told_in_plain_words(self) -> None:
        at, refused = self.bytes.find(b"CREATE TABLE"), 0
        while at >= 0:
            for off in (3, 14, 40):
                body = bytearray(self.bytes)
                body[at + off] ^= 0x80
                self.path.write_bytes(body)
                try:
                    Archive(self.path).close()
                except ArchiveError:
                    refused += 1
            at = self.bytes.find(b"CREATE TABLE", at + 1)
        self.assertGreater(refused, 0)

    def test_a_file_that_was_cut_off_is_told_from_another_and_gives_what_it_has(self) -> None:
        places = random.Random(7)
        for _ in range(CUTS):
            self.path.write_bytes(self.bytes[: places.randrange(1, len(self.bytes) - 1)])
            with self.subTest(bytes=self.path.stat().st_size):
                with self.assertRaisesRegex(BrokenArchive, "is cut off; samovar archive rescue"):
                    Archive(self.path)
                try:
                    self.lost_by_rescue()
                except ArchiveError as problem:
                    self.assertLess(self.path.stat().st_size, 0.5 * len(self.bytes), str(problem))

    def test_a_damaged_run_is_named_and_left_out_and_all_else_opens(self) -> None:
        self.execute(
            "UPDATE series SET data = substr(data, 1, length(data) - 9) || x'00' WHERE run_id = 2 AND position = 0",
            "UPDATE mark SET text = 'panel on' WHERE run_id = 3",
            "UPDATE run SET facts = '{}' WHERE id = 4",
            "UPDATE finding SET body = 'nothing' WHERE run_id = 5",
        )
        with Archive(self.path) as archive:
            review = archive.reviews.reviews()[0]
            data = load_review(archive, review)
            shown = {run.number: run.left_out for cell in data.cells.values() for run, _ in cell.runs}
            self.assertEqual({n for n, why in shown.items() if why}, {2, 3, 4})
            self.assertIn("damaged: no longer what was kept: its samples of channel 1", str(shown[2]))
            self.assertIn("its marks", str(shown[3]))
            audit = [item.text for item in compare_on(data, "worst case", figure_of("rise")).audit]
            self.assertTrue(any("r0002" in text and "damaged" in text for text in audit), audit)
            # What is computed is had again.
            self.assertGreater(archive.runs.reading(5).rows, 0)
            self.assertEqual(sorted(check(archive).by_run()), [2, 3, 4])
        self.assertEqual(self.lost_by_rescue(), {2, 3, 4})

    def test_every_way_of_changing_a_run_leaves_it_whole(self) -> None:
        with Archive(self.path) as archive:
            runs = archive.runs
            runs.leave_out(1, "door opened")
            runs.move(2, None, None, "idle")
            runs.change_mark(3, None, Mark(5.0, "here"))
            runs.change_change(4, None, Change(40.0, FANS, value=1.0))
            runs.annotations.set_window(5, (25.0, 50.0))
            kept = runs.hands.add(6, HandReading(None, "room", 22.0, 0.3, "°C"))
            runs.hands.put(6, replace(kept, value=23.0))
            runs.hands.take_back(6, kept.n)
            self.assertEqual(check(archive).damaged, ())

    def test_rescue_keeps_what_only_the_log_has_yet(self) -> None:
        with Archive(self.path) as archive:
            archive.runs.annotations.set_note(1, "only in the log")
            log = self.path.with_name(f"{self.path.name}-wal").read_bytes()
        broken = self.path.with_name("broken.sqlite")
        broken.write_bytes(b"\0" * 16 + self.bytes[16:])
        broken.with_name("broken.sqlite-wal").write_bytes(log)
        saved = self.path.with_name("saved.sqlite")
        self.assertEqual(rescue(broken, saved).lost, ())
        with Archive(saved) as archive:
            self.assertEqual(archive.runs.annotations.note(1), "only in the log")

    def test_copies_are_whole_few_and_found_again(self) -> None:
        begin = date(2026, 3, 1)
        with Archive(self.path) as archive:
            for day in range(DAILY_KEPT + 3):
                archive.runs.annotations.set_note(1, f"day {day}")
                self.assertIsNotNone(keep_daily(self.path, begin + timedelta(days=day)))
            self.assertIsNone(keep_daily(self.path, begin + timedelta(days=DAILY_KEPT + 2)))
        copies = backups_of(self.path)
        self.assertEqual(len(copies), DAILY_KEPT)
        self.assertEqual(copies[0].stat().st_mode & 0o777, 0o600)
        with Archive(copies[0]) as archive:
            self.assertEqual(archive.runs.annotations.note(1), f"day {DAILY_KEPT + 2}")
            self.assertTrue(check(archive).whole)
        self.path.write_bytes(b"")
        with self.assertRaises(BrokenArchive) as found:
            Archive(self.path)
        self.assertEqual(found.exception.backups, copies)
        self.assertIn(str(copies[0]), str(found.exception))
        with self.assertRaisesRegex(ArchiveError, "something of this name already"):
            copy_file(copies[0], self.path)


if __name__ == "__main__":
    unittest.main()
