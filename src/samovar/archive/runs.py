"""Runs in the archive: begun, sealed, listed, read back, and found again after a kill."""

from __future__ import annotations

import secrets
from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from sqlalchemy import Engine, Select, case, delete, func, insert, select, update
from sqlalchemy.exc import DatabaseError, DBAPIError, OperationalError

from samovar.archive.annotations import Annotations
from samovar.archive.damage import UNREADABLE, Damage, DamagedRun
from samovar.archive.findings import Findings
from samovar.archive.hand_readings import HandReadings, insert_reading
from samovar.archive.laboratory import bench_name
from samovar.archive.owner import owner_lives, this_process
from samovar.archive.place import ArchiveError, Place
from samovar.archive.problems import Problems
from samovar.archive.records import CellCount, Run
from samovar.archive.run_rows import (
    channels_of,
    forget_finding,
    insert_change,
    insert_channels,
    runs_of,
)
from samovar.archive.schema import CHANGE, FINDING, MARK, RUN, SEAL
from samovar.archive.sums import CHANGES, ENTRY, MARKS, reseal
from samovar.core.entered import plain
from samovar.core.facts import Facts
from samovar.core.quantity import Channel
from samovar.core.results.figure import FINISHED

if TYPE_CHECKING:
    # What has to do with samples, and with what they say, is imported where it is used: lists of runs need none of it.
    import numpy as np

    from samovar.archive.writer import RunWriter
    from samovar.core.by_hand.reading import HandReading
    from samovar.core.marks import Change, Mark
    from samovar.core.reading import Reading
    from samovar.core.recording import Recording
    from samovar.core.results.figure import RunResult

COUNTED = ("sealed", "stopped", "interrupted", "did-not-finish")
"""Runs in these states are over, and say something of their cell."""


class RunStore:
    """The runs of one archive; `annotations` is what a person has said of them, `hands` what people read,
    `findings` what was computed, `damage` which of them cannot be read any more, `bench` who records where, if it is not
    whoever runs the program on this machine."""

    def __init__(
        self, engine: Engine, problems: Problems, place: Place | None = None, read_only: bool = False
    ) -> None:
        self._engine = engine
        self._place = place
        self._problems = problems
        self.damage = Damage()
        self.bench = ""
        self.annotations = Annotations(engine)
        self.hands = HandReadings(engine)
        self.findings = Findings(engine, self.recording, self.hands, self.annotations, read_only)

    def begin(
        self,
        channels: Sequence[Channel],
        load: str,
        started: str,
        *,
        review_id: int | None = None,
        setup_id: int | None = None,
        facts: Facts | None = None,
        course: dict[str, Any] | None = None,
    ) -> RunWriter:
        """Enter a new run and take its samples from now on. Its pass is the next of its cell."""
        from samovar.archive.journal import Journal
        from samovar.archive.writer import RunWriter

        with self._engine.begin() as connection:
            earlier = connection.execute(
                select(func.max(RUN.c.pass_number)).where(
                    RUN.c.setup_id == setup_id, RUN.c.load == load, RUN.c.state != "did-not-finish"
                )
            ).scalar()
            pass_number = 1 if setup_id is None else (earlier or 0) + 1
            entered = connection.execute(
                insert(RUN).values(
                    review_id=review_id,
                    setup_id=setup_id,
                    load=load,
                    pass_number=pass_number,
                    state="recording",
                    started=started,
                    channels=len(channels),
                    facts=plain(facts or Facts()),
                    course=course,
                    owner=this_process(),
                    bench=self.bench or bench_name(),
                    token=secrets.token_hex(16),
                )
            ).inserted_primary_key
            assert entered is not None
            number = int(entered[0])
            insert_channels(connection, number, channels)
        # A file is at hand as long as the program is; of a server, what it cannot take waits on this machine.
        server = self._place if self._place is not None and self._place.server is not None else None
        journal = Journal(self._engine, server, number) if server is not None else None
        return RunWriter(self._engine, number, pass_number, journal=journal)

    def seal(self, writer: RunWriter, state: str, reason: str | None = None) -> bool:
        """Close a run: the journal becomes one series a channel, in one transaction. False where what
        is in memory cannot be written now; the run then stays as it is, to be sealed again."""
        if not writer.flush():
            return False
        try:
            self._consolidate(writer.number, state, reason)
        except DBAPIError as failure:
            if not isinstance(failure, OperationalError) and writer.journal is None:
                raise
            writer.unable(failure)
            return False
        return True

    def add(
        self,
        recording: Recording,
        load: str,
        started: str,
        state: str = "sealed",
        *,
        reason: str | None = None,
        review_id: int | None = None,
        setup_id: int | None = None,
        facts: Facts | None = None,
        hand_readings: Iterable[HandReading] = (),
    ) -> int:
        """Enter a whole recording at once; the answer is its number."""
        from samovar.archive.series import close_run, write_series

        writer = self.begin(
            recording.channels, load, started, review_id=review_id, setup_id=setup_id, facts=facts
        )
        with self._engine.begin() as connection:
            for mark in recording.marks:
                connection.execute(insert(MARK).values(run_id=writer.number, at_s=mark.at_s, text=mark.text))
            reseal(connection, writer.number, MARKS)
            for reading in hand_readings:
                insert_reading(connection, writer.number, reading)
            for change in recording.changes:
                insert_change(connection, writer.number, change)
            write_series(connection, writer.number, recording.time_s, recording.values)
            close_run(connection, writer.number, state, reason, recording.time_s, len(recording.channels))
        return writer.number

    def _consolidate(self, number: int, state: str, reason: str | None) -> None:
        from samovar.archive.series import seal_journal

        with self._engine.begin() as connection:
            seal_journal(connection, number, state, reason)

    def widen(self, number: int, channels: Sequence[Channel], values: np.ndarray) -> None:
        """Give a sealed run further channels, behind its own; `values` has shape (m, n), n its samples.

        Raises:
            KeyError: no such run.
        """
        from samovar.archive.series import widen

        with self._engine.begin() as connection:
            widen(connection, number, channels, values)

    def hand_on_waiting(self) -> list[str]:
        """Hand on what waited on this machine for the archive's server; the answer names the runs."""
        if self._place is None or self._place.server is None:
            return []
        from samovar.archive.journal import hand_on, waiting_for

        found = []
        for path in waiting_for(self._place):
            try:
                name = hand_on(self._engine, path)
            except (ArchiveError, DBAPIError):
                # It stays where it is, and is tried again.
                continue
            found += [name] if name is not None else []
        return found

    def recover(self) -> list[str]:
        """Find runs whose recorder is gone, and make each whole up to its last written second; the
        answer names them."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(RUN.c.id, RUN.c.owner).where(RUN.c.state == "recording")).all()
        found = []
        for number, owner in rows:
            if not owner_lives(owner):
                self._consolidate(number, "interrupted", "the program ended while recording")
                found.append(f"r{number:04d}")
        return found

    def runs(
        self,
        review_id: int | None = None,
        setup_id: int | None = None,
        load: str | None = None,
        newest: int | None = None,
    ) -> list[Run]:
        """Runs by number, of a review, setup or load where named; only the newest so many where asked."""
        query = select(RUN)
        for column, wanted in ((RUN.c.review_id, review_id), (RUN.c.setup_id, setup_id), (RUN.c.load, load)):
            if wanted is not None:
                query = query.where(column == wanted)
        query = query.order_by(RUN.c.id) if newest is None else query.order_by(RUN.c.id.desc()).limit(newest)
        try:
            with self._engine.connect() as connection:
                rows = list(connection.execute(query).mappings().all())
        except OperationalError:
            raise
        except DatabaseError as problem:
            rows = self._one_by_one(query, problem)
        return [self.damage.marked(run) for run in runs_of(rows, self._problems)]

    def _one_by_one(self, query: Select[Any], problem: DatabaseError) -> list[Any]:
        """Entries of a table that cannot be read as a whole: those that can be, each asked for alone. Raises the problem
        where not even the runs' numbers can be had."""
        with self._engine.connect() as connection:
            try:
                numbers = list(
                    connection.execute(select(SEAL.c.run_id).distinct().order_by(SEAL.c.run_id)).scalars()
                )
            except DatabaseError:
                raise problem from None
            rows: list[Any] = []
            for number in numbers:
                try:
                    rows += connection.execute(query.where(RUN.c.id == number)).mappings().all()
                except DatabaseError:
                    self.damage.note(number, "its entry cannot be read")
        return rows

    def counts(self, review_id: int | None = None) -> list[CellCount]:
        """The runs of a review, or of all reviews, counted by cell."""
        counts = RUN.c.state.in_(FINISHED) & RUN.c.left_out.is_(None)
        if self.damage.known:
            counts &= RUN.c.id.not_in(list(self.damage.known))
        stepped = func.coalesce(FINDING.c.in_steps, 0) == 1
        query = (
            select(
                RUN.c.review_id,
                RUN.c.setup_id,
                RUN.c.load,
                func.sum(case((counts & ~stepped, 1), else_=0)),
                func.sum(case((counts & stepped, 1), else_=0)),
                func.max(RUN.c.id),
            )
            .outerjoin(FINDING, FINDING.c.run_id == RUN.c.id)
            .where(RUN.c.setup_id.is_not(None), RUN.c.state.in_(COUNTED), RUN.c.samples > 0)
            .where(RUN.c.review_id.is_not(None) if review_id is None else RUN.c.review_id == review_id)
            .group_by(RUN.c.review_id, RUN.c.setup_id, RUN.c.load)
        )
        with self._engine.connect() as connection:
            return [CellCount(*row) for row in connection.execute(query)]

    def counted_on(self, setup_ids: Sequence[int]) -> list[tuple[int, int, str]]:
        """The finished runs of some setups that count: number, setup and load of each, in their order."""
        query = (
            select(RUN.c.id, RUN.c.setup_id, RUN.c.load)
            .where(RUN.c.setup_id.in_(setup_ids), RUN.c.state.in_(FINISHED), RUN.c.left_out.is_(None))
            .order_by(RUN.c.id)
        )
        with self._engine.connect() as connection:
            rows = connection.execute(query)
            return [(r.id, r.setup_id, r.load) for r in rows if r.id not in self.damage.known]

    def lengths_s(self, review_id: int) -> dict[str, list[float]]:
        """How long the finished runs of a review took, by load."""
        query = select(RUN.c.load, RUN.c.duration_s).where(
            RUN.c.review_id == review_id, RUN.c.state.in_(FINISHED), RUN.c.samples > 0
        )
        found: dict[str, list[float]] = {}
        with self._engine.connect() as connection:
            for load, duration_s in connection.execute(query):
                found.setdefault(load, []).append(duration_s)
        return found

    def run(self, name: str | int) -> Run | None:
        """The run of this number or name (`r0007`); None where there is none."""
        text = str(name).lower().removeprefix("r")
        if not text.isdigit():
            return None
        with self._engine.connect() as connection:
            row = connection.execute(select(RUN).where(RUN.c.id == int(text))).mappings().first()
        found = runs_of([row] if row is not None else [], self._problems)
        return self.damage.marked(found[0]) if found else None

    def recording(self, number: int, positions: Sequence[int] | None = None) -> Recording:
        """A run's samples and marks; only the channels at these positions where given.

        Raises:
            KeyError: no such run.
            DamagedRun: what was kept of it can no longer be read, or does not fit its checksum.
        """
        from samovar.archive.series import recording_of

        try:
            with self._engine.connect() as connection:
                return recording_of(connection, number, positions)
        except DamagedRun as problem:
            self.damage.note(number, problem.what)
            raise
        except OperationalError:
            raise
        except DatabaseError as problem:
            self.damage.note(number, UNREADABLE)
            raise DamagedRun(number, UNREADABLE) from problem

    def results_of(self, runs: Sequence[Run]) -> list[tuple[Run, RunResult]]:
        """Runs as comparisons see them: see `run_results`."""
        from samovar.archive.run_results import results_of_runs

        return results_of_runs(self._engine, self.findings, self.damage, runs) if runs else []

    def courses_of(self, channels: Mapping[int, str]) -> dict[int, tuple[np.ndarray, np.ndarray]]:
        """Times and values, shape (n,), of one channel of each of these runs, by its name; runs that have none of this
        name, or whose samples cannot be read, are not named."""
        from samovar.archive.series import courses_of

        with self._engine.connect() as connection:
            return courses_of(connection, channels)

    def channels(self, number: int) -> list[Channel]:
        """A run's channels in their order."""
        with self._engine.connect() as connection:
            return channels_of(connection, number)

    def reading(self, number: int) -> Reading:
        """A run's reading: see `Findings`.

        Raises:
            KeyError: no such run.
        """
        run = self.run(number)
        if run is None:
            raise KeyError(f"no run r{number:04d}")
        return self.findings.reading(run)

    def move(self, number: int, review_id: int | None, setup_id: int | None, load: str) -> None:
        """Take a run to the cell it belongs to, as its next pass; to the inbox with None. What is said of the
        runs of either review is worked out anew."""
        with self._engine.begin() as connection:
            query = select(func.max(RUN.c.pass_number)).where(
                RUN.c.setup_id == setup_id, RUN.c.load == load, RUN.c.id != number
            )
            earlier = connection.execute(query).scalar() if setup_id is not None else 0
            connection.execute(
                update(RUN)
                .where(RUN.c.id == number)
                .values(review_id=review_id, setup_id=setup_id, load=load, pass_number=(earlier or 0) + 1)
            )
            reseal(connection, number, ENTRY)

    def leave_out(self, number: int, reason: str | None) -> None:
        """Leave a run out of every comparison, with a reason; None brings it back."""
        with self._engine.begin() as connection:
            connection.execute(update(RUN).where(RUN.c.id == number).values(left_out=reason))
            reseal(connection, number, ENTRY)

    def change_mark(self, number: int, old: Mark | None, new: Mark | None) -> None:
        """Put one mark in another's place; None for `old` adds one, None for `new` takes it away."""
        with self._engine.begin() as connection:
            if old is not None:
                same = (MARK.c.run_id == number, MARK.c.at_s == old.at_s, MARK.c.text == old.text)
                connection.execute(delete(MARK).where(*same))
            if new is not None:
                connection.execute(insert(MARK).values(run_id=number, at_s=new.at_s, text=new.text))
            reseal(connection, number, MARKS)

    def change_change(self, number: int, old: Change | None, new: Change | None) -> None:
        """Put one change in another's place; None for `old` adds one, None for `new` takes it away. What was computed
        of the run's steps is worked out anew."""
        with self._engine.begin() as connection:
            if old is not None:
                same = (
                    CHANGE.c.run_id == number,
                    CHANGE.c.at_s == old.at_s,
                    CHANGE.c.what == old.what,
                    CHANGE.c.name == old.name,
                )
                connection.execute(delete(CHANGE).where(*same))
            if new is not None:
                insert_change(connection, number, new)
            reseal(connection, number, CHANGES)
            forget_finding(connection, number)
