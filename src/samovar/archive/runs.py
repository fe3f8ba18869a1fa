"""Runs in the archive: begun, sealed, listed, read back, and found again after a kill."""

from __future__ import annotations

import os
import socket
from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import Connection, Engine, delete, func, insert, select, update
from sqlalchemy.exc import OperationalError

from samovar.archive.annotations import Annotations
from samovar.archive.problems import Problems
from samovar.archive.records import HandReading, Run
from samovar.archive.run_rows import (
    channels_of,
    close_run,
    insert_channels,
    journal_of,
    runs_of,
    series_of,
    write_series,
)
from samovar.archive.schema import CHUNK, FINDING, HAND_READING, MARK, RUN
from samovar.archive.writer import RunWriter, words_for
from samovar.core.entered import plain
from samovar.core.exclusions import without
from samovar.core.facts import Facts
from samovar.core.held import HELD_SHARE
from samovar.core.quantity import Channel
from samovar.core.reading import METHOD_VERSION, Reading, read
from samovar.core.reading_plain import from_plain, to_plain
from samovar.core.recording import Mark, Recording

REFERENCE_TOLERANCE = 0.01


def _owner() -> dict[str, Any]:
    """Who records: this process, so that another can tell whether it still lives."""
    import psutil

    return {"host": socket.gethostname(), "pid": os.getpid(), "born": psutil.Process().create_time()}


def _alive(owner: dict[str, Any] | None) -> bool:
    """Whether a recording's process still runs; on another host, that cannot be denied."""
    if not owner:
        return False
    if owner.get("host") != socket.gethostname():
        return True
    import psutil

    try:
        return abs(psutil.Process(int(owner["pid"])).create_time() - float(owner["born"])) < 1.0
    except (psutil.Error, KeyError, ValueError):
        return False


class RunStore:
    """The runs of one archive; `annotations` is what a person has said of them."""

    def __init__(self, engine: Engine, problems: Problems) -> None:
        self._engine = engine
        self._problems = problems
        self.annotations = Annotations(engine)

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
                    owner=_owner(),
                )
            ).inserted_primary_key
            assert entered is not None
            number = int(entered[0])
            insert_channels(connection, number, channels)
        return RunWriter(self._engine, number, pass_number)

    def seal(self, writer: RunWriter, state: str, reason: str | None = None) -> bool:
        """Close a run: the journal becomes one series a channel, in one transaction. False where what
        is in memory cannot be written now; the run then stays as it is, to be sealed again."""
        if not writer.flush():
            return False
        try:
            self._consolidate(writer.number, state, reason)
        except OperationalError as failure:
            writer.problem = words_for(failure)
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
        writer = self.begin(
            recording.channels, load, started, review_id=review_id, setup_id=setup_id, facts=facts
        )
        with self._engine.begin() as connection:
            for mark in recording.marks:
                connection.execute(insert(MARK).values(run_id=writer.number, at_s=mark.at_s, text=mark.text))
            for reading in hand_readings:
                self._insert_hand_reading(connection, writer.number, reading)
            write_series(connection, writer.number, recording.time_s, recording.values)
            close_run(connection, writer.number, state, reason, recording.time_s, len(recording.channels))
        return writer.number

    def _consolidate(self, number: int, state: str, reason: str | None) -> None:
        with self._engine.begin() as connection:
            count = connection.execute(select(RUN.c.channels).where(RUN.c.id == number)).scalar_one()
            time_s, values = journal_of(connection, number, count)
            write_series(connection, number, time_s, values)
            connection.execute(delete(CHUNK).where(CHUNK.c.run_id == number))
            close_run(connection, number, state, reason, time_s, count)

    def recover(self) -> list[str]:
        """Find runs whose recorder is gone, and make each whole up to its last written second; the
        answer names them."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(RUN.c.id, RUN.c.owner).where(RUN.c.state == "recording")).all()
        found = []
        for number, owner in rows:
            if not _alive(owner):
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
        with self._engine.connect() as connection:
            rows = connection.execute(query).mappings().all()
        return runs_of(rows, self._problems)

    def run(self, name: str | int) -> Run | None:
        """The run of this number or name (`r0007`); None where there is none."""
        text = str(name).lower().removeprefix("r")
        if not text.isdigit():
            return None
        with self._engine.connect() as connection:
            row = connection.execute(select(RUN).where(RUN.c.id == int(text))).mappings().first()
        return next(iter(runs_of([row] if row is not None else [], self._problems)), None)

    def judgements(self) -> dict[int, str | None]:
        """The judgement of every run that has been read, by number."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(FINDING.c.run_id, FINDING.c.judgement))
            return {row.run_id: row.judgement for row in rows}

    def recording(self, number: int, positions: Sequence[int] | None = None) -> Recording:
        """A run's samples and marks; only the channels at these positions where given.

        Raises:
            KeyError: no such run.
        """
        with self._engine.connect() as connection:
            row = connection.execute(select(RUN.c.state, RUN.c.channels).where(RUN.c.id == number)).first()
            if row is None:
                raise KeyError(f"no run r{number:04d}")
            channels = channels_of(connection, number)
            marks = connection.execute(
                select(MARK.c.at_s, MARK.c.text)
                .where(MARK.c.run_id == number)
                .order_by(MARK.c.at_s, MARK.c.id)
            ).all()
            if row.state == "recording":
                time_s, values = journal_of(connection, number, row.channels)
            else:
                time_s, values = series_of(connection, number, row.channels, positions)
        if positions is not None and row.state == "recording":
            values = values[list(positions)]
        kept = channels if positions is None else [channels[p] for p in positions]
        return Recording(
            tuple(kept),
            time_s,
            values,
            tuple(Mark(m.at_s, m.text) for m in marks),
            None if row.state == "recording" else row.state == "did-not-finish",
        )

    def channels(self, number: int) -> list[Channel]:
        """A run's channels in their order."""
        with self._engine.connect() as connection:
            return channels_of(connection, number)

    def reading(self, number: int) -> Reading:
        """A run's reading: as stored, or computed and stored where there is none yet, the methods have
        changed since, or another run of the same load has shown a higher free clock.

        Raises:
            KeyError: no such run.
        """
        run = self.run(number)
        if run is None:
            raise KeyError(f"no run r{number:04d}")
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
        recording = without(self.recording(number), self.annotations.excluded(number))
        reading = read(recording, run.facts, None, reference, self.annotations.window(number))
        if run.state != "recording":
            self._store(number, reading, reference)
        return reading

    def stored_reading(self, number: int) -> Reading | None:
        """A run's reading as it was last stored, were it of an older method; None where there is none."""
        with self._engine.connect() as connection:
            body = connection.execute(select(FINDING.c.body).where(FINDING.c.run_id == number)).scalar()
        return None if body is None else _kept(body)

    def store_reading(self, number: int, reading: Reading) -> None:
        """Keep a reading computed elsewhere with nothing but the run's own data."""
        self._store(number, reading, None)

    def _store(self, number: int, reading: Reading, reference: float | None) -> None:
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
                )
            )

    def _reference_clock(self, run: Run) -> float | None:
        """The highest free clock that other runs of the same load in the same review have shown."""
        if run.review_id is None:
            return None
        with self._engine.connect() as connection:
            found = connection.execute(
                select(func.max(FINDING.c.free_clock_mhz)).where(
                    FINDING.c.run_id == RUN.c.id,
                    RUN.c.review_id == run.review_id,
                    RUN.c.load == run.load,
                    RUN.c.id != run.number,
                    RUN.c.left_out.is_(None),
                )
            ).scalar()
        return None if found is None else float(found)

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

    def leave_out(self, number: int, reason: str | None) -> None:
        """Leave a run out of every comparison, with a reason; None brings it back."""
        with self._engine.begin() as connection:
            connection.execute(update(RUN).where(RUN.c.id == number).values(left_out=reason))

    def change_mark(self, number: int, old: Mark | None, new: Mark | None) -> None:
        """Put one mark in another's place; None for `old` adds one, None for `new` takes it away."""
        with self._engine.begin() as connection:
            if old is not None:
                same = (MARK.c.run_id == number, MARK.c.at_s == old.at_s, MARK.c.text == old.text)
                connection.execute(delete(MARK).where(*same))
            if new is not None:
                connection.execute(insert(MARK).values(run_id=number, at_s=new.at_s, text=new.text))

    def add_hand_reading(self, number: int, reading: HandReading) -> None:
        """Keep a value a person took."""
        with self._engine.begin() as connection:
            self._insert_hand_reading(connection, number, reading)

    @staticmethod
    def _insert_hand_reading(connection: Connection, number: int, reading: HandReading) -> None:
        connection.execute(
            insert(HAND_READING).values(
                run_id=number,
                at_s=reading.at_s,
                quantity=reading.quantity,
                value=reading.value,
                half_width=reading.half_width,
                unit=reading.unit,
                instrument=reading.instrument,
            )
        )

    def hand_readings(self, number: int) -> list[HandReading]:
        """A run's hand readings in order of time."""
        with self._engine.connect() as connection:
            rows = connection.execute(
                select(HAND_READING).where(HAND_READING.c.run_id == number).order_by(HAND_READING.c.at_s)
            ).all()
        return [HandReading(r.at_s, r.quantity, r.value, r.half_width, r.unit, r.instrument) for r in rows]


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
