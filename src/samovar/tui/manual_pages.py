"""The manual: one page a task, as it lies in docs/, and which of them belongs to which place."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

FIRST = "first-review"
OF_PLACES = {
    "desk": FIRST, "shelf": "instruments", "grid": "results", "bench": "loads-under-guard", "trace": "what-held-it",
    "versus": "versus", "writeup": "the-article",
}  # fmt: skip
"""The page that a place opens the manual at."""
_INSTALLED = Path(__file__).parent.parent / "manual"
_IN_A_CHECKOUT = Path(__file__).parents[3] / "docs"


@dataclass(frozen=True)
class ManualPage:
    """A page: its name, its title, and its text as Markdown."""

    name: str
    title: str
    text: str


def manual() -> list[ManualPage]:
    """All pages that are here: how to begin, then the tasks by their titles, the glossary last."""
    folder = _INSTALLED if _INSTALLED.is_dir() else _IN_A_CHECKOUT
    pages = [page_in(path) for path in folder.glob("*.md")] if folder.is_dir() else []
    return sorted(pages, key=lambda page: (page.name != FIRST, page.name == "glossary", page.title.lower()))


def page_in(path: Path) -> ManualPage:
    """A page of the manual, its title from its first line."""
    text = path.read_text(encoding="utf-8")
    first, _, _ = text.partition("\n")
    return ManualPage(path.stem, first.removeprefix("# ").strip(), text)
