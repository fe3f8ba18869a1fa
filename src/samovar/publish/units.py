"""Figures in other units: what is drawn is brought into degrees Fahrenheit before it is drawn."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from samovar.core.compare.rungs import Rung
from samovar.core.facts import Facts
from samovar.core.measured import Measured
from samovar.core.recording import Recording
from samovar.core.results.figure import Figure
from samovar.publish.figure_jobs import (
    CardJob,
    ChainJob,
    CurvesJob,
    Job,
    LadderJob,
    RunJob,
    SurfaceJob,
    TradeJob,
)
from samovar.publish.form import F_AT_0_C, F_PER_K, IMPERIAL, Form

_TURNED = {"°C": ("°F", F_AT_0_C), "K": ("°F", 0.0), "K/W": ("°F/W", 0.0)}
"""Units, what they become, and what is added after multiplying."""


def in_units(job: Job, form: Form) -> Job:
    """A job with its temperatures in the units of a form."""
    turn = _TURNS.get(type(job))
    return turn(job, form) if form.units == IMPERIAL and turn is not None else job


def _figure(figure: Figure) -> Figure:
    turned = _TURNED.get(figure.unit)
    return (
        figure
        if turned is None
        else replace(figure, name=figure.key, words=figure.label, counted_in=turned[0])
    )


def _value(value: Measured, unit: str) -> Measured:
    turned = _TURNED.get(unit)
    if turned is None:
        return value
    half = None if value.half_width is None else value.half_width * F_PER_K
    return Measured(value.value * F_PER_K + turned[1], half, value.bound)


def _rungs(rungs: tuple[Rung, ...], unit: str) -> tuple[Rung, ...]:
    return tuple(replace(r, figure=_value(r.figure, unit)) for r in rungs)


def _limit(limit: float | None, unit: str) -> float | None:
    return None if limit is None else _value(Measured(limit), unit).value


def _ladder(job: LadderJob, form: Form) -> Job:
    unit = job.measure.unit
    asked = tuple((_limit(v, unit) or 0.0, form.numbers(words)) for v, words in job.asked)
    return replace(job, rungs=_rungs(job.rungs, unit), measure=_figure(job.measure), asked=asked)


def _trade(job: TradeJob, form: Form) -> Job:
    across, up = job.trade.across.unit, job.trade.up.unit
    points = tuple(
        replace(
            p, across=_value(p.across, across), up=_value(p.up, up),
            curve=tuple((_value(Measured(a), across).value, _value(Measured(b), up).value) for a, b in p.curve),
        )
        for p in job.trade.points
    )  # fmt: skip
    trade = replace(job.trade, across=_figure(job.trade.across), up=_figure(job.trade.up), points=points)
    return replace(job, trade=trade, limit=_limit(job.limit, across))


def _chain(job: ChainJob, form: Form) -> Job:
    columns = []
    for column in job.columns:
        unit = column.figure.unit
        links = tuple(
            replace(
                link, before=None if link.before is None else _value(link.before, unit),
                after=None if link.after is None else _value(link.after, unit), words=form.numbers(link.words),
            )
            for link in column.links
        )  # fmt: skip
        columns.append(replace(column, figure=_figure(column.figure), links=links))
    return replace(job, columns=tuple(columns))


def _curves(job: CurvesJob, form: Form) -> Job:
    turned = _TURNED.get(job.overlay.unit)
    if turned is None:
        return job
    return replace(
        job, overlay=replace(job.overlay, values=job.overlay.values * F_PER_K + turned[1], unit=turned[0])
    )


def _run(job: RunJob, form: Form) -> Job:
    whole = job.recording
    warm = [k for k, c in enumerate(whole.channels) if c.unit == "°C"]
    values = whole.values.copy()
    values[warm] = values[warm] * F_PER_K + F_AT_0_C
    channels = tuple(replace(c, unit="°F") if k in warm else c for k, c in enumerate(whole.channels))
    extras = replace(
        job.extras,
        beside={q: np.asarray(row) * F_PER_K + F_AT_0_C if q == "temperature" else row for q, row in job.extras.beside.items()},
        by_hand=tuple(replace(p, value=_value(p.value, "°C")) if p.quantity == "temperature" else p for p in job.extras.by_hand),
    )  # fmt: skip
    return replace(
        job,
        recording=Recording(channels, whole.time_s, values, whole.marks),
        facts=_facts(job.facts),
        extras=extras,
    )


def _surface(job: SurfaceJob, form: Form) -> Job:
    faces = tuple(
        replace(
            face, degrees=None if face.degrees is None else face.degrees * F_PER_K + F_AT_0_C, unit="°F",
            values={name: _value(value, "°C") for name, value in face.values.items()},
        )
        for face in job.faces
    )  # fmt: skip
    return replace(job, faces=faces)


def _facts(facts: Facts) -> Facts:
    limit = _limit(facts.cpu.temperature_limit_c, "°C")
    return replace(facts, cpu=replace(facts.cpu, temperature_limit_c=limit))


def _card(job: CardJob, form: Form) -> Job:
    measure = job.chart.measure
    if measure is None:
        return job
    chart = replace(job.chart, rungs=_rungs(tuple(job.chart.rungs), measure.unit), measure=_figure(measure))
    return replace(job, chart=chart)


_TURNS: dict[type, Callable[[Any, Form], Job]] = {
    LadderJob: _ladder, TradeJob: _trade, ChainJob: _chain, CurvesJob: _curves, RunJob: _run, SurfaceJob: _surface, CardJob: _card,
}  # fmt: skip
