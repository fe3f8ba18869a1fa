"""What was read from runs, kept beside them: the finding of each, and one row for every result."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import asdict
from typing import Any

from sqlalchemy import Engine, delete, func, insert, or_, select

from samovar.archive.annotations import Annotations
from samovar.archive.hand_readings import HandReadings
from samovar.archive.records import Run
from samovar.archive.schema import FINDING, RESULT, RUN, SETUP
from samovar.core.by_hand.reading import with_room
from samovar.core.exclusions import without
from samovar.core.held.reference import HELD_SHARE
from samovar.core.reading import METHOD_VERSION, Reading, read
from samovar.core.reading_plain import from_plain, to_plain
from samovar.core.recording import Recording
from samovar.core.results.compute import results_of
from samovar.core.results.figure import Figure
from samovar.core.results.result import Result
from samovar.core.results.steps import Step, StepResults, results_of_steps, steps_of

REFERENCE_TOLERANCE = 0.01
_COLUMNS = [c for c in RESULT.c if c.name not in ("id", "run_id", "step")]


class Findings:
    """Readings and results of an archive's runs: as stored, or computed and stored where there are none yet, the
    methods have changed since, or another run of the same load has shown a higher free clock.

    Args:
        engine: the archive's.
        recording_of: gives a run's samples.
        hands, annotations: what people read and said of a run.
    """

    def __init__(
        self,
        engine: Engine,
        recording_of: Callable[[int], Recording],
        hands: HandReadings,
        annotations: Annotations,
    ) -> None:
        self._engine = engine
        self._recording_of = recording_of
        self._hands = hands
        self._annotations = annotations

    def reading(self, run: Run) -> Reading:
        """A run's reading."""
        number = run.number
        higher = self._reference_clock(run)
        with self._engine.connect() as connection:
            row = connection.execute(select(FINDING).where(FINDING.c.run_id == number)).first()
        reference = _wanted_reference(higher, row.free_clock_mhz if row is not None else None)
        if (
            row is not None
            and row.method_version == METHOD_VERSION
            and _same(row.reference_clock_mhz, reference)
            and (kept := _kept(row.body)) is not None
        ):
            return kept
        recording = without(self._recording_of(number), self._annotations.excluded(number))
        facts = with_room(run.facts, self._hands.of(number))
        reading = read(recording, facts, None, reference, self._annotations.window(number))
        if run.state != "recording":
            steps = results_of_steps(recording, reading, steps_of(recording, reading))
            self.store(number, reading, results_of(recording, reading), reference, steps)
        return reading

    def store(
        self,
        number: int,
        reading: Reading,
        results: Sequence[Result],
        reference: float | None = None,
        steps: Sequence[StepResults] = (),
    ) -> None:
        """Keep a reading with its results, and those of its steps."""
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
                )
            )
            connection.execute(delete(RESULT).where(RESULT.c.run_id == number))
            rows = [_row_of(number, 0, one) for one in results]
            rows += [_row_of(number, k, one) for k, step in enumerate(steps, 1) for one in step.results]
            if rows:
                connection.execute(insert(RESULT), rows)

    def stale(self) -> list[int]:
        """The numbers of the runs whose reading is of an older method."""
        query = (
            select(FINDING.c.run_id)
            .where(FINDING.c.method_version != METHOD_VERSION)
            .order_by(FINDING.c.run_id)
        )
        with self._engine.connect() as connection:
            return [int(row.run_id) for row in connection.execute(query)]

    def judgements(self) -> dict[int, str | None]:
        """The judgement of every run that has been read, by number."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(FINDING.c.run_id, FINDING.c.judgement))
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

    def in_steps(self) -> frozenset[int]:
        """The runs that were read and went in steps."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(FINDING.c.run_id, FINDING.c.steps)).all()
        return frozenset(row.run_id for row in rows if isinstance(row.steps, list))

    def steps(self, numbers: Sequence[int]) -> dict[int, list[StepResults]]:
        """The steps of runs that have been read and have any, by run, with what was measured in each."""
        with self._engine.connect() as connection:
            named = {
                row.run_id: [Step(**one) for one in row.steps]
                for row in connection.execute(
                    select(FINDING.c.run_id, FINDING.c.steps).where(FINDING.c.run_id.in_(numbers))
                )
                if isinstance(row.steps, list)
            }
            if not named:
                return {}
            query = select(RESULT.c.run_id, RESULT.c.step, *_COLUMNS)
            query = query.where(RESULT.c.run_id.in_(list(named)), RESULT.c.step > 0).order_by(RESULT.c.id)
            found: dict[tuple[int, int], list[Result]] = {}
            for row in connection.execute(query):
                found.setdefault((row.run_id, row.step), []).append(_result_of(row))
        return {
            number: [StepResults(step, tuple(found.get((number, k), ()))) for k, step in enumerate(steps, 1)]
            for number, steps in named.items()
        }

    def reference_clock(self, number: int) -> float | None:
        """The clock of other runs that a run was read with; None where its own, or the facts, sufficed."""
        with self._engine.connect() as connection:
            found = connection.execute(
                select(FINDING.c.reference_clock_mhz).where(FINDING.c.run_id == number)
            ).scalar()
        return None if found is None else float(found)

    def _reference_clock(self, run: Run) -> float | None:
        """The highest free clock that other runs of the same load have shown: of the same setup, else on the same rig.
        Another machine's clock says nothing of this one's."""
        if run.review_id is None or run.setup_id is None:
            return None
        mine = select(SETUP.c.rig_id).where(SETUP.c.id == run.setup_id).scalar_subquery()
        same_rig = select(SETUP.c.id).where(SETUP.c.review_id == run.review_id, SETUP.c.rig_id == mine)
        query = select(func.max(FINDING.c.free_clock_mhz)).where(
            FINDING.c.run_id == RUN.c.id,
            RUN.c.review_id == run.review_id,
            RUN.c.load == run.load,
            RUN.c.id != run.number,
            RUN.c.left_out.is_(None),
            or_(RUN.c.setup_id == run.setup_id, RUN.c.setup_id.in_(same_rig)),
        )
        with self._engine.connect() as connection:
            found = connection.execute(query).scalar()
        return None if found is None else float(found)


def _row_of(number: int, step: int, one: Result) -> dict[str, Any]:
    start_s, end_s = one.window if one.window is not None else (None, None)
    return {
        "run_id": number, "step": step, "part": one.part, "channel": one.channel, "quantity": one.quantity,
        "statistic": one.statistic, "unit": one.unit, "value": one.value, "half_width": one.half_width, "bound": one.bound,
        "start_s": start_s, "end_s": end_s, "n": one.n, "by": one.by, "at_s": one.at_s,
        "direction": one.direction,
    }  # fmt: skip


def _result_of(row: Any) -> Result:
    window = None if row.start_s is None else (row.start_s, row.end_s)
    return Result(
        row.part, row.channel, row.quantity, row.statistic, row.unit, row.value, row.half_width, row.bound,
        window=window, n=row.n, by=row.by, at_s=row.at_s, direction=row.direction,
    )  # fmt: skip


def _kept(body: dict[str, Any]) -> Reading | None:
    """A reading as it was stored; None where it was stored in another form, and has to be computed again."""
    try:
        return from_plain(body)
    except (KeyError, TypeError):
        return None


def _wanted_reference(others: float | None, own: float | None) -> float | None:
    """The other runs' clock where it is noticeably higher than what the run itself has shown."""
    if others is None or (own is not None and others <= own * (1.0 + HELD_SHARE)):
        return None
    return others


def _same(a: float | None, b: float | None) -> bool:
    if a is None or b is None:
        return a is b
    return abs(a - b) <= REFERENCE_TOLERANCE * max(a, b)
