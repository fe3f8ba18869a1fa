"""The standing table: everything ever measured of one figure under one load and course on one rig, over many reviews.

Reviews are blocks: a bench is not the same bench half a year later, so every review has an offset of its own, and
arrangements that several reviews measured, the reference first of all, tie the blocks together (the intra-block analysis
of incomplete block designs: F. Yates, Ann. Eugen. 10 (1940) 317). value = arrangement + review + pass, least squares; how
far a tie carries is in the covariance: an arrangement that a single tie connects has that tie's scatter in its value.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from samovar.core.measured import AT_LEAST, AT_MOST, COVERAGE_FACTOR, Measured
from samovar.core.uncertainty import student

ONE_REVIEW = "in no review that shares an arrangement with the others"
BOUND_ONLY = {AT_LEAST: "at its limit: no more than a bound", AT_MOST: "no more than a bound"}


@dataclass(frozen=True, slots=True)
class Entry:
    """One run's value: of which arrangement, in which review."""

    name: str
    review: str
    value: Measured


@dataclass(frozen=True, slots=True)
class Standing:
    """One arrangement: its value as of the newest review, its difference from the reference, and what it rests on. Half-widths
    are None where nothing was repeated."""

    name: str
    value: Measured
    difference: Measured | None
    passes: int
    reviews: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Tie:
    """How a review is tied to the newest: what it read more, and the arrangements that both, or a chain of reviews, share."""

    review: str
    offset: Measured
    by: tuple[str, ...]


@dataclass(frozen=True)
class StandingTable:
    """Rows best first; ties of all reviews but the newest; what was left out, with the reason."""

    rows: tuple[Standing, ...] = ()
    ties: tuple[Tie, ...] = ()
    left_out: dict[str, str] = field(default_factory=dict)
    pass_sd: float | None = None


def standing_table(entries: Sequence[Entry], reference: str | None, lower_is_better: bool) -> StandingTable:
    """Tie the reviews together.

    Args:
        entries: every run's value, the newest review's last.
        reference: the arrangement the others are held against.
        lower_is_better: which way the rows are ordered.
    """
    left_out: dict[str, str] = {}
    measured = []
    for e in entries:
        if e.value.bound is None:
            measured.append(e)
        elif not any(o.name == e.name and o.value.bound is None for o in entries):
            left_out[e.name] = BOUND_ONLY[e.value.bound]
    if not measured:
        return StandingTable(left_out=left_out)
    tied = _tied(measured)
    left_out |= {e.name: ONE_REVIEW for e in measured if e.review not in tied}
    used = [e for e in measured if e.review in tied]
    left_out = {n: why for n, why in left_out.items() if n not in {e.name for e in used}}
    reviews = list(dict.fromkeys(e.review for e in used))
    newest = reviews[-1]
    names = list(dict.fromkeys(e.name for e in used))
    others = [r for r in reviews if r != newest]
    design = np.zeros((len(used), len(names) + len(others)))
    for k, e in enumerate(used):
        design[k, names.index(e.name)] = 1.0
        if e.review != newest:
            design[k, len(names) + others.index(e.review)] = 1.0
    y = np.array([e.value.value for e in used])
    inverse = np.linalg.pinv(design.T @ design)
    found = inverse @ design.T @ y
    dof = len(used) - design.shape[1]
    rest = y - design @ found
    sd = float(np.sqrt(rest @ rest / dof)) if dof > 0 else None

    def half(combination: np.ndarray) -> float | None:
        if sd is None:
            return None
        return (
            COVERAGE_FACTOR * student(float(dof)) * sd * float(np.sqrt(combination @ inverse @ combination))
        )

    rows = []
    for k, name in enumerate(names):
        one = np.zeros(design.shape[1])
        one[k] = 1.0
        gap = None
        if reference in names and name != reference:
            against = one.copy()
            against[names.index(str(reference))] = -1.0
            gap = Measured(float(against @ found), half(against))
        mine = [e for e in used if e.name == name]
        rows.append(
            Standing(
                name,
                Measured(float(found[k]), half(one)),
                gap,
                len(mine),
                tuple(dict.fromkeys(e.review for e in mine)),
            )
        )
    rows.sort(key=lambda r: r.value.value if lower_is_better else -r.value.value)
    ties = []
    for k, review in enumerate(others):
        one = np.zeros(design.shape[1])
        one[len(names) + k] = 1.0
        read = {e.name for e in used if e.review == review}
        shared = [n for n in names if n in read and any(e.name == n and e.review != review for e in used)]
        ties.append(Tie(review, Measured(float(found[len(names) + k]), half(one)), tuple(shared)))
    return StandingTable(tuple(rows), tuple(ties), left_out, sd)


def _tied(entries: Sequence[Entry]) -> set[str]:
    """The reviews that are tied to the newest, by arrangements both measured or by a chain of such reviews."""
    tied = {entries[-1].review}
    grew = True
    while grew:
        names = {e.name for e in entries if e.review in tied}
        more = {e.review for e in entries if e.name in names} - tied
        tied |= more
        grew = bool(more)
    return tied
