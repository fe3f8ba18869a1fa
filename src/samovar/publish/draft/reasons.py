"""The paragraphs after the answer: why, what it costs, for whom and for whom not."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.archive.before_after import steps_on
from samovar.archive.deciding import NOT_PUSHED, Decided
from samovar.archive.rig_comparison import compare_on, reference_on, setups_on
from samovar.core.compare.advantage import is_ahead
from samovar.core.demands import NOT_MET
from samovar.core.money import amount_text
from samovar.core.results.figure import PRICE
from samovar.publish.draft.answer import CAUSES, asked_words, demand_with, made_in_steps, worst_of
from samovar.publish.draft.sentence import COST, MOST_TOLD, WHOM, WHY, Sentence, Telling


def why(telling: Telling, decided: Decided) -> list[Sentence]:
    """What tells the pick from the reference, from the next in line, and from what would be better but for a demand."""
    found, data, out = decided.decision, telling.data, []
    if found.pick is None or made_in_steps(telling):
        return []
    base = reference_on(data.review, telling.rig)
    told: list[str] = []
    for other in (base.name if base is not None else None, found.runner_up):
        if other is None or other in (found.pick, *told) or not data.under(telling.load).get(other):
            continue
        told.append(other)
        gains = gains_of(telling, found.pick, other)
        text = (
            telling.texts.say("against", other=other, name=found.pick, gains=telling.texts.listed(gains))
            if gains
            else telling.texts.say("against-nothing", name=found.pick, other=other, load=telling.load)
        )
        out.append(Sentence(WHY, f"against {other} {found.pick}", text))
    subject = telling.data.subject
    for name, line in found.out.items():
        gap = telling.difference(subject, name, found.pick)
        if gap is None or not gap.shown or gap.equivalent or not is_ahead(subject, gap):
            continue
        missed = demand_with(telling, decided, line, name)
        gain = telling.gain(subject, name, found.pick)
        text = telling.texts.say("better-but", name=name, gains=gain, missed=missed)
        out.append(Sentence(WHY, f"better but {name}", text))
    return out


def gains_of(telling: Telling, name: str, other: str) -> list[str]:
    """What a setup is shown to be ahead or behind in, and what of it is practically the same, in clauses."""
    clauses: list[str] = []
    same: list[str] = []
    for figure in telling.figures("score", "time"):
        gap = telling.difference(figure, name, other)
        if gap is None:
            continue
        if gap.equivalent:
            same.append(telling.texts.words(figure.label))
        elif gap.shown and len(clauses) < MOST_TOLD:
            clauses.append(telling.gain(figure, name, other))
    if same and len(clauses) < MOST_TOLD:
        clauses.append(telling.texts.say("same-in", labels=telling.texts.listed(same)))
    return clauses


def cost(telling: Telling, decided: Decided) -> list[Sentence]:
    """What the pick costs, beside the cheapest that meets what is asked; of steps, what each adds."""
    say, found, data = telling.texts.say, decided.decision, telling.data
    ladder = compare_on(data, telling.load, PRICE, telling.rig)
    prices = {r.name: r.figure.value for r in ladder.ladder.own}
    currency = ladder.figure.counted_in
    out: list[Sentence] = []
    asked = asked_words(telling, decided)
    if made_in_steps(telling):
        for step in steps_on(data, telling.load, telling.rig):
            a, b = prices.get(step.before), prices.get(step.after)
            if a is not None and b is not None and b > a and data.under(telling.load).get(step.after):
                words = say(
                    "costs-extra", after=step.after, more=amount_text(b - a, currency), before=step.before
                )
                out.append(Sentence(COST, f"costs {step.after}", words))
        return out
    pick = found.pick
    if pick is None:
        return []
    if pick not in prices:
        return [Sentence(COST, f"costs {pick}", say("price-unknown", names=pick))]
    price = telling.value(ladder.figure, pick) or amount_text(prices[pick], currency)
    able = {
        n: p
        for n, p in prices.items()
        if n not in found.out and n not in found.open and data.under(telling.load).get(n)
    }
    cheapest = min(able, key=lambda n: able[n])
    if len(able) < 2:
        text = say("costs", name=pick, price=price)
    elif able[cheapest] < prices[pick]:
        more = amount_text(prices[pick] - able[cheapest], currency)
        text = say("costs-more", name=pick, price=price, more=more, other=cheapest, asked=asked)
    else:
        text = say("costs-least", name=pick, price=price, asked=asked)
    return [Sentence(COST, f"costs {pick}", text)]


def for_whom(telling: Telling, decided: Decided, said: Sequence[str]) -> list[Sentence]:
    """What the pick is for, and for what each other one is not; `said`: setups of which it was said before."""
    say, found, data = telling.texts.say, decided.decision, telling.data
    out: list[Sentence] = []
    steps = made_in_steps(telling)
    if found.pick is not None and not steps:
        key = {"clear": "for-clear", "budget": "for-budget", "rides-limit": "for-limit"}.get(
            worst_of(telling, found.pick) or ""
        )
        if key is not None:
            out.append(Sentence(WHOM, f"for {found.pick}", say(key, name=found.pick, load=telling.load)))
    measured = [s for s in setups_on(data.review, telling.rig) if data.under(telling.load).get(s.name)]
    for setup in measured if len(measured) > 1 else ():
        if setup.name == found.pick or setup.name in said:
            continue
        reasons = _against(telling, decided, setup.name, steps)
        if reasons:
            text = say("not-for", name=setup.name, load=telling.load, reasons=telling.texts.clauses(reasons))
            out.append(Sentence(WHOM, f"not for {setup.name}", text))
    return out


def _against(telling: Telling, decided: Decided, name: str, steps: bool) -> list[str]:
    say, judgement = telling.texts.say, worst_of(telling, name)
    reasons = []
    # Of steps the answer said how each fares.
    if not steps and judgement in ("throttles", "rides-limit"):
        free, clock, loss = telling.clocks(name, CAUSES[judgement])
        key = "reason-throttles" if judgement == "throttles" else "reason-rides"
        reasons.append(say(key, free=free, clock=clock, loss=loss))
    if not steps and judgement == "stopped":
        reasons.append(say("reason-stopped"))
    missed = (
        []
        if steps
        else [line for line, of in decided.standing.items() if of.get(name) == NOT_MET and line != NOT_PUSHED]
    )
    if missed:
        told = [demand_with(telling, decided, line, name) for line in missed]
        reasons.append(say("reason-misses", missed=telling.texts.listed(told)))
    return reasons
