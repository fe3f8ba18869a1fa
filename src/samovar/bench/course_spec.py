"""What a course is made of: the rules of its steps, in numbers, in words, and as they are kept."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields
from typing import Any

from samovar.core.die import is_stop_temperature, stop_range
from samovar.core.entered import values_of
from samovar.core.fields import Field
from samovar.core.units import Unreadable, parse, shown

READINGS = ("noise", "surface", "wall power", "score", "other")
WHEN = ("when settled", "at the end")
USUAL = "until steady"
"""The name of the course that a load has where nobody named another."""


@dataclass(frozen=True, slots=True)
class CourseStep:
    """One step of the load. `load`: another load than the cell's; `fan_share`: the fans' share of full speed;
    `load_s`: a fixed time, else until steady, at most `load_most_s` (None: as the course says)."""

    load: str = ""
    fan_share: float | None = None
    load_s: float | None = None
    load_most_s: float | None = None


@dataclass(frozen=True, slots=True)
class DueReading:
    """A value to be taken by hand: what, and when: once settled, at the end, or at a time after load start (s)."""

    what: str
    when: str = WHEN[0]
    at_s: float | None = None

    @property
    def words(self) -> str:
        """As people read and type it: `noise when settled`."""
        return f"{self.what} {self.when}" if self.at_s is None else f"{self.what} at {clock_text(self.at_s)}"


@dataclass(frozen=True, slots=True)
class CourseSpec:
    """The rules of a course. Times in seconds, temperatures in K or °C as named.

    `load_s`: a fixed time for the load; None means until steady, at most `load_most_s`. `within_k`: steady only
    once the mean's half-width is this small. `limits`: stop temperatures of other sensors, as `vrm 100`;
    `rise_k_per_s`: the die may not rise faster; `unguarded`: no guard watches. `marks`: words for what may happen, ready to be taken by one key. A step whose longest time is 0 is left out. `steps`: where the
    load has several.
    """

    load: str
    threads: int | None = None
    idle_least_s: float = 60.0
    idle_most_s: float = 600.0
    calm_k_per_min: float = 0.3
    load_s: float | None = None
    load_most_s: float = 1800.0
    steady_least_s: float = 180.0
    cool_down_k: float = 2.0
    cool_down_most_s: float = 900.0
    stop_above_c: float = 105.0
    within_k: float | None = None
    limits: tuple[str, ...] = ()
    rise_k_per_s: float | None = None
    unguarded: bool = False
    steps: tuple[CourseStep, ...] = ()
    readings: tuple[DueReading, ...] = (DueReading("noise"),)
    marks: tuple[str, ...] = ("fans to full", "panel off", "panel on", "graphics load joins")

    @property
    def plan(self) -> tuple[CourseStep, ...]:
        """The load's steps: one, where none are named."""
        return self.steps or (CourseStep(load_s=self.load_s),)

    @property
    def longest_s(self) -> float:
        """The longest it can take."""
        loads = sum(
            p.load_s if p.load_s is not None else (p.load_most_s or self.load_most_s) for p in self.plan
        )
        return self.idle_most_s + loads + self.cool_down_most_s

    def words(self) -> str:
        """The load's rule for ending, as people read it."""
        if self.steps:
            return ", then ".join(step_words(s) for s in self.steps)
        if self.load_s is not None:
            return f"for {clock_text(self.load_s)}"
        within = f" within ±{self.within_k:g} K" if self.within_k else ""
        return f"until steady{within}, at most {clock_text(self.load_most_s)}"


def clock_text(seconds: float) -> str:
    """Minutes and seconds, `14:32`; hours before them where there are any."""
    whole = round(seconds)
    hours, rest = divmod(whole, 3600)
    minutes, second = divmod(rest, 60)
    return f"{hours}:{minutes:02d}:{second:02d}" if hours else f"{minutes}:{second:02d}"


COURSE_FIELDS: tuple[Field, ...] = (
    Field("idle_least_s", "idle at least", "time", section="idle", example="60 s"),
    Field("idle_most_s", "idle at most", "time", section="idle", example="10 min"),
    Field("calm_k_per_min", "calm under, K/min", "number", section="idle", example="0.3"),
    Field("load_s", "load for", "time", section="load", example="empty: until steady"),
    Field("within_k", "steady within ±", "difference", section="load", example="0.5 K"),
    Field("load_most_s", "load at most", "time", section="load", example="30 min"),
    Field("steps", "steps", "words", section="load", example="fans 40 %, fans 60 %, fans 100 %"),
    Field("cool_down_k", "cool down to idle +", "difference", section="cool-down and guard", example="2 K"),
    Field("cool_down_most_s", "cool down at most", "time", section="cool-down and guard", example="15 min"),
    Field("stop_above_c", "guard stops over", "temperature", section="cool-down and guard", example="empty: limit + 10 K"),
    Field("limits", "and other sensors over", "words", section="cool-down and guard", example="vrm 100, memory 85"),
    Field("rise_k_per_s", "and a rise over, K/s", "number", section="cool-down and guard", example="empty: none"),
    Field("readings", "readings by hand", "words", section="by hand", example="noise when settled, surface at the end"),
    Field("marks", "prepared marks", "words", section="by hand", example="fans to full, panel off"),
)  # fmt: skip
"""What can be set of a course that is kept under a name; what is left empty is as usual."""


_RULES = values_of(COURSE_FIELDS)


def step_words(step: CourseStep) -> str:
    """A step as people read and type it: `heavy work fans 60 % for 10:00`."""
    parts = [step.load] if step.load else []
    if step.fan_share is not None:
        parts.append(f"fans {shown('share', step.fan_share)}")
    if step.load_s is not None:
        parts.append(f"for {clock_text(step.load_s)}")
    elif step.load_most_s is not None:
        parts.append(f"at most {clock_text(step.load_most_s)}")
    return " ".join(parts) or "as the load is"


def read_step(text: str) -> CourseStep:
    """A step as typed: `LOAD fans N % for TIME`, each part of it optional.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    rest, fan, for_s, most = text.strip(), None, None, None
    try:
        if (found := re.search(r"\b(for|at most)\s+([\d:., a-z]+)$", rest)) is not None:
            seconds = parse("time", found[2])
            for_s, most = (seconds, None) if found[1] == "for" else (None, seconds)
            rest = rest[: found.start()].strip()
        if (found := re.search(r"\bfans?\s+(\d+(?:[.,]\d+)?\s*%?)$", rest)) is not None:
            fan = parse("share", found[1])
            rest = rest[: found.start()].strip()
    except Unreadable as problem:
        raise Unreadable(f"step {text!r}: {problem}") from problem
    if fan is None and for_s is None and most is None and not rest:
        raise Unreadable(f"step {text!r} says nothing; write fans 60 % or heavy work for 10 min")
    return CourseStep(rest, fan, for_s, most)


def read_limits(texts: Sequence[str]) -> dict[str, float]:
    """Stop temperatures of other sensors, by role or by channel name, °C: `vrm 100`.

    Raises:
        Unreadable: a name or a temperature is missing, with an example.
    """
    found = {}
    for text in texts:
        name, _, limit = text.strip().rpartition(" ")
        if not name or not re.fullmatch(r"\d+(?:[.,]\d+)?", limit):
            raise Unreadable(f"{text!r} is no limit; write a role or a channel and its °C, such as vrm 100")
        value = float(limit.replace(",", "."))
        if not is_stop_temperature(value):
            raise Unreadable(f"{text!r}: a limit lies {stop_range()}; write one such as vrm 100")
        found[name] = value
    return found


def read_due(text: str) -> DueReading:
    """A reading as typed: `noise when settled`, `surface at the end`, `wall power at 10:00`.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    typed = " ".join(text.lower().split())
    for what in READINGS:
        if typed.startswith(what):
            when = typed[len(what) :].strip()
            if when in ("", "settled", *WHEN):
                return DueReading(what, WHEN[1] if when == WHEN[1] else WHEN[0])
            if when.startswith("at "):
                return DueReading(what, "at", parse("time", when[3:]))
    raise Unreadable(
        f"{text!r} is no reading; write noise when settled, surface at the end or wall power at 10:00"
    )


def read_course(values: Mapping[str, Any]) -> dict[str, Any]:
    """A course's body out of values by the keys of COURSE_FIELDS; steps and readings are checked.

    Raises:
        Unreadable: what is wrong, and an example.
    """
    body = {
        k: v for k, v in values.items() if v is not None and k not in ("steps", "readings", "limits", "marks")
    }
    if body.get("idle_least_s", 60.0) > body.get("idle_most_s", 600.0):
        raise Unreadable("idle at least is longer than idle at most; make it shorter")
    if values.get("limits"):
        body["limits"] = [f"{name} {limit:g}" for name, limit in read_limits(values["limits"]).items()]
    if values.get("stop_above_c") is not None and not is_stop_temperature(values["stop_above_c"]):
        raise Unreadable(f"guard stops over: a stop temperature lies {stop_range()}; write one such as 95")
    for key, field in ((f.key, f) for f in COURSE_FIELDS if f.of in ("time", "number", "difference")):
        if body.get(key, 0.0) < 0.0:
            raise Unreadable(f"{field.label}: {body[key]:g} is less than nothing; correct it")
    if values.get("rise_k_per_s") is not None and values["rise_k_per_s"] <= 0:
        raise Unreadable("a rise is more than nothing; write 3 or leave it empty")
    if values.get("steps"):
        body["steps"] = [step_words(read_step(t)) for t in values["steps"]]
    if values.get("readings") is not None:
        body["readings"] = [read_due(t).words for t in values["readings"]]
    if values.get("marks"):
        if len(values["marks"]) > 9:
            raise Unreadable("at most nine marks can be prepared, one for each digit; leave some out")
        body["marks"] = [" ".join(str(t).split())[:60] for t in values["marks"]]
    return body


def checked_course(raw: Mapping[str, Any]) -> dict[str, Any]:
    """A course's body out of a document or an archive, every value checked. Raises Unreadable."""
    try:
        return read_course(_RULES(raw))
    except Unreadable:
        raise
    except ValueError as problem:
        raise Unreadable(str(problem)) from problem


def spec_of(
    load: str, body: Mapping[str, Any], limit_c: float | None = None, threads: int | None = None
) -> CourseSpec:
    """The course of a cell: its load under a kept course's body (as `read_course` gives it).

    The guard stops 10 K over the chip's limit where the course does not say; 105 °C where neither is known.
    """
    known = {f.name for f in fields(CourseSpec)} - {
        "load", "threads", "steps", "readings", "limits", "marks", "unguarded",
    }  # fmt: skip
    values: dict[str, Any] = {k: float(v) for k, v in body.items() if k in known}
    values.setdefault("stop_above_c", limit_c + 10.0 if limit_c else 105.0)
    if "limits" in body:
        values["limits"] = tuple(body["limits"])
    if "steps" in body:
        values["steps"] = tuple(read_step(t) for t in body["steps"])
    if "readings" in body:
        values["readings"] = tuple(read_due(t) for t in body["readings"])
    if "marks" in body:
        values["marks"] = tuple(body["marks"])
    return CourseSpec(load, threads, **values)
