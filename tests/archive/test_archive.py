"""The archive: what is kept comes back, what is foreign is refused, what goes wrong loses nothing."""

from __future__ import annotations

import sqlite3
import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import text

from samovar.archive import Archive, ArchiveError
from samovar.archive import database as database_module
from samovar.archive.samples import pack_block, pack_series, unpack_blocks, unpack_series
from samovar.core.marks import Mark
from tests.recordings import DIE, FACTS, POWER, simple_run


class ArchiveTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "deep" / "archive.sqlite"

    def open(self) -> Archive:
        archive = Archive(self.path)
        self.addCleanup(archive.close)
        return archive

    def test_a_run_comes_back_as_it_was(self) -> None:
        archive = self.open()
        recording = simple_run(200)
        number = archive.runs.add(recording, "worst case", "2026-03-02T09:00:00Z", facts=FACTS)
        again = archive.runs.recording(number)
        np.testing.assert_array_equal(again.values, recording.values)
        np.testing.assert_array_equal(again.time_s, recording.time_s)
        self.assertEqual(again.channels, recording.channels)
        run = archive.runs.run("r0001")
        assert run is not None
        self.assertEqual((run.facts, run.samples, run.pass_number), (FACTS, recording.values.size, 1))
        part = archive.runs.recording(number, [3, 0])
        self.assertEqual([c.name for c in part.channels], ["Utilisation", "CPU die"])
        np.testing.assert_array_equal(part.values[1], recording.values[0])

    def test_readings_are_kept_and_recomputed_when_the_methods_change(self) -> None:
        archive = self.open()
        number = archive.runs.add(simple_run(200), "worst case", "x", facts=FACTS)
        first = archive.runs.reading(number)
        with patch("samovar.core.reading.read", side_effect=AssertionError("not from the store")):
            self.assertEqual(archive.runs.reading(number), first)
        with (
            patch("samovar.archive.findings.METHOD_VERSION", 999),
            patch("samovar.core.reading.read", return_value=first) as again,
        ):
            archive.runs.reading(number)
            again.assert_called_once()

    def test_passes_are_counted_by_cell(self) -> None:
        archive = self.open()
        review = archive.reviews.add_review("Booth", "Which?", ["worst case"])
        setup = archive.reviews.add_setup(review, "Plain", None)
        for expected in (1, 2):
            archive.runs.add(simple_run(50), "worst case", "x", review_id=review, setup_id=setup)
            self.assertEqual(archive.runs.runs()[-1].pass_number, expected)

    def test_a_run_whose_recorder_is_gone_is_found(self) -> None:
        archive = self.open()
        writer = archive.runs.begin((DIE, POWER), "worst case", "x")
        for k in range(5):
            writer.append(float(k), (40.0, 95.0))
        writer.flush()
        with archive._engine.begin() as connection:
            connection.execute(text("update run set owner = json_set(owner, '$.born', 12.0)"))
        again = self.open()
        self.assertEqual(again.recovered, ["r0001"])
        run = again.runs.run(1)
        assert run is not None
        self.assertEqual((run.state, run.duration_s), ("interrupted", 4.0))

    def test_a_run_that_is_being_recorded_is_left_alone(self) -> None:
        archive = self.open()
        archive.runs.begin((DIE,), "none", "x").append(0.0, (40.0,))
        self.assertEqual(self.open().recovered, [])

    def test_a_full_disk_loses_nothing(self) -> None:
        archive = self.open()
        writer = archive.runs.begin((DIE, POWER), "worst case", "x", facts=FACTS)

        def limit(pages: str) -> None:
            for connection in list(archive._engine.pool._pool.queue):  # type: ignore[attr-defined]
                connection.driver_connection.execute(f"pragma max_page_count = {pages}")

        with archive._engine.connect() as connection:
            used = connection.exec_driver_sql("pragma page_count").scalar()
        limit(str(used))
        for k in range(3000):
            writer.append(float(k), (40.0 + k % 7, 95.0))
        self.assertFalse(writer.flush())
        self.assertIn("disk is full", writer.problem or "")
        limit("1000000")
        self.assertTrue(writer.flush())
        self.assertIsNone(writer.problem)
        writer.mark(Mark(3.0, "panel off"))
        self.assertTrue(archive.runs.seal(writer, "sealed"))
        recording = archive.runs.recording(writer.number)
        self.assertEqual(len(recording.time_s), 3000)
        self.assertEqual(recording.marks, (Mark(3.0, "panel off"),))

    def test_an_archive_held_by_another_program_loses_nothing(self) -> None:
        archive = self.open()
        writer = archive.runs.begin((DIE,), "none", "x")
        other = sqlite3.connect(self.path, isolation_level=None)
        self.addCleanup(other.close)
        other.execute("begin immediate")
        writer.append(0.0, (40.0,))
        self.assertIn("another program", writer.problem or "")
        other.execute("rollback")
        writer.append(1.0, (41.0,))
        self.assertTrue(archive.runs.seal(writer, "sealed"))
        self.assertEqual(archive.runs.recording(writer.number).values.tolist(), [[40.0, 41.0]])

    def test_a_newer_archive_is_refused(self) -> None:
        self.open().close()
        with sqlite3.connect(self.path) as connection:
            connection.execute("update meta set value = '99' where key = 'schema_version'")
        with self.assertRaisesRegex(ArchiveError, "newer Samovar"):
            Archive(self.path)

    def test_an_older_archive_is_copied_aside_and_brought_up(self) -> None:
        self.open().close()

        def step(connection: object) -> None:
            connection.exec_driver_sql("alter table run add column weather text")  # type: ignore[attr-defined]

        wanted = database_module.SCHEMA_VERSION + 1
        with (
            patch.object(database_module, "SCHEMA_VERSION", wanted),
            patch.dict(database_module.STEPS, {wanted - 1: step}),
        ):
            Archive(self.path).close()
        with sqlite3.connect(self.path) as connection:
            columns = {row[1] for row in connection.execute("pragma table_info(run)")}
            version = connection.execute("select value from meta").fetchone()[0]
        self.assertIn("weather", columns)
        self.assertEqual(version, str(wanted))
        self.assertTrue(
            (self.path.with_name("archive.sqlite.backups") / f"before-schema-{wanted}.sqlite").exists()
        )

    def test_a_step_that_fails_leaves_the_old_archive(self) -> None:
        self.open().close()

        def step(connection: object) -> None:
            connection.exec_driver_sql("drop table claim")  # type: ignore[attr-defined]
            raise ArchiveError("no")

        wanted = database_module.SCHEMA_VERSION + 1
        with (
            patch.object(database_module, "SCHEMA_VERSION", wanted),
            patch.dict(database_module.STEPS, {wanted - 1: step}),
            self.assertRaises(ArchiveError),
        ):
            Archive(self.path)
        self.assertEqual(self.open().runs.runs(), [])

    def test_what_is_no_archive_is_refused(self) -> None:
        self.path.parent.mkdir(parents=True)
        self.path.write_text("this is a shopping list, and a long one at that\n" * 100)
        with self.assertRaisesRegex(ArchiveError, "no Samovar archive"):
            Archive(self.path)
        other = self.path.with_name("other.sqlite")
        with sqlite3.connect(other) as connection:
            connection.execute("create table shopping (item text)")
        with self.assertRaisesRegex(ArchiveError, "no Samovar archive"):
            Archive(other)
        with self.assertRaisesRegex(ArchiveError, "this is a folder"):
            Archive(self.path.parent)

    def test_dropped_claims_come_back(self) -> None:
        archive = self.open()
        review = archive.reviews.add_review("Booth", "Which?", ["worst case"])
        setup = archive.reviews.add_setup(review, "Plain", None)
        archive.reviews.add_claim(review, "not-held", setup, None, "worst case")
        before = archive.reviews.claims(review)
        archive.reviews.drop_claim(before[0].id)
        self.assertEqual(archive.reviews.claims(review), [])
        archive.reviews.restore_claim(before[0], 1)
        self.assertEqual(archive.reviews.claims(review), before)


class SamplesTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.floats(allow_nan=True, allow_infinity=False), max_size=300))
    def test_every_value_comes_back_exactly(self, values: list[float]) -> None:
        series = np.array(values, dtype=float)
        np.testing.assert_array_equal(unpack_series(*pack_series(series)), series)

    def test_sensor_values_pack_small(self) -> None:
        series = np.round(np.random.default_rng(1).normal(70.0, 0.2, 72_000) * 8) / 8
        encoding, data = pack_series(series)
        self.assertEqual(encoding, "f4")
        self.assertLess(len(data), 72_000)

    def test_a_torn_block_ends_the_journal(self) -> None:
        whole = pack_block([0.0, 1.0], [(1.0, 2.0), (3.0, 4.0)])
        time_s, values = unpack_blocks([(2, whole), (2, whole[:-3]), (2, whole)], 2)
        self.assertEqual(time_s.tolist(), [0.0, 1.0])
        self.assertEqual(values.tolist(), [[1.0, 3.0], [2.0, 4.0]])


if __name__ == "__main__":
    unittest.main()
