"""What a publication says, as plain values: the page, the document and the card set the same."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from samovar.core.compare.criteria import ASKED, LEVEL, WINS, Criterion
from samovar.core.live_fields import passages


@dataclass(frozen=True)
class Picture:
    """A figure: where its files are (no ending), what it shows, and its finding in a sentence."""

    path: Path
    title: str
    finding: str

    @property
    def file(self) -> str:
        """Its place in the publication, without ending."""
        return f"figures/{self.path.name}"


@dataclass(frozen=True)
class Photo:
    """A photograph: its name in the article, its caption, what it shows in words, its file, and the picture."""

    name: str
    caption: str
    words: str
    file: str
    kind: str
    image: bytes


@dataclass(frozen=True)
class Grid:
    """A table as it is set: heads, rows of cells, and which cells are the best of their row, by row."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    best: tuple[frozenset[int], ...] = ()

    def is_best(self, row: int, cell: int) -> bool:
        """Whether a cell is the best of its row."""
        return row < len(self.best) and cell in self.best[row]


@dataclass(frozen=True)
class SoundPiece:
    """A piece of sound to be listened to: what of, its file, and its content as FLAC."""

    name: str
    file: str
    flac: bytes


@dataclass(frozen=True)
class Sounds:
    """What the setups sound like under a load: a table, the pieces, the tone to set the volume by, and what to do with it."""

    load: str
    table: Grid
    pieces: tuple[SoundPiece, ...] = ()
    tone: SoundPiece | None = None
    words: str = ""

    @property
    def files(self) -> tuple[SoundPiece, ...]:
        """All that can be listened to, the tone first."""
        return (*((self.tone,) if self.tone is not None else ()), *self.pieces)


@dataclass(frozen=True)
class ClaimLine:
    """A claim as it was made, what the runs say of it, and whether it holds."""

    claim: str
    finding: str
    state: str
    evidence: str


@dataclass(frozen=True)
class Section:
    """One load on one rig: the table, the figures, the steps."""

    title: str
    table: Grid
    pictures: tuple[Picture, ...]
    steps: Grid | None = None
    words: tuple[str, ...] = ()


@dataclass(frozen=True)
class Article:
    """A publication's content.

    Attributes:
        title, question: the review's.
        lead: its first paragraph, as plain text.
        own: the article in Markdown, its live fields read: the reviewer's, or the draft where there is none.
        conclusion: its headings, each with its words, as the reviewer concluded.
        photographs: each by its name in the article; those that it does not place stand at its end.
        claims: each as it was made, with finding and state.
        sections: loads on rigs, in the order of the argument.
        lacking: setup, `missing` or `fault`, and what.
        products: as `products.product_entries` gives them, their drawings as Pictures.
        sounds: what was listened to.
        near: one run from near, with its sentence.
        readings: what was read by hand.
        method: headings and texts.
        caveats: what the audit found.
        runs: all runs with their files.
        edition, day: of this publication; `changes`: what it changed against the one before.
        author, licence: as the reviewer gave them.
    """

    title: str
    question: str
    lead: str
    own: str = ""
    conclusion: tuple[tuple[str, tuple[str, ...]], ...] = ()
    photographs: tuple[Photo, ...] = ()
    claims: tuple[ClaimLine, ...] = ()
    sections: tuple[Section, ...] = ()
    lacking: tuple[tuple[str, str, str], ...] = ()
    products: tuple[dict[str, Any], ...] = ()
    sounds: Sounds | None = None
    near: tuple[Picture, str] | None = None
    readings: Grid | None = None
    method: tuple[tuple[str, str], ...] = ()
    caveats: tuple[str, ...] = ()
    runs: tuple[dict[str, Any], ...] = ()
    edition: int = 1
    day: str = ""
    changes: tuple[str, ...] = ()
    author: str = ""
    licence: str = ""
    meaning: dict[str, str] = field(default_factory=dict)


def told(article: Article) -> list[str | Photo]:
    """The article as passages of Markdown and photographs, in their order."""
    named = {p.name: p for p in article.photographs}
    out: list[str | Photo] = []
    for kind, text in passages(article.own):
        if kind == "text":
            out.append(text)
        elif (photo := named.pop(text, None)) is not None:
            out.append(photo)
    return [*out, *named.values()]


SIGNS = {"met": "✔ met", "not met": "✕ not met", "not shown": "? not shown"}


def criteria_grid(rows: list[Criterion], names: list[str]) -> Grid:
    """A table of criteria, setups across; who wins stands in the last column."""
    lines, best = [], []
    for row in rows:
        cells = [row.cells.get(n, "–") for n in names]
        if row.verdict == ASKED:
            cells = [SIGNS.get(c, c) for c in cells]
        said = {WINS: f"{row.best[0]} wins" if row.best else "", LEVEL: "level"}.get(row.verdict, "")
        lines.append((row.label, *cells, said))
        best.append(frozenset(k + 1 for k, n in enumerate(names) if n in row.best))
    return Grid(("criterion", *names, "verdict"), tuple(lines), tuple(best))
