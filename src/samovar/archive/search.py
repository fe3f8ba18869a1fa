"""Finding something again in an archive of years: reviews, runs, products and marks by any word."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import ColumnElement, Select, Text, and_, cast, func, or_, select

from samovar.archive.archive import Archive
from samovar.archive.kept import DELETED, plain_name
from samovar.archive.schema import ANNOTATION, FINDING, MARK, PRODUCT, REVIEW, RIG, RUN, SETUP, SETUP_PRODUCT
from samovar.core.shown_text import one_line

MOST = 50
"""So many of each kind are told: whoever has more before him types a further word."""
FILTERS = ("rig", "product", "load", "judgement", "day", "setup", "review", "bench", "state")
EXAMPLE = (
    'osprey   "panel off"   load:idle   judgement:throttles   rig:halden   day:2026-03   product:"fjord 280"'
)
_PART = re.compile(r'(?:(?P<key>[a-z]+):)?(?:"(?P<quoted>[^"]*)"?|(?P<plain>[^\s"]+))')


@dataclass(frozen=True)
class Query:
    """What is looked for: words that all have to occur, in any capitals, and filters by what they are of."""

    words: tuple[str, ...] = ()
    filters: dict[str, tuple[str, ...]] = field(default_factory=dict)

    def __bool__(self) -> bool:
        return bool(self.words or self.filters)


@dataclass(frozen=True)
class Hit:
    """One thing that was found. `kind`: review, run, product or mark; `key` its key, of a mark its run's; `where` says
    in a few words what it is."""

    kind: str
    key: int
    name: str
    where: str


def read_query(text: str) -> Query:
    """A query as typed: words, "several words" as one, and `load:idle` for a filter. What is no filter's name is a word."""
    words: list[str] = []
    filters: dict[str, tuple[str, ...]] = {}
    for part in _PART.finditer(one_line(text)):
        value = (part["quoted"] if part["quoted"] is not None else part["plain"]).strip().lower()
        if not value:
            continue
        if part["key"] in FILTERS:
            filters[part["key"]] = (*filters.get(part["key"], ()), value)
        else:
            words.append(f"{part['key']}:{value}" if part["key"] else value)
    return Query(tuple(words), filters)


def search(archive: Archive, query: Query) -> list[Hit]:
    """What fits a query: reviews, products, runs (the newest first), then marks; of each kind so many at most."""
    if not query:
        return []
    found: list[Hit] = []
    with archive.connect() as connection:
        if not query.filters:
            found += [
                Hit("review", row.id, plain_name(row.name), one_line(row.question))
                for row in connection.execute(_reviews(query.words))
            ]
            found += [
                Hit("product", row.id, plain_name(row.name), row.kind)
                for row in connection.execute(_products(query.words))
            ]
        runs = connection.execute(_runs(query)).all()
        found += [Hit("run", row.id, f"r{row.id:04d}", _cell(row)) for row in runs]
        if query.words:
            marks = connection.execute(_marks(query)).all()
            found += [
                Hit("mark", row.id, one_line(row.text), f"r{row.id:04d}, {_cell(row)}") for row in marks
            ]
    return found


def _cell(row: object) -> str:
    parts = (row.review or "inbox", row.setup, row.load, str(row.started)[:10], row.judgement)  # type: ignore[attr-defined]
    return ", ".join(plain_name(str(p)) for p in parts if p)


def _like(column: ColumnElement[str], word: str) -> ColumnElement[bool]:
    return func.lower(column).contains(word, autoescape=True)


def _any(word: str, *columns: ColumnElement[str]) -> ColumnElement[bool]:
    return or_(*(_like(column, word) for column in columns))


def _reviews(words: Sequence[str]) -> Select[Any]:
    fitted = (
        select(PRODUCT.c.name)
        .join(SETUP_PRODUCT, SETUP_PRODUCT.c.product_id == PRODUCT.c.id)
        .join(SETUP, SETUP.c.id == SETUP_PRODUCT.c.setup_id)
        .where(SETUP.c.review_id == REVIEW.c.id, SETUP.c.state != DELETED)
    )
    setups = select(SETUP.c.id).where(SETUP.c.review_id == REVIEW.c.id, SETUP.c.state != DELETED)
    asked = [
        or_(
            _any(word, REVIEW.c.name, REVIEW.c.question, REVIEW.c.verdict),
            fitted.where(_like(PRODUCT.c.name, word)).exists(),
            setups.where(_like(SETUP.c.name, word)).exists(),
        )
        for word in words
    ]
    return (
        select(REVIEW.c.id, REVIEW.c.name, REVIEW.c.question)
        .where(REVIEW.c.state != DELETED, *asked)
        .order_by(REVIEW.c.id.desc())
        .limit(MOST)
    )


def _products(words: Sequence[str]) -> Select[Any]:
    # Those that no review ever had are on the shelf all the same.
    asked = [_any(word, PRODUCT.c.name, PRODUCT.c.kind, cast(PRODUCT.c.notes, Text)) for word in words]
    return (
        select(PRODUCT.c.id, PRODUCT.c.name, PRODUCT.c.kind)
        .where(PRODUCT.c.state != DELETED, *asked)
        .order_by(PRODUCT.c.name)
        .limit(MOST)
    )


_ROWS = (
    RUN.c.id, RUN.c.load, RUN.c.started, RUN.c.state, REVIEW.c.name.label("review"), SETUP.c.name.label("setup"),
    FINDING.c.judgement,
)  # fmt: skip


def _joined(*more: ColumnElement[str]) -> Select[Any]:
    return (
        select(*_ROWS, *more)
        .select_from(RUN)
        .outerjoin(REVIEW, REVIEW.c.id == RUN.c.review_id)
        .outerjoin(SETUP, SETUP.c.id == RUN.c.setup_id)
        .outerjoin(FINDING, FINDING.c.run_id == RUN.c.id)
    )


def _filtered(query: Query) -> list[ColumnElement[bool]]:
    """What the filters ask of a run."""
    fitted = (
        select(SETUP_PRODUCT.c.id)
        .join(PRODUCT, PRODUCT.c.id == SETUP_PRODUCT.c.product_id)
        .where(SETUP_PRODUCT.c.setup_id == SETUP.c.id)
    )
    rig = select(RIG.c.id).where(RIG.c.id == SETUP.c.rig_id)
    asks = {
        "rig": lambda v: rig.where(_like(RIG.c.name, v)).exists(),
        "product": lambda v: fitted.where(_like(PRODUCT.c.name, v)).exists(),
        "load": lambda v: _like(RUN.c.load, v),
        "judgement": lambda v: _like(FINDING.c.judgement, v),
        "day": lambda v: RUN.c.started.startswith(v, autoescape=True),
        "setup": lambda v: _like(SETUP.c.name, v),
        "review": lambda v: _like(REVIEW.c.name, v),
        "bench": lambda v: _like(RUN.c.bench, v),
        "state": lambda v: _like(RUN.c.state, v),
    }
    # Of one thing any of several will do; of several things all have to.
    return [or_(*(asks[key](value) for value in values)) for key, values in query.filters.items()]


def _runs(query: Query) -> Select[Any]:
    noted = select(ANNOTATION.c.id).where(ANNOTATION.c.run_id == RUN.c.id)
    fitted = (
        select(SETUP_PRODUCT.c.id)
        .join(PRODUCT, PRODUCT.c.id == SETUP_PRODUCT.c.product_id)
        .where(SETUP_PRODUCT.c.setup_id == SETUP.c.id)
    )
    asked = []
    for word in query.words:
        number = word.removeprefix("r")
        named = [RUN.c.id == int(number)] if number.isdigit() and len(number) < 10 else []
        asked.append(
            or_(
                *named,
                _any(word, REVIEW.c.name, SETUP.c.name, RUN.c.load, FINDING.c.judgement, RUN.c.bench),
                fitted.where(_like(PRODUCT.c.name, word)).exists(),
                noted.where(_like(ANNOTATION.c.note, word)).exists(),
            )
        )
    return _joined().where(and_(True, *asked, *_filtered(query))).order_by(RUN.c.id.desc()).limit(MOST)


def _marks(query: Query) -> Select[Any]:
    asked = [_like(MARK.c.text, word) for word in query.words]
    return (
        _joined(MARK.c.text)
        .join(MARK, MARK.c.run_id == RUN.c.id)
        .where(*asked, *_filtered(query))
        .order_by(RUN.c.id.desc(), MARK.c.at_s)
        .limit(MOST)
    )
