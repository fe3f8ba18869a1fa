"""Plans and pictures in the archive: kept, changed, moved, and what is damaged left out."""

from __future__ import annotations

import sqlite3
import tempfile
import unittest
from pathlib import Path

import numpy as np

from samovar.archive import Archive
from samovar.archive.check import check
from samovar.archive.moving import move
from samovar.core.facts import Facts
from samovar.core.surfaces.picture import Picture
from samovar.core.surfaces.plan import SPOT, Item, Plan, with_item
from tests.recordings import simple_run

CELSIUS = np.round(20.0 + np.add.outer(np.arange(12) * 1.5, np.arange(16) * 2.0), 2)


class SurfacesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.file = self.folder / "a.sqlite"

    def filled(self) -> tuple[Archive, int, int, int]:
        archive = Archive(self.file)
        self.addCleanup(archive.close)
        rig = archive.shelf.add_rig("Halden 8", Facts(), {})
        run = archive.runs.add(simple_run(), "worst case", "2026-11-28T10:00:00Z", "sealed")
        archive.surfaces.keep_plan(rig, Plan("front", 170.0, 120.0))
        key = archive.surfaces.add_picture(run, "front", Picture(CELSIUS, 0.9, 21.5, 60.0, "f.csv"))
        return archive, rig, run, key

    def test_a_plan_is_drawn_on_and_a_picture_comes_back_as_it_was(self) -> None:
        archive, rig, run, key = self.filled()
        before = archive.state()
        (plan,) = archive.surfaces.plans_of(rig)
        drawn = with_item(plan, Item("vrm", SPOT, 20.0, 30.0))
        archive.surfaces.keep_plan(rig, drawn)
        self.assertEqual(archive.surfaces.plans_of(rig), [drawn])
        (kept,) = archive.surfaces.pictures_of(run)
        np.testing.assert_allclose(kept.picture.celsius, CELSIUS, atol=1e-5)
        self.assertEqual((kept.plan, kept.picture.set_to, kept.picture.at_s), ("front", 0.9, 60.0))
        archive.surfaces.drop_picture(key)
        self.assertEqual(archive.surfaces.pictures_of(run), [])
        archive.surfaces.add_picture(run, kept.plan, kept.picture, kept.id)
        self.assertEqual(archive.surfaces.pictures_of(run)[0].id, key)
        archive.surfaces.drop_plan(rig, "front")
        self.assertEqual(archive.surfaces.plans_of(rig), [])
        self.assertEqual(before, archive.state())

    def test_what_is_damaged_is_named_and_left_out(self) -> None:
        archive, rig, run, _ = self.filled()
        archive.close()
        with sqlite3.connect(self.file) as raw:
            (packed,) = raw.execute("SELECT packed FROM picture").fetchone()
            raw.execute("UPDATE picture SET packed = ?", (packed[:40] + b"\0" + packed[41:],))
            raw.execute("UPDATE plan SET body = ?", ('{"name": "front"}',))
        with Archive(self.file) as opened:
            self.assertEqual(opened.surfaces.pictures_of(run), [])
            self.assertEqual(opened.surfaces.plans_of(rig), [])
            self.assertEqual(
                [(one.run, one.what) for one in check(opened).damaged],
                [(f"r{run:04d}", "a temperature picture is no longer what was kept")],
            )

    def test_they_move_with_the_archive(self) -> None:
        archive, rig, run, _ = self.filled()
        with Archive(self.folder / "b.sqlite") as moved:
            move(archive, moved)
            self.assertEqual([p.name for p in moved.surfaces.plans_of(rig)], ["front"])
            self.assertEqual(len(moved.surfaces.pictures_of(run)), 1)


if __name__ == "__main__":
    unittest.main()
