"""The reviewer's article, written in Markdown, as HTML and as plain blocks for the document; HTML of strangers is words."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from markdown_it import MarkdownIt


@lru_cache(maxsize=1)
def _reader() -> MarkdownIt:
    return MarkdownIt("commonmark", {"html": False}).enable("table").disable(["image"])


def html_of(article: str) -> str:
    """The article as HTML; its headings begin below the page's own."""
    text = str(_reader().render(article))
    for level in (4, 3, 2, 1):
        text = text.replace(f"<h{level}>", f"<h{level + 1}>").replace(f"</h{level}>", f"</h{level + 1}>")
    return text


def blocks_of(article: str) -> list[dict[str, Any]]:
    """The article as blocks: their kind (`p`, `h`, `li`), and their words in pieces, plain, bold or italic."""
    out: list[dict[str, Any]] = []
    kinds: list[str] = []
    for token in _reader().parse(article):
        if token.type == "heading_open":
            kinds.append("h")
        elif token.type == "list_item_open":
            kinds.append("li")
        elif token.type == "paragraph_open":
            kinds.append("li" if "li" in kinds else "p")
        elif token.type in ("heading_close", "list_item_close", "paragraph_close") and kinds:
            kinds.pop()
        elif token.type == "inline":
            out.append({"kind": kinds[-1] if kinds else "p", "pieces": _pieces(token.children or [])})
        elif token.type in ("code_block", "fence"):
            out.append({"kind": "p", "pieces": [{"text": token.content, "bold": False, "italic": False}]})
    return out


def _pieces(tokens: list[Any]) -> list[dict[str, Any]]:
    pieces, bold, italic = [], 0, 0
    for token in tokens:
        bold += {"strong_open": 1, "strong_close": -1}.get(token.type, 0)
        italic += {"em_open": 1, "em_close": -1}.get(token.type, 0)
        words = " " if token.type in ("softbreak", "hardbreak") else token.content
        if words and token.type in ("text", "code_inline", "softbreak", "hardbreak"):
            pieces.append({"text": words, "bold": bold > 0, "italic": italic > 0})
    return pieces


def plain_text(paragraph: str) -> str:
    """A paragraph's words alone."""
    return " ".join("".join(p["text"] for p in block["pieces"]) for block in blocks_of(paragraph))
