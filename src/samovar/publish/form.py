"""The form a publication takes: its language, its decimal sign, its units. Data and names stay as they are.

Texts are written in metric units with decimal points; here, in one place, they are brought into the form that was chosen.
"""

from __future__ import annotations

import html
import re
from collections.abc import Callable
from dataclasses import dataclass, fields, is_dataclass, replace
from pathlib import Path
from typing import Any

from samovar.core.measured import Measured
from samovar.publish.article import Article, Grid
from samovar.publish.language import ENGLISH, Language, language

METRIC, IMPERIAL = "metric", "imperial"
POINT, COMMA = "point", "comma"
F_PER_K, F_AT_0_C = 1.8, 32.0
FEET_PER_M = 3.2808
_NUMBER = r"\d+(?:\.\d+)?"
_TEMPERATURE = re.compile(
    rf"(?P<sign>[−-]?)(?P<first>{_NUMBER})(?:(?P<half> ±{_NUMBER})|(?P<to> (?:to|bis|[–-]) )(?P<second>{_NUMBER}))? (?P<unit>°C|K/W|K/min|K)(?![\w/])"
)
_METRES = re.compile(rf"(?<![\w.])({_NUMBER}) m(?![\w³²/])")
_DECIMAL = re.compile(r"(?<![\w.])(\d+)\.(\d+)(?![\w.]|\.\d)")
_IN_SVG = re.compile(rb"(<(?:text|tspan)\b[^>]*>)([^<]*)(</(?:text|tspan)>)")
_OF_ROWS = {"°C": "°F", "K": "°F", "K/W": "°F/W"}
KEPT_AS_THEY_ARE = (
    "file",
    "figure",
    "data",
    "id",
    "image",
    "path",
    "kind",
    "licence",
    "day",
    "author",
    "best",
)
"""Parts of an article that are names of files, or of no language."""

OF_THE_REVIEWER = ("title", "question", "own", "lead")
"""Parts of an article that people wrote, or that are in its language already."""


@dataclass(frozen=True)
class Form:
    """How a publication is written.

    Attributes:
        code: its language.
        decimals: point or comma.
        units: metric or imperial.
    """

    code: str = ENGLISH
    decimals: str = POINT
    units: str = METRIC

    @property
    def texts(self) -> Language:
        """The texts of its language."""
        return language(self.code)

    @property
    def plain(self) -> bool:
        """Whether texts need no change."""
        return self == Form()

    def text(self, text: str) -> str:
        """A text in this form."""
        return text if self.plain else self.numbers(self.texts.words(text))

    def numbers(self, text: str) -> str:
        """A text with its numbers in this form."""
        if self.units == IMPERIAL:
            text = _METRES.sub(
                lambda m: f"{float(m[1]) * FEET_PER_M:.2g} ft", _TEMPERATURE.sub(_fahrenheit, text)
            )
        return _DECIMAL.sub(r"\1,\2", text) if self.decimals == COMMA else text

    def article(self, value: Any) -> Any:
        """An article, or any part of it, in this form; files' names, days and pictures as they are."""
        if self.plain or value is None or isinstance(value, Path | bytes | int | float):
            return value
        if isinstance(value, str):
            return self.text(value)
        if isinstance(value, tuple | list):
            return type(value)(self.article(v) for v in value)
        if isinstance(value, dict):
            return {k: v if k in KEPT_AS_THEY_ARE else self.article(v) for k, v in value.items()}
        if isinstance(value, Grid):
            return self._grid(value)
        if is_dataclass(value) and not isinstance(value, type):
            # What the reviewer wrote is his; only its numbers are brought into the form.
            own = OF_THE_REVIEWER if isinstance(value, Article) else ()
            told = {
                f.name: (self.numbers if f.name in own else self.article)(getattr(value, f.name))
                for f in fields(value)
                if f.name not in KEPT_AS_THEY_ARE
            }
            return replace(value, **told)
        return value

    def _grid(self, grid: Grid) -> Grid:
        """A table; cells that have their unit at the head of their row are read with it."""
        rows = []
        for head, *cells in grid.rows:
            unit = head.rpartition(", ")[2]
            if unit in _OF_ROWS and self.units == IMPERIAL:
                with_unit = [
                    self.text(f"{c} {unit}") if any(x.isdigit() for x in c) else self.text(c) for c in cells
                ]
                turned = _OF_ROWS[unit]
                cells = [c.removesuffix(f" {turned}") for c in with_unit]
                head = f"{head[: -len(unit)]}{turned}"
                rows.append((self.text(head), *cells))
            else:
                rows.append(tuple(self.text(c) for c in (head, *cells)))
        return Grid(tuple(self.text(h) for h in grid.heads), tuple(rows), grid.best)

    def svg(self, drawn: bytes) -> bytes:
        """A figure with its words in this form."""
        if self.plain:
            return drawn

        def said(found: re.Match[bytes]) -> bytes:
            words = html.escape(self.text(html.unescape(found[2].decode("utf-8"))), quote=False)
            return found[1] + words.encode("utf-8") + found[3]

        return _IN_SVG.sub(said, drawn)


PLAIN = Form()


def _fahrenheit(found: re.Match[str]) -> str:
    unit, sign = found["unit"], found["sign"]
    shift = F_AT_0_C if unit == "°C" else 0.0
    turned: Callable[[str], float] = lambda text: float(f"{'-' if sign else ''}{text}") * F_PER_K + shift  # noqa: E731
    said = unit.replace("°C", "°F").replace("K", "°F")
    decimals = len(found["first"].partition(".")[2])
    if found["half"]:
        half = float(found["half"].removeprefix(" ±")) * F_PER_K
        return Measured(turned(found["first"]), half).text(said, finest=max(decimals, 1)).replace("-", "−")
    first = f"{turned(found['first']):.{decimals}f}".replace("-", "−")
    if found["to"]:
        return f"{first}{found['to']}{turned(found['second']):.{decimals}f} {said}"
    return f"{first} {said}"
