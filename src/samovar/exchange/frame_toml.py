"""Products, rigs, courses, loads, rates and reviews as one TOML document, written and read without loss.

Every value stands in its kept unit, as its key says (`height_m = 0.161`); a person may write text with a unit
instead (`height_m = "6.34 in"`), read as in the interface.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, fields
from pathlib import Path
from typing import Any

from samovar.core.fields import Field, check_value
from samovar.core.money import CURRENCIES, DAY, Rate
from samovar.core.product import KINDS, NOTE_KINDS, PRICE_KINDS, Note, Price
from samovar.core.quantity import ROLES
from samovar.core.rig import RIG_FIELDS
from samovar.core.setup_changes import CHANGES
from samovar.core.units import Unreadable
from samovar.exchange.problems import InputError
from samovar.exchange.toml_text import read_toml

FORMAT = 1


@dataclass(frozen=True)
class ProductFrame:
    """A product without an archive."""

    name: str
    kind: str
    specification: dict[str, Any] = field(default_factory=dict)
    prices: tuple[Price, ...] = ()
    notes: tuple[Note, ...] = ()


@dataclass(frozen=True)
class RigFrame:
    """A rig without an archive: `values` by the keys of RIG_FIELDS."""

    name: str
    values: dict[str, Any] = field(default_factory=dict)
    sensors: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class SetupFrame:
    """A setup: its rig and products by name."""

    name: str
    rig: str | None = None
    products: tuple[str, ...] = ()
    changes: dict[str, Any] = field(default_factory=dict)
    reference: bool = False


@dataclass(frozen=True)
class ClaimFrame:
    """A claim of the verdict: its setups by name."""

    kind: str
    setup: str | None = None
    other: str | None = None
    load: str = ""
    accepted: str | None = None


@dataclass(frozen=True)
class ReviewFrame:
    """A review without its runs."""

    name: str
    question: str = ""
    verdict: str = ""
    loads: tuple[str, ...] = ()
    courses: dict[str, str] = field(default_factory=dict)
    passes_wanted: int = 2
    margin_k: float = 1.0
    margin_share: float = 0.02
    noise_limit_dba: float | None = None
    setups: tuple[SetupFrame, ...] = ()
    claims: tuple[ClaimFrame, ...] = ()


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


def _bare(thing: Any) -> dict[str, Any]:
    """A dataclass as TOML can hold it: nothing that is None or empty."""
    found: dict[str, Any] = _without_nothing(asdict(thing))
    return found


def _without_nothing(value: Any) -> Any:
    if isinstance(value, dict):
        return {
            k: _without_nothing(v) for k, v in value.items() if v is not None and v not in ({}, (), [], "")
        }
    return [_without_nothing(v) for v in value] if isinstance(value, list | tuple) else value


def frame_text(frame: Frame) -> str:
    """The document."""
    import tomli_w

    document: dict[str, Any] = {"samovar": {"format": FORMAT}}
    document["product"] = [_bare(p) for p in frame.products]
    document["rig"] = [_bare(r) for r in frame.rigs]
    document["course"] = [{"name": name, **body} for name, body in frame.courses.items()]
    document["load"] = [{"name": name, **body} for name, body in frame.loads.items()]
    document["rate"] = [_bare(r) for r in frame.rates]
    document["review"] = [_review_plain(r) for r in frame.reviews]
    return tomli_w.dumps({k: v for k, v in document.items() if v != []})


def _review_plain(review: ReviewFrame) -> dict[str, Any]:
    plain = _bare(review)
    plain.pop("setups", None)
    plain.pop("claims", None)
    if review.setups:
        plain["setup"] = [_bare(s) for s in review.setups]
    if review.claims:
        plain["claim"] = [_bare(c) for c in review.claims]
    return plain


def write_frame(frame: Frame, path: Path) -> None:
    """Write the document; what stands there is replaced once it is whole. Raises InputError."""
    part = path.with_name(f".{path.name}.part")
    try:
        part.write_text(frame_text(frame), encoding="utf-8")
        part.replace(path)
    except OSError as problem:
        raise InputError(
            f"{path}: {(problem.strerror or 'cannot be written').lower()}; name a place that can be written"
        ) from problem


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
    _only(raw, "the document", "samovar", "product", "rig", "course", "load", "rate", "review")
    header = raw.get("samovar", {})
    if not isinstance(header, Mapping) or header.get("format") != FORMAT:
        raise Unreadable(
            f"samovar.format is not {FORMAT}; begin the document with [samovar] and format = {FORMAT}"
        )
    products = tuple(_product(p, f"product {k}") for k, p in _tables(raw, "product"))
    rigs = tuple(_rig(r, f"rig {k}") for k, r in _tables(raw, "rig"))
    return Frame(
        products,
        rigs,
        {
            _name(c, f"course {k}"): {x: v for x, v in c.items() if x != "name"}
            for k, c in _tables(raw, "course")
        },
        {_name(x, f"load {k}"): {y: v for y, v in x.items() if y != "name"} for k, x in _tables(raw, "load")},
        tuple(_rate(r, f"rate {k}") for k, r in _tables(raw, "rate")),
        tuple(_review(r, f"review {k}") for k, r in _tables(raw, "review")),
    )


def _tables(raw: Mapping[str, Any], key: str, where: str = "") -> list[tuple[int, dict[str, Any]]]:
    found = raw.get(key, [])
    if not isinstance(found, list) or not all(isinstance(x, dict) for x in found):
        raise Unreadable(f"{where}{key}: this is no list of tables; write [[{key}]]")
    return list(enumerate(found, start=1))


def _only(raw: Mapping[str, Any], where: str, *keys: str) -> None:
    for key in raw:
        if key not in keys:
            raise Unreadable(f"{where}: {key!r} is not understood; write one of {', '.join(keys)}")


def _name(raw: Mapping[str, Any], where: str) -> str:
    name = raw.get("name")
    if not isinstance(name, str) or not name.strip():
        raise Unreadable(f'{where}: a name is missing; write name = "…"')
    return name


def _values(raw: Any, where: str, known: Sequence[Field]) -> dict[str, Any]:
    if not isinstance(raw, Mapping):
        raise Unreadable(f"{where}: this is no table of values; write key = value lines")
    by_key = {f.key: f for f in known}
    out: dict[str, Any] = {}
    for key, value in raw.items():
        if key not in by_key:
            raise Unreadable(f"{where}: {key!r} is not understood; write one of {', '.join(by_key)}")
        try:
            out[key] = check_value(by_key[key], value)
        except Unreadable as problem:
            raise Unreadable(f"{where}: {key}: {problem}") from problem
    return out


def _typed(kind: type, raw: Any, where: str) -> Any:
    """A flat dataclass of text, numbers and truth values."""
    if not isinstance(raw, Mapping):
        raise Unreadable(f"{where}: this is no table; write key = value lines")
    known = {f.name: str(f.type) for f in fields(kind)}
    _only(raw, where, *known)
    for key, value in raw.items():
        wanted = known[key]
        fits = (
            isinstance(value, bool) if wanted.startswith("bool")
            else isinstance(value, int | float) and not isinstance(value, bool) if wanted.startswith(("float", "int"))
            else isinstance(value, str) if wanted.startswith("str")
            else True
        )  # fmt: skip
        if not fits:
            raise Unreadable(f"{where}: {key}: {value!r} is no {wanted.split()[0]}; correct it")
    try:
        return kind(**raw)
    except TypeError as problem:
        raise Unreadable(f"{where}: {problem}; write what is missing") from problem


def _product(raw: Mapping[str, Any], where: str) -> ProductFrame:
    _only(raw, where, "name", "kind", "specification", "prices", "notes")
    name = _name(raw, where)
    where = f"product {name!r}"
    kind = raw.get("kind")
    if kind not in KINDS:
        raise Unreadable(f"{where}: {kind!r} is no kind of product; write one of {', '.join(KINDS)}")
    prices = tuple(_typed(Price, p, f"{where}, price {k}") for k, p in _tables(raw, "prices", f"{where}: "))
    for price in prices:
        _price(price, where)
    notes = tuple(_typed(Note, n, f"{where}, note {k}") for k, n in _tables(raw, "notes", f"{where}: "))
    for note in notes:
        if note.kind not in NOTE_KINDS:
            raise Unreadable(
                f"{where}: {note.kind!r} is no kind of note; write one of {', '.join(NOTE_KINDS)}"
            )
    return ProductFrame(name, kind, _values(raw.get("specification", {}), where, KINDS[kind]), prices, notes)


def _price(price: Price, where: str) -> None:
    if price.currency not in CURRENCIES:
        raise Unreadable(f"{where}: {price.currency!r} is no currency code of ISO 4217; write EUR or NOK")
    if price.kind not in PRICE_KINDS or not DAY.fullmatch(price.day) or price.amount < 0:
        raise Unreadable(
            f"{where}: a price is amount, currency, day (2026-03-02) and kind ({', '.join(PRICE_KINDS)})"
        )


def _rate(raw: Mapping[str, Any], where: str) -> Rate:
    rate: Rate = _typed(Rate, raw, where)
    if (
        rate.currency not in CURRENCIES
        or rate.into not in CURRENCIES
        or rate.value <= 0
        or not DAY.fullmatch(rate.day)
    ):
        raise Unreadable(f"{where}: a rate is currency, into, value above 0 and day (2026-03-02)")
    return rate


def _rig(raw: Mapping[str, Any], where: str) -> RigFrame:
    _only(raw, where, "name", "values", "sensors")
    name = _name(raw, where)
    sensors = raw.get("sensors", {})
    if not isinstance(sensors, Mapping) or any(role not in ROLES for role in sensors.values()):
        raise Unreadable(f"rig {name!r}: sensors: a role is one of {', '.join(ROLES)}")
    return RigFrame(name, _values(raw.get("values", {}), f"rig {name!r}", RIG_FIELDS), dict(sensors))


def _texts(raw: Mapping[str, Any], key: str, where: str) -> tuple[str, ...]:
    found = raw.get(key, [])
    if not isinstance(found, list) or not all(isinstance(x, str) for x in found):
        raise Unreadable(f'{where}: {key}: this is no list of texts; write {key} = ["…", "…"]')
    return tuple(found)


def _review(raw: Mapping[str, Any], where: str) -> ReviewFrame:
    names = [f.name for f in fields(ReviewFrame) if f.name not in ("setups", "claims")]
    _only(raw, where, *names, "setup", "claim")
    name = _name(raw, where)
    where = f"review {name!r}"
    plain = {k: v for k, v in raw.items() if k in names and k not in ("loads", "courses")}
    review: ReviewFrame = _typed(ReviewFrame, plain, where)
    courses = raw.get("courses", {})
    if not isinstance(courses, Mapping) or not all(isinstance(v, str) for v in courses.values()):
        raise Unreadable(f'{where}: courses: this is no table of names; write load = "course"')
    if not 1 <= review.passes_wanted <= 20:
        raise Unreadable(f"{where}: passes_wanted: {review.passes_wanted} is not from 1 to 20; correct it")
    setups = []
    for k, s in _tables(raw, "setup", f"{where}: "):
        _only(s, f"{where}, setup {k}", *(f.name for f in fields(SetupFrame)))
        setup_where = f"{where}, setup {_name(s, f'{where}, setup {k}')!r}"
        flat = {key: v for key, v in s.items() if key not in ("products", "changes")}
        setup: SetupFrame = _typed(SetupFrame, flat, setup_where)
        changes = _values(s.get("changes", {}), setup_where, CHANGES)
        setups.append(
            SetupFrame(setup.name, setup.rig, _texts(s, "products", setup_where), changes, setup.reference)
        )
    claims = tuple(
        _typed(ClaimFrame, c, f"{where}, claim {k}") for k, c in _tables(raw, "claim", f"{where}: ")
    )
    kept = {k: getattr(review, k) for k in names if k not in ("loads", "courses")}
    return ReviewFrame(
        **kept, loads=_texts(raw, "loads", where), courses=dict(courses), setups=tuple(setups), claims=claims
    )
