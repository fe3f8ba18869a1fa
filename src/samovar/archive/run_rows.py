"""A run's rows in the tables: its entry, channels, journal and series, written and read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, fields
from typing import Annotated, Any

from sqlalchemy import Connection, delete, insert, select

from samovar.archive.problems import Problems
from samovar.archive.records import Run
from samovar.archive.schema import CHANGE, CHANNEL, FINDING, RESULT
from samovar.archive.sums import CHANGES, CHANNELS, COMPUTED, ENTRY, reseal
from samovar.core.entered import (
    TEXT_MOST,
    Check,
    Line,
    Words,
    between,
    checked,
    clean,
    one_of,
    strict,
    visible,
)
from samovar.core.facts import Facts
from samovar.core.marks import Change
from samovar.core.quantity import Channel

STATES = ("recording", "sealed", "stopped", "interrupted", "did-not-finish")


@strict
@dataclass(frozen=True, slots=True)
class _Entry:
    """What stands in a run's row beside its facts."""

    load: Annotated[str, Check(clean(TEXT_MOST))]
    pass_number: Annotated[int, between(0, 10**6)]
    state: Annotated[str, one_of(STATES, "state of a run")]
    reason: Words | None
    started: Line
    duration_s: Annotated[float, between(0.0, 1e12, "s")]
    interval_s: Annotated[float, between(0.0, 1e12, "s")] | None
    channels: Annotated[int, between(0, 10**6)]
    samples: Annotated[int, between(0, 10**12)]
    left_out: Words | None


_COLUMNS = tuple(f.name for f in fields(_Entry))


def runs_of(rows: Sequence[Any], problems: Problems) -> list[Run]:
    """Rows of the run table as records. A row that cannot be read costs itself, facts that cannot be only themselves;
    both are named."""
    facts_of: dict[str, Facts] = {}

    def facts(row: Any) -> Facts:
        # Many runs have one rig's facts: each is looked at once.
        key = repr(row["facts"])
        if key not in facts_of:
            found = problems.readable(
                f"facts of r{row['id']:04d}:", [row], lambda r: checked(Facts, r["facts"] or {})
            )
            facts_of[key] = found[0] if found else Facts()
        return facts_of[key]

    def run(row: Any) -> Run:
        entry = checked(_Entry, {name: row[name] for name in _COLUMNS}, f"r{row['id']:04d}")
        course = row["course"]
        return Run(
            row["id"], row["review_id"], row["setup_id"], visible(entry.load), entry.pass_number, entry.state, entry.reason,
            entry.started, entry.duration_s, entry.interval_s, entry.channels, entry.samples, facts(row), entry.left_out,
            isinstance(course, dict) and bool(course.get("unguarded")), visible(row["bench"] or ""),
        )  # fmt: skip

    return problems.readable("run", rows, run)


def insert_channels(connection: Connection, number: int, channels: Sequence[Channel], first: int = 0) -> None:
    """Enter a run's channels in their order, the first at this position."""
    rows = [
        {
            "run_id": number, "position": position, "name": c.name, "quantity": c.quantity, "unit": c.unit,
            "role": c.role, "domain": c.domain, "sensor": c.id, "accuracy": c.accuracy or None,
        }
        for position, c in enumerate(channels, first)
    ]  # fmt: skip
    if rows:
        connection.execute(insert(CHANNEL), rows)
    reseal(connection, number, ENTRY, CHANNELS)


def channels_of(connection: Connection, number: int) -> list[Channel]:
    """A run's channels in their order."""
    rows = connection.execute(select(CHANNEL).where(CHANNEL.c.run_id == number).order_by(CHANNEL.c.position))
    return [channel_of(row) for row in rows]


def channel_of(row: Any) -> Channel:
    """A row of the channel table as a channel."""
    return Channel(row.name, row.quantity, row.unit, row.role, row.domain, row.sensor, row.accuracy or "")


def change_of(row: Any) -> Change:
    """A row of the change table as a change."""
    return Change(row.at_s, row.what, row.name, row.value)


def insert_change(connection: Connection, number: int, change: Change) -> None:
    """Enter a change of load or fans."""
    connection.execute(insert(CHANGE).values(run_id=number, **asdict(change)))
    reseal(connection, number, CHANGES)


def forget_finding(connection: Connection, number: int) -> None:
    """Let go of what was computed of a run: what it stood on has changed, and it is computed anew when next asked for."""
    connection.execute(delete(FINDING).where(FINDING.c.run_id == number))
    connection.execute(delete(RESULT).where(RESULT.c.run_id == number))
    reseal(connection, number, *COMPUTED)
