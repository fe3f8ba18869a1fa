"""The manual: every page is there, installed too, each place has one, and links lead on."""

from __future__ import annotations

import re
import tomllib
import unittest
from pathlib import Path

from samovar.tui.manual_pages import FIRST, OF_PLACES, manual
from samovar.tui.widgets.rail import PLACES

ROOT = Path(__file__).parents[2]


class ManualTest(unittest.TestCase):
    def setUp(self) -> None:
        self.pages = {page.name: page for page in manual()}

    def test_every_page_of_the_docs_comes_with_an_installed_program(self) -> None:
        project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))
        packed = project["tool"]["hatch"]["build"]["targets"]["wheel"]["force-include"]
        expected = {f"docs/{name}.md": f"samovar/manual/{name}.md" for name in self.pages}
        self.assertEqual(packed, expected)
        self.assertEqual(len(self.pages), len(list((ROOT / "docs").glob("*.md"))))

    def test_each_place_has_its_page_and_the_first_is_how_to_begin(self) -> None:
        self.assertEqual(set(OF_PLACES), {place for place, _, _ in PLACES})
        self.assertLessEqual(set(OF_PLACES.values()), set(self.pages))
        self.assertEqual(next(iter(self.pages)), FIRST)

    def test_links_between_pages_lead_somewhere(self) -> None:
        for page in self.pages.values():
            for target in re.findall(r"\]\(([\w-]+)\.md\)", page.text):
                self.assertIn(target, self.pages, page.name)
