"""Frames into archives and out again: the demo's reviews, twice, beside others of the same names; the calls."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from samovar.archive import Archive
from samovar.exchange.frame_toml import Frame, ReviewFrame, SetupFrame, frame_of, frame_text
from samovar.exchange.problems import InputError
from samovar.framing import review_frame, shelf_frame, take
from tests.demo_archive import demo_archive


class FramingTest(unittest.TestCase):
    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)

    def archive(self, name: str) -> Archive:
        opened = Archive(self.folder / name)
        self.addCleanup(opened.close)
        return opened

    def demo(self) -> Archive:
        opened = Archive(demo_archive(self.folder))
        self.addCleanup(opened.close)
        return opened

    def test_every_review_of_the_demo_arrives_whole(self) -> None:
        import tomllib

        demo, other = self.demo(), self.archive("other.sqlite")
        for review in demo.reviews.reviews():
            frame = review_frame(demo, review)
            said = take(other, frame_of(tomllib.loads(frame_text(frame))))
            self.assertIn(f"review {review.name}: added", said)
            arrived = other.reviews.review(review.slug)
            assert arrived is not None
            self.assertEqual(review_frame(other, arrived), frame)
        whole = shelf_frame(demo)
        take(other, whole)
        self.assertEqual(shelf_frame(other), whole)

    def test_what_is_here_already_is_used_and_what_differs_stands_beside_it(self) -> None:
        demo = self.demo()
        review = demo.reviews.reviews()[0]
        frame = review_frame(demo, review)
        before = len(demo.shelf.products())
        said = take(demo, frame)
        self.assertIn("product Osprey 161: here already", said)
        self.assertIn("review Voice booth playout PC (2): added", said)
        self.assertEqual(len(demo.shelf.products()), before)
        changed = [
            replace(p, specification={**p.specification, "height_m": 0.15}) if p.name == "Osprey 161" else p
            for p in frame.products
        ]
        take(demo, replace(frame, products=tuple(changed)))
        third = demo.reviews.review("Voice booth playout PC (3)")
        assert third is not None
        osprey = next(s for s in third.setups if s.name == "Osprey 161")
        self.assertEqual([p.name for p in osprey.products], ["Osprey 161 (2)"])

    def test_a_document_that_does_not_hang_together_changes_nothing(self) -> None:
        other = self.archive("other.sqlite")
        for frame, words in (
            (Frame(reviews=(ReviewFrame("R", setups=(SetupFrame("S", "gone"),)),)), "no rig 'gone'"),
            (
                Frame(reviews=(ReviewFrame("R", setups=(SetupFrame("S", None, ("gone",)),)),)),
                "no product 'gone'",
            ),
            (Frame(reviews=(ReviewFrame("R", loads=("gone",)),)), "no load 'gone'"),
            (
                Frame(reviews=(ReviewFrame("R", loads=("idle",), courses={"idle": "gone"}),)),
                "no course 'gone'",
            ),
            (
                Frame(loads={"x": {"kind": "ours", "of": "memory", "threads": 1.5}}),
                "threads: 1.5 is no whole number",
            ),
            (Frame(loads={"x": {"kind": "ours", "colour": "blue"}}), "colour: is not understood"),
            (Frame(courses={"x": {"load_s": "x"}}), "course 'x': load_s"),
            (Frame(courses={"x": {"stop_above_c": float("nan")}}), "course 'x': stop_above_c"),
            (Frame(courses={"x": {"stop_above_c": 400.0}}), "from 20 to 150"),
            (Frame(loads={"x": {"kind": "command"}}), "a command is missing"),
            (Frame(courses={"x": {"steps": ["fans 900 %"]}}), "course 'x'"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                take(other, frame)
        self.assertEqual(
            (other.reviews.reviews(), other.plans.own_loads(), other.plans.courses()), ([], {}, [])
        )

    def test_the_calls(self) -> None:
        archive = demo_archive(self.folder)

        def call(*arguments: str) -> subprocess.CompletedProcess[str]:
            return subprocess.run(
                [sys.executable, "-m", "samovar", "frame", *arguments],
                capture_output=True,
                text=True,
                check=False,
                timeout=60,
            )

        to, other = str(self.folder / "booth.toml"), str(self.folder / "other.sqlite")
        done = call("write", "voice-booth-playout-pc", "--to", to, "--archive", str(archive), "--json")
        self.assertEqual(json.loads(done.stdout)["holds"], "5 products, 1 rig, 1 course, 1 review")
        done = call("read", to, "--archive", other, "--json")
        self.assertIn("rig Halden 8 in Larch C2: added", json.loads(done.stdout)["entered"])
        done = call("read", str(self.folder / "gone.toml"), "--archive", other)
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertRegex(done.stderr, r"^samovar: .*gone\.toml: no such file.*; check the name\n$")
        self.assertEqual(call("write", "nothing", "--to", to, "--archive", other).returncode, 2)


if __name__ == "__main__":
    unittest.main()
