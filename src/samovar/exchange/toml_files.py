"""FACTS.toml and MAP.toml: read with every key checked, written so that they can be read again."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from samovar.core.exclusions import Exclusion
from samovar.core.facts import Facts
from samovar.core.facts_plain import facts_from_plain
from samovar.core.quantity import ROLES
from samovar.core.recording import Mark
from samovar.exchange.problems import InputError
from samovar.exchange.toml_text import read_toml


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=False)


class _Cpu(_Strict):
    name: str | None = None
    cores: int | None = Field(default=None, gt=0)
    temperature_limit_c: float | None = Field(default=None, gt=0, lt=200)
    base_clock_mhz: float | None = Field(default=None, gt=0)
    boost_clock_mhz: float | None = Field(default=None, gt=0)
    sustained_power_w: float | None = Field(default=None, gt=0)
    burst_power_w: float | None = Field(default=None, gt=0)
    burst_time_s: float | None = Field(default=None, ge=0)


class _Gpu(_Strict):
    temperature_limit_c: float | None = Field(default=None, gt=0, lt=200)


class _Room(_Strict):
    temperature_c: float | None = Field(default=None, gt=-40, lt=80)
    standard_uncertainty_k: float = Field(default=0.15, ge=0)


class _Mark(_Strict):
    at_s: float
    text: str


class _LeftOut(_Strict):
    start_s: float
    end_s: float
    reason: str


class _Run(_Strict):
    stopped_early: bool | None = None
    marks: list[_Mark] = []
    roles: dict[str, str] = {}
    window_s: tuple[float, float] | None = None
    left_out: list[_LeftOut] = []


class _FactsFile(_Strict):
    cpu: _Cpu = _Cpu()
    gpu: _Gpu = _Gpu()
    room: _Room = _Room()
    run: _Run = _Run()


class _MapEntry(_Strict):
    quantity: str | None = None
    unit: str | None = None
    role: str | None = None
    domain: str | None = None


class _MapFile(_Strict):
    time: str | None = None
    channels: dict[str, _MapEntry] = {}


def _load(path: Path, model: type[BaseModel]) -> dict[str, Any]:
    try:
        return model.model_validate(read_toml(path)).model_dump()
    except ValidationError as problem:
        first = problem.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise InputError(f"{path}: {where}: {first['msg'].lower()}; correct that key") from problem


@dataclass(frozen=True)
class RunNotes:
    """What a facts file says of the run it lies beside: whether it was stopped early, its marks, roles of channels, by
    name, that their titles do not tell, the averaging window set by hand, and stretches left out of its figures."""

    stopped_early: bool | None = None
    marks: tuple[Mark, ...] = ()
    roles: dict[str, str] = field(default_factory=dict)
    window_s: tuple[float, float] | None = None
    left_out: tuple[Exclusion, ...] = ()


def read_facts(path: Path) -> tuple[Facts, RunNotes]:
    """Facts of a file, and what it says of a run.

    Raises:
        InputError: no such file, no TOML, an unknown key or a value out of bounds.
    """
    plain = _load(path, _FactsFile)
    run = plain.pop("run")
    marks = tuple(Mark(m["at_s"], m["text"]) for m in run["marks"])
    for name, role in run["roles"].items():
        if role not in ROLES:
            raise InputError(
                f"{path}: run.roles.{name}: {role!r} is no role; write one of {', '.join(ROLES)}"
            )
    left_out = tuple(Exclusion(**one) for one in run["left_out"])
    notes = RunNotes(run["stopped_early"], marks, run["roles"], run["window_s"], left_out)
    return facts_from_plain(plain), notes


def read_map(path: Path) -> dict[str, Any]:
    """A column map. Raises InputError as `read_facts` does."""
    return _load(path, _MapFile)


def facts_text(facts: Facts, notes: RunNotes = RunNotes()) -> str:
    """Facts as TOML, only what is known, and what was noted of the run."""
    import tomli_w

    parts = {
        part: {k: v for k, v in values.items() if v is not None} for part, values in asdict(facts).items()
    }
    if facts.room.temperature_c is None:
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
    document = {part: values for part, values in {**parts, "run": run}.items() if values}
    return tomli_w.dumps(document) if document else ""
