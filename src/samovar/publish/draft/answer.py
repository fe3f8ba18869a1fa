"""The first paragraph of a draft: the answer, by what is asked, by what each step did, or by what alone was measured."""

from __future__ import annotations

from samovar.archive.before_after import Step, steps_on
from samovar.archive.deciding import Decided, decided_on
from samovar.archive.rig_comparison import compare_on, rigs_of
from samovar.core.compare.advantage import is_ahead
from samovar.core.compare.rungs import Difference
from samovar.core.demands import MET, NOT_MET, NOT_SHOWN
from samovar.core.results.figure import PRICE, Figure, figure_of
from samovar.publish.draft.sentence import ANSWER, Sentence, Telling, kind_of

STEP_FIGURES = ("rise", "work", "score", "time", "clock", "noise")
"""What a step is told by, after what the review is about."""
MOST_GAINS = 3
"""More figures than this in one sentence nobody keeps in mind."""


def answer(telling: Telling, extra: int = 0) -> list[Sentence]:
    """The answer for one rig.

    Args:
        telling: of the rig.
        extra: how many rigs were told of before.
    """
    data, rig = telling.data, telling.rig
    decided = decided_on(data, rig)
    measured = [
        s.name
        for s in data.review.setups
        if s.rig_name == rig and telling.load and data.cell(s, telling.load).results
    ]
    if decided is None or not measured:
        return []
    if len(measured) == 1:
        name = measured[0]
        found = [
            *_state(telling, name),
            *_reached(telling, name),
            *_standing(telling, decided, name),
            _only(telling, name),
        ]
    elif made_in_steps(telling):
        found = _by_steps(telling, decided, steps_on(data, telling.load, rig))
    else:
        found = _by_pick(telling, decided, measured)
    if found and len(rigs_of(data.review)) > 1:
        first = telling.texts.say("on-rig", rig=rig, sentence=found[0].text)
        found = [Sentence(ANSWER, found[0].key, first), *found[1:]]
    # Of several rigs each has a paragraph of its own.
    return [Sentence(f"{ANSWER} {rig}", f"{rig}: {s.key}", s.text) for s in found] if extra else found


def made_in_steps(telling: Telling) -> bool:
    """Whether the setups of a rig grew out of each other, so that each is told by what it changed; not where several things of
    one kind were tried in the same place, for one of them is to be picked."""
    steps = steps_on(telling.data, telling.load, telling.rig)
    setups = {s.name: s for s in telling.data.review.setups if s.rig_name == telling.rig}
    if not steps or len(steps) + 1 < len(setups):
        return False
    tried = [
        (step.before, product.kind)
        for step in steps
        for product in setups[step.after].products
        if product not in setups[step.before].products
    ]
    return len(tried) == len(set(tried))


def asked_words(telling: Telling, decided: Decided) -> str | None:
    """What is asked, in one row; None where nothing is."""
    lines = [telling.texts.words(d.line) for d in decided.demands if not d.is_wish]
    return telling.texts.listed(lines) if lines else None


def demand_value(telling: Telling, decided: Decided, line: str, name: str) -> str | None:
    """What a setup has of what is demanded; None where nothing tells."""
    demand = next((d for d in decided.demands if d.line == line), None)
    if demand is None:
        return None
    under = Telling(telling.data, telling.rig, demand.load or telling.load, telling.texts)
    return under.value(demand.figure, name)


def _by_pick(telling: Telling, decided: Decided, measured: list[str]) -> list[Sentence]:
    say, found, asked = telling.texts.say, decided.decision, asked_words(telling, decided)
    count = say("count", n=len(measured))
    if found.pick is None:
        if found.level_with:
            names = telling.texts.listed(found.level_with)
            text = say("no-pick-level", load=telling.load, names=names, asked=asked)
        elif asked is None:
            text = say("no-wish-tells", load=telling.load)
        else:
            text = say(
                "none-shown" if found.open else "none-meets", count=count, load=telling.load, asked=asked
            )
        sentences = [Sentence(ANSWER, "pick", text), *_leads(telling)]
        for name in found.open:
            sentences += [s for s in _standing(telling, decided, name) if s.key.startswith("unshown")]
        return sentences
    best = next((d.figure for d in decided.demands if d.is_wish and d.figure.label == found.by), None)
    last = _told_apart(telling, decided)
    best = last if best is None else best
    meet = [n for n in measured if n not in found.out and n not in found.open]
    given = {"pick": found.pick, "load": telling.load, "asked": asked, "count": say("count", n=len(meet))}
    if asked and len(meet) < 2:
        text = say("pick-alone", **{**given, "count": count})
    elif best is None or last is None:
        level = telling.texts.listed([*found.level_with, found.pick])
        text = say("pick-price", level=level, **given)
    elif last.key != best.key:
        level = telling.texts.listed([found.pick, *([found.runner_up] if found.runner_up else [])])
        text = say(
            "pick-then",
            level=level,
            label=telling.texts.words(best.label),
            best=_best_words(telling, last),
            **given,
        )
    elif asked:
        text = say("pick-best", best=_best_words(telling, best), **given)
    else:
        value = telling.value(best, found.pick)
        other = telling.value(best, found.runner_up) if found.runner_up else None
        key = "pick-wish" if other else "pick-lone-wish"
        text = say(
            key, best=_best_words(telling, best), value=value, next=found.runner_up, other=other, **given
        )
    sentences = [Sentence(ANSWER, "pick", text)]
    phrases = telling.phrases(found.pick)
    if phrases:
        words = say("measured-there", figures=telling.texts.listed(phrases))
        sentences.append(Sentence(ANSWER, "figures", words))
    if found.hangs_on:
        words = say("hangs-on", demand=telling.texts.words(found.hangs_on[0]), other=found.hangs_on[1])
        sentences.append(Sentence(ANSWER, "hangs on", words))
    return sentences


def _told_apart(telling: Telling, decided: Decided) -> Figure | None:
    """The first wish in which the pick is shown to be better than the next in line; None where there is none."""
    pick, runner = decided.decision.pick, decided.decision.runner_up
    if pick is None or runner is None:
        return next(
            (d.figure for d in decided.demands if d.is_wish and d.figure.label == decided.decision.by), None
        )
    for demand in decided.demands:
        if not demand.is_wish:
            continue
        if demand.figure.quantity == PRICE.quantity:
            prices = telling.price(pick), telling.price(runner)
            if prices[0] is not None and (prices[1] is None or prices[0] < prices[1]):
                return demand.figure
            continue
        gap = telling.difference(demand.figure, pick, runner)
        if gap is not None and gap.shown and not gap.equivalent and is_ahead(demand.figure, gap):
            return demand.figure
    return None


def _best_words(telling: Telling, figure: Figure) -> str:
    return telling.texts.say("best", figure=kind_of(figure), **telling.words_for(figure))


def _leads(telling: Telling) -> list[Sentence]:
    """Everybody's figure in what the review is about, best first."""
    subject = telling.data.subject
    rungs = compare_on(telling.data, telling.load, subject, telling.rig).ladder.own
    values = [f"{r.name} {v}" for r in rungs if (v := telling.value(subject, r.name)) is not None]
    if not values:
        return []
    named = telling.texts.words(subject.label)
    label = f"{named[:1].upper()}{named[1:]}"
    words = telling.texts.say("leads", label=label, load=telling.load, values=telling.texts.listed(values))
    return [Sentence(ANSWER, "leads", words)]


def _reached(telling: Telling, name: str) -> list[Sentence]:
    """A setup's figures in what readers want to know, where its state was told by other ones."""
    if worst_of(telling, name) in (None, "stopped"):
        return []
    phrases = telling.phrases(name)
    if not phrases:
        return []
    words = telling.texts.say("reaches", name=name, figures=telling.texts.listed(phrases))
    return [Sentence(ANSWER, "figures", words)]


def _only(telling: Telling, name: str) -> Sentence:
    return Sentence(ANSWER, "only one", telling.texts.say("only-one", name=name))


def demand_with(telling: Telling, decided: Decided, line: str, name: str) -> str:
    """`“noise at most 28 dBA” with 30.5 ±1.5 dBA`: a demand and what a setup has of it."""
    return telling.texts.say(
        "demand-with", demand=telling.texts.words(line), value=demand_value(telling, decided, line, name)
    )


def _standing(telling: Telling, decided: Decided, name: str) -> list[Sentence]:
    """What a setup makes of what is asked: all of it, or what it meets, what it misses, what it is not shown to meet."""
    say, lines = telling.texts.say, [d.line for d in decided.demands if not d.is_wish]
    states = {line: decided.standing.get(line, {}).get(name, NOT_SHOWN) for line in lines}
    met, missed = (
        [demand_with(telling, decided, x, name) for x, state in states.items() if state == wanted]
        for wanted in (MET, NOT_MET)
    )
    out = []
    if met and len(met) == len(lines):
        out.append(
            Sentence(ANSWER, f"meets {name}", say("meets-all", name=name, asked=telling.texts.listed(met)))
        )
    elif met:
        out.append(
            Sentence(ANSWER, f"meets {name}", say("meets-some", name=name, met=telling.texts.listed(met)))
        )
    if missed:
        out.append(
            Sentence(ANSWER, f"misses {name}", say("misses", name=name, missed=telling.texts.listed(missed)))
        )
    for line, state in states.items():
        if state == NOT_SHOWN:
            value = demand_value(telling, decided, line, name)
            out.append(
                Sentence(
                    ANSWER,
                    f"unshown {line} {name}",
                    say("unshown", name=name, demand=telling.texts.words(line), value=value),
                )
            )
    return out


_STATES = {
    "clear": "state-clear",
    "budget": "state-budget",
    "rides-limit": "state-rides",
    "throttles": "state-throttles",
}
CAUSES = {
    "budget": ("power", "shared"),
    "rides-limit": ("thermal", "firmware"),
    "throttles": ("thermal", "firmware"),
}
"""What holds the clock where a run is judged so."""


def worst_of(telling: Telling, name: str) -> str | None:
    """The worst judgement of a setup's runs that did not end early; `stopped` where all of them did; None where none tells."""
    told = [r.reading.judgement for r in telling.data.under(telling.load).get(name, []) if not r.steps]
    ranked = [j for j in ("throttles", "rides-limit", "budget", "clear", "stopped") if j in told]
    return ranked[0] if ranked else None


def _state(telling: Telling, name: str) -> list[Sentence]:
    """How a setup fares under the load: by the judgement of its runs, else by its figures."""
    say, judgement = telling.texts.say, worst_of(telling, name)
    clock = telling.value(figure_of("clock"), name)
    if judgement == "stopped":
        return [Sentence(ANSWER, f"state {name}", say("state-stopped", load=telling.load, name=name))]
    if judgement is not None and (clock is not None or judgement == "clear"):
        free, _, _ = telling.clocks(name, CAUSES.get(judgement, ()))
        base, side = telling.base_clock(name)
        text = say(
            _STATES[judgement], load=telling.load, name=name, clock=clock, free=say("free", free=free),
            base=say("base", base=base, side=side),
        )  # fmt: skip
        return [Sentence(ANSWER, f"state {name}", text)]
    phrases = telling.phrases(name)
    if not phrases:
        return []
    words = say("state-figures", load=telling.load, name=name, figures=telling.texts.listed(phrases))
    return [Sentence(ANSWER, f"state {name}", words)]


def _by_steps(telling: Telling, decided: Decided, steps: list[Step]) -> list[Sentence]:
    grown = {s.after for s in steps}
    bases = list(dict.fromkeys(s.before for s in steps if s.before not in grown))
    sentences = [
        one for base in bases for one in (*_state(telling, base), *_standing(telling, decided, base))
    ]
    for step in steps:
        sentences += _step(telling, step)
        if worst_of(telling, step.after) not in (worst_of(telling, step.before), None):
            sentences += _state(telling, step.after)
        if telling.data.under(telling.load).get(step.after):
            sentences += _standing(telling, decided, step.after)
    return sentences


def _step(telling: Telling, step: Step) -> list[Sentence]:
    say, before, after = telling.texts.say, step.before, step.after
    key = f"step {before} {after}"
    if not telling.data.under(telling.load).get(after):
        return [Sentence(ANSWER, key, say("step-unmeasured", after=after, load=telling.load))]
    figures = telling.figures(*STEP_FIGURES)
    gaps = {f: gap for f in figures if (gap := telling.difference(f, after, before)) is not None}
    shown = {f: gap for f, gap in gaps.items() if gap.shown and not gap.equivalent}
    if figure_of("work") in shown:
        # More clock is how more work is done: one of them is enough.
        shown.pop(figure_of("clock"), None)
    same = [telling.texts.words(f.label) for f, gap in gaps.items() if gap.equivalent]
    seen = [f for f, gap in gaps.items() if gap.half_width is None and gap.value]
    if not shown and not same and seen:
        gains = telling.texts.listed([telling.gain(f, after, before) for f in seen[:MOST_GAINS]])
        return [Sentence(ANSWER, key, say("step-once", before=before, after=after, gains=gains))]
    words = [telling.gain(f, after, before) for f in list(shown)[:MOST_GAINS]]
    if same and len(words) < MOST_GAINS:
        words.append(say("same-in", labels=telling.texts.listed(same[: MOST_GAINS - len(words)])))
    if not words:
        return [Sentence(ANSWER, key, say("step-open", after=after, before=before, load=telling.load))]
    gains = telling.texts.listed(words)
    return [Sentence(ANSWER, key, say(_verdict(shown), after=after, before=before, gains=gains))]


def _verdict(shown: dict[Figure, Difference]) -> str:
    """Whether a step helps: by what it is shown to better, and to worsen, of the figures that are told of it."""
    told = list(shown.items())[:MOST_GAINS]
    better = [f for f, gap in told if is_ahead(f, gap)]
    if not told:
        return "step-same"
    if len(better) == len(told):
        return "step-helps"
    return "step-both" if better else "step-hurts"
