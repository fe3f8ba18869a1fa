"""Reviews as data, told in a few words: setups, runs, their figures and what held them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from samovar.archive.records import Review, Rig, Run, Setup
from samovar.archive.review_data import Cell, ReviewData
from samovar.core.facts import Facts, ProcessorFacts
from samovar.core.held.stretches import HeldStretch
from samovar.core.measured import AT_LEAST, AT_MOST
from samovar.core.phases import Phase
from samovar.core.product import Price, Product
from samovar.core.reading import Reading
from samovar.core.results.figure import ANY_PART, RunResult, figure_of
from samovar.core.results.result import BY_HAND, Result

Value = tuple[float, float | None] | tuple[float, float | None, str]
LOAD_S = 1800.0


@dataclass(frozen=True)
class ToldRun:
    """A run: its judgement, its figures by key, and the clock when free, what held it, and at which."""

    judgement: str | None
    figures: Mapping[str, Value]
    held: tuple[str, float, float] | None = None


@dataclass(frozen=True)
class ToldSetup:
    """A setup: what is fitted at which price, what was changed, and its runs under the one load."""

    name: str
    runs: Sequence[ToldRun] = ()
    fitted: Mapping[str, float | None] = field(default_factory=dict)
    changes: Mapping[str, Any] = field(default_factory=dict)
    rig: str = "Bench"
    reference: bool = False


def told(
    setups: Sequence[ToldSetup],
    load: str = "worst case",
    figure: str = "",
    demands: Sequence[str] = (),
    base_mhz: float | None = None,
    noise: float | None = None,
) -> ReviewData:
    """The review that these setups make."""
    rigs = {
        name: Rig(k, name, Facts(cpu=ProcessorFacts(base_clock_mhz=base_mhz)))
        for k, name in enumerate(dict.fromkeys(s.rig for s in setups), 1)
    }
    products: dict[str, Product] = {}
    kept, cells, number, orders = [], {}, 0, dict.fromkeys(rigs, 0)
    for key, one in enumerate(setups, 1):
        for name, price in one.fitted.items():
            prices = () if price is None else (Price(price, "EUR", "2026-09-01"),)
            products.setdefault(name, Product(len(products) + 1, name, "air cooler", {}, prices))
        setup = Setup(
            key, 1, one.name, one.reference, key, dict(one.changes), tuple(products[n] for n in one.fitted), rigs[one.rig]
        )  # fmt: skip
        kept.append(setup)
        runs = []
        for nth, run in enumerate(one.runs, 1):
            number += 1
            entry = Run(
                number,
                1,
                key,
                load,
                nth,
                "sealed",
                None,
                "2026-09-01T10:00:00Z",
                LOAD_S,
                1.0,
                1,
                1800,
                Facts(),
            )
            runs.append((entry, _result(entry.id, run, orders[one.rig])))
            orders[one.rig] += 1
        if runs:
            cells[key, load] = Cell(setup, load, tuple(runs))
    review = Review(
        1,
        "told",
        "Told",
        "Which?",
        "",
        1.0,
        0.02,
        noise,
        2,
        (load,),
        tuple(kept),
        figure=figure,
        demands=tuple(demands),
    )
    return ReviewData(review, cells)


def _result(name: str, run: ToldRun, order: int) -> RunResult:
    held = []
    if run.held is not None:
        by, free, clock = run.held
        loss = 100.0 * (free - clock) / free
        held = [HeldStretch(by, "cpu", 300.0, LOAD_S, loss, None, 0.9, "told", clock, None)]
    reading = Reading(
        1800, LOAD_S, 1.0, [], [], (), [], [], [Phase("load", 0.0, LOAD_S)], None, {}, {}, [], held, [], run.judgement,
        None, None, free_clock_mhz=run.held[1] if run.held else None,
    )  # fmt: skip
    return RunResult(name, reading, [_figure(k, v) for k, v in run.figures.items()], order=order)


def _figure(key: str, value: Value) -> Result:
    figure = figure_of(key)
    part = figure.parts[0] if figure.parts[0] != ANY_PART else None
    bound = value[2] if len(value) == 3 else None
    assert bound in (None, AT_MOST, AT_LEAST)
    source = BY_HAND if key in ("noise", "score", "time") else "measured"
    first, _, direction = (part or "").partition(" ")
    return Result(
        first or None if figure.quantity == "work" else part, None, figure.quantity, figure.statistic, figure.unit, value[0],
        value[1], bound, source, direction=direction or None if figure.quantity == "work" else None,
    )  # fmt: skip
