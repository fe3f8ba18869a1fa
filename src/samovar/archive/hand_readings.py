"""What people read of a run: kept, changed, taken back, at any time."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict, fields, replace
from typing import Any

from sqlalchemy import Connection, Engine, delete, func, insert, select, update

from samovar.archive.run_rows import forget_finding
from samovar.archive.schema import HAND_READING
from samovar.archive.sums import READINGS, reseal
from samovar.core.by_hand.reading import HandReading

ROOM = "room"
"""The kind of reading on which a run's own figures stand: its rises."""
_NAMES = [f.name for f in fields(HandReading)]


def readings_among(rows: Iterable[Any]) -> list[HandReading]:
    """Rows as hand readings, in the order of their moments, those of the whole run behind them."""
    found = [HandReading(*(getattr(row, name) for name in _NAMES)) for row in rows]
    return sorted(found, key=lambda r: (r.at_s is None, r.at_s or 0.0, r.n))


def next_number(connection: Connection, run: int) -> int:
    """The number a further reading of a run gets."""
    found = connection.execute(
        select(func.max(HAND_READING.c.n)).where(HAND_READING.c.run_id == run)
    ).scalar()
    return (found or 0) + 1


def insert_reading(connection: Connection, run: int, reading: HandReading) -> HandReading:
    """Enter a reading; one that has no number yet gets the next."""
    numbered = reading if reading.n else replace(reading, n=next_number(connection, run))
    connection.execute(insert(HAND_READING).values(run_id=run, **asdict(numbered)))
    _seen_to(connection, run, reading)
    return numbered


def _seen_to(connection: Connection, run: int, *readings: HandReading) -> None:
    """After readings changed: their checksum is kept, and a run whose room is another now is read anew."""
    reseal(connection, run, READINGS)
    if any(reading.kind == ROOM for reading in readings):
        forget_finding(connection, run)


class HandReadings:
    """The hand readings of one archive's runs."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def of(self, run: int) -> list[HandReading]:
        """A run's hand readings, in the order of their moments, those of the whole run behind them."""
        return self.of_all([run]).get(run, [])

    def of_all(self, runs: list[int]) -> dict[int, list[HandReading]]:
        """The hand readings of several runs."""
        query = select(HAND_READING).where(HAND_READING.c.run_id.in_(runs))
        rows: dict[int, list[Any]] = {}
        with self._engine.connect() as connection:
            for row in connection.execute(query):
                rows.setdefault(row.run_id, []).append(row)
        return {run: readings_among(found) for run, found in rows.items()}

    def add(self, run: int, reading: HandReading) -> HandReading:
        """Keep a reading; the answer has its number."""
        return self.add_all(run, [reading])[0]

    def add_all(self, run: int, readings: list[HandReading]) -> list[HandReading]:
        """Keep several, all or none."""
        with self._engine.begin() as connection:
            return [insert_reading(connection, run, reading) for reading in readings]

    def put(self, run: int, reading: HandReading) -> None:
        """Put a reading in the place of the one of its number."""
        before = next((r for r in self.of(run) if r.n == reading.n), reading)
        with self._engine.begin() as connection:
            same = (HAND_READING.c.run_id == run, HAND_READING.c.n == reading.n)
            connection.execute(update(HAND_READING).where(*same).values(**asdict(reading)))
            _seen_to(connection, run, before, reading)

    def take_back(self, run: int, n: int) -> HandReading | None:
        """Take the reading of this number away; the answer is what it was, None where there is none."""
        found = next((r for r in self.of(run) if r.n == n), None)
        if found is not None:
            with self._engine.begin() as connection:
                connection.execute(
                    delete(HAND_READING).where(HAND_READING.c.run_id == run, HAND_READING.c.n == n)
                )
                _seen_to(connection, run, found)
        return found
