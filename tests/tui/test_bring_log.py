"""A messy log of another maker brought in by keyboard alone, in the real program in tmux."""

from __future__ import annotations

import shutil
import sys
import tempfile
import time
import unittest
from pathlib import Path

from samovar.archive import Archive
from tests.demo_archive import demo_archive
from tests.exchange.test_many_logs import RUN, comma
from tests.tui.terminal import Terminal

HEAD = "Zeit;CPU-Temperatur [°C];Kerntakt [MHz];T3;CPU-Auslastung [%]"


def messy() -> bytes:
    """Latin-1, decimal commas, a preamble, titles that leave one column open, a cut-off row, a summary."""
    rows = "".join(";".join(comma(r)) + "\r\n" for r in RUN)
    rows = rows.replace("\r\n77;", "\r\n77\r\n77,5;", 1)
    return f"Protokoll 3\r\nRechner;Halden 8\r\n\r\n{HEAD}\r\n{rows}Mittel;55;3000;70;60\r\n".encode(
        "latin-1"
    )


@unittest.skipUnless(shutil.which("tmux"), "tmux is not installed")
class BringTest(unittest.TestCase):
    def test_a_messy_log_is_set_right_kept_read_and_remembered(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            archive = demo_archive(folder)
            (folder / "meter.csv").write_bytes(messy())
            terminal = Terminal(
                sys.executable, "-m", "samovar", "demo", "--archive", str(archive), folder=folder
            )
            self.addCleanup(terminal.close)
            terminal.until("Latest runs")
            self.bring(terminal, folder)
            screen = terminal.until("T3 +left out")
            self.assertRegex(screen, r"CPU-Temperatur.*temperature +°C +die")
            self.assertIn("no time in it, skipped", screen)
            self.pick(terminal, "Down", "Down", "Enter", wait="What does 'T3' measure")
            self.pick(terminal, "Down", "Down", "Down", "Enter", wait="In which unit")
            self.pick(terminal, "Enter", wait="Of what")
            self.pick(terminal, "End", "Up", "Up", "Up", "Enter", wait=r"T3 +power +W +package.*settled")
            self.pick(terminal, "k", wait="Where does meter.csv belong")
            self.pick(terminal, "Enter", wait="r0039.*inbox")
            terminal.until("power 1:2")
            self.pick(terminal, "0", wait="Latest runs")
            self.bring(terminal, folder)
            terminal.until("as you settled it for the last log")
            self.pick(terminal, "Escape", "q", wait="ended with 0")
            with Archive(archive) as opened:
                kept = opened.runs.recording(39)
                reading = opened.runs.reading(39)
            self.assertEqual(reading.judgement, "budget")
            self.assertEqual(len(kept.time_s), len(RUN))
            self.assertEqual(kept.channels[2].name, "T3")

    def bring(self, terminal: Terminal, folder: Path) -> None:
        terminal.keys("b")
        terminal.until("Bring in which log")
        time.sleep(0.3)
        terminal.type(str(folder / "meter.csv"))
        terminal.keys("Enter")
        terminal.until("Bring in meter.csv")
        time.sleep(0.3)

    def pick(self, terminal: Terminal, *keys: str, wait: str) -> None:
        terminal.keys(*keys)
        terminal.until(wait)
        time.sleep(0.3)


if __name__ == "__main__":
    unittest.main()
