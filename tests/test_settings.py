"""What is remembered of whoever uses the program: kept, read, and what is wrong with it said."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

from samovar.exchange.problems import InputError
from samovar.figures.palette import LIGHT
from samovar.settings import ALLOWED, read_settings, settings_path, write_settings
from tests.tui.terminal import Terminal

USUAL = {key: words[0] for key, words in ALLOWED.items()}


class SettingsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.file = self.folder / "samovar" / "settings.toml"

    def test_they_are_read_as_they_were_kept(self) -> None:
        self.assertEqual(read_settings(str(self.file)), (USUAL, ""))
        for changed in ({"theme": "light"}, {"pixels": "off"}, {"theme": "light", "pixels": "off"}):
            write_settings(str(self.file), {**USUAL, **changed})
            self.assertEqual(read_settings(str(self.file)), ({**USUAL, **changed}, ""))

    def test_what_is_wrong_is_said_and_counts_as_not_set(self) -> None:
        self.file.parent.mkdir()
        for text, word, kept in (
            ('theme = "blue"\npixels = "off"', "theme is 'blue'; write dark or light", {"pixels": "off"}),
            ('colour = "red"', "'colour' is no setting", {}),
            ("theme = ", "mend or remove it", {}),
            ('theme = ["light"]', "theme is ['light']", {}),
        ):
            self.file.write_text(text, encoding="utf-8")
            found, wrong = read_settings(str(self.file))
            self.assertIn(word, wrong)
            self.assertIn(str(self.file), wrong)
            self.assertEqual(found, {**USUAL, **kept})
        self.file.write_bytes(b"\xff\xfe")
        self.assertIn("cannot be read", read_settings(str(self.file))[1])

    def test_where_they_are(self) -> None:
        with patch.dict(os.environ, {"XDG_CONFIG_HOME": "/elsewhere", "HOME": "/home/ada"}):
            self.assertEqual(settings_path(), "/elsewhere/samovar/settings.toml")
            for empty in ("", "not/absolute"):
                os.environ["XDG_CONFIG_HOME"] = empty
                self.assertEqual(settings_path(), "/home/ada/.config/samovar/settings.toml")

    def test_a_place_that_cannot_be_written_is_one_line(self) -> None:
        self.file.parent.write_text("a file", encoding="utf-8")
        with self.assertRaisesRegex(InputError, "settings.toml: .*not remembered"):
            write_settings(str(self.file), USUAL)

    @unittest.skipUnless(shutil.which("tmux"), "no tmux here: apt-get install tmux")
    def test_light_is_light_the_next_time(self) -> None:
        command = (sys.executable, "-m", "samovar", "--archive", str(self.folder / "a.sqlite"))
        for switched in (True, False):
            terminal = Terminal(*command, size=(120, 40), folder=self.folder)
            self.addCleanup(terminal.close)
            terminal.until("Latest runs")
            ground = "48;2;" + ";".join(str(int(LIGHT.ground[k : k + 2], 16)) for k in (1, 3, 5))
            self.assertEqual(ground in terminal.coloured(), not switched)
            if switched:
                terminal.keys("C-t")
            terminal.keys("q")
            terminal.until("ended with 0")
        self.assertEqual(read_settings(str(self.file)), ({**USUAL, "theme": "light"}, ""))


if __name__ == "__main__":
    unittest.main()
