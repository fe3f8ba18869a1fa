"""What a review asks of a setup, and who meets it: demands, wishes in their order, and the pick that follows.

A demand is one line, as people write it: `noise at most 28 dBA`, `regulators at most 85 °C under worst case`, `clock at least
3.4 GHz`, `price at most 120 EUR`. A wish has no limit and names what more, or less, of is better: `wish work`, `wish price`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from samovar.core.measured import AT_LEAST, AT_MOST, Measured
from samovar.core.results.figure import Figure
from samovar.core.results.figure_words import figure_in_words, value_in_words
from samovar.core.units import Unreadable

if TYPE_CHECKING:
    from samovar.core.compare.rungs import Ladder

MET, NOT_MET, NOT_SHOWN = "met", "not met", "not shown"
EXAMPLE = "write noise at most 28 dBA, regulators at most 85 °C under worst case, price at most 120 EUR, or wish work"
_LINE = re.compile(
    r"(?P<wish>wish\s+)?(?P<figure>.+?)(?:\s+(?P<side>at most|at least|under|over|max|min)\s+(?P<limit>[-−]?\d.*?))?"
    r"(?:\s+under\s+(?P<load>\D.*))?",
    re.I,
)
_SIDES = {
    "at most": AT_MOST,
    "under": AT_MOST,
    "max": AT_MOST,
    "at least": AT_LEAST,
    "over": AT_LEAST,
    "min": AT_LEAST,
}


@dataclass(frozen=True, slots=True)
class Demand:
    """One demand or wish.

    Attributes:
        figure: what of a setup.
        side: at most or at least; empty for a wish.
        limit: in the figure's unit; None for a wish.
        load: under which load; None for the review's hardest.
        currency: of a price.
        line: as it was typed, in plain form.
    """

    figure: Figure
    side: str
    limit: float | None
    load: str | None
    currency: str
    line: str

    @property
    def is_wish(self) -> bool:
        """Whether it has no limit to be met."""
        return self.limit is None


def read_demand(typed: str) -> Demand:
    """Read one line.

    Raises:
        Unreadable: what is wrong with it, and an example.
    """
    text = " ".join(typed.split())
    found = _LINE.fullmatch(text)
    if not text or found is None:
        raise Unreadable(f"{typed!r} is no demand; {EXAMPLE}")
    figure = figure_in_words(found["figure"].strip(), typed)
    load = found["load"].strip() if found["load"] else None
    if found["limit"] is None:
        if not found["wish"]:
            raise Unreadable(
                f"{typed!r} has no limit: at most or at least what? Or begin with wish; {EXAMPLE}"
            )
        return Demand(figure, "", None, load, "", text)
    if found["wish"]:
        raise Unreadable(f"{typed!r} is a wish with a limit; leave out one of them; {EXAMPLE}")
    side = _SIDES[found["side"].lower()]
    limit, currency = value_in_words(figure, found["limit"].strip(), typed)
    if figure.quantity == "temperature" and figure.statistic == "rise" and "°" in found["limit"]:
        raise Unreadable(f"{typed!r}: a rise is in K; write rise at most 50 K, or die at most 85 °C")
    return Demand(figure, side, limit, load, currency, text)


def judge(demand: Demand, value: Measured | None) -> str:
    """Whether a value meets a demand: by its whole interval, and a bound on its own side alone."""
    if demand.limit is None or value is None:
        return NOT_SHOWN
    sign = 1.0 if demand.side == AT_MOST else -1.0
    over = sign * (value.value - demand.limit)
    half = value.half_width or 0.0
    if value.bound is None:
        return MET if over + half <= 0.0 else NOT_MET if over - half > 0.0 else NOT_SHOWN
    if value.bound == demand.side:
        return MET if over <= 0.0 else NOT_SHOWN
    return NOT_MET if over - half > 0.0 else NOT_SHOWN


@dataclass(frozen=True)
class Decision:
    """What follows from the demands and wishes.

    Attributes:
        pick: the setup that meets all and is best on the wishes; None where none is shown to, or several are level in all.
        level_with: those that meet all and are not shown to be worse in any wish; all of them where there is no pick.
        runner_up: the next that meets all.
        open: setups of which it is not shown whether they meet all.
        out: setups that do not, with the demand.
        by: the wish that decided; empty where there was only one.
        hangs_on: the demand without which another would be picked, and that one; None where there is none such.
    """

    pick: str | None
    level_with: tuple[str, ...] = ()
    runner_up: str | None = None
    open: tuple[str, ...] = ()
    out: Mapping[str, str] = field(default_factory=dict)
    by: str = ""
    hangs_on: tuple[str, str] | None = None


@dataclass(frozen=True)
class Wish:
    """What to be best in: its words, its ladder, and what counts as a practical difference there."""

    words: str
    ladder: Ladder
    margin: float

    def best_of(self, names: Sequence[str]) -> list[str]:
        """Of these the best, with those that are practically the same or not shown to be worse; none where none has it."""
        known = [r for r in self.ladder.own if r.name in names]
        if not known:
            return []
        kept = [known[0].name]
        for rung in known[1:]:
            if self.ladder.model is None and rung.figure.bound is None:
                # Known exactly, as prices are.
                same = abs(rung.figure.value - known[0].figure.value) <= self.margin
            else:
                gap = self.ladder.difference(rung.name, known[0].name, self.margin)
                same = gap is None or gap.equivalent or not gap.shown
            if same:
                kept.append(rung.name)
        return kept


def decide(
    setups: Sequence[str],
    standing: Mapping[str, Mapping[str, str]],
    wishes: Sequence[Wish],
    prices: Mapping[str, float],
) -> Decision:
    """The pick.

    Args:
        setups: their names in the review's order.
        standing: for each demand's line what every setup makes of it: met, not met, not shown.
        wishes: what to be best in, in the reviewer's order.
        prices: what tells those apart that are level in all wishes; not all need have one.
    """
    first = _chosen(setups, standing, wishes, prices)
    hangs: tuple[str, str] | None = None
    if first.pick is not None:
        for line in standing:
            other = _chosen(setups, {k: v for k, v in standing.items() if k != line}, wishes, prices).pick
            if other is not None and other != first.pick:
                hangs = line, other
                break
    return replace(first, hangs_on=hangs)


def _chosen(
    setups: Sequence[str],
    standing: Mapping[str, Mapping[str, str]],
    wishes: Sequence[Wish],
    prices: Mapping[str, float],
) -> Decision:
    out = {
        s: next(line for line, of in standing.items() if of.get(s) == NOT_MET)
        for s in setups
        if any(of.get(s) == NOT_MET for of in standing.values())
    }
    able = [s for s in setups if all(of.get(s) == MET for of in standing.values())]
    unshown = tuple(s for s in setups if s not in out and s not in able)
    if not able:
        return Decision(None, (), None, unshown, out)
    left, by = list(able), ""
    for wish in wishes:
        kept = wish.best_of(left)
        if not kept:
            continue
        if len(kept) < len(left):
            by = by or wish.words
        left = kept
        if len(left) == 1:
            break
    ranked = sorted(left, key=lambda s: (prices.get(s, float("inf")), left.index(s)))
    pick = ranked[0]
    if len(ranked) > 1 and prices.get(pick) == prices.get(ranked[1]):
        # Level in all wishes, and no price, or the same one: nothing picks one of them.
        alike = [s for s in ranked if prices.get(s) == prices.get(pick)]
        return Decision(None, tuple(alike), None, unshown, out, by)
    rest = [s for s in able if s not in left]
    runner = ranked[1] if len(ranked) > 1 else _next_best(rest, wishes)
    return Decision(pick, tuple(ranked[1:]), runner, unshown, out, by)


def _next_best(names: Sequence[str], wishes: Sequence[Wish]) -> str | None:
    for wish in wishes:
        known = [r.name for r in wish.ladder.rungs if r.name in names]
        if known:
            return known[0]
    return names[0] if names else None


def decision_words(found: Decision, demands: Sequence[Demand]) -> str:
    """The decision in a sentence or two."""
    asked = ", ".join(d.line for d in demands if not d.is_wish)
    if found.pick is None and found.level_with:
        words = (
            f"No pick: {', '.join(found.level_with)} {'meet all that is asked, and ' if asked else ''}are not told apart by any wish, "
            "nor by a price: record another pass of each, enter their prices, or wish for something else."
        )
        return words + (f" Not shown to meet it, nor not to: {', '.join(found.open)}." if found.open else "")
    if found.pick is None:
        words = (
            f"No setup is shown to meet all that is asked ({asked})"
            if asked
            else "Nothing tells yet which to pick"
        )
        if found.open:
            words += f"; not shown either way: {', '.join(found.open)}"
        return words + "."
    reasons = [f"it meets all that is asked ({asked})"] if asked else []
    best = f"best in {found.by}"
    reasons += [f"of those that do it is {best}" if asked else f"it is {best}"] if found.by else []
    words = f"The pick is {found.pick}{': ' if reasons else ''}{', and '.join(reasons)}."
    if found.level_with:
        words += f" Level with it in all wishes: {', '.join(found.level_with)}; the price tells them apart."
    elif found.runner_up:
        words += f" Next: {found.runner_up}."
    if found.hangs_on:
        words += f" It hangs on {found.hangs_on[0]!r}: without that it would be {found.hangs_on[1]}."
    if found.open:
        words += f" Not shown to meet it, nor not to: {', '.join(found.open)}."
    return words
