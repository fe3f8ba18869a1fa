"""The real program in a terminal: the room listened to, a run's sound level taken by the microphone, and what it says of it."""

from __future__ import annotations

import shutil
import sys
import tempfile
import unittest
from pathlib import Path

from samovar.archive import Archive
from tests.demo_archive import DEMO_RUNS, demo_archive
from tests.tui.terminal import Terminal


@unittest.skipUnless(shutil.which("tmux"), "tmux is not installed")
class ListeningTest(unittest.TestCase):
    def test_from_the_room_alone_to_a_level_in_the_run(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        archive = demo_archive(folder)
        terminal = Terminal(
            sys.executable, "-m", "samovar", "demo", "--archive", str(archive), "--speed", "60", size=(160, 50), folder=folder
        )  # fmt: skip
        self.addCleanup(terminal.close)
        terminal.until("Voice booth playout PC")
        terminal.keys("3")
        terminal.until("Tern 47 ▸ everyday")
        terminal.keys("h")
        terminal.until("levels are held against", 40)
        terminal.keys("r")
        terminal.until("heard now", 30)
        terminal.until("Noise dBA", 30)
        terminal.until(r"noise (at most )?\d+\.\d ±\d\.\d dBA", 200)
        terminal.until(r"settling +done", 200)
        terminal.close()
        with Archive(archive) as opened:
            (hand,) = [h for h in opened.runs.hands.of(DEMO_RUNS + 1) if h.kind == "noise"]
            sound = hand.sound
            assert sound is not None
            self.assertEqual(hand.instrument, "microphone")
            self.assertTrue(sound.bands and sound.background)
            self.assertIn(sound.clip, opened.clips.of([sound.clip]))


if __name__ == "__main__":
    unittest.main()
