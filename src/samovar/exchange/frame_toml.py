"""Products, rigs, courses, loads, rates and reviews as one TOML document, written and read without loss.

Every value stands in its kept unit, as its key says (`height_m = 0.161`); a person may write text with a unit
instead (`height_m = "6.34 in"`), read as in the interface.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, TypeVar

from samovar.core.entered import Name, checked, plain, strict, visible
from samovar.core.framed import ClaimFrame, ProductFrame, ReviewFrame, RigFrame, SetupFrame
from samovar.core.money import Rate
from samovar.core.units import Unreadable
from samovar.exchange.problems import InputError
from samovar.exchange.toml_text import read_toml
from samovar.exchange.whole_file import write_whole

FORMAT = 1
T = TypeVar("T")
OF_THE_ARCHIVE = ("origin", "agreed")
"""Of a load, what an archive knows and no document says."""
_IN_DOCUMENT = {"setups": "setup", "claims": "claim"}
_IN_RECORD = {short: long for long, short in _IN_DOCUMENT.items()}


@dataclass(frozen=True)
class Frame:
    """Everything a document holds. `courses` and `loads`: name to body."""

    products: tuple[ProductFrame, ...] = ()
    rigs: tuple[RigFrame, ...] = ()
    courses: dict[str, dict[str, Any]] = field(default_factory=dict)
    loads: dict[str, dict[str, Any]] = field(default_factory=dict)
    rates: tuple[Rate, ...] = ()
    reviews: tuple[ReviewFrame, ...] = ()

    def words(self) -> str:
        """What is in it."""
        counts = (
            ("product", self.products), ("rig", self.rigs), ("course", self.courses), ("load", self.loads),
            ("rate", self.rates), ("review", self.reviews),
        )  # fmt: skip
        found = [f"{len(x)} {word}{'' if len(x) == 1 else 's'}" for word, x in counts if x]
        return ", ".join(found) or "nothing"


def frame_text(frame: Frame) -> str:
    """The document."""
    import tomli_w

    document: dict[str, Any] = {"samovar": {"format": FORMAT}}
    document["product"] = [plain(p) for p in frame.products]
    document["rig"] = [plain(r) for r in frame.rigs]
    document["course"] = [{"name": name, **body} for name, body in frame.courses.items()]
    # Where a command came from, and what was agreed to, is a matter of each archive.
    document["load"] = [
        {"name": name, **{k: v for k, v in body.items() if k not in OF_THE_ARCHIVE}}
        for name, body in frame.loads.items()
    ]
    document["rate"] = [plain(r) for r in frame.rates]
    document["review"] = [_review_plain(r) for r in frame.reviews]
    return tomli_w.dumps({k: v for k, v in document.items() if v != []})


def _review_plain(review: ReviewFrame) -> dict[str, Any]:
    """Its setups and claims are tables of the document, named in the singular."""
    found = plain(review)
    return {_IN_DOCUMENT.get(key, key): value for key, value in found.items()}


def write_frame(frame: Frame, path: Path) -> None:
    """Write the document; what stands there is replaced once it is whole. Raises InputError."""
    write_whole(path, frame_text(frame))


def read_frame(path: Path) -> Frame:
    """A document from a file.

    Raises:
        InputError: no such file, no TOML, a key or value that is not understood, with its place.
    """
    try:
        return frame_of(read_toml(path))
    except Unreadable as problem:
        raise InputError(f"{path}: {problem}") from problem


def frame_of(raw: Mapping[str, Any]) -> Frame:
    """A document's content, every value checked. Raises Unreadable with the place in the document."""
    known = ("samovar", "product", "rig", "course", "load", "rate", "review")
    for key in raw:
        if key not in known:
            raise Unreadable(
                f"the document: {visible(str(key), 60)!r} is not understood; write one of {', '.join(known)}"
            )
    header = raw.get("samovar", {})
    if not isinstance(header, Mapping) or header.get("format") != FORMAT:
        raise Unreadable(
            f"samovar.format is not {FORMAT}; begin the document with [samovar] and format = {FORMAT}"
        )
    courses, loads = (dict(_named(raw, key)) for key in ("course", "load"))
    for name, body in loads.items():
        for key in OF_THE_ARCHIVE:
            if key in body:
                raise Unreadable(f"load {name!r}: {key!r} is not understood; leave it out")
    return Frame(
        _records(raw, "product", ProductFrame),
        _records(raw, "rig", RigFrame),
        courses,
        loads,
        _records(raw, "rate", Rate),
        tuple(
            checked(ReviewFrame, {_IN_RECORD.get(k, k): v for k, v in one.items()}, where)
            for one, where in _tables(raw, "review")
        ),
    )


def _tables(raw: Mapping[str, Any], key: str) -> Iterator[tuple[dict[str, Any], str]]:
    """The tables of this key, each with what it is called where something in it is wrong."""
    found = raw.get(key, [])
    if not isinstance(found, list) or not all(isinstance(x, dict) for x in found):
        raise Unreadable(f"{key}: this is no list of tables; write [[{key}]]")
    for number, one in enumerate(found, start=1):
        name = one.get("name")
        yield one, f"{key} {visible(name, 60)!r}" if isinstance(name, str) and name else f"{key} {number}"


def _records(raw: Mapping[str, Any], key: str, kind: type[T]) -> tuple[T, ...]:
    return tuple(checked(kind, one, where) for one, where in _tables(raw, key))


def _named(raw: Mapping[str, Any], key: str) -> Iterator[tuple[str, dict[str, Any]]]:
    """Things that are kept as a name and a body; the bodies belong to the bench, and are checked where they are taken
    in. Raises Unreadable: a name is missing, or stands twice."""
    seen: set[str] = set()
    for one, where in _tables(raw, key):
        name = checked(_Named, {k: v for k, v in one.items() if k == "name"}, where).name
        if name in seen:
            raise Unreadable(f"{where}: stands twice in the document; leave one out")
        seen.add(name)
        yield name, {k: v for k, v in one.items() if k != "name"}


@strict
@dataclass(frozen=True)
class _Named:
    name: Name


__all__ = [
    "OF_THE_ARCHIVE", "ClaimFrame", "Frame", "ProductFrame", "ReviewFrame", "RigFrame", "SetupFrame", "frame_of",
    "frame_text", "read_frame", "write_frame",
]  # fmt: skip
