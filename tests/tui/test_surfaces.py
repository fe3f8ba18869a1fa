"""The real program in a terminal: the surfaces of a board entered, read and published, by keyboard alone."""

from __future__ import annotations

import csv
import json
import shutil
import sys
import tempfile
import unittest
import xml.etree.ElementTree as ElementTree
from pathlib import Path

import numpy as np

from samovar.archive import Archive
from samovar.demo.relay_site import REVIEW
from tests.demo_archive import demo_archive
from tests.tui.terminal import Terminal

RUN = 25
"""The relay site's board as it was delivered, under the worst case."""


@unittest.skipUnless(shutil.which("tmux"), "tmux is not installed")
class SurfacesTest(unittest.TestCase):
    def test_a_board_is_drawn_read_and_published(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        archive = demo_archive(folder)
        # 2 mm a pixel; 90 °C under the area that is drawn below.
        picture = np.full((60, 85), 40.0)
        picture[19:21, 44:47] = 90.0
        np.savetxt(folder / "lid.csv", picture, "%.1f", ";")
        terminal = Terminal(
            sys.executable, "-m", "samovar", "demo", "--archive", str(archive), size=(160, 50), folder=folder
        )
        self.addCleanup(terminal.close)
        terminal.until("Latest runs")
        terminal.keys("/")
        terminal.until("Find")
        terminal.type(f"r{RUN:04d}")
        terminal.until(r"r0025 +Relay-site encoder board, As")
        terminal.keys("Enter")
        terminal.until(f"r{RUN:04d}.*worst case")
        terminal.until("steady")
        terminal.keys("s")
        terminal.until("worst case ▸ front")
        terminal.until("software +78")
        terminal.keys("n")
        terminal.until("Name, width and height")
        terminal.type("lid, 170 x 120")
        terminal.keys("Enter")
        terminal.until("170 x 120 mm, cursor at 85, 60")
        # What is wrong is said, and what was typed stands there to be mended.
        terminal.keys("s")
        terminal.until("The name of this spot")
        terminal.type("middle, cheese")
        terminal.keys("Enter")
        terminal.until("is no surface")
        terminal.keys("End", "BSpace", "BSpace", "BSpace", "BSpace", "BSpace", "BSpace")
        terminal.type("black tape")
        terminal.keys("Enter")
        terminal.until("middle +black tape")
        terminal.keys("S-Up", "a", "S-Right", "Down", "Down")
        terminal.until("the corner across")
        terminal.keys("a")
        terminal.until("The name of this area")
        terminal.type("controller, ceramic")
        terminal.keys("Enter")
        terminal.until("controller +ceramic")
        terminal.keys("i")
        terminal.until("A picture of all of lid")
        terminal.type(str(folder / "lid.csv"))
        terminal.keys("Enter")
        terminal.until("85 x 60 pixels; 2 readings kept")
        terminal.until(r"picture, hottest +9\d ±\d °C")
        terminal.keys("Tab", "b")
        terminal.until("with what")
        terminal.keys("Enter")
        terminal.until("At (middle|controller)")
        terminal.type("61.5, black tape")
        terminal.keys("Enter")
        terminal.until(r"by hand +62 ±2")
        terminal.keys("u")
        terminal.until("Undone: reading at")
        terminal.keys("e")
        terminal.until("Write the drawing")
        terminal.keys("Enter")
        terminal.until("Written: .*surfaces.svg")
        terminal.keys("Escape")
        terminal.until("r0025 ▸ Relay")
        terminal.keys("/")
        terminal.until("Esc close")
        terminal.type("encoder board")
        # Enter comes before the list does: it is what was typed for that opens.
        terminal.keys("Enter")
        terminal.until("Relay-site encoder board ▸ regulators")
        terminal.keys("6")
        terminal.until("Relay-site encoder board")
        terminal.keys("p")
        terminal.until("Publish into which folder")
        terminal.keys("Enter")
        terminal.until("Published", 300)
        terminal.keys("q")
        terminal.until("ended with 0")
        ElementTree.parse(folder / "r0025-surfaces.svg")
        with Archive(archive) as opened:
            self.assertEqual(len(opened.surfaces.pictures_of(RUN)), 2)
            hands = {h.place: h for h in opened.runs.hands.of(RUN) if h.instrument == "thermal camera"}
            self.assertEqual(set(hands), {"middle", "controller"})
            self.assertAlmostEqual(hands["controller"].value or 0.0, 91.0, delta=5.0)
        self.check_published(folder / REVIEW.lower().replace(" ", "-"))

    def check_published(self, folder: Path) -> None:
        """The page shows the faces, and the package has their spots and pixels."""
        page = (folder / "index.html").read_text(encoding="utf-8")
        ElementTree.fromstring(page.partition("\n")[2] if page.startswith("<!") else page)
        self.assertIn("Surfaces, front, worst case", page)
        self.assertRegex(page, r"With duct is \d+ ±\d K cooler than As delivered at vrm")
        self.assertTrue(list(folder.rglob("*surface-1*.svg")) and list(folder.rglob("*surface-1*.pdf")))
        with (folder / "surfaces.csv").open(encoding="utf-8") as file:
            rows = list(csv.DictReader(file))
        mine = {(r["name"], r["source"]) for r in rows if r["run"] == f"r{RUN:04d}" and r["plan"] == "lid"}
        self.assertLessEqual(
            {("controller", "picture"), ("middle", "picture"), ("controller", "by hand")}, mine
        )
        with (folder / "surface_pictures.csv").open(encoding="utf-8") as file:
            pixels = [r for r in csv.DictReader(file) if r["plan"] == "lid"]
        self.assertEqual(len(pixels), 60 * 85)
        self.assertEqual(max(float(r["shown_c"]) for r in pixels), 90.0)
        named = {r["name"] for r in json.loads((folder / "datapackage.json").read_text())["resources"]}
        self.assertLessEqual({"surfaces", "surface_pictures"}, named)


if __name__ == "__main__":
    unittest.main()
