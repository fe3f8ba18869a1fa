"""Claims: sentences of a verdict in a form that can be checked against the findings they stand on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from samovar.core.compare import Difference, difference, margin_for, sample_of
from samovar.core.effect import Effect
from samovar.core.judgement import MEANING
from samovar.core.results.figure import Figure, RunResult, figure_of
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
    results: Sequence[RunResult],
    other: str | None,
    other_results: Sequence[RunResult],
    load: str,
    *,
    margin_k: float = 1.0,
    margin_share: float = 0.02,
    noise_limit_dba: float | None = None,
) -> Checked:
    """Hold one claim against the runs of its cells.

    Raises:
        KeyError: an unknown kind.
    """
    runs = tuple(r.run for r in [*results, *other_results])
    if kind in ("cooler", "more-work", "quieter"):
        figure = figure_of({"cooler": "rise", "more-work": "work", "quieter": "noise"}[kind])
        return _compared(
            kind, figure, name, results, other or "", other_results, load, margin_k, margin_share, runs
        )
    if kind == "quiet-enough":
        return _quiet_enough(name, results, load, noise_limit_dba, runs)
    if kind == "not-held":
        return _not_held(name, results, load, runs)
    raise KeyError(kind)


def _compared(
    kind: str,
    figure: Figure,
    name: str,
    results: Sequence[RunResult],
    other: str,
    other_results: Sequence[RunResult],
    load: str,
    margin_k: float,
    margin_share: float,
    runs: tuple[str, ...],
) -> Checked:
    a, b = sample_of(name, results, figure), sample_of(other, other_results, figure)
    if a is None or b is None:
        missing = name if a is None else other
        return Checked(
            "open", f"{name} against {other}, {load}: {figure.label} of {missing} is not known yet.", runs
        )
    gap = difference(a, b, margin_for(figure, b.mean, margin_k, margin_share))
    sentence = _sentence(kind, gap, b.mean, load)
    limited = kind == "cooler" and any(
        r.reading.judgement in ("throttles", "rides-limit") for r in [*results, *other_results]
    )
    evidence = (
        *runs,
        f"{figure.label}: {figure.text(a.interval())} against {figure.text(b.interval())}",
        *(("one pass only on a side",) if gap.one_pass else ()),
        *(("a side rides its temperature limit: its true rise would be higher still",) if limited else ()),
    )
    right = gap.value < 0 if figure.lower_is_better else gap.value > 0
    if gap.equivalent or (gap.shown and not right):
        state = "contradicted"
    elif gap.shown and right and not gap.one_pass and abs(gap.value) > gap.margin:
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
    name: str, results: Sequence[RunResult], load: str, limit: float | None, runs: tuple[str, ...]
) -> Checked:
    sample = sample_of(name, results, figure_of("noise"))
    if sample is None or limit is None:
        why = "no noise was read" if sample is None else "the review asks for no noise limit"
        return Checked("open", f"{name}, {load}: {why}.", runs)
    level = sample.interval()
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
    tail = f", which costs up to {cost:.0f} % of its clock" if worst != "clear" and cost else ""
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
