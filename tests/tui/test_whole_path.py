"""The real program in a real terminal (tmux), from the Grid to the published review, by keyboard alone."""

from __future__ import annotations

import csv
import re
import shutil
import subprocess
import sys
import tempfile
import unittest
import xml.etree.ElementTree as ElementTree
from pathlib import Path

import psutil

from samovar.archive import Archive
from tests.demo_archive import demo_archive
from tests.tui.terminal import Terminal


@unittest.skipUnless(shutil.which("tmux"), "tmux is not installed")
class WholePathTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def start(self, *arguments: str, size: tuple[int, int] = (160, 50)) -> Terminal:
        terminal = Terminal(sys.executable, "-m", "samovar", *arguments, size=size, folder=self.folder)
        self.addCleanup(terminal.close)
        return terminal

    def test_from_the_grid_to_the_published_verdict(self) -> None:
        archive = demo_archive(self.folder)
        terminal = self.start("demo", "--archive", str(archive), "--speed", "150")
        terminal.until("Voice booth playout PC")
        terminal.keys("2")
        terminal.until("Plain 65 .*not settled|Loam P")
        # From the proposed cell (Tern 47, everyday) to Loam P under the worst case, which has one pass.
        terminal.keys("Down", "Down", "Down", "Right", "Right", "r")
        terminal.until("Loam P ▸ worst case")
        terminal.keys("r")
        terminal.until("● recording")
        terminal.until(r"━ load")
        terminal.keys("m")
        terminal.until("What happened")
        terminal.type("side panel off")
        terminal.keys("Enter")
        terminal.until("▴side panel")
        terminal.until("heading for")
        terminal.until("power")
        terminal.until("is sealed", 150)
        terminal.keys("Enter")
        screen = terminal.until("r0039 ▸ Voice booth")
        screen = terminal.until("over the room")
        self.assertIn("budget", screen)
        rise = re.search(r"(?<!T)die +(\d+\.\d) ±", screen)
        assert rise is not None
        terminal.keys("5")
        screen = terminal.until("like for like")
        self.assertIn("Loam P", screen)
        self.assertNotIn("one pass only: Loam P", screen)
        terminal.keys("6")
        terminal.until("K hotter than")
        terminal.keys("t")
        terminal.type("Written on the bench.")
        terminal.keys("Escape", "p")
        terminal.until("Publish into which folder")
        terminal.keys("Enter")
        terminal.until("Published", 300)
        terminal.keys("q")
        terminal.until("ended with 0")
        self.check_published(self.folder / "voice-booth-playout-pc", archive, float(rise[1]))

    def check_published(self, folder: Path, archive: Path, rise_k: float) -> None:
        """The page, figures and data are well-formed and carry the run's own numbers."""
        with Archive(archive) as opened:
            run = opened.runs.run("r0039")
            assert run is not None
            self.assertEqual((run.state, run.pass_number), ("sealed", 2))
            reading = opened.runs.reading(run.number)
            self.assertIn("side panel off", [m.text for m in opened.runs.recording(run.number).marks])
            found = reading.rise()
            assert found is not None
            self.assertAlmostEqual(found.value, rise_k, delta=0.06)
        page = (folder / "index.html").read_text(encoding="utf-8")
        body = page.replace("<!doctype html>", "", 1)
        root = ElementTree.fromstring(body)
        words = " ".join("".join(root.itertext()).split())
        self.assertIn(f"{rise_k:.1f} ±", words)
        self.assertIn("Written on the bench.", words)
        self.assertIn("r0039", words)
        svgs = sorted((folder / "figures").glob("*.svg"))
        self.assertGreater(len(svgs), 40)
        for path in svgs:
            drawing = ElementTree.parse(path).getroot()
            self.assertTrue(drawing.tag.endswith("svg"))
            self.assertTrue(
                any(e.tag.endswith("text") and "".join(e.itertext()).strip() for e in drawing.iter()),
                path.name,
            )
        chart = next(p for p in svgs if p.name.startswith("r0039"))
        self.assertIn("side panel off", "".join(ElementTree.parse(chart).getroot().itertext()))
        for path in (folder / "figures").glob("*.pdf"):
            data = path.read_bytes()
            self.assertTrue(data.startswith(b"%PDF-") and data.rstrip().endswith(b"%%EOF"), path.name)
        if shutil.which("pdftotext"):
            ladder = folder / "figures" / "worst-case-rise.pdf"
            text = subprocess.run(
                ["pdftotext", str(ladder), "-"], capture_output=True, text=True, check=True
            ).stdout
            self.assertIn("Loam P", text)
        table = next((folder / "data").glob("r0039*.csv"))
        with table.open(encoding="utf-8") as file:
            rows = list(csv.DictReader(file))
        dies = [float(r["Tdie (°C)"]) for r in rows if r["Tdie (°C)"]]
        self.assertEqual(len(rows), reading.rows)
        self.assertAlmostEqual(max(dies), reading.peak["Tdie"].value, delta=0.01)

    def under_load(self) -> tuple[Path, Terminal]:
        """The demo in a terminal, with a run under load."""
        archive = demo_archive(self.folder)
        terminal = self.start("demo", "--archive", str(archive), "--speed", "60")
        terminal.until("Voice booth playout PC")
        terminal.keys("3")
        terminal.until("Ready to record")
        terminal.keys("r")
        terminal.until(r"━ load")
        return archive, terminal

    def test_control_c_in_mid_run_leaves_everything_in_order(self) -> None:
        archive, terminal = self.under_load()
        terminal.keys("C-c")
        terminal.until("is being recorded")
        terminal.keys("Down", "Enter")
        terminal.until("ended with 0")
        with Archive(archive) as opened:
            run = opened.runs.run("r0039")
            assert run is not None
            self.assertEqual(run.state, "stopped")
            self.assertEqual(opened.recovered, [])

    def test_a_closed_terminal_ends_the_program_and_seals_the_run(self) -> None:
        archive, terminal = self.under_load()
        alive = [p for p in psutil.process_iter(["cmdline"]) if str(archive) in (p.info["cmdline"] or [])]
        self.assertTrue(alive)
        terminal.close()
        _, left = psutil.wait_procs(alive, timeout=12.0)
        self.assertEqual(left, [])
        with Archive(archive) as opened:
            run = opened.runs.run("r0039")
            assert run is not None
            self.assertEqual(run.state, "stopped")

    def test_an_own_archive_on_this_machine_opens_and_says_what_to_do(self) -> None:
        terminal = self.start("--archive", str(self.folder / "new.sqlite"))
        terminal.until("No review yet")
        # What can be measured is looked for once the Desk is seen.
        terminal.until("samovar demo")
        terminal.keys("q")
        terminal.until("ended with 0")

    def test_a_small_terminal_says_so(self) -> None:
        terminal = self.start("--archive", str(self.folder / "new.sqlite"), size=(80, 24))
        terminal.until("at least 100×30")
        terminal.keys("q")
        terminal.until("ended with 0")

    def test_a_newer_archive_is_one_line(self) -> None:
        import sqlite3

        path = self.folder / "newer.sqlite"
        Archive(path).close()
        with sqlite3.connect(path) as connection:
            connection.execute("update meta set value = '99' where key = 'schema_version'")
        terminal = self.start("--archive", str(path))
        screen = terminal.until("ended with 1")
        self.assertIn("newer Samovar", screen.replace("\n", ""))
        self.assertNotIn("Traceback", screen)


if __name__ == "__main__":
    unittest.main()
