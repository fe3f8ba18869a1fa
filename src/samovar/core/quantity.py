"""Everything that is known of a kind of value, once: its unit, its digits, what is plausible, which side is better, its
colours, its strip, its words and units in logs; and the roles and domains a channel may have."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from samovar.core.shown_text import one_line

LESS, MORE = "less", "more"
_NO_LIMIT = (-math.inf, math.inf)


@dataclass(frozen=True)
class StripLook:
    """How a quantity is drawn over time: its share of the height, whether it is always shown or only among more, and
    what a strip spans at the least, so that a curve that hardly moves is not blown up to fill it."""

    weight: float
    always: bool
    least_span: float = 0.0


@dataclass(frozen=True)
class Quantity:
    """One kind of value.

    Attributes:
        key, label, unit: its name in code, as a title, and the unit it is kept and shown in.
        decimals: more than any sensor of this kind is worth.
        plausible: what lies outside is no measurement.
        better: LESS or MORE is better of it; None where neither is.
        relative: what counts as a practical difference is a share of it.
        colour: on dark and on light.
        strip: how it is drawn over time; None where it never is.
        words: how titles without a unit speak of it, a regular expression.
        written: units as logs write them, lower case: factor and offset into `unit`.
        counted: units that do not become `unit`, as logs write them: the unit it is then kept in, and the factor.
        kernel: what the kernel's files of its sensors begin with, and by what their numbers are divided.
        a_channel: whether a channel measures it; results alone have the others.
        drawn_with: the quantity whose strip shows it too, as a band about that one's curve.
        averaged: whether a mean of it over time is a result.
        told_alone: whether a channel of it means something by itself; lists leave out what only does among its like.
    """

    key: str
    label: str
    unit: str
    decimals: int
    colour: tuple[str, str]
    plausible: tuple[float, float] = _NO_LIMIT
    better: str | None = None
    relative: bool = True
    strip: StripLook | None = None
    words: str = ""
    written: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    counted: Mapping[str, tuple[str, float]] = field(default_factory=dict)
    kernel: Mapping[str, float] = field(default_factory=dict)
    a_channel: bool = True
    drawn_with: str = ""
    averaged: bool = True
    told_alone: bool = True


def _same(*names: str, factor: float = 1.0, offset: float = 0.0) -> dict[str, tuple[float, float]]:
    return dict.fromkeys(names, (factor, offset))


def _kept_as(unit: str, *names: str, factor: float = 1.0) -> dict[str, tuple[str, float]]:
    return dict.fromkeys(names, (unit, factor))


FULL_SCALE: Final = "dBFS"
"""Decibels over a full-scale sine: what a level is in where nobody knows how loud that is."""

QUANTITIES: Final[dict[str, Quantity]] = {
    q.key: q
    for q in (
        # In the order in which titles are looked through: a flag's title names what it throttles.
        Quantity(
            "flag", "Flag", "", 0, ("#d9605a", "#9c231e"), averaged=False,
            words=r"throttl|prochot|\blimit(?:ed|ing)?\b.*(?:reason|exceeded|reached|active|hit)|power limit exceeded",
            written=_same("yes/no", "y/n", "true/false", "on/off", "0/1", "flag", "bool"),
        ),
        Quantity(
            "temperature", "Temperature", "°C", 1, ("#f27d4e", "#c44515"), (-60.0, 250.0), LESS, False,
            StripLook(1.9, True, 8.0),
            r"temp(?:erature|eratur|s)?\b|\btemp(?![a-z])|\btemp(?:erat|sens)|°c|tdie|tctl|tjunction|\bt_?j\b|hot ?spot",
            {
                **_same("°c", "c", "degc", "deg c", "deg. c", "celsius", "celcius", "centigrade", "grad", "°"),
                **_same("m°c", "mc", "mdegc", "millidegree", "millidegrees", factor=1e-3),
                **_same("°f", "f", "degf", "deg f", "fahrenheit", factor=5.0 / 9.0, offset=-160.0 / 9.0),
                **_same("k", "kelvin", offset=-273.15),
            },
            kernel={"temp": 1e3},
        ),
        Quantity(
            "clock", "Clock", "MHz", 0, ("#6cb2f0", "#1a63a5"), (0.0, 20_000.0), MORE, True, StripLook(1.15, True, 200.0),
            r"\bclocks?\b|\bclk|\bfreq|mhz|\btakt",
            {
                **_same("mhz", "megahertz"), **_same("ghz", factor=1e3), **_same("khz", factor=1e-3),
                **_same("hz", factor=1e-6),
            },
            kernel={"freq": 1e6},
        ),
        Quantity(
            "power", "Power", "W", 1, ("#eed45f", "#5c4700"), (-0.5, 5_000.0), LESS, True, StripLook(1.05, True, 4.0),
            r"\bpower|\bwatt|leistung|\bppt\b|\btdp\b",
            {
                **_same("w", "watt", "watts"), **_same("mw", "milliwatt", factor=1e-3),
                **_same("uw", "µw", factor=1e-6), **_same("kw", factor=1e3),
            },
            kernel={"power": 1e6, "energy": 1e6},
        ),
        Quantity(
            "fan", "Fan", "rpm", 0, ("#85c39f", "#0c5b4d"), (0.0, 30_000.0), LESS, True, StripLook(0.8, True, 200.0),
            r"\bfans?(?![a-z])|\bfanspeed|\brpm\b|l[üu]fter|drehzahl|\bpump speed",
            _same("rpm", "r/min", "u/min", "1/min", "min-1", "tr/min", "/min", "rev/min"),
            kernel={"fan": 1.0},
        ),
        Quantity(
            "voltage", "Voltage", "V", 3, ("#ec93bb", "#a33770"), (-60.0, 500.0), None, True, StripLook(0.7, False),
            r"\bvolt|vcore|\bvdd|spannung|\bvid\b",
            {**_same("v", "volt", "volts"), **_same("mv", factor=1e-3), **_same("uv", "µv", factor=1e-6)},
            kernel={"in": 1e3},
        ),
        Quantity(
            "current", "Current", "A", 2, ("#c9986f", "#7b4f28"), (-500.0, 2_000.0), None, True, StripLook(0.7, False),
            "",
            {**_same("a", "amp", "amps", "ampere"), **_same("ma", factor=1e-3), **_same("ua", "µa", factor=1e-6)},
            kernel={"curr": 1e3},
        ),
        Quantity(
            "noise", "Noise", "dBA", 1, ("#bb7ad1", "#5e3298"), (0.0, 160.0), LESS, False, StripLook(0.8, False, 6.0),
            r"\bnoise|\bdba\b|\bsound\b|\bsound ?level|lautst",
            _same("dba", "db(a)", "db a", "db", "db spl"),
            # Where nothing is known of a microphone, levels are over the full scale of its own numbers.
            _kept_as(FULL_SCALE, "dbfs"),
        ),
        Quantity(
            "humidity", "Humidity", "%", 0, ("#7db7bf", "#2c6b74"), (0.0, 100.001), None, True, StripLook(0.7, False),
            r"\bhumid|feuchte",
            _same("% rh", "%rh", "rh", "% r.h."),
            kernel={"humidity": 1e3},
        ),
        Quantity(
            "load", "Utilisation", "%", 0, ("#97a3b3", "#5c676b"), (-0.001, 10_000.0), None, True, StripLook(0.7, False),
            r"\butili[sz]ation|\busage|\bload\b|auslastung|\bbusy\b",
            _same("%", "percent", "pct", "prozent"),
        ),
        Quantity(
            "work", "Work", "1/s", 0, ("#f1e8d8", "#2a251f"), (-1e-9, 1e12), MORE, True, StripLook(0.85, True),
            r"\bwork\b|\bscore rate|\bthroughput|\bframe ?rate|\biops\b",
            _same("1/s", "/s", "per second", "ops/s", "it/s", "items/s"),
            # What is done is counted in units that do not become each other.
            {
                **_kept_as("MB/s", "mb/s", "mbyte/s", "mbytes/s", "megabytes/s"),
                **_kept_as("MB/s", "gb/s", "gbyte/s", factor=1e3), **_kept_as("MB/s", "kb/s", "kbyte/s", factor=1e-3),
                **_kept_as("MB/s", "b/s", "bytes/s", factor=1e-6), **_kept_as("MB/s", "mib/s", factor=1.048576),
                **_kept_as("MB/s", "gib/s", factor=1073.741824), **_kept_as("MB/s", "kib/s", factor=1.024e-3),
                **_kept_as("IOPS", "iops", "io/s", "ios/s"), **_kept_as("IOPS", "kiops", factor=1e3),
                **_kept_as("fps", "fps", "frames/s", "frames per second", "f/s"),
            },
        ),
        # What only a microphone's own channels measure: F's least and greatest since the last sample, and third octaves.
        Quantity(
            "fast", "Level F", "dBA", 1, ("#bb7ad1", "#5e3298"), better=LESS, relative=False,
            counted=_kept_as(FULL_SCALE, "dbfs"), drawn_with="noise", told_alone=False,
        ),
        Quantity(
            "band", "Third octave", "dB", 1, ("#bb7ad1", "#5e3298"), better=LESS, relative=False,
            counted=_kept_as(FULL_SCALE, "dbfs"), averaged=False, told_alone=False,
        ),
        Quantity("energy", "Energy", "J", 0, ("#eed45f", "#5c4700"), better=LESS, a_channel=False),
        Quantity(
            "score", "Score", "points", 1, ("#f1e8d8", "#2a251f"), better=MORE, a_channel=False,
            written=_same("points", "point", "pts"),
        ),
        Quantity("time", "Time", "s", 1, ("#97a3b3", "#5c676b"), better=LESS, a_channel=False),
        Quantity("held", "Held", "%", 0, ("#d9605a", "#9c231e"), better=LESS, relative=False, a_channel=False),
        Quantity("price", "Price", "", 2, ("#c9b27a", "#6b5518"), better=LESS, a_channel=False),
        Quantity("other", "Other", "", 3, ("#a89c8b", "#6a6054"), a_channel=False),
    )
}  # fmt: skip
"""Every quantity by its key."""

UNITS: Final[dict[str, str]] = {
    key: QUANTITIES[key].unit
    for key in (
        "temperature", "clock", "power", "fan", "noise", "voltage", "current", "load", "work", "flag", "humidity",
    )
}  # fmt: skip
"""The one unit in which each quantity that people can choose for a channel is kept and shown, in the order they do that in."""


def decimals_of(unit: str, quantity: str = "") -> int:
    """More decimals than this no sensor is worth, by a value's unit where that tells, else by its quantity."""
    by_unit = {"K": 1, "K/W": 3, "MB/s": 0, "IOPS": 0, "fps": 1, "points": 1, "min": 1, "J": 0}
    if unit in by_unit:
        return by_unit[unit]
    known = next((q for q in QUANTITIES.values() if q.unit == unit and unit), None) or QUANTITIES.get(
        quantity
    )
    return known.decimals if known is not None else 1


def units_kept(quantity: str) -> frozenset[str]:
    """The units in which a channel of a quantity may be kept."""
    known = QUANTITIES[quantity]
    return frozenset({known.unit, *(unit for unit, _ in known.counted.values())})


ROLES: Final[tuple[str, ...]] = (
    "die", "core", "hotspot", "gpu", "memory", "storage", "vrm", "chipset", "coolant",
    "inlet", "surface", "package", "wall", "case-fan", "other",
)  # fmt: skip

DOMAINS: Final[tuple[str, ...]] = ("cpu", "gpu", "board", "storage", "memory", "case")

_DOMAIN_OF_ROLE: Final[dict[str, str]] = {
    "die": "cpu", "core": "cpu", "package": "cpu", "gpu": "gpu", "hotspot": "gpu", "memory": "memory",
    "storage": "storage", "vrm": "board", "chipset": "board", "coolant": "case", "inlet": "case",
    "case-fan": "case", "wall": "case", "surface": "board",
}  # fmt: skip


def domain_of(role: str) -> str:
    """The domain a role belongs to; `board` where the role tells nothing."""
    return _DOMAIN_OF_ROLE.get(role, "board")


@dataclass(frozen=True)
class Channel:
    """One measured series: what it is, not its values.

    `id` names the same sensor across runs (empty for a log's column), `name` is what people read, `accuracy` what its
    instrument may be off by (see `core.accuracy`), empty where nobody said.
    """

    name: str
    quantity: str
    unit: str
    role: str = "other"
    domain: str = "board"
    id: str = ""
    accuracy: str = ""

    def __post_init__(self) -> None:
        # Labels and titles come from drivers and strangers' files: what hides in them is shown.
        object.__setattr__(self, "name", one_line(self.name))
        known = QUANTITIES.get(self.quantity)
        if known is None or not known.a_channel:
            raise ValueError(f"unknown quantity {self.quantity!r}")
        if self.role not in ROLES:
            raise ValueError(f"unknown role {self.role!r}")
        if self.domain not in DOMAINS:
            raise ValueError(f"unknown domain {self.domain!r}")

    @property
    def title(self) -> str:
        """Name and unit as an export's column title carries them, `CPU die (°C)`."""
        return f"{self.name} ({self.unit})" if self.unit else self.name


DIGITS_MOST = 5
"""No meter on a bench is good for more."""


def value_text(value: float | None, unit: str) -> str:
    """A value as a sensor gives it, with its unit: at most as many digits as any sensor is worth."""
    if value is None:
        return "not known"
    before = math.floor(math.log10(abs(value))) + 1 if value and math.isfinite(value) else 1
    decimals = max(0, min(decimals_of(unit, "flag"), DIGITS_MOST - before))
    return f"{value:.{decimals}f} {unit}".rstrip()
