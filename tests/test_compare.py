"""`samovar compare` as scripts call it, on the demo's archive."""

from __future__ import annotations

import io
import json
import sys
import tempfile
import unittest
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from typing import Any
from unittest.mock import patch

from samovar.archive import Archive
from samovar.cli.main import run
from tests.demo_archive import demo_archive


class CompareTest(unittest.TestCase):
    folder: tempfile.TemporaryDirectory[str]
    archive: Path

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = tempfile.TemporaryDirectory()
        cls.archive = demo_archive(Path(cls.folder.name))

    @classmethod
    def tearDownClass(cls) -> None:
        cls.folder.cleanup()

    def call(self, *words: str) -> tuple[int, str, str]:
        """What a call prints, and its exit status; in this process, which has all imported."""
        out, error = io.StringIO(), io.StringIO()
        command = ["samovar", "compare", *words, "--archive", str(self.archive)]
        with patch.object(sys, "argv", command), redirect_stdout(out), redirect_stderr(error):
            status = run()
        return status, out.getvalue(), error.getvalue()

    def answer(self, *words: str) -> dict[str, Any]:
        status, out, error = self.call(*words, "--json")
        self.assertEqual((status, error), (0, ""))
        found: dict[str, Any] = json.loads(out)
        return found

    def test_the_booth_by_work(self) -> None:
        found = self.answer("voice-booth-playout-pc", "--load", "worst case", "--by", "work")
        self.assertEqual(
            found["figure"], {"key": "work", "label": "work done", "unit": "1/s", "better": "more"}
        )
        values = [r["value"] for r in found["rungs"]]
        self.assertEqual(values, sorted(values, reverse=True))
        for rung in found["rungs"]:
            gap = rung["difference"]
            if gap is None:
                self.assertEqual(rung["setup"], "Plain 65")
            elif gap["words"] == "differs":
                self.assertGreater(abs(gap["value"]), gap["half_width_95"])
        self.assertIn("scatters", found["model"]["words"])

    def test_a_rise_at_the_limit_is_at_least_and_what_stopped_is_left_out(self) -> None:
        found = self.answer("voice-booth-playout-pc", "--load", "worst case", "--by", "rise")
        self.assertEqual({r["setup"]: r["bound"] for r in found["rungs"]}["Plain 65"], "at least")
        self.assertTrue(any("did not finish" in item["text"] for item in found["audit"]))

    def test_the_van_and_the_relay_site(self) -> None:
        both = self.answer("outside-broadcast-van", "--load", "worst case", "--by", "rise")
        self.assertEqual([len(one["rungs"]) for one in both["rigs"]], [3, 2])
        gains = [a["difference"]["value"] for a in both["across"]]
        self.assertTrue(gains[0] < 0.0 < gains[1])
        rig = both["rigs"][0]["rig"]
        found = self.answer("outside-broadcast-van", "--load", "worst case", "--by", "rise", "--rig", rig)
        words = {r["setup"]: r["difference"]["words"] for r in found["rungs"] if r["difference"]}
        self.assertEqual(words["Vent kit"], "differs")
        relay = self.answer("relay-site-encoder-board", "--by", "at:temperature:vrm")
        self.assertEqual([r["source"] for r in relay["rungs"]], ["by hand", "by hand"])

    def test_what_a_setup_costs_is_all_of_it_or_nothing(self) -> None:
        found = self.answer("voice-booth-playout-pc", "--by", "price")
        self.assertEqual(found["figure"]["unit"], "EUR")
        self.assertIn({"setup": "Plain 65", "why": "Plain 65 has no price"}, found["left_out"])

    def test_two_rigs_have_two_ladders_and_what_a_product_gains_on_each(self) -> None:
        with Archive(self.archive) as opened:
            review = opened.reviews.review("voice-booth-playout-pc")
            assert review is not None
            osprey, plain = (
                next(s for s in review.setups if s.name == n) for n in ("Osprey 161", "Plain 65")
            )
            rig = opened.shelf.rigs()[-1]
            key = opened.reviews.add_review("Two machines", "Which?", ["worst case"])
            for on, name in ((osprey.rig, "one"), (rig, "two")):
                assert on is not None
                bare = opened.reviews.add_setup(
                    key, f"bare {name}", on.id, [plain.products[0].id], reference=True
                )
                full = opened.reviews.add_setup(key, f"Osprey {name}", on.id, [osprey.products[0].id])
                for setup, of in ((bare, plain), (full, osprey)):
                    for one in opened.runs.runs(review_id=review.id):
                        if one.setup_id == of.id and one.load == "worst case" and one.state == "sealed":
                            opened.runs.add(
                                opened.runs.recording(one.number), one.load, one.started, facts=one.facts,
                                review_id=key, setup_id=setup,
                            )  # fmt: skip
        found = self.answer("two-machines", "--by", "work")
        self.assertEqual([len(r["rungs"]) for r in found["rigs"]], [2, 2])
        self.assertEqual([a["product"] for a in found["across"]], ["Osprey 161", "Osprey 161"])
        self.assertEqual(len({a["rig"] for a in found["across"]}), 2)
        alone = self.answer("two-machines", "--by", "work", "--rig", rig.name)
        self.assertEqual({r["rig"] for r in alone["rungs"]}, {rig.name})

    def test_what_cannot_be_is_one_line(self) -> None:
        for words in (
            ("nothing",),
            ("voice-booth-playout-pc", "--by", "swiftness"),
            ("voice-booth-playout-pc", "--load", "none such"),
            ("voice-booth-playout-pc", "--against", "Nobody"),
            ("voice-booth-playout-pc", "--rig", "Nowhere"),
            ("voice-booth-playout-pc", "--at-noise", "26", "--at-heat", "90"),
            ("voice-booth-playout-pc", "--at-noise", "nan"),
            ("voice-booth-playout-pc", "--at-heat", "90", "--by", "work"),
        ):
            with self.subTest(words=words):
                status, out, error = self.call(*words)
                self.assertEqual(status, 2)
                self.assertEqual((out, error.count("\n")), ("", 1))
                self.assertTrue(error.startswith("samovar: "))


if __name__ == "__main__":
    unittest.main()
