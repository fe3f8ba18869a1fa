"""Claims: sentences of a verdict in a form that can be checked against the findings they stand on."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from samovar.core.compare.pooling import Spread
from samovar.core.compare.rungs import Difference, Ladder, Rung, compared, margin_for
from samovar.core.effect import Effect
from samovar.core.judgement import MEANING
from samovar.core.results.figure import Figure, RunResult, as_they_ran, figure_of
from samovar.core.uncertainty import AT_LEAST, AT_MOST, Measured

KINDS = {
    "cooler": "keeps the die cooler than",
    "more-work": "gets more work done than",
    "quieter": "is quieter than",
    "quiet-enough": "stays under the noise asked for",
    "not-held": "is not pushed below its base clock",
    "change": "a change in the run did what the cursors, or the recorder, show",
}
"""The kinds of claims, as the reviewer picks them."""
COMPARED = {"cooler": "rise", "more-work": "work", "quieter": "noise"}
"""Those that hold one setup against another, and by which figure."""
CHANGE = "change"
"""The kind that stands on a moment of one run, and is made in Trace."""


@dataclass(frozen=True, slots=True)
class Checked:
    """A claim held against the findings. `state`: holds, weak, contradicted or open (nothing to judge
    it by yet); `sentence` says what the findings say, whichever way; `evidence` names them."""

    state: str
    sentence: str
    evidence: tuple[str, ...]


def check(
    kind: str,
    name: str,
    other: str | None,
    cells: Mapping[str, Sequence[RunResult]],
    load: str,
    *,
    margin_k: float = 1.0,
    margin_share: float = 0.02,
    noise_limit_dba: float | None = None,
    prior: Callable[[Figure], Spread | None] = lambda figure: None,
) -> Checked:
    """Hold one claim against the runs it stands on.

    Args:
        kind: a key of KINDS, but for changes.
        name, other: the setup it is of, and the one it is held against, where there is one.
        cells: every setup's runs under this load on this rig: they are one experiment.
        load: its name.
        margin_k, margin_share: the review's margins.
        noise_limit_dba: what the review asks for.
        prior: how much a pass of a figure scattered on this bench before.

    Raises:
        KeyError: an unknown kind.
    """
    if kind in COMPARED:
        figure = figure_of(COMPARED[kind])
        found = compared(cells, other, figure, margin_k, margin_share, prior(figure))
        return _compared(kind, figure, name, other or "", cells, found, load, margin_k, margin_share)
    results = as_they_ran(cells.get(name, []))
    runs = tuple(r.run for r in results)
    if kind == "quiet-enough":
        figure = figure_of("noise")
        found = compared(cells, None, figure, margin_k, margin_share, prior(figure))
        return _quiet_enough(name, found.rung(name), load, noise_limit_dba, runs)
    if kind == "not-held":
        return _not_held(name, results, load, runs)
    raise KeyError(kind)


def _compared(
    kind: str,
    figure: Figure,
    name: str,
    other: str,
    cells: Mapping[str, Sequence[RunResult]],
    found: Ladder,
    load: str,
    margin_k: float,
    margin_share: float,
) -> Checked:
    both = [*as_they_ran(cells.get(name, [])), *as_they_ran(cells.get(other, []))]
    runs = tuple(r.run for r in both)
    a, b = found.rung(name), found.rung(other)
    if a is None or b is None:
        missing = name if a is None else other
        return Checked(
            "open", f"{name} against {other}, {load}: {figure.label} of {missing} is not known yet.", runs
        )
    # A claim names its pair after the fact: it has to hold among all pairs there are.
    gap = found.difference(name, other, margin_for(figure, b.figure.value, margin_k, margin_share))
    assert gap is not None
    sentence = _sentence(kind, gap, b.figure.value, load)
    limited = kind == "cooler" and any(r.reading.judgement in ("throttles", "rides-limit") for r in both)
    unrepeated = found.experiment is None or found.experiment.pooled is None
    evidence = (
        *runs,
        f"{figure.label}: {figure.text(a.figure)} against {figure.text(b.figure)}",
        *(("one pass only on a side",) if gap.one_pass else ()),
        *(("no setup has a second pass, so nothing tells how passes scatter",) if unrepeated else ()),
        *(("a side rides its temperature limit: its true rise would be higher still",) if limited else ()),
    )
    right = gap.value < 0 if figure.lower_is_better else gap.value > 0
    if gap.equivalent or (gap.shown and not right):
        state = "contradicted"
    elif gap.shown and right and abs(gap.value) > gap.margin:
        state = "holds"
    else:
        state = "weak"
    return Checked(state, sentence, evidence)


def _sentence(kind: str, gap: Difference, level: float, load: str) -> str:
    less = gap.value < 0
    turned = {AT_MOST: AT_LEAST, AT_LEAST: AT_MOST}
    size = Measured(abs(gap.value), gap.half_width, turned.get(gap.bound or "") if less else gap.bound)
    if gap.equivalent:
        return f"Between {gap.name} and {gap.other} there is no practical difference under {load}."
    if kind == "cooler":
        return f"{gap.name} keeps the die {size.text('K', finest=1)} {'cooler' if less else 'hotter'} than {gap.other} under {load}."
    if kind == "quieter":
        return f"{gap.name} is {size.text('dB', finest=1)} {'quieter' if less else 'louder'} than {gap.other} under {load}."
    share = Measured(100.0 * abs(gap.value) / level, 100.0 * (gap.half_width or 0.0) / level, size.bound)
    return f"{gap.name} gets {share.text('%', finest=1)} {'less' if less else 'more'} work done than {gap.other} under {load}."


def _quiet_enough(
    name: str, rung: Rung | None, load: str, limit: float | None, runs: tuple[str, ...]
) -> Checked:
    if rung is None or limit is None:
        why = "no noise was read" if rung is None else "the review asks for no noise limit"
        return Checked("open", f"{name}, {load}: {why}.", runs)
    level = rung.figure
    width = level.half_width or 0.0
    # A bound supports its own side alone: at most 27 is under 28, and never over 26.
    under = (
        level.value + width <= limit
        if level.bound is None
        else level.bound == AT_MOST and level.value <= limit
    )
    over = level.value - width > limit and level.bound != AT_MOST
    words = "under" if level.value <= limit else "over" if level.bound is None else "which may be under"
    sentence = f"{name} makes {level.text('dBA', finest=1)} at 1 m under {load}, {words} the {limit:g} dBA asked for."
    return Checked("holds" if under else "contradicted" if over else "weak", sentence, runs)


def _not_held(name: str, results: Sequence[RunResult], load: str, runs: tuple[str, ...]) -> Checked:
    known = [r.reading.judgement for r in results if r.reading.judgement is not None]
    if not known:
        return Checked("open", f"{name}, {load}: nothing measured yet.", runs)
    bad = [j for j in known if j in ("throttles", "stopped")]
    worst = bad[0] if bad else max(set(known), key=known.count)
    clocks = [h for r in results for h in r.reading.held]
    cost = max((h.clock_loss_pct or 0.0 for h in clocks), default=0.0)
    tail = (
        f", which costs up to {cost:.0f} % of the clock it has when free" if worst != "clear" and cost else ""
    )
    sentence = f"Under {load} {name} is judged {worst}: {MEANING[worst]}{tail}."
    if len(set(known)) > 1:
        return Checked("weak", sentence, (*runs, "the passes do not agree"))
    return Checked("contradicted" if bad else "holds", sentence, runs)


def check_change(name: str, load: str, what: str, run: str, effect: Effect | None) -> Checked:
    """A claim that a change in a run did something to a channel: holds where the difference is larger than what both
    sides leave open.

    Args:
        name, load: the setup and load the run is of.
        what: what was changed, in words.
        run: the run's name.
        effect: what became of the channel; None where the run no longer tells.
    """
    if effect is None:
        return Checked("open", f"{name}, {load}: {run} no longer tells what {what} did.", (run,))
    decimals = 1 if effect.channel.quantity in ("temperature", "noise", "power") else 0
    before, after = (v.text(effect.channel.unit, finest=decimals) for v in (effect.before, effect.after))
    evidence = (run, f"{effect.channel.name}: {before} before, {after} after", "one change in one run")
    if not effect.shown:
        sentence = f"{name}, {load}: {what} is not shown to have changed {effect.channel.name}."
        return Checked("contradicted", sentence, evidence)
    return Checked("holds", f"{name}, {load}: {what} {effect.words()}.", evidence)
