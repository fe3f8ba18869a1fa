"""The tables of a publication's data package: what each column is, said once, and the rows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from samovar.archive.archive import Archive
from samovar.archive.records import Run, Setup
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on, reference_on, rigs_of, setups_on
from samovar.core.contract import result_row
from samovar.core.rated import headroom_of
from samovar.core.results.figure import PRICE, RunResult
from samovar.core.setup_changes import change_words

Cell = str | float | int | bool | None


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a table: its name, its type in the words of the Data Package standard, and what it holds."""

    name: str
    type: str
    words: str


@dataclass(frozen=True)
class DataTable:
    """One table: `name` is its file's without ending; rows in the order of its columns; `key` names what no two rows share."""

    name: str
    title: str
    columns: tuple[Column, ...]
    rows: list[tuple[Cell, ...]]
    key: tuple[str, ...] = ()


@dataclass(frozen=True)
class PublishedRun:
    """A run with all a publication says of it; `file` is where its samples lie in the package."""

    review: str
    setup: Setup
    run: Run
    result: RunResult
    file: str


_OF = (
    Column("review", "string", "short name of the review"),
    Column("setup", "string", "what was compared"),
    Column("rig", "string", "the test machine it was measured on"),
    Column("load", "string", "what made the heat"),
    Column("run", "string", "one recording; its samples are in data/RUN.csv"),
    Column("pass", "integer", "which run of this setup and load it is"),
)
_VALUE = (
    Column("unit", "string", "unit of value and half_width_95; empty where it has none"),
    Column("value", "number", "the value"),
    Column("half_width_95", "number", "half the width of its 95 % interval; empty where it is not known"),
    Column("bound", "string", "'at most' or 'at least' where the value is no more than that"),
)
RESULT_COLUMNS = (
    *_OF,
    Column("step", "string", "of a run in steps which step it is of; empty for the whole run"),
    Column(
        "part",
        "string",
        "what it is of: a part, a group of unlike cores, a named spot; empty for the whole machine",
    ),
    Column("channel", "string", "the column of data/RUN.csv it was computed from, less its unit"),
    Column("quantity", "string", "what kind of value"),
    Column("statistic", "string", "which figure of it: steady, rise over the room, peak, least, mean, ..."),
    *_VALUE,
    Column(
        "instrument_half_width_95",
        "number",
        "what its instrument may be off by, where its class is known: not part of half_width_95",
    ),
    Column("source", "string", "measured, or by hand"),
    Column("window_start_s", "number", "where the stretch it was taken over begins, seconds into the run"),
    Column("window_end_s", "number", "where it ends"),
    Column("n", "integer", "samples it stands on"),
    Column("by", "string", "of a share of the load held: by what"),
    Column("at_s", "number", "of a value at a moment: seconds into the load"),
    Column("direction", "string", "of a rate at a drive: read or write"),
)
READING_COLUMNS = (
    Column("run", "string", "the run it was read in"),
    Column("n", "integer", "its number in the run"),
    Column("kind", "string", "what was read"),
    Column("place", "string", "the part or spot it was read at"),
    *_VALUE,
    Column("at_s", "number", "seconds into the run; empty for the whole run"),
    Column("instrument", "string", "with what"),
    Column("distance_m", "number", "of a sound level: from how far"),
    Column("background", "number", "of a sound level: over which background, dBA"),
    Column("emissivity", "number", "of a spot thermometer: of the surface"),
    Column("character", "string", "what a sound was like"),
    Column("typed", "string", "the line as the reviewer typed it"),
)
RUN_COLUMNS = (
    *_OF,
    Column("started", "datetime", "when its recording began, UTC"),
    Column("duration_s", "number", "how long it lasted"),
    Column("state", "string", "sealed, stopped, interrupted, did-not-finish"),
    Column("reason", "string", "why it ended, where it did not end by itself"),
    Column("judgement", "string", "what held the clock: clear, budget, rides-limit, throttles, stopped"),
    Column("left_out", "string", "why it does not count; empty where it does"),
    Column("unguarded", "boolean", "whether nothing stood guard over the die"),
    Column("room_c", "number", "the room during the run, °C"),
    Column("room_half_width_95_k", "number", "what that leaves open, K"),
    Column("headroom_w", "number", "the heat that would bring the die to its limit in that room, W"),
    Column(
        "headroom_half_width_95_w",
        "number",
        "half the width of its 95 % interval, W; the meter of power is not in it",
    ),
    Column("interval_s", "number", "time from one sample to the next"),
    Column("file", "string", "where its samples are"),
)


SETUP_COLUMNS = (
    Column("review", "string", "the review's short name"),
    Column("setup", "string", "what was compared"),
    Column("rig", "string", "the test machine"),
    Column("reference", "boolean", "whether the others on its rig are held against it"),
    Column("products", "string", "what is fitted, one after another with +"),
    Column("changes", "string", "what was changed"),
    Column("price", "number", "what it costs, as the review counts; empty where it is not known"),
    Column("currency", "string", "of the price, ISO 4217"),
)
SPREAD_COLUMNS = (
    Column("review", "string", "the review's short name"),
    Column("rig", "string", "the machine"),
    Column("load", "string", "under which load"),
    Column("figure", "string", "of which figure"),
    Column(
        "variance",
        "number",
        "of one pass, in the figure's unit squared, as other experiments on this machine showed it",
    ),
    Column("degrees_of_freedom", "number", "that it is known with"),
)


def _of(one: PublishedRun) -> tuple[Cell, ...]:
    run, setup = one.run, one.setup
    return one.review, setup.name, setup.rig_name, run.load, run.id, run.pass_number


def result_table(runs: Sequence[PublishedRun]) -> DataTable:
    """Every result of every run, by the measurements and by hand; of a run in steps those of each step, too."""
    rows: list[tuple[Cell, ...]] = []
    for one in runs:
        parts = [("", one.result.results), *((s.step.name, s.results) for s in one.result.steps)]
        for step, results in parts:
            for r in results:
                told = result_row(r)
                window = told.pop("window") or (None, None)
                told.update(step=step, window_start_s=window[0], window_end_s=window[1])
                rows.append((*_of(one), *(told.get(c.name) for c in RESULT_COLUMNS[len(_OF) :])))
    return DataTable("results", "Every figure of every run", RESULT_COLUMNS, rows)


def reading_table(archive: Archive, runs: Sequence[PublishedRun]) -> DataTable:
    """What people read by hand."""
    rows: list[tuple[Cell, ...]] = []
    for one in runs:
        for r in archive.runs.hands.of(one.run.number):
            told: Mapping[str, Cell] = {
                "run": one.run.id, "n": r.n, "kind": r.kind, "place": r.place, "unit": r.unit, "value": r.value,
                "half_width_95": r.half_width, "bound": r.bound, "at_s": r.at_s, "instrument": r.instrument,
                "distance_m": r.distance_m, "background": r.background, "emissivity": r.emissivity, "character": r.character,
                "typed": r.typed,
            }  # fmt: skip
            rows.append(tuple(told[c.name] for c in READING_COLUMNS))
    return DataTable("readings", "What was read by hand", READING_COLUMNS, rows, ("run", "n"))


def run_table(runs: Sequence[PublishedRun]) -> DataTable:
    """Every run, those that do not count among them."""
    rows: list[tuple[Cell, ...]] = []
    for one in runs:
        run, reading = one.run, one.result.reading
        room, heat = reading.room, headroom_of(one.result)
        rows.append(
            (
                *_of(one), run.started, run.duration_s, run.state, run.reason, reading.judgement, run.left_out,
                run.unguarded, None if room is None else room.value, None if room is None else room.half_width,
                None if heat is None else heat.value, None if heat is None else heat.half_width, run.interval_s, one.file,
            )
        )  # fmt: skip
    return DataTable("runs", "Every run", RUN_COLUMNS, rows, ("run",))


def spread_table(data: ReviewData) -> DataTable:
    """What this bench's other experiments told of the scatter of a pass, wherever an interval of this publication borrowed it."""
    rows: list[tuple[Cell, ...]] = [
        (data.review.slug, rig, load, figure, spread.variance, spread.dof)
        for (rig, load, figure), spread in sorted(data.priors.items())
        if spread is not None
    ]
    return DataTable("spreads", "How passes scattered on this bench before", SPREAD_COLUMNS, rows)


def setup_table(data: ReviewData) -> DataTable:
    """Every setup, with what is fitted, what was changed, and what it costs."""
    rows: list[tuple[Cell, ...]] = []
    load = next(iter(data.review.loads), "")
    for rig in rigs_of(data.review):
        priced, base = compare_on(data, load, PRICE, rig), reference_on(data.review, rig)
        for setup in setups_on(data.review, rig):
            rung = priced.ladder.rung(setup.name)
            rows.append(
                (
                    data.review.slug, setup.name, rig, base is not None and base.name == setup.name,
                    " + ".join(p.name for p in setup.products), ", ".join(change_words(setup.changes)),
                    None if rung is None else rung.figure.value, None if rung is None else priced.figure.counted_in,
                )
            )  # fmt: skip
    return DataTable("setups", "Every setup", SETUP_COLUMNS, rows, ("setup",))
