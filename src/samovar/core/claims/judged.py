"""Claims held against the findings they stand on: each way of checking one, of whatever kind."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from samovar.core.compare.advantage import advantage, is_ahead, size_text
from samovar.core.compare.rungs import Difference, Ladder, Margins, Rung
from samovar.core.demands import MET, NOT_MET, Demand, judge
from samovar.core.effect import Effect
from samovar.core.fit import FitItem, summary, verdict
from samovar.core.judgement import MEANING
from samovar.core.measured import AT_MOST, Measured, combine
from samovar.core.rated import RatedItem
from samovar.core.results.figure import PRICE, Figure, RunResult, as_they_ran

Cells = Mapping[str, Sequence[RunResult]]
"""Every setup's runs under a load on one rig: they are one experiment."""


@dataclass(frozen=True, slots=True)
class Checked:
    """A claim held against the findings. `state`: holds, weak, contradicted or open (nothing to judge
    it by yet); `sentence` says what the findings say, whichever way; `evidence` names them."""

    state: str
    sentence: str
    evidence: tuple[str, ...]


def check_ahead(
    figure: Figure, name: str, other: str, cells: Cells, found: Ladder, load: str, margins: Margins
) -> Checked:
    """That a setup is ahead of another in a figure, among all pairs there are: a claim names its pair after the fact."""

    def state(gap: Difference) -> str:
        right = gap.value < 0 if figure.lower_is_better else gap.value > 0
        if gap.equivalent or (gap.shown and not right):
            return "contradicted"
        return "holds" if gap.shown and right and abs(gap.value) > gap.margin else "weak"

    return _between(figure, name, other, cells, found, load, margins, state)


def check_level(
    figure: Figure, name: str, other: str, cells: Cells, found: Ladder, load: str, margins: Margins
) -> Checked:
    """That two setups are practically the same in a figure."""

    def state(gap: Difference) -> str:
        beyond = gap.shown and gap.bound is None and abs(gap.value) - (gap.half_width or 0.0) > gap.margin
        return "holds" if gap.equivalent else "contradicted" if beyond else "weak"

    return _between(figure, name, other, cells, found, load, margins, state)


def _between(
    figure: Figure, name: str, other: str, cells: Cells, found: Ladder, load: str, margins: Margins,
    state: Callable[[Difference], str],
) -> Checked:  # fmt: skip
    runs = _runs(cells, name, other)
    gap = _gap(figure, name, other, found, margins)
    if isinstance(gap, str):
        return Checked(
            "open", f"{name} against {other}, {load}: {figure.label} of {gap} is not known yet.", runs
        )
    evidence = _evidence(figure, gap, cells, found, runs)
    return Checked(state(gap), _sentence(figure, gap, found, load), evidence)


def _runs(cells: Cells, *names: str) -> tuple[str, ...]:
    return tuple(r.run for name in names for r in as_they_ran(cells.get(name, [])))


def _gap(figure: Figure, name: str, other: str, found: Ladder, margins: Margins) -> Difference | str:
    """The difference, or the name of the setup whose figure is not known."""
    a, b = found.rung(name), found.rung(other)
    if a is None or b is None:
        return name if a is None else other
    gap = found.difference(name, other, margins.of(figure, b.figure.value))
    if gap is not None and figure.quantity == PRICE.quantity:
        # A price is known exactly, and any difference of it counts.
        return replace(gap, half_width=0.0, margin=0.0)
    return gap if gap is not None else other


def _evidence(
    figure: Figure, gap: Difference, cells: Cells, found: Ladder, runs: tuple[str, ...]
) -> tuple[str, ...]:
    a, b = found.rung(gap.name), found.rung(gap.other)
    assert a is not None and b is not None
    both = [*as_they_ran(cells.get(gap.name, [])), *as_they_ran(cells.get(gap.other, []))]
    limited = figure.statistic == "rise" and any(
        r.reading.judgement in ("throttles", "rides-limit") for r in both
    )
    unrepeated = found.model is not None and (found.experiment is None or found.experiment.pooled is None)
    return (
        *runs,
        f"{figure.label}: {figure.text(a.figure)} against {figure.text(b.figure)}",
        *(("one pass only on a side",) if gap.one_pass and runs else ()),
        *(("no setup has a second pass, so nothing tells how passes scatter",) if unrepeated else ()),
        *(("a side rides its temperature limit: its true rise would be higher still",) if limited else ()),
    )


_WAYS = {
    "rise": ("keeps the die", "cooler", "hotter"),
    "noise": ("is", "quieter", "louder"),
    "work": ("gets", "more work done", "less work done"),
}
"""How a difference in a figure is put: a verb, then the word for better and for worse."""


def _sentence(figure: Figure, gap: Difference, found: Ladder, load: str) -> str:
    if gap.equivalent:
        return f"Between {gap.name} and {gap.other} there is no practical difference in {figure.label} under {load}."
    better = is_ahead(figure, gap)
    base = found.rung(gap.other)
    size = size_text(
        figure, advantage(figure, gap, not better), base.figure.value if base is not None else 0.0
    )
    open_ = "" if gap.shown else ", which is not shown"
    if figure.key in _WAYS:
        verb, good, bad = _WAYS[figure.key]
        return f"{gap.name} {verb} {size} {good if better else bad} than {gap.other} under {load}{open_}."
    way = "less" if gap.value < 0 else "more"
    return f"{gap.name} has {size} {way} {figure.label} than {gap.other} under {load}{open_}."


def check_reads(
    figure: Figure, name: str, claimed: Measured, now: Measured | None, load: str, runs: tuple[str, ...]
) -> Checked:
    """That a setup reads what it read when the claim was made: both intervals have to meet."""
    if now is None:
        return Checked("open", f"{name}, {load}: {figure.label} is not known yet.", runs)
    sentence = f"{name}: {figure.label} {figure.text(now)} under {load}."
    together = combine(claimed.half_width or 0.0, now.half_width or 0.0)
    same = abs(now.value - claimed.value) <= together and now.bound == claimed.bound
    return Checked("holds" if same else "contradicted", sentence, (*runs, f"claimed: {figure.text(claimed)}"))


def check_demand(
    demand: Demand, name: str, value: Measured | None, text: str, load: str, runs: tuple[str, ...]
) -> Checked:
    """That a setup meets a demand; `text` is its value as people read it."""
    if value is None:
        return Checked("open", f"{name}, {load}: {demand.figure.label} is not known yet.", runs)
    state = {MET: "holds", NOT_MET: "contradicted"}.get(judge(demand, value), "weak")
    words = {"holds": "meets", "contradicted": "misses"}.get(state, "is not shown to meet, nor to miss,")
    return Checked(state, f"{name} {words} {demand.line} under {demand.load or load}: {text}.", runs)


def check_headroom(
    name: str, load: str, least_w: float, found: Measured | None, runs: tuple[str, ...]
) -> Checked:
    """That the cooling of a setup could carry so much heat more before the die is at its limit."""
    if found is None:
        return Checked("open", f"{name}, {load}: nothing tells its headroom.", runs)
    half = found.half_width or 0.0
    state = (
        "holds"
        if found.value - half >= least_w
        else "contradicted"
        if found.value + half < least_w
        else "weak"
    )
    words = f"{name} could carry {found.text('W', finest=0)} in all before the die is at its limit, measured under {load}; {least_w:g} W was claimed."
    return Checked(state, words, runs)


def check_fits(product: str, rig: str, items: Sequence[FitItem]) -> Checked:
    """That a product fits a rig, by their dimensions."""
    state = {"fits": "holds", "touches": "weak", "does not fit": "contradicted"}.get(
        verdict(list(items)), "open"
    )
    told = tuple(f"{i.name}: {i.words or i.state}" for i in items)
    return Checked(
        state, f"{product} on {rig}: {summary(list(items)) if items else 'nothing of it is known'}.", told
    )


_RATED = {
    "better than claimed": "holds",
    "agrees within the uncertainty": "holds",
    "short of the claim": "contradicted",
}


def check_rated(product: str, item: RatedItem | None, runs: tuple[str, ...]) -> Checked:
    """That a product does what its maker rates it at."""
    if item is None or item.measured is None:
        return Checked("open", f"{product}: nothing measured answers what its maker says.", runs)
    found = item.measured.text(item.unit, finest=1)
    sentence = (
        f"{product}: its maker says {item.label} {item.claimed:g} {item.unit}, found {found}: {item.verdict}."
    )
    return Checked(_RATED.get(item.verdict, "weak"), sentence, (*runs, item.what))


def check_quiet_enough(
    name: str, rung: Rung | None, load: str, limit: float | None, runs: tuple[str, ...]
) -> Checked:
    """That a setup stays under the noise that the review asks for."""
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


def check_not_held(name: str, results: Sequence[RunResult], load: str, runs: tuple[str, ...]) -> Checked:
    """That a setup is not pushed below its base clock."""
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
