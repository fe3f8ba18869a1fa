"""A new user in a real terminal (tmux), by keyboard alone: from an empty archive to the first recorded run."""

from __future__ import annotations

import shutil
import sys
import tempfile
import time
import unittest
from pathlib import Path

from samovar.archive import Archive
from samovar.core.rig import RIG_FIELDS
from tests.tui.terminal import Terminal


@unittest.skipUnless(shutil.which("tmux"), "tmux is not installed")
class NewReviewTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.archive = Path(folder.name) / "mine.sqlite"
        Archive(self.archive).close()
        self.terminal = Terminal(
            sys.executable,
            "-m",
            "samovar",
            "demo",
            "--archive",
            str(self.archive),
            "--speed",
            "300",
            folder=Path(folder.name),
        )
        self.addCleanup(self.terminal.close)

    def test_a_review_is_framed_from_nothing_and_its_first_run_recorded(self) -> None:
        began = time.monotonic()
        terminal = self.terminal
        terminal.until("a   frames a review")
        self.frame_the_review()
        terminal.until("a rig, the machine it is measured on")
        self.put_a_product_and_a_rig_on_the_shelf()
        self.check_the_fit()
        self.plan_two_setups()
        terminal.keys("r")
        terminal.until("Ready to record")
        terminal.until("the reference first")
        terminal.keys("r")
        terminal.until("● recording")
        terminal.until("is sealed", 150)
        terminal.keys("2")
        terminal.until("one pass only")
        terminal.keys("q")
        terminal.until("ended with 0")
        self.assertLess(time.monotonic() - began, 300.0)
        with Archive(self.archive) as archive:
            review = archive.reviews.review("hall-amplifier")
            assert review is not None
            self.assertEqual(
                (review.loads, review.passes_wanted), (("everyday", "heavy work", "worst case"), 2)
            )
            self.assertEqual(
                [(s.name, s.reference, s.changes) for s in review.setups],
                [("Marram 12", True, {}), ("Slow", False, {"fan_rpm": 700.0})],
            )
            self.assertTrue(all(s.rig and s.rig.details["panel_m"] == 0.158 for s in review.setups))
            self.assertEqual(
                [p.specification for p in archive.shelf.products()], [{"height_m": 0.15494, "mass_kg": 0.9}]
            )
            run = archive.runs.runs()[0]
            self.assertEqual((run.state, run.setup_id, run.load), ("sealed", review.setups[0].id, "everyday"))
            self.assertEqual(run.facts.cpu.sustained_power_w, 95.0)

    def frame_the_review(self) -> None:
        terminal = self.terminal
        terminal.keys("a")
        terminal.until("A new review")
        time.sleep(0.5)
        terminal.type("Hall amplifier")
        terminal.keys("Enter")
        terminal.type("Does a slower fan do?")
        terminal.keys("Enter", "Space", "Down", "Space", "Down", "Space")
        terminal.until(r"\[3\] worst case")
        terminal.keys("Enter", "C-s")

    def put_a_product_and_a_rig_on_the_shelf(self) -> None:
        terminal = self.terminal
        terminal.keys("1")
        terminal.until("No product yet")
        terminal.keys("a")
        terminal.until("What kind of product")
        time.sleep(0.5)
        terminal.keys("Enter")
        terminal.until("A new air cooler")
        time.sleep(0.5)
        terminal.type("Marram 12")
        terminal.keys("Enter")
        terminal.type("6.1 parsec")
        terminal.until("is no unit of length")
        terminal.keys("C-s")
        terminal.until("nothing is kept yet")
        terminal.keys("C-u")
        terminal.type("6.1 in")
        terminal.until("= 154.9 mm")
        terminal.keys("Down", "Down", "Down")
        terminal.type("900 g")
        terminal.keys("C-s")
        terminal.until("p products 1")
        terminal.keys("g")
        terminal.until("No rig yet")
        terminal.keys("a")
        terminal.until("Where does the rig come from")
        time.sleep(0.5)
        terminal.keys("Enter")
        terminal.until("as the machine says")
        time.sleep(0.5)
        # Enter alone goes through the lines: one byte a key, whatever else the machine is doing.
        terminal.keys(*["Enter"] * [f.key for f in RIG_FIELDS].index("panel_m"), "Enter")
        terminal.until("lid to panel")
        terminal.type("158 mm")
        terminal.keys("C-s")
        terminal.until("g rigs 1")

    def check_the_fit(self) -> None:
        terminal = self.terminal
        terminal.keys("p")
        terminal.until("Marram 12")
        terminal.keys("f")
        screen = terminal.until("Coolers and panel from")
        self.assertIn("fits by 3.1 mm", screen)
        self.assertIn("side panel", screen)
        self.assertIn("needs the processor's centre to memory", screen)
        terminal.keys("Escape")
        # Until the sheet is gone: a key right behind Escape would be read as one with Alt.
        terminal.until("p products 1")

    def plan_two_setups(self) -> None:
        terminal = self.terminal
        terminal.keys("2")
        terminal.until("has no cells yet")
        terminal.keys("a")
        terminal.until("A new setup of Hall amplifier")
        time.sleep(0.5)
        terminal.keys("Enter", "Enter", "Space")
        terminal.until(r"\[1\] Marram 12")
        terminal.keys("C-s")
        terminal.until("0 of 3 cells have all passes")
        terminal.keys("a")
        terminal.until("A new setup of Hall amplifier")
        time.sleep(0.5)
        terminal.type("Slow")
        terminal.keys("Enter", "Enter", "Space", "Enter", "C-s")
        terminal.until("Nothing tells it from Marram 12")
        terminal.keys("Enter")
        terminal.type("700")
        terminal.until("= 700 rpm")
        terminal.keys("C-s")
        screen = terminal.until("0 of 6 cells have all passes")
        self.assertIn("12 runs to go", screen)
        terminal.keys("n")
        terminal.until("next Marram 12 ▸ everyday")


if __name__ == "__main__":
    unittest.main()
