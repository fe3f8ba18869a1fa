"""The verdict's draft: sentences that stand on the findings, in the reviewer's order of thought."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on
from samovar.core.claims import Checked
from samovar.core.compare.audit import listed
from samovar.core.compare.rungs import joined
from samovar.core.results.figure import RunResult, figure_of
from samovar.core.uncertainty import AT_MOST, Measured


def draft_verdict(data: ReviewData, checked: Sequence[Checked]) -> list[str]:
    """Paragraphs: the pick, what is good and what is not, and what is not yet known."""
    first = _pick(data) or _by_subject(data)
    paragraphs = [p for p in (first, _claims(checked), _not_for(data), _open(data, checked)) if p]
    return paragraphs or ["Nothing measured yet: record a run, then come back."]


def hardest_load(data: ReviewData) -> str | None:
    """The load that drew the most power in this review's runs; None without any."""
    drawn: dict[str, float] = {}
    for (_, load), cell in data.cells.items():
        for result in cell.results:
            power = result.reading.steady_mean("power", ("package",))
            if power is not None:
                drawn[load] = max(drawn.get(load, 0.0), power.value)
    # Under a budget the loads draw alike: the one listed last is the reviewer's hardest.
    if not drawn:
        return None
    top = max(drawn.values())
    return [load for load in data.review.loads if drawn.get(load, 0.0) > 0.97 * top][-1]


def candidates(data: ReviewData, load: str) -> list[str]:
    """Setups that are quiet enough (where a limit is set) and not pushed below base clock."""
    limit = data.review.noise_limit_dba
    out = []
    for name, results in data.under(load).items():
        finished = [r for r in results if r.finished]
        if not finished or any(r.reading.judgement == "throttles" for r in finished):
            continue
        noise = _noise(finished)
        if limit is not None and (noise is None or noise.value > limit):
            continue
        out.append(name)
    return out


def _noise(results: Sequence[RunResult]) -> Measured | None:
    return joined([r.noise for r in results if r.noise is not None])


def _pick(data: ReviewData) -> str | None:
    load = hardest_load(data)
    if load is None:
        return None
    good = candidates(data, load)
    review = data.review
    asked = f"at no more than {review.noise_limit_dba:g} dBA " if review.noise_limit_dba is not None else ""
    if not good:
        return f"None of the setups measured keeps up {asked}under {load}."
    rungs = [r for r in compare_on(data, load, figure_of("work")).ladder.rungs if r.name in good]
    if not rungs:
        return None
    best = rungs[0].figure.value
    level = [r for r in rungs if r.figure.value >= best * (1.0 - review.margin_share)]
    rises = {r.name: r for r in compare_on(data, load, figure_of("rise")).ladder.rungs if r.name in good}
    pick = min(level, key=lambda r: rises[r.name].figure.value if r.name in rises else 1e9)
    rounded_text = pick.figure.text(finest=0)
    words = f"For the question asked, {pick.name}: {asked}it does {rounded_text} units of work a second under {load}"
    if pick.name in rises:
        words += f", {figure_of('rise').text(rises[pick.name].figure)} over the room"
    others = [r.name for r in level if r.name != pick.name]
    if others:
        words += f"; {listed(others)} {'do' if len(others) > 1 else 'does'} practically the same work"
    return words + "."


def _by_subject(data: ReviewData) -> str | None:
    """Who leads in what the review is about, under the last load that tells, and by how much."""
    figure, review = data.subject, data.review
    for load in reversed(review.loads):
        rungs = compare_on(data, load, figure).ladder.rungs
        if not rungs:
            continue
        best = rungs[0]
        words = f"{figure.label[:1].upper()}{figure.label[1:]} under {load}: {best.name} {figure.text(best.figure)}"
        others = [f"{r.name} {figure.text(r.figure)}" for r in rungs[1:]]
        return f"{words}{', ' if others else ''}{', '.join(others)}."
    return None


def _claims(checked: Sequence[Checked]) -> str | None:
    holding = [c.sentence for c in checked if c.state == "holds"]
    return " ".join(holding) or None


def _not_for(data: ReviewData) -> str | None:
    load = hardest_load(data)
    if load is None:
        return None
    parts = []
    for name, results in data.under(load).items():
        finished = [r for r in results if r.finished]
        losses = [
            h.clock_loss_pct
            for r in finished
            for h in r.reading.held
            if h.by == "thermal" and h.clock_loss_pct
        ]
        if any(r.reading.judgement == "throttles" for r in finished):
            cost = f", by up to {max(losses):.0f} % of the clock it has when free" if losses else ""
            parts.append(f"{name} is not for {load}: it is pushed below its base clock{cost}")
        elif any(r.reading.judgement == "rides-limit" for r in finished):
            parts.append(f"{name} sits at the temperature limit under {load}")
        noise, limit = _noise(finished), data.review.noise_limit_dba
        if noise is not None and limit is not None and noise.bound != AT_MOST and noise.value > limit:
            parts.append(f"{name} is louder than asked ({noise.value:.0f} dBA)")
    return ". ".join(parts) + "." if parts else None


def _open(data: ReviewData, checked: Sequence[Checked]) -> str | None:
    weak = [c.sentence for c in checked if c.state in ("weak", "stale", "open")]
    missing = [
        f"{s.name} under {load}"
        for s in data.review.setups
        for load in data.review.loads
        if not data.cell(s, load).passes
    ]
    parts = []
    if weak:
        parts.append("Not settled: " + " ".join(weak))
    if missing:
        parts.append(f"Not measured: {listed(missing)}.")
    return " ".join(parts) or None
