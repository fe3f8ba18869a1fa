"""The figures runs are held against each other by: a statistic of a quantity of a part; what each is called, which way is
better, and how it is chosen from a run's results."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from samovar.core.measured import AT_LEAST, AT_MOST, Measured, combine
from samovar.core.money import amount_text
from samovar.core.quantity import MORE, QUANTITIES, decimals_of
from samovar.core.results.result import BY_HAND, Result
from samovar.core.results.statistic import STATISTICS

if TYPE_CHECKING:
    from samovar.core.reading import Reading
    from samovar.core.results.steps import StepResults
    from samovar.core.sound.kept import KeptSound

FINISHED = ("sealed", "stopped", "interrupted")
"""States of runs whose settled figures may be compared."""


ANY_PART = "*"
"""A figure of whatever part it was taken of."""
PARTS_IN_WORDS = {
    "die": "die", "core": "cores", "gpu": "graphics", "hotspot": "graphics hotspot", "memory": "memory",
    "storage": "drive", "vrm": "regulators", "chipset": "chipset", "coolant": "coolant", "inlet": "room",
    "package": "package", "wall": "wall", "case-fan": "case fan", "surface": "surface",
}  # fmt: skip
_DIFFERENCE = {"°C": "K", "dBA": "dB"}
_UNIT_OF_WORK = {"storage": "MB/s", "gpu": "fps"}
"""What work is counted in where a part of its own does it."""


@dataclass(frozen=True, slots=True)
class RunResult:
    """One run as a comparison sees it: its name, its reading, its results with those read by hand, its state, and
    the results of its steps, where it has any. `order`: its place among the runs of its rig, where that is known; `sound`:
    what was heard of it last, where it was listened to."""

    run: str
    reading: Reading
    results: Sequence[Result] = ()
    state: str = "sealed"
    reason: str | None = None
    steps: Sequence[StepResults] = ()
    order: int | None = None
    sound: KeptSound | None = None

    def common(self, figure: Figure) -> tuple[float, str]:
        """Of a figure's half-width the part that other runs have in common with this one, and with what: the instrument
        that hands read, the probe in the room."""
        result = figure.result_among(self.results)
        if result is None:
            return 0.0, ""
        if result.source == BY_HAND:
            return result.half_width or 0.0, result.common_of
        room, thermal = self.reading.room, self.reading.thermal
        shared: list[tuple[float, str]] = []
        if result.off_by is not None:
            shared.append((result.off_by, result.common_of))
        if room is not None and room.half_width is not None:
            if result.statistic == "rise":
                shared.append((room.half_width, "room"))
            elif (
                (result.statistic, result.part) == ("resistance", "die")
                and thermal is not None
                and thermal.power_w
            ):
                shared.append((room.half_width / thermal.power_w, "room"))
        return combine(*(half for half, _ in shared)), " and ".join(of for _, of in shared)

    @property
    def finished(self) -> bool:
        """Whether it ran its course, so that its settled figures may be compared."""
        return self.state in FINISHED

    @property
    def noise(self) -> Measured | None:
        """Its sound level; None where none was read."""
        return figure_of("noise").of(self)


def as_they_ran(results: Iterable[RunResult]) -> list[RunResult]:
    """The finished runs of a load that stayed as it was; those in steps where there are no others."""
    finished = [r for r in results if r.finished]
    return [r for r in finished if not r.steps] or finished


def part_in_words(part: str | None) -> str:
    """A part as people call it: `drive write`; a spot by its own name; nothing for the whole machine."""
    if not part or part == ANY_PART:
        return ""
    first, _, rest = part.partition(" ")
    if first in _UNIT_OF_WORK and rest:
        # What is counted in units of no name needs none in words.
        return f"{PARTS_IN_WORDS[first]} {rest}".removesuffix(f" {QUANTITIES['work'].unit}")
    return PARTS_IN_WORDS.get(part, part)


def part_of(result: Result) -> str | None:
    """A result's part as figures name it: with the direction of a rate, and with its unit where a part's work is
    counted in another than usual (`storage read`, `storage write IOPS`)."""
    if result.quantity != "work" or result.part is None:
        return result.part
    usual = _UNIT_OF_WORK.get(result.part, QUANTITIES["work"].unit)
    words = (result.part, result.direction, None if result.unit in (usual, "") else result.unit)
    return " ".join(w for w in words if w)


@dataclass(frozen=True, slots=True)
class Figure:
    """A figure to hold runs against each other by.

    Attributes:
        statistic, quantity: what of what.
        parts: what it is of: the first of these that a run has; (None,) the whole machine, (ANY_PART,) whatever.
        key, label: its short name, and what people call it; made from the others where empty.
        counted_in: its unit where that is not its kind's own: the currency of a price.
    """

    statistic: str
    quantity: str
    parts: tuple[str | None, ...] = (None,)
    name: str = ""
    words: str = ""
    counted_in: str = ""

    @property
    def key(self) -> str:
        """The name by which calls and archives know it, `rise` or `steady:temperature:memory`."""
        if self.name:
            return self.name
        part = self.parts[0]
        return ":".join([self.statistic, self.quantity, *([part] if part else [])])

    @property
    def label(self) -> str:
        """What people call it."""
        if self.words:
            return self.words
        how, what = STATISTICS[self.statistic].words, QUANTITIES[self.quantity].label.lower()
        of = part_in_words(self.parts[0])
        if self.statistic == "rise":
            return f"{of} over the room"
        if self.statistic == "at":
            return f"{of or what}, read by hand"
        if self.statistic in ("resistance", "held_share", "settle"):
            what = ""
        if self.quantity == "work" and self.unit.startswith("MB"):
            what = "rate" if self.statistic != "total" else "data"
        return " ".join(w for w in (how, of, what) if w)

    @property
    def unit(self) -> str:
        """The unit it is shown in."""
        if self.counted_in:
            return self.counted_in
        unit = STATISTICS[self.statistic].unit
        if unit is not None:
            return unit
        if self.quantity == "work":
            return self._unit_of_work()
        return "" if self.quantity == "score" else QUANTITIES[self.quantity].unit

    def _unit_of_work(self) -> str:
        part = self.parts[0] or ""
        last = part.rpartition(" ")[2]
        if last in {QUANTITIES["work"].unit, *(unit for unit, _ in QUANTITIES["work"].counted.values())}:
            return last
        usual = _UNIT_OF_WORK.get(part.partition(" ")[0], QUANTITIES["work"].unit)
        return usual.removesuffix("/s") if self.statistic == "total" and usual == "MB/s" else usual

    @property
    def lower_is_better(self) -> bool:
        """Which way is better; where neither is, less comes first."""
        better = STATISTICS[self.statistic].better or QUANTITIES[self.quantity].better
        return better != MORE

    @property
    def relative(self) -> bool:
        """Whether the review's margin for it is a share, not kelvin or decibel."""
        own = STATISTICS[self.statistic].relative
        return QUANTITIES[self.quantity].relative if own is None else own

    @property
    def finest(self) -> int:
        """Decimals beyond which no sensor of this kind goes."""
        return decimals_of(self.unit, self.quantity)

    def text(self, value: Measured, signed: bool = False) -> str:
        """The value as people read it, with its unit."""
        if self.quantity == "price":
            sign = "+" if signed and value.value > 0 else ""
            return f"{sign}{amount_text(value.value, self.counted_in)}".replace("-", "−")
        return value.text(self.unit, signed, self.finest)

    @property
    def difference_unit(self) -> str:
        """The unit of a difference of two such figures: of temperatures K, of levels dB."""
        return _DIFFERENCE.get(self.unit, self.unit)

    def difference_text(self, value: Measured, signed: bool = False) -> str:
        """A difference of two such figures as people read it, with its unit."""
        if self.quantity == "price":
            return self.text(value, signed)
        return value.text(self.difference_unit, signed, self.finest)

    def brief(self, value: Measured) -> str:
        """The same where there is little room: a bound as its sign."""
        return self.text(value).replace(f"{AT_LEAST} ", "≥").replace(f"{AT_MOST} ", "≤")

    def of(self, result: RunResult) -> Measured | None:
        """The value in a run; None where it has none."""
        return self.among(result.results)

    def among(self, results: Iterable[Result]) -> Measured | None:
        """The value among results: of several channels of one part the hottest, of clocks the mean, else the first;
        what was measured before what hands read, of those what was read last."""
        mine = [
            r for r in results if r.statistic == self.statistic and r.quantity == self.quantity and _alone(r)
        ]
        for part in self.parts:
            found = [r for r in mine if part == ANY_PART or part_of(r) == part]
            measured = [r for r in found if r.source != BY_HAND]
            if measured:
                return self._of_several(measured)
            if found:
                return found[-1].measured
        return None

    def result_among(self, results: Sequence[Result]) -> Result | None:
        """The result that the value among results is, or the first of several that make it."""
        for part in self.parts:
            mine = [
                r for r in results
                if r.statistic == self.statistic and r.quantity == self.quantity and _alone(r)
                and (part == ANY_PART or part_of(r) == part)
            ]  # fmt: skip
            measured = [r for r in mine if r.source != BY_HAND]
            if mine:
                return measured[0] if measured else mine[-1]
        return None

    def channel_among(self, results: Sequence[Result]) -> str | None:
        """The channel that the value among results is of; None where it is of none alone."""
        value = self.among(results)
        mine = [
            r for r in results if r.statistic == self.statistic and r.quantity == self.quantity and r.channel
        ]
        exact = [r.channel for r in mine if value is not None and r.value == value.value]
        likely = [r.channel for r in mine if part_of(r) in self.parts or ANY_PART in self.parts]
        return next(iter([*exact, *likely]), None)

    def _of_several(self, found: Sequence[Result]) -> Measured:
        if self.quantity == "temperature":
            return max(found, key=lambda r: r.value).compared
        if self.quantity == "clock":
            widths = [r.half_width or 0.0 for r in found]
            return Measured(sum(r.value for r in found) / len(found), sum(widths) / len(widths) or None)
        return found[0].compared


FIGURES: tuple[Figure, ...] = (
    Figure("rise", "temperature", ("die",), "rise", "rise over the room"),
    Figure("steady", "power", ("package", "core"), "power", "sustained power"),
    Figure("steady", "clock", ("core", "package", "die", None), "clock", "sustained clock"),
    Figure("steady", "work", (None, "package", "core"), "work", "work done"),
    Figure("resistance", "temperature", ("die",), "resistance", "resistance"),
    Figure("peak", "temperature", ("die",), "peak", "peak"),
    Figure("level", "noise", (ANY_PART,), "noise", "noise"),
    Figure("settle", "time", ("die", None), "settle", "time to settle"),
    Figure("score", "score", (ANY_PART,), "score", "score"),
    Figure("time", "time", (ANY_PART,), "time", "time taken"),
)
"""Those that reviews ask for most, by names of their own."""
PRICE = Figure("price", "price", (None,), "price", "price")
"""What a setup costs, which no run tells."""
_BY_KEY = {f.key: f for f in (*FIGURES, PRICE)}


def figure_of(key: str) -> Figure:
    """The figure of this key: `rise`, or `STATISTIC:QUANTITY[:PART]`.

    Raises:
        KeyError: none of this key.
    """
    if key in _BY_KEY:
        return _BY_KEY[key]
    statistic, _, rest = key.partition(":")
    quantity, _, part = rest.partition(":")
    if statistic not in STATISTICS or quantity not in QUANTITIES:
        raise KeyError(key)
    same = next(
        (
            f
            for f in FIGURES
            if (f.statistic, f.quantity, f.parts[:1]) == (statistic, quantity, (part or None,))
        ),
        None,
    )
    return same or Figure(statistic, quantity, (part or None,))


TELLING_PARTS = ("die", "hotspot", "gpu", "memory", "storage", "vrm", "chipset", "coolant", "surface")
"""Parts in the order in which their temperature is what a run is about, where nobody says."""


def _alone(result: Result) -> bool:
    """Whether a result is one figure: of what is measured so many minutes in, a run has several."""
    return result.statistic != "at" or result.source == BY_HAND


def figures_in(results: Iterable[Result]) -> list[Figure]:
    """Every figure that some results have, those with names of their own first, then by part."""
    every = [r for r in results if _alone(r)]
    named = [f for f in FIGURES if f.among(every) is not None]
    known = {(f.statistic, f.quantity, part) for f in named for part in f.parts}
    rest = {
        (r.statistic, r.quantity, part_of(r))
        for r in every
        if (r.statistic, r.quantity, part_of(r)) not in known
        and (r.statistic, r.quantity, ANY_PART) not in known
    }
    statistics, parts, quantities = (
        list(STATISTICS),
        [*TELLING_PARTS, "core", "package", "wall"],
        list(QUANTITIES),
    )

    def rank(one: tuple[str, str, str | None]) -> tuple[int, int, str, int]:
        statistic, quantity, part = one
        first = (part or "").partition(" ")[0]
        near = parts.index(first) if first in parts else len(parts)
        # What a machine was busy with, and the room, come last: nothing is reviewed by them.
        near = len(parts) + 1 if quantity == "load" or part == "inlet" else near
        how = statistics.index(statistic) if statistic in statistics else len(statistics)
        return near, quantities.index(quantity) if quantity in quantities else 0, part or "", how

    ranked = sorted(rest, key=rank)
    return [*named, *(Figure(s, q, (p,)) for s, q, p in ranked if s in STATISTICS and q in QUANTITIES)]


def telling_figure(results: Iterable[Result]) -> Figure:
    """What runs are about where the reviewer has not said: the rise of the first of their parts, else its steady value,
    its peak, else a score, a time, a level, what was done; the rise where they have nothing at all."""
    every = list(results)
    tried = [
        Figure(statistic, "temperature", (part,))
        for part in TELLING_PARTS
        for statistic in ("rise", "steady", "peak", "at")
    ]
    others = (
        "score",
        "time",
        "noise",
        "work",
        "mean:work:storage read",
        "mean:work:storage write",
        "steady:power:wall",
    )
    tried += [figure_of(key) for key in others]
    found = next((f for f in tried if f.among(every) is not None), tried[0])
    return figure_of(found.key)
