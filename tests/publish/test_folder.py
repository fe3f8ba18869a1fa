"""The folder of a publication: a stranger's files are never lost, names never share a file, no process is left behind."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import time
import unittest
import xml.etree.ElementTree as ElementTree
from pathlib import Path
from typing import Any

import psutil

from samovar.archive import Archive
from samovar.exchange.problems import InputError
from samovar.exchange.whole_file import PART_MARK, whole_file
from samovar.publish import figure_jobs
from samovar.publish.folder import LIST, HoldsOthers, PublicationFolder
from samovar.publish.review import publish_review
from tests.bench.test_own_loads import wait_for
from tests.recordings import FACTS, simple_run


class FolderTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.home = Path(folder.name)
        self.target = self.home / "out"

    def edition(self, *names: str, into: bool = False) -> None:
        place = PublicationFolder(self.target, into)
        files = [place.file(*name.split("/")) for name in names]
        place.announce()
        for file in files:
            with whole_file(file) as part:
                part.write_text(f"ours: {file.name}")
        place.close()

    def test_a_folder_with_a_strangers_file_is_refused_and_left_as_it_was(self) -> None:
        self.target.mkdir()
        stranger = self.target / "index.html"
        stranger.write_text("theirs")
        with self.assertRaisesRegex(HoldsOthers, "index.html, not published by Samovar.*--into"):
            self.edition("index.html")
        self.assertEqual([p.name for p in self.target.iterdir()], ["index.html"])
        self.edition("index.html", into=True)
        self.assertEqual(stranger.read_text(), "ours: index.html")
        self.assertEqual((self.target / "index.before-1.html").read_text(), "theirs")

    def test_a_later_edition_takes_away_what_it_no_longer_has_and_nothing_else(self) -> None:
        self.edition("index.html", "figures/a.svg", "figures/b.svg")
        self.edition("index.html", "figures/b.svg")
        self.assertEqual(sorted(p.name for p in self.target.rglob("*.svg")), ["b.svg"])
        (self.target / "notes.txt").write_text("theirs")
        with self.assertRaises(HoldsOthers):
            self.edition("index.html")
        self.edition("index.html", into=True)
        self.assertTrue((self.target / "notes.txt").exists())

    def test_links_are_not_followed(self) -> None:
        elsewhere = self.home / "elsewhere"
        elsewhere.mkdir()
        (elsewhere / "page").write_text("theirs")
        self.target.mkdir()
        (self.target / "index.html").symlink_to(elsewhere / "page")
        (self.target / "figures").symlink_to(elsewhere)
        with self.assertRaises(HoldsOthers):
            self.edition("index.html")
        with self.assertRaisesRegex(InputError, "link to elsewhere"):
            self.edition("index.html", "figures/a.svg", into=True)
        self.assertEqual((elsewhere / "page").read_text(), "theirs")
        self.assertEqual([p.name for p in elsewhere.iterdir()], ["page"])

    def test_a_list_made_to_do_harm_removes_nothing_outside(self) -> None:
        victim = self.home / "victim"
        victim.write_text("theirs")
        self.target.mkdir()
        (self.target / LIST).write_text('{"samovar": 1, "files": ["../victim", "/etc/passwd", 7]}')
        self.edition("index.html")
        self.assertEqual(victim.read_text(), "theirs")

    def test_an_edition_that_was_cut_off_is_still_ours(self) -> None:
        place = PublicationFolder(self.target)
        file = place.file("index.html")
        place.announce()
        file.write_text("half")
        (self.target / f"{PART_MARK}xyz").write_text("half")
        self.edition("index.html")
        self.assertEqual(file.read_text(), "ours: index.html")


class NamesTest(unittest.TestCase):
    def test_names_that_read_alike_as_files_have_files_of_their_own(self) -> None:
        with tempfile.TemporaryDirectory() as folder, Archive(Path(folder) / "a.sqlite") as archive:
            loads = ["C build", "C++ build", "建", "築", "cost $1 and $2"]
            key = archive.reviews.add_review("Alike", "Which?", loads)
            for name, load_s in (("Fan $a$", 300), ("Fan [low]", 320)):
                setup = archive.reviews.add_setup(key, name, None)
                for number, load in enumerate(loads):
                    archive.runs.add(
                        simple_run(load_s + 10 * number), load, "2026-03-02T09:00:00Z", review_id=key,
                        setup_id=setup, facts=FACTS,
                    )  # fmt: skip
            review = archive.reviews.review(key)
            assert review is not None
            files = publish_review(archive, review, Path(folder) / "out")
            self.assertEqual(len(files), len(set(files)))
            page = (Path(folder) / "out/index.html").read_text(encoding="utf-8")
            root = ElementTree.fromstring(page.replace("<!doctype html>", "", 1))
            texts = ["".join(e.itertext()) for e in root.iter() if e.tag.endswith("svg")]
            for load in loads:
                shown = [t for t in texts if f"Rise over the room, {load}" in t]
                self.assertTrue(shown, f"{load}: its own ladder")
            self.assertTrue(any("Fan $a$" in t for t in texts), "no name is set as mathematics")


class LeftBehindTest(unittest.TestCase):
    def test_killed_publishing_leaves_no_process_drawing(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            code = (
                "import os, sys, time\n"
                "from pathlib import Path\n"
                "from samovar.publish import figures\n"
                "from tests.publish import test_folder\n"
                "if __name__ == '__main__':\n"
                f"    jobs = [test_folder.SlowJob(Path({folder!r}))] * 20\n"
                "    list(figures.draw_all(jobs))\n"
            )
            script = Path(folder) / "draw.py"
            script.write_text(code)
            root = Path(__file__).parents[2]
            program = subprocess.Popen(
                [sys.executable, str(script)], env={**os.environ, "PYTHONPATH": str(root)}
            )
            try:
                wait_for(lambda: list(Path(folder).glob("*.pid")), 60.0)
                drawing = [int(p.stem) for p in Path(folder).glob("*.pid")]
            finally:
                program.kill()
                program.wait()
            wait_for(lambda: not any(psutil.pid_exists(pid) for pid in drawing), 10.0)


class SlowJob:
    """Something that takes long to be drawn, and leaves its process's number."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    @property
    def path(self) -> Path:
        return self.folder / "x"


def slowly(job: SlowJob) -> Any:
    (job.folder / f"{os.getpid()}.pid").touch()
    time.sleep(30.0)


figure_jobs._DRAWN_BY[SlowJob] = slowly


class RefusedNamesTest(unittest.TestCase):
    def test_hidden_characters_are_refused_where_a_name_enters_and_shown_where_one_is_there(self) -> None:
        from sqlalchemy import update

        from samovar.archive.database import ArchiveError
        from samovar.archive.schema import SETUP

        with tempfile.TemporaryDirectory() as folder, Archive(Path(folder) / "a.sqlite") as archive:
            for name in ("a\x1b[31mb", "a\u202eb", "a\nb", "", "x" * 10_000):
                with self.subTest(name=name[:10]), self.assertRaises(ArchiveError) as caught:
                    archive.reviews.add_review(name, "?", ["idle"])
                self.assertIsNone(re.search(r"[\x00-\x1f\u202e]", str(caught.exception)))
            key = archive.reviews.add_review("Old", "?", ["idle"])
            setup = archive.reviews.add_setup(key, "x", None)
            with archive._engine.begin() as connection:
                connection.execute(update(SETUP).where(SETUP.c.id == setup).values(name="a\x1b]0;b"))
            review = archive.reviews.review(key)
            assert review is not None
            self.assertEqual(review.setups[0].name, "a\\x1b]0;b")


if __name__ == "__main__":
    unittest.main()
