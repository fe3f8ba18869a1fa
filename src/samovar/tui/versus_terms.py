"""The terms of Versus, one after another: as they ran, at equal noise, at equal heat; and the level that the arrows move."""

from __future__ import annotations

from dataclasses import replace

from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import RigComparison, compare_on, noise_curves_on
from samovar.core.compare.terms import AS_THEY_RAN, Terms, noise_range
from samovar.core.results.figure import figure_of

NOISE_STEP_DBA, HEAT_STEP_W = 0.5, 5.0
"""What one press of an arrow moves the terms by."""
NO_STEPS = (
    "At equal noise: no setup has three fan speeds with a level read in each. A course in steps gives them "
    "(4 Shelf, courses), or three setups of one product at fixed fans."
)
NOISE_ITSELF = "At equal noise every level is the same: f chooses another figure."
NO_HEAT = "At equal heat the resistance tells the rise of the die: f chooses the rise, and a power is needed."


def next_terms(data: ReviewData, found: RigComparison, now: Terms) -> tuple[Terms, list[str]]:
    """The terms after these, and why any were passed over."""
    why: list[str] = []
    if now == AS_THEY_RAN:
        levels = noise_range(noise_curves_on(data, found.load, found.figure, found.rig))
        if levels is not None and found.figure.quantity != "noise":
            limit = data.review.noise_limit_dba
            middle = round(sum(levels) / 2.0 / NOISE_STEP_DBA) * NOISE_STEP_DBA
            inside = limit is not None and levels[0] <= limit <= levels[1]
            return Terms(noise_dba=limit if inside else middle), why
        why.append(NO_STEPS if levels is None else NOISE_ITSELF)
    if now.heat_w is None:
        power = compare_on(data, found.load, figure_of("power"), found.rig).ladder.rungs
        watts = [r.figure.value for r in power]
        if watts and found.figure.key == "rise":
            return Terms(heat_w=round(sum(watts) / len(watts) / HEAT_STEP_W) * HEAT_STEP_W), why
        why.append(NO_HEAT)
    return AS_THEY_RAN, why


def moved(now: Terms, step: int) -> Terms | None:
    """The level, or the heat, so many steps up; None as they ran, where there is nothing to move."""
    if now.noise_dba is not None:
        return replace(now, noise_dba=max(0.0, now.noise_dba + step * NOISE_STEP_DBA))
    if now.heat_w is not None:
        return replace(now, heat_w=max(HEAT_STEP_W, now.heat_w + step * HEAT_STEP_W))
    return None
