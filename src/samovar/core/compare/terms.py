"""Other terms than as they ran: at equal noise, at equal heat. The rungs come from the same place."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from samovar.core.compare.experiment import fit
from samovar.core.compare.noise_curves import LEAST_SPEEDS, NoiseCurve, at_level, curves_of
from samovar.core.compare.pooling import Spread
from samovar.core.compare.rungs import Ladder, Margins, Rung, climbed, compared, passes_of
from samovar.core.rated import EXTRAPOLATED
from samovar.core.results.figure import Figure, RunResult, figure_of
from samovar.core.setup_changes import Arrangement


@dataclass(frozen=True, slots=True)
class Terms:
    """Under which terms setups are held against each other: as they ran, or at one level (dBA), or at one heat (W)."""

    noise_dba: float | None = None
    heat_w: float | None = None

    @property
    def words(self) -> str:
        """The terms as people call them."""
        if self.noise_dba is not None:
            return f"at {self.noise_dba:g} dBA"
        return f"at {self.heat_w:g} W" if self.heat_w is not None else "as they ran"


AS_THEY_RAN = Terms()


def under_terms(
    terms: Terms,
    cells: Mapping[str, Sequence[RunResult]],
    reference: str | None,
    figure: Figure,
    margins: Margins,
    prior: Spread | None,
    arrangements: Mapping[str, Arrangement],
) -> Ladder:
    """The ladder of one rig's setups under these terms.

    Raises:
        ValueError: the figure means nothing under them.
    """
    if terms.noise_dba is not None:
        return at_noise(terms.noise_dba, cells, reference, figure, margins, prior, arrangements)
    if terms.heat_w is not None:
        return at_heat(terms.heat_w, cells, reference, figure, margins, prior)
    return compared(cells, reference, figure, margins.kelvin, margins.share, prior)


def noise_range(curves: Sequence[NoiseCurve]) -> tuple[float, float] | None:
    """From the quietest level that any curve has to the loudest; None where none has enough fan speeds."""
    known = [c for c in curves if len(c.points) >= LEAST_SPEEDS]
    if not known:
        return None
    return min(c.quietest for c in known), max(c.loudest for c in known)


def at_noise(
    level_dba: float,
    cells: Mapping[str, Sequence[RunResult]],
    reference: str | None,
    figure: Figure,
    margins: Margins,
    prior: Spread | None,
    arrangements: Mapping[str, Arrangement],
) -> Ladder:
    """The ladder at one level: each rung interpolated within its own measured levels, or left out with the reason.

    Raises:
        ValueError: the level itself is no figure to rank by at equal levels.
    """
    if figure.quantity == "noise":
        raise ValueError("at equal noise every level is the same; rank by rise, work or another figure")
    curves = curves_of(cells, figure, arrangements)
    reasons = {c.name: c.why_not(level_dba) for c in curves}
    able = [c for c in curves if reasons[c.name] is None]
    experiment = fit(passes_of(cells, figure), prior)
    model = at_level(able, level_dba, experiment.pass_sd if experiment is not None else None)
    plain = (
        [Rung(c.name, model.value(c.name), sum(p.passes for p in c.points), None, None) for c in able]
        if model is not None
        else []
    )
    left_out = {name: why for name, why in reasons.items() if why is not None}
    for name in cells:
        if not any(name == c.name for c in curves) and not _joined_in(name, curves, arrangements):
            left_out[name] = f"no run whose {figure.label} and level are both more than bounds"
    # A reference of several fan speeds stands there under its product's name.
    base = (
        reference
        if any(c.name == reference for c in able)
        else _joined_in(reference or "", able, arrangements)
    )
    # Where the reference cannot be had at this level, the first that can stands in for it.
    base = base or (able[0].name if able else None)
    return climbed(plain, base, figure, margins, model, experiment, left_out)


def _joined_in(
    name: str, curves: Sequence[NoiseCurve], arrangements: Mapping[str, Arrangement]
) -> str | None:
    """The curve of several setups that one of them went into."""
    arrangement = arrangements.get(name)
    products = " + ".join(n for _, n in arrangement.products) if arrangement is not None else ""
    return next((c.name for c in curves if products and c.name == products), None)


def at_heat(
    heat_w: float,
    cells: Mapping[str, Sequence[RunResult]],
    reference: str | None,
    figure: Figure,
    margins: Margins,
    prior: Spread | None,
) -> Ladder:
    """The rise that each setup would have at one heat, by its resistance.

    Raises:
        ValueError: another figure than the rise of the die.
    """
    if figure.key != "rise":
        raise ValueError(
            "at equal heat the resistance tells the rise of the die, and no other figure; rank by rise"
        )
    found = compared(
        cells, reference, figure, margins.kelvin, margins.share, prior, figure_of("resistance"), heat_w
    )
    cautions = []
    for rung in found.rungs:
        told = [p.value for r in cells[rung.name] if (p := figure_of("power").of(r)) is not None]
        mean = sum(told) / len(told) if told else heat_w
        if abs(heat_w - mean) > EXTRAPOLATED * mean:
            cautions.append(f"{rung.name} is extrapolated: it was measured at {mean:.0f} W")
    return replace(found, cautions=tuple(cautions))
