"""Commands that came with a document: told where they enter, refused until allowed, refused again once they change."""

from __future__ import annotations

import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from samovar.archive import Archive
from samovar.bench.loads.combined import make_load
from samovar.bench.loads.protocol import LoadError
from samovar.exchange.frame_toml import Frame, frame_text, read_frame
from samovar.exchange.problems import InputError
from samovar.framing import shelf_frame, take
from tests.bench.test_guarded import tree
from tests.forked import call

DOCUMENT = """\
[samovar]
format = 1
[[load]]
name = "soak"
kind = "command"
command = "echo 5 points"
score_pattern = '(\\d+) points'
note = "nothing but a short idle"
[[load]]
name = "pair"
kind = "several"
parts = ["soak", "memory"]
"""


class LeaveTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.document = self.folder / "strange.toml"
        self.document.write_text(DOCUMENT)
        self.place = self.folder / "a.sqlite"

    def test_the_calls(self) -> None:
        done = call("frame", "read", self.document, "--archive", self.place, "--json")
        self.assertEqual(json.loads(done.stdout)["commands"], [{"load": "soak", "command": "echo 5 points"}])
        root = tree(self.folder / "m", Core_0=50000)
        record = ("record", "--sysroot", root, "--archive", self.place, "--rate", "5")
        for load in ("soak", "pair"):
            done = call(*record, "--load", load)
            self.assertEqual((done.returncode, done.stdout), (2, ""))
            for words in ("echo 5 points", "strange.toml", "--allow soak"):
                self.assertIn(words, done.stderr)
        done = call(*record, "--load", "soak", "--for", "2", "--allow", "nothing")
        self.assertEqual(done.returncode, 2)
        done = call(*record, "--load", "soak", "--for", "2", "--allow", "soak", "--json")
        self.assertEqual(done.returncode, 0, done.stderr)
        with Archive(self.place) as archive:
            (run,) = archive.runs.runs()
            self.assertIn("score", [r.kind for r in archive.runs.hands.of(run.number)])

    def test_leave_is_to_the_command_as_it_reads(self) -> None:
        with Archive(self.place) as archive:
            take(archive, read_frame(self.document), "strange.toml")
            plans = archive.plans
            self.assertIn("command: echo 5 points", plans.own_loads()["soak"].words)
            self.assertRaises(LoadError, make_load, "pair", None, plans.own_loads())
            plans.allow("soak")
            make_load("pair", None, plans.own_loads())
            # It is kept with the archive, and travels with no document.
            self.assertEqual(shelf_frame(archive).loads["soak"].get("origin"), "strange.toml")
            self.assertNotIn("strange.toml", frame_text(shelf_frame(archive)))
            key = next(k for k, load in plans.own_rows() if load.name == "soak")
            plans.save_load(key, replace(plans.own_loads()["soak"], command="echo 6 points"))
            self.assertRaises(LoadError, make_load, "soak", None, plans.own_loads())

    def test_a_document_cannot_speak_for_the_archive(self) -> None:
        for line in ('origin = ""', 'agreed = "x"'):
            self.document.write_text(DOCUMENT.replace('kind = "command"', f'kind = "command"\n{line}'))
            with self.subTest(line=line), self.assertRaisesRegex(InputError, "is not understood"):
                read_frame(self.document)
        with Archive(self.place) as archive:
            take(archive, Frame(loads={"soak": {"kind": "command", "command": "true"}}), "x.toml")
            self.assertTrue(archive.plans.own_loads()["soak"].waits_for_leave)

    def test_half_a_document_is_none(self) -> None:
        self.document.write_text(DOCUMENT + '[[review]]\nname = "R"\nloads = ["gone"]\n')
        done = call("frame", "read", self.document, "--archive", self.place)
        self.assertEqual(done.returncode, 2)
        self.assertIn("no load 'gone'", done.stderr)
        with Archive(self.place) as archive:
            self.assertEqual(archive.plans.own_loads(), {})


if __name__ == "__main__":
    unittest.main()
