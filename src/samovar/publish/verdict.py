"""The verdict's draft: sentences that stand on the findings, in the reviewer's order of thought."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.archive.before_after import steps_on
from samovar.archive.deciding import decided_on, hardest_load
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on, rigs_of
from samovar.core.claims import Checked
from samovar.core.compare.audit import listed
from samovar.core.compare.rungs import joined
from samovar.core.demands import decision_words
from samovar.core.live_fields import LiveField
from samovar.core.results.figure import RunResult, as_they_ran, figure_of
from samovar.core.uncertainty import AT_MOST, Measured


def draft_article(data: ReviewData, checked: Sequence[Checked]) -> str:
    """The draft as an article to go on from, in Markdown: the figures of the pick are live fields, agreed to as they read now."""
    paragraphs = draft_verdict(data, checked)
    decided, load = decided_on(data), hardest_load(data)
    pick = decided.decision.pick if decided is not None else None
    if pick is not None and load is not None:
        for key in dict.fromkeys((data.subject.key, *TOLD_OF_THE_PICK)):
            found = compare_on(data, load, figure_of(key))
            rung = found.ladder.rung(pick)
            if rung is not None:
                text = found.figure.text(rung.figure)
                told = f"{found.figure.label} {text}"
                field = LiveField(key, pick, load, text).text
                paragraphs[0] = paragraphs[0].replace(told, f"{found.figure.label} {field}", 1)
    return "\n\n".join(paragraphs) + "\n"


def draft_verdict(data: ReviewData, checked: Sequence[Checked]) -> list[str]:
    """Paragraphs: the pick, what is good and what is not, and what is not yet known."""
    first = _pick(data) or _by_subject(data)
    paragraphs = [p for p in (first, _claims(checked), _not_for(data), _open(data, checked)) if p]
    return paragraphs or ["Nothing measured yet: record a run, then come back."]


def _noise(results: Sequence[RunResult]) -> Measured | None:
    return joined([r.noise for r in results if r.noise is not None])


TOLD_OF_THE_PICK = ("work", "rise", "noise", "price")
"""The figures that a reader wants of what is picked."""


def _pick(data: ReviewData) -> str | None:
    """The pick by the demands, with its figures; None where nothing can be decided."""
    decided, load = decided_on(data), hardest_load(data)
    if decided is None or load is None:
        return None
    words = decision_words(decided.decision, decided.demands)
    pick = decided.decision.pick
    if pick is None:
        leads = _by_subject(data)
        return f"For the question asked: {words[:1].lower()}{words[1:]}{f' {leads}' if leads else ''}"
    told = []
    for key in dict.fromkeys((data.subject.key, *TOLD_OF_THE_PICK)):
        found = compare_on(data, load, figure_of(key))
        rung = found.ladder.rung(pick)
        if rung is not None:
            told.append(f"{found.figure.label} {found.figure.text(rung.figure)}")
    figures = f" {pick} under {load}: {', '.join(told)}." if told else ""
    figures += "".join(f" {words}" for words in _steps_told(data, load))
    return f"For the question asked: {words[:1].lower()}{words[1:]}{figures}"


STEPS_TOLD, GAINS_TOLD = 3, ("rise", "work", "score", "clock", "noise")
"""So many steps of before and after stand in the answer itself, each by the first two of these figures."""


def _steps_told(data: ReviewData, load: str) -> list[str]:
    """What each step gained that was made on the first rig: a mod that cools and does no more work says both."""
    rig = next(iter(rigs_of(data.review)), None)
    told = []
    for step in steps_on(data, load, rig) if rig is not None else ():
        gains = sorted(
            (g for g in step.gains if g.figure.key in GAINS_TOLD),
            key=lambda g: GAINS_TOLD.index(g.figure.key),
        )
        if gains:
            told.append(f"{step.after} against {step.before}: {', '.join(g.words() for g in gains[:2])}.")
    return told[:STEPS_TOLD]


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
        finished = as_they_ran(results)
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


MOST_LISTED = 5
"""More cells than this are counted, not named."""


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
    if len(missing) > MOST_LISTED:
        load = hardest_load(data)
        there = [name for name in missing if load is not None and name.endswith(f" under {load}")]
        among = f"; {listed(there)} among them" if there else ""
        parts.append(
            f"Not measured: {len(missing)} of {len(data.review.setups) * len(data.review.loads)} cells{among}."
        )
    elif missing:
        parts.append(f"Not measured: {listed(missing)}.")
    return " ".join(parts) or None
