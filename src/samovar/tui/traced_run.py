"""A run made ready to be read closely: its samples and curves, its reading, and what a person has said of it. Made off
the interface's thread; Trace only shows it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from samovar.archive.archive import Archive
from samovar.archive.records import Review, Run
from samovar.core.agreement import Agreement, agreements
from samovar.core.by_hand.reading import HandReading
from samovar.core.effect import Effect, of_changes
from samovar.core.envelope import Envelope
from samovar.core.exclusions import Exclusion, without
from samovar.core.marks import Change
from samovar.core.quantity import Channel
from samovar.core.reading import Reading
from samovar.core.recording import Array, Recording
from samovar.core.results.result import Result
from samovar.core.results.steps import StepResults
from samovar.core.side_by_side import Compared, SideBySide, side_by_side
from samovar.core.totals import LoadTotals, totals_of
from samovar.tui.channel_view import with_bands


@dataclass(frozen=True)
class TracedRun:
    """One run in all that Trace shows of it.

    Attributes:
        channels, envelope: what can be drawn: the run's own channels with their bands, then what was made of them.
        model: the thermal model's die over the load: times, s, and °C; None without a model.
        residual: the position of die less model, K; None without one.
        results: every figure of it, those read by hand among them; `steps` those of its steps.
        changes: what was changed, when what followed it ended, and what became of every channel.
        beside: by quantity the position of the other run's curve.
        note: what was noted about the whole run; `review` the one it belongs to.
    """

    run: Run
    recording: Recording
    reading: Reading
    totals: LoadTotals | None
    channels: tuple[Channel, ...]
    envelope: Envelope
    model: tuple[Array, Array] | None
    residual: int | None
    excluded: list[Exclusion]
    agreements: list[Agreement]
    hands: list[HandReading]
    results: list[Result]
    steps: list[StepResults]
    changes: list[tuple[Change, float, list[Effect]]]
    other: Run | None = None
    other_reading: Reading | None = None
    comparison: SideBySide | None = None
    beside: Mapping[str, int] = field(default_factory=dict)
    note: str = ""
    review: Review | None = None


def traced(archive: Archive, number: int, other_number: int | None = None) -> TracedRun | None:
    """A run by its number, with another one beside it where named; None where it is gone. Raises DamagedRun."""
    runs = archive.runs
    run = runs.run(number)
    if run is None:
        return None
    recording = runs.recording(number)
    run, result = runs.results_of([run])[0]
    reading = result.reading
    excluded = runs.annotations.excluded(number)
    counted = without(recording, excluded)
    channels, values = with_bands(recording.channels, recording.values)
    own = len(channels)
    extra: list[tuple[Channel, Array]] = []
    model = _model(counted, reading)
    residual = None
    if model is not None and recording.die is not None:
        row = np.full(len(recording.time_s), np.nan)
        load = reading.load_phase()
        assert load is not None
        part = recording.between(load.start_s, load.end_s)
        row[part] = recording.values[recording.die][part] - np.interp(recording.time_s[part], *model)
        residual = own
        extra.append((Channel("die less model", "temperature", "K", "other", "cpu"), row))
    other = runs.run(other_number) if other_number is not None else None
    comparison, other_reading, beside = None, None, {}
    if other is not None:
        other_reading = runs.reading(other.number)
        comparison = side_by_side(recording, reading, runs.recording(other.number), other_reading)
        scores = _scores(runs.hands.of(number), runs.hands.of(other.number))
        comparison = replace(comparison, figures=(*comparison.figures, *scores))
        for quantity, row in comparison.rows.items():
            unit = next(c.unit for c in channels if c.quantity == quantity)
            beside[quantity] = own + len(extra)
            extra.append((Channel(other.id, quantity, unit, "other", "cpu"), row))
    if extra:
        channels = (*channels, *(c for c, _ in extra))
        values = np.vstack([values, *(row[None, :] for _, row in extra)])
    hands = runs.hands.of(number)
    surfaces = [surface for hand in hands if (surface := hand.surface) is not None]
    return TracedRun(
        run,
        recording,
        reading,
        totals_of(counted, reading.phases, reading.load_phase()),
        tuple(channels),
        Envelope(recording.time_s, values),
        model,
        residual,
        excluded,
        agreements(counted, reading, surfaces),
        hands,
        list(result.results),
        list(result.steps),
        of_changes(counted),
        other,
        other_reading,
        comparison,
        beside,
        runs.annotations.note(number),
        archive.reviews.review(run.review_id) if run.review_id else None,
    )


def _scores(first: list[HandReading], second: list[HandReading]) -> list[Compared]:
    """The scores both runs' loads gave, where they gave one."""

    def last(hands: list[HandReading]) -> HandReading | None:
        return next((h for h in reversed(hands) if h.kind == "score"), None)

    ours, theirs = last(first), last(second)
    if ours is None or theirs is None:
        return []
    if ours.measured is None or theirs.measured is None:
        return []
    return [Compared("score", ours.unit, ours.measured, theirs.measured)]


def _model(recording: Recording, reading: Reading) -> tuple[Array, Array] | None:
    thermal, load = reading.thermal, reading.load_phase()
    if thermal is None or thermal.network is None or load is None or recording.package_power is None:
        return None
    part = recording.between(load.start_s, load.end_s)
    time_s, power = recording.time_s[part], recording.values[recording.package_power][part]
    good = np.isfinite(power)
    if good.sum() < 2:
        return None
    return time_s[good], thermal.network.response(time_s[good], power[good])


def other_runs(archive: Archive, run: Run, most: int) -> list[tuple[str, str]]:
    """The runs that can stand beside one, each with a line on it: those of its own load in its review first, the newest
    first among equals."""
    names = {
        setup.id: (review.name, setup.name) for review in archive.reviews.reviews() for setup in review.setups
    }

    def rank(other: Run) -> tuple[bool, bool, int]:
        return other.review_id != run.review_id, other.load != run.load, -other.number

    found = [r for r in archive.runs.runs() if r.number != run.number and r.state != "recording"]
    found.sort(key=rank)
    options = []
    for other in found[:most]:
        _, setup = names.get(other.setup_id or 0, ("inbox", "inbox"))
        options.append((other.id, f"{setup}, {other.load}, pass {other.pass_number}, {other.started[:10]}"))
    return options
