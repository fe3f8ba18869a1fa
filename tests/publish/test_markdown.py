"""The article's Markdown: HTML for the page, blocks for the document, and nothing of strangers that does anything."""

from __future__ import annotations

import unittest
import xml.etree.ElementTree as ElementTree

from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.publish.markdown import blocks_of, html_of


class MarkdownTest(unittest.TestCase):
    def test_headings_begin_below_the_pages_own(self) -> None:
        self.assertIn("<h2>Who for</h2>", html_of("# Who for"))

    def test_html_and_scripts_are_words(self) -> None:
        for bad in (
            "<script>x</script>",
            "[a](javascript:x)",
            "<img src=x onerror=y>",
            "![a](http://x/y.png)",
        ):
            page = html_of(bad)
            self.assertNotIn("<script", page)
            self.assertNotIn("<img", page)
            self.assertNotIn('href="javascript', page)

    def test_blocks_keep_kind_and_weight(self) -> None:
        blocks = blocks_of("# Head\n\nA *quiet* **pick**\n\n- one\n- two\n")
        self.assertEqual([b["kind"] for b in blocks], ["h", "p", "li", "li"])
        self.assertEqual([p["text"] for p in blocks[1]["pieces"] if p["bold"]], ["pick"])
        self.assertEqual([p["text"] for p in blocks[1]["pieces"] if p["italic"]], ["quiet"])

    @settings(max_examples=80, deadline=None)
    @given(st.text(alphabet="ab *_#-`<>[](){}|&\n", max_size=60))
    def test_whatever_is_written_is_well_formed(self, article: str) -> None:
        ElementTree.fromstring(f"<div>{html_of(article)}</div>")
        blocks_of(article)


if __name__ == "__main__":
    unittest.main()
