"""What was read from runs, kept beside them: the finding of each, and one row for every result."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, fields
from operator import attrgetter
from typing import TYPE_CHECKING, Any

from sqlalchemy import Engine, delete, insert, select

from samovar.archive.annotations import Annotations
from samovar.archive.free_clocks import FreeClocks, free_clocks
from samovar.archive.hand_readings import HandReadings
from samovar.archive.records import Run
from samovar.archive.schema import FINDING, RESULT
from samovar.archive.sums import COMPUTED, FINDINGS, RESULTS, Parts, parts_of, reseal
from samovar.core.by_hand.reading import with_room
from samovar.core.exclusions import without
from samovar.core.method import METHOD_VERSION
from samovar.core.results.figure import Figure
from samovar.core.results.result import Result

if TYPE_CHECKING:
    # What computes is imported where it does: most of the time a run was read before, and only its judgement is wanted.
    from samovar.core.reading import Reading
    from samovar.core.recording import Recording
    from samovar.core.results.steps import StepResults

REFERENCE_TOLERANCE = 0.01
_COLUMNS = [c for c in RESULT.c if c.name not in ("id", "run_id", "step")]


@dataclass(frozen=True)
class ReadRun:
    """All that is computed of one run: its reading, its results, and those of each of its steps."""

    reading: Reading
    results: tuple[Result, ...] = ()
    steps: tuple[StepResults, ...] = ()


class Findings:
    """Readings and results of an archive's runs: as stored, or computed and stored where there are none yet, the
    methods have changed since, or another run of the same load has shown a higher free clock.

    Args:
        engine: the archive's.
        recording_of: gives a run's samples.
        hands, annotations: what people read and said of a run.
        read_only: this user may write nothing; what is computed is not kept.
    """

    def __init__(
        self,
        engine: Engine,
        recording_of: Callable[[int], Recording],
        hands: HandReadings,
        annotations: Annotations,
        read_only: bool = False,
    ) -> None:
        self._engine = engine
        self._recording_of = recording_of
        self._hands = hands
        self._annotations = annotations
        self._read_only = read_only

    def reading(self, run: Run) -> Reading:
        """A run's reading. Raises DamagedRun."""
        with self._engine.connect() as connection:
            parts = parts_of(connection, [run.number], *COMPUTED)
            clocks = free_clocks(connection, [run.review_id])
        return self.read(run, parts, clocks).reading

    def read(self, run: Run, parts: Parts, clocks: FreeClocks) -> ReadRun:
        """All that is computed of a run, from what was asked of the archive for many at once; a free clock that is new
        is noted in `clocks`.

        Raises:
            DamagedRun: it has to be computed anew, and its samples cannot be read.
        """
        row = next(iter(parts.of(FINDINGS, run.number)), None)
        reference = _wanted_reference(clocks.of(run), row.free_clock_mhz if row is not None else None)
        if (
            row is not None
            # A finding that damage has reached is had again from the samples.
            and not set(parts.unlike(run.number)) & set(COMPUTED)
            and row.method_version == METHOD_VERSION
            and _same(row.reference_clock_mhz, reference)
            and (reading := _kept(row.body)) is not None
        ):
            return _read_run(reading, row.steps, parts.of(RESULTS, run.number))
        found = self._compute(run, reference)
        clocks.note(run.number, found.reading.free_clock_mhz)
        return found

    def _compute(self, run: Run, reference: float | None) -> ReadRun:
        from samovar.core.reading import read
        from samovar.core.results.compute import results_of
        from samovar.core.results.steps import results_of_steps, steps_of

        number = run.number
        recording = without(self._recording_of(number), self._annotations.excluded(number))
        facts = with_room(run.facts, self._hands.of(number))
        reading = read(recording, facts, None, reference, self._annotations.window(number))
        if run.state == "recording":
            return ReadRun(reading)
        steps = results_of_steps(recording, reading, steps_of(recording, reading))
        found = ReadRun(reading, tuple(results_of(recording, reading)), tuple(steps))
        if not self._read_only:
            self.store(number, reading, found.results, reference, found.steps)
        return found

    def store(
        self,
        number: int,
        reading: Reading,
        results: Sequence[Result],
        reference: float | None = None,
        steps: Sequence[StepResults] = (),
    ) -> None:
        """Keep a reading with its results, and those of its steps."""
        from samovar.core.reading_plain import to_plain

        with self._engine.begin() as connection:
            connection.execute(delete(FINDING).where(FINDING.c.run_id == number))
            connection.execute(
                insert(FINDING).values(
                    run_id=number,
                    method_version=reading.method_version,
                    judgement=reading.judgement,
                    free_clock_mhz=reading.free_clock_mhz,
                    reference_clock_mhz=reference,
                    body=to_plain(reading),
                    steps=[asdict(one.step) for one in steps] or None,
                    in_steps=int(bool(steps)),
                )
            )
            connection.execute(delete(RESULT).where(RESULT.c.run_id == number))
            rows = [_row_of(number, 0, one) for one in results]
            rows += [_row_of(number, k, one) for k, step in enumerate(steps, 1) for one in step.results]
            if rows:
                connection.execute(insert(RESULT), rows)
            reseal(connection, number, *COMPUTED)

    def stale(self) -> list[int]:
        """The numbers of the runs whose reading is of an older method."""
        query = (
            select(FINDING.c.run_id)
            .where(FINDING.c.method_version != METHOD_VERSION)
            .order_by(FINDING.c.run_id)
        )
        with self._engine.connect() as connection:
            return [int(row.run_id) for row in connection.execute(query)]

    def judgements(self, numbers: Sequence[int] | None = None) -> dict[int, str | None]:
        """The judgement of every run that has been read, by number; only of these where they are named."""
        query = select(FINDING.c.run_id, FINDING.c.judgement)
        if numbers is not None:
            query = query.where(FINDING.c.run_id.in_(numbers))
        with self._engine.connect() as connection:
            rows = connection.execute(query)
            return {row.run_id: row.judgement for row in rows}

    def results(self, numbers: Sequence[int], figure: Figure | None = None) -> dict[int, list[Result]]:
        """The measured results of runs that have been read, by run, all or those that a figure is chosen from."""
        query = select(RESULT.c.run_id, *_COLUMNS).where(RESULT.c.run_id.in_(numbers), RESULT.c.step == 0)
        if figure is not None:
            query = query.where(RESULT.c.statistic == figure.statistic, RESULT.c.quantity == figure.quantity)
        found: dict[int, list[Result]] = {}
        with self._engine.connect() as connection:
            for row in connection.execute(query.order_by(RESULT.c.id)):
                found.setdefault(row.run_id, []).append(_result_of(row))
        return found

    def steps(self, numbers: Sequence[int]) -> dict[int, list[StepResults]]:
        """The steps of runs that have been read and have any, by run, with what was measured in each."""
        with self._engine.connect() as connection:
            parts = parts_of(connection, numbers, *COMPUTED)
        found = {
            number: list(_steps(rows[0].steps, parts.of(RESULTS, number)))
            for number, rows in parts.rows[FINDINGS].items()
        }
        return {number: steps for number, steps in found.items() if steps}

    def reference_clock(self, number: int) -> float | None:
        """The clock of other runs that a run was read with; None where its own, or the facts, sufficed."""
        with self._engine.connect() as connection:
            found = connection.execute(
                select(FINDING.c.reference_clock_mhz).where(FINDING.c.run_id == number)
            ).scalar()
        return None if found is None else float(found)


def _read_run(reading: Reading, steps: Any, rows: Sequence[Any]) -> ReadRun:
    """All that was computed of a run, from its rows."""
    return ReadRun(reading, tuple(_result_of(row) for row in rows if row.step == 0), _steps(steps, rows))


def _steps(named: Any, rows: Sequence[Any]) -> tuple[StepResults, ...]:
    """The steps of a run with what was measured in each; none where it has but one."""
    from samovar.core.results.steps import Step, StepResults

    return tuple(
        StepResults(Step(**one), tuple(_result_of(row) for row in rows if row.step == k))
        for k, one in enumerate(named if isinstance(named, list) else (), 1)
    )


def _row_of(number: int, step: int, one: Result) -> dict[str, Any]:
    start_s, end_s = one.window if one.window is not None else (None, None)
    return {
        "run_id": number, "step": step, "part": one.part, "channel": one.channel, "quantity": one.quantity,
        "statistic": one.statistic, "unit": one.unit, "value": one.value, "half_width": one.half_width, "bound": one.bound,
        "start_s": start_s, "end_s": end_s, "n": one.n, "by": one.by, "at_s": one.at_s,
        "direction": one.direction, "off_by": one.off_by, "common_of": one.common_of or None,
    }  # fmt: skip


_IN_ROW = [f.name for f in fields(Result) if f.name in RESULT.c and f.name != "common_of"]
_values_of = attrgetter(*_IN_ROW, "start_s", "end_s", "common_of")


def _result_of(row: Any) -> Result:
    # Thousands of rows are made results of for one comparison.
    *values, start_s, end_s, common_of = _values_of(row)
    return Result(
        **dict(zip(_IN_ROW, values, strict=True)), window=None if start_s is None else (start_s, end_s),
        common_of=common_of or "",
    )  # fmt: skip


def _kept(body: Any) -> Reading | None:
    """A reading as it was stored; None where it was stored in another form, and has to be computed again."""
    from samovar.core.reading_plain import from_plain

    try:
        return from_plain(body)
    except (KeyError, TypeError, ValueError, AttributeError):
        return None


def _wanted_reference(others: float | None, own: float | None) -> float | None:
    """The other runs' clock where it is noticeably higher than what the run itself has shown."""
    from samovar.core.held.reference import HELD_SHARE

    if others is None or (own is not None and others <= own * (1.0 + HELD_SHARE)):
        return None
    return others


def _same(a: float | None, b: float | None) -> bool:
    if a is None or b is None:
        return a is b
    return abs(a - b) <= REFERENCE_TOLERANCE * max(a, b)
