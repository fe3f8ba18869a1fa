"""What to run next: parts swapped seldom, the reference first and last, passes interleaved."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class PlannedCell:
    """One run of the plan: which cell, its pass, counted from 1, and its round of the whole."""

    setup: str
    load: str
    pass_number: int


@dataclass(frozen=True, slots=True)
class Proposal:
    """The next run and why it is the next."""

    setup: str
    load: str
    reason: str


@dataclass(frozen=True, slots=True)
class BenchTime:
    """What is still to do: runs, swaps of parts, seconds, and how many of the runs are only estimated by a
    course's longest time because none like them was recorded yet."""

    runs: int
    swaps: int
    seconds: float
    guessed: int


def plan(
    setups: Sequence[str], loads: Sequence[str], reference: str | None, wanted: int
) -> list[PlannedCell]:
    """The whole order, from nothing recorded to every cell full.

    Each round takes every setup once, through all its loads, so that a pass costs one swap a setup. Two rounds are there
    and back: the setup of the turn stays fitted. Three, where the passes are odd, are the three rows of `three_rounds`.
    Either way every setup stands at the same mean time, so that a bench that drifts evenly favours none (of an even number
    of setups in three rounds, to a third of a place). The reference opens the first round and closes the last.
    """
    others = [s for s in setups if s != reference]
    with_reference = reference is not None and reference in setups
    row = [reference, *others] if with_reference and reference is not None else others
    rounds: list[list[str]] = []
    if wanted >= 3 and wanted % 2:
        rounds += [[row[k] for k in order] for order in three_rounds(len(row))]
    while len(rounds) < wanted:
        rounds.append(row if (len(rounds) - wanted) % 2 == 0 or wanted == 1 else row[::-1])
    out: list[PlannedCell] = []
    for number, order in enumerate(rounds[:wanted], start=1):
        through = list(loads)[::-1] if number % 2 == 0 else list(loads)
        out += [PlannedCell(s, load, number) for s in order for load in through]
    if wanted == 1 and with_reference and reference is not None and others and loads:
        out.append(PlannedCell(reference, loads[-1], 2))
    return out


def three_rounds(count: int) -> list[list[int]]:
    """Three orders of so many things in which each has the same sum of places, the first thing being first, in the middle,
    and last; of an even number the sums differ by one.

    Source: the rows of a magic rectangle of three rows (T. R. Hagedorn, Discrete Math. 207 (1999) 53); of an even number
    those of the next odd one, without the thing whose going leaves the sums nearest.
    """
    if count < 2:
        return [list(range(count))] * 3
    odd = count if count % 2 else count + 1
    half = odd // 2
    second = [half - i // 2 if i % 2 == 0 else odd - 1 - i // 2 for i in range(odd)]
    places = [list(range(odd)), second, [3 * half - i - second[i] for i in range(odd)]]
    orders = [sorted(range(odd), key=row.__getitem__) for row in places]
    if odd == count:
        return orders

    def without(gone: int) -> list[list[int]]:
        return [[i - (i > gone) for i in order if i != gone] for order in orders]

    def spread(found: list[list[int]]) -> int:
        sums = [sum(order.index(i) for order in found) for i in range(count)]
        return max(sums) - min(sums)

    return min((without(gone) for gone in range(1, odd)), key=spread)


def swaps(order: Sequence[PlannedCell], fitted: str | None) -> int:
    """How often parts have to be changed on the way through."""
    count, now = 0, fitted
    for cell in order:
        if now is not None and cell.setup != now:
            count += 1
        now = cell.setup
    return count


def remaining(
    setups: Sequence[str],
    loads: Sequence[str],
    reference: str | None,
    done: Mapping[tuple[str, str], int],
    wanted: int,
    fitted: str | None,
) -> list[PlannedCell]:
    """The rest of the plan, beginning with what the fitted setup still lacks in the round under way.

    Args:
        setups, loads: names in the review's order.
        reference: the reference setup's name.
        done: finished passes by (setup, load).
        wanted: passes wanted in each cell.
        fitted: the setup of the last run, None where nothing was recorded yet.
    """
    left = [
        c for c in plan(setups, loads, reference, wanted) if done.get((c.setup, c.load), 0) < c.pass_number
    ]
    if not left or fitted is None or left[0].setup == fitted:
        return left
    now = left[0].pass_number
    here = [c for c in left if c.setup == fitted and c.pass_number == now]
    closing = fitted == reference and now == wanted and any(c.setup != reference for c in left)
    if not here or closing:
        return left
    return [*here, *(c for c in left if c not in here)]


def propose(
    setups: Sequence[str],
    loads: Sequence[str],
    reference: str | None,
    done: Mapping[tuple[str, str], int],
    wanted: int,
    fitted: str | None,
) -> Proposal | None:
    """The next cell to record and the reason for it; None when every cell has its passes. Arguments as for
    `remaining`."""
    left = remaining(setups, loads, reference, done, wanted, fitted)
    if not left:
        return None
    first = left[0]
    return Proposal(first.setup, first.load, _reason(first, left, reference, done, wanted, fitted))


def _reason(
    first: PlannedCell, left: Sequence[PlannedCell], reference: str | None,
    done: Mapping[tuple[str, str], int], wanted: int, fitted: str | None,
) -> str:  # fmt: skip
    if first.setup == fitted:
        return f"{fitted} is fitted: no part to swap"
    if first.setup == reference and not any(done.values()):
        return "the reference first: all others are held against it"
    if first.setup == reference and all(c.setup == reference for c in left):
        return "the reference once more at the end: it shows whether the bench has drifted"
    if fitted is None:
        return "the first of the review's order"
    of = f"pass {first.pass_number} of {wanted}"
    if first.pass_number > 1:
        return f"{of} goes round another way, so that a room that warms favours no setup"
    return f"{of}: {first.setup} is the next to fit"


def bench_time(
    left: Sequence[PlannedCell], fitted: str | None, lengths: Mapping[str, Sequence[float]], longest_s: Mapping[str, float],
) -> BenchTime:  # fmt: skip
    """How long the rest takes.

    Args:
        left: the runs to go, in order.
        fitted: the setup that is fitted now.
        lengths: lengths in seconds of finished runs, by load.
        longest_s: for loads nothing was recorded of, the longest their course may take.
    """
    total, guessed = 0.0, 0
    every = [s for values in lengths.values() for s in values]
    for cell in left:
        known = lengths.get(cell.load)
        if known:
            total += sum(known) / len(known)
        else:
            guessed += 1
            total += min(longest_s.get(cell.load, 3600.0), sum(every) / len(every) if every else 3600.0)
    return BenchTime(len(left), swaps(left, fitted), total, guessed)
