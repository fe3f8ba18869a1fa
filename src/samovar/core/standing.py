"""What stands in the way of a cell being compared, in a few words each."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.core.results.figure import RunResult

ROOM_APART_K = 2.0
"""Rooms further apart than this are said: a rise is taken over the room, but fans follow the die itself."""


def room_of(result: RunResult) -> float | None:
    """The room during a run, °C."""
    thermal = result.reading.thermal
    return None if thermal is None else thermal.room_c


def _mean_room(results: Sequence[RunResult]) -> float | None:
    rooms = [room for r in results if (room := room_of(r)) is not None]
    return sum(rooms) / len(rooms) if rooms else None


def in_the_way(
    results: Sequence[RunResult],
    wanted: int,
    *,
    reference: Sequence[RunResult] | None,
    others: Sequence[RunResult] = (),
) -> list[str]:
    """Everything that keeps a cell from being compared as it stands, the gravest first.

    Args:
        results: the cell's counted runs.
        wanted: passes wanted.
        reference: the counted runs of the reference under the same load; None for the reference itself.
        others: the counted runs of all other cells under this load, for the room.
    """
    finished = [r for r in results if r.finished]
    found = []
    failed = len(results) - len(finished)
    if failed and not finished:
        found.append("did not finish")
    if finished and reference is not None and not any(r.finished for r in reference):
        found.append("no reference yet")
    mine, rest = _mean_room(finished), _mean_room([r for r in others if r.finished])
    if mine is not None and rest is not None and abs(mine - rest) >= ROOM_APART_K:
        found.append(f"room {mine - rest:+.0f} K off")
    if finished and not any(r.reading.window and r.reading.window.found for r in finished):
        found.append("never settled")
    if len(finished) == 1 and wanted > 1:
        found.append("one pass only")
    elif 1 < len(finished) < wanted:
        found.append(f"{wanted - len(finished)} to go")
    if failed and finished:
        found.append(f"{failed} did not finish")
    return found
