"""FACTS.toml and MAP.toml: read with every key checked, written so that they can be read again."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Annotated, Any, TypeVar

from samovar.core.by_hand.reading import KINDS, HandReading
from samovar.core.entered import Check, Line, Truth, between, checked, one_of, strict
from samovar.core.exclusions import Exclusion
from samovar.core.facts import Facts, GraphicsFacts, ProcessorFacts, RoomFacts
from samovar.core.marks import FANS, JOINS, LEAVES, LOAD, Change, Mark
from samovar.core.measured import AT_LEAST, AT_MOST
from samovar.core.quantity import ROLES
from samovar.core.sound.kept import sound_in
from samovar.core.units import Unreadable
from samovar.exchange.problems import InputError
from samovar.exchange.toml_text import read_toml

T = TypeVar("T")

Moment = Annotated[float, between(-1e9, 1e9, "s")]
MOST = 1e15
"""No value of anything on a bench is larger."""


@strict
@dataclass(frozen=True)
class _MarkLine:
    at_s: Moment
    text: Line


@strict
@dataclass(frozen=True)
class _LeftOut:
    start_s: Moment
    end_s: Moment
    reason: Line


_Share = Annotated[float, between(0.0, 1.0)]


def _sound(text: str) -> str:
    if sound_in(text) is None:
        raise ValueError("is nothing that was listened to; leave it out")
    return text


@strict
@dataclass(frozen=True)
class _ByHand:
    """One reading that a person took."""

    kind: Annotated[str, one_of(tuple(KINDS), "kind of reading")]
    value: Annotated[float, between(-MOST, MOST)] | None = None
    unit: Line = ""
    half_width_95: Annotated[float, between(0.0, MOST)] | None = None
    bound: Annotated[str, one_of((AT_MOST, AT_LEAST), "bound")] | None = None
    at_s: Moment | None = None
    place: Line = ""
    instrument: Line = ""
    distance_m: Annotated[float, between(0.0, 1e3, "m")] | None = None
    background: Annotated[float, between(-100.0, 200.0, "dBA")] | None = None
    emissivity: _Share | None = None
    set_to: _Share | None = None
    character: Line = ""
    typed: Line = ""
    words: Line = ""
    heard: Annotated[str, Check(_sound)] | None = None

    def reading(self, n: int) -> HandReading:
        values = asdict(self)
        return HandReading(half_width=values.pop("half_width_95"), n=n, **values)


def _by_hand_line(reading: HandReading) -> dict[str, Any]:
    """A reading as `_ByHand` reads it again."""
    line = asdict(reading)
    line["half_width_95"] = line.pop("half_width")
    line.pop("n")
    if reading.sound is not None:
        # The piece of sound itself stays in the archive.
        line["heard"] = replace(reading.sound, clip="", full_scale_db=None).text()
    return {
        key: float(value) if isinstance(value, int | float) else value
        for key, value in line.items()
        if value is not None and value != ""
    }


@strict
@dataclass(frozen=True)
class _ChangeLine:
    """One change of load or fans."""

    at_s: Moment
    what: Annotated[str, one_of((FANS, LOAD, JOINS, LEAVES), "change")]
    name: Line = ""
    value: Annotated[float, between(0.0, 1.0)] | None = None


@strict
@dataclass(frozen=True)
class _Run:
    stopped_early: Truth | None = None
    marks: tuple[_MarkLine, ...] = ()
    roles: dict[str, Annotated[str, one_of(ROLES, "role")]] = field(default_factory=dict)
    window_s: tuple[Moment, Moment] | None = None
    left_out: tuple[_LeftOut, ...] = ()
    by_hand: tuple[_ByHand, ...] = ()
    changes: tuple[_ChangeLine, ...] = ()
    reference_clock_mhz: Annotated[float, between(0.0, 20_000.0, "MHz")] | None = None


@strict
@dataclass(frozen=True)
class _FactsFile:
    cpu: ProcessorFacts = field(default_factory=ProcessorFacts)
    gpu: GraphicsFacts = field(default_factory=GraphicsFacts)
    room: RoomFacts = field(default_factory=RoomFacts)
    run: _Run = field(default_factory=_Run)


@strict
@dataclass(frozen=True)
class _MapEntry:
    quantity: Line | None = None
    unit: Line | None = None
    role: Line | None = None
    domain: Line | None = None


@strict
@dataclass(frozen=True)
class _MapFile:
    time: Line | None = None
    channels: dict[str, _MapEntry] = field(default_factory=dict)


def _load(path: Path, kind: type[T]) -> T:
    try:
        return checked(kind, read_toml(path))
    except Unreadable as problem:
        raise InputError(f"{path}: {problem}") from problem


@dataclass(frozen=True)
class RunNotes:
    """What a facts file says of the run it lies beside: whether it was stopped early, its marks, roles of channels, by
    name, that their titles do not tell, the averaging window set by hand, stretches left out of its figures, what a person
    read, what was changed of load and fans, and the free clock of other runs that it was read with."""

    stopped_early: bool | None = None
    marks: tuple[Mark, ...] = ()
    roles: dict[str, str] = field(default_factory=dict)
    window_s: tuple[float, float] | None = None
    left_out: tuple[Exclusion, ...] = ()
    by_hand: tuple[HandReading, ...] = ()
    changes: tuple[Change, ...] = ()
    reference_clock_mhz: float | None = None


def read_facts(path: Path) -> tuple[Facts, RunNotes]:
    """Facts of a file, and what it says of a run.

    Raises:
        InputError: no such file, no TOML, an unknown key or a value out of bounds.
    """
    found = _load(path, _FactsFile)
    run = found.run
    marks = tuple(Mark(m.at_s, m.text) for m in run.marks)
    left_out = tuple(Exclusion(one.start_s, one.end_s, one.reason) for one in run.left_out)
    by_hand = tuple(one.reading(n) for n, one in enumerate(run.by_hand, 1))
    changes = tuple(Change(one.at_s, one.what, one.name, one.value) for one in run.changes)
    notes = RunNotes(
        run.stopped_early, marks, run.roles, run.window_s, left_out, by_hand, changes, run.reference_clock_mhz
    )
    return Facts(found.cpu, found.gpu, found.room), notes


def read_map(path: Path) -> dict[str, Any]:
    """A column map. Raises InputError as `read_facts` does."""
    return asdict(_load(path, _MapFile))


def facts_text(facts: Facts, notes: RunNotes = RunNotes()) -> str:
    """Facts as TOML, only what is known, and what was noted of the run."""
    import tomli_w

    parts = {
        part: {k: v for k, v in values.items() if v is not None} for part, values in asdict(facts).items()
    }
    if facts.room == RoomFacts():
        parts.pop("room")
    run: dict[str, Any] = {"stopped_early": True} if notes.stopped_early else {}
    if notes.roles:
        run["roles"] = notes.roles
    if notes.marks:
        run["marks"] = [{"at_s": float(m.at_s), "text": m.text} for m in notes.marks]
    if notes.window_s is not None:
        run["window_s"] = [float(edge) for edge in notes.window_s]
    if notes.left_out:
        run["left_out"] = [asdict(one) for one in notes.left_out]
    if notes.by_hand:
        run["by_hand"] = [_by_hand_line(one) for one in notes.by_hand]
    if notes.reference_clock_mhz is not None:
        run["reference_clock_mhz"] = float(notes.reference_clock_mhz)
    if notes.changes:
        run["changes"] = [
            {k: v for k, v in asdict(one).items() if v is not None and v != ""} for one in notes.changes
        ]
    document = {part: values for part, values in {**parts, "run": run}.items() if values}
    return tomli_w.dumps(document) if document else ""
