"""A drafted sentence, and what its words are made of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from samovar.archive.field_values import ahead_text, setup_text
from samovar.archive.review_data import ReviewData, shown_figures
from samovar.archive.rig_comparison import compare_on
from samovar.core.compare.advantage import is_ahead
from samovar.core.compare.rungs import Difference, Margins
from samovar.core.live_fields import AHEAD_OF, BEHIND, LiveField
from samovar.core.results.figure import PRICE, Figure, as_they_ran, figure_of, part_in_words
from samovar.publish.language import Language

ANSWER, WHY, COST, WHOM, UNKNOWN = "answer", "why", "cost", "whom", "unknown"
"""What a paragraph is about, in the order of the argument."""
MOST_TOLD = 4
"""So many figures are told of one setup, or in which two are told apart: more nobody keeps in mind."""
DONE = ("work", "score", "time")
"""Quantities of what a machine gets done."""
OWN_VERBS = ("rise", "work", "noise", "clock", "score", "time", "price", "power", "settle")
"""Figures for which the texts have a verb of their own."""
TOLD = ("rise", "work", "noise")
"""What a reader wants to know of a setup after what the review is about."""
MHZ_IN_GHZ = 1000.0


@dataclass(frozen=True, slots=True)
class Sentence:
    """One drafted sentence.

    Attributes:
        paragraph: what its paragraph is about.
        key: what it says of whom, the same from one draft to the next.
        text: Markdown, its numbers as live fields.
    """

    paragraph: str
    key: str
    text: str


class Telling:
    """What the sentences of one rig under one load are put together from."""

    def __init__(self, data: ReviewData, rig: str, load: str, texts: Language) -> None:
        self.data, self.rig, self.load, self.texts = data, rig, load, texts

    def figures(self, *more: str) -> list[Figure]:
        """What the review is about, then what readers want, then what else was done or got warm; each once."""
        shown = [
            f.key
            for f in shown_figures(self.data)
            if (f.quantity in DONE and f.statistic != "settle") or f.statistic == "rise"
        ]
        return [figure_of(k) for k in dict.fromkeys((self.data.subject.key, *TOLD, *more, *shown))]

    def value(self, figure: Figure, name: str) -> str | None:
        """A setup's figure as a live field; None where no run tells it."""
        text = setup_text(self.data, figure, name, self.load)
        return None if text is None else LiveField(figure.key, name, self.load, text).text

    def phrase(self, figure: Figure, name: str) -> str | None:
        """`49.6 ±0.4 K over the room`."""
        value = self.value(figure, name)
        if value is None:
            return None
        return self.texts.say("fig", figure=kind_of(figure), value=value, **self.words_for(figure))

    def phrases(self, name: str) -> list[str]:
        """A setup's figures in what readers want to know."""
        return [p for f in self.figures() if (p := self.phrase(f, name))][:MOST_TOLD]

    def words_for(self, figure: Figure) -> dict[str, str]:
        """What the texts call a figure, and the part it is of."""
        part = part_in_words(figure.parts[0]) or figure.label
        return {"part": self.texts.words(part), "label": self.texts.words(figure.label)}

    def difference(self, figure: Figure, name: str, other: str) -> Difference | None:
        """One setup less another, with the review's margin."""
        found = compare_on(self.data, self.load, figure, self.rig)
        base = found.ladder.rung(other)
        if base is None:
            return None
        margins = Margins(self.data.review.margin_k, self.data.review.margin_share)
        return found.ladder.difference(name, other, margins.of(found.figure, base.figure.value))

    def gain(self, figure: Figure, name: str, other: str) -> str:
        """`is 14.5 ±0.1 K cooler`, of a difference there is."""
        gap = self.difference(figure, name, other)
        assert gap is not None
        better = is_ahead(figure, gap)
        size = ahead_text(self.data, figure, name, other, self.load, not better) or ""
        pair = f"{name}{AHEAD_OF if better else BEHIND}{other}"
        field = LiveField(figure.key, pair, self.load, size).text
        return self.texts.say(
            "gain", figure=kind_of(figure), way="better" if better else "worse", size=field, **self.words_for(figure),
        )  # fmt: skip

    def price(self, name: str) -> float | None:
        """What a setup costs, in the review's currency; None where it is not known."""
        rung = compare_on(self.data, self.load, PRICE, self.rig).ladder.rung(name)
        return None if rung is None else rung.figure.value

    def base_clock(self, name: str) -> tuple[str | None, str]:
        """A setup's base clock, and whether what it holds lies over or under it; None where either is not known."""
        setup = next(s for s in self.data.review.setups if s.name == name)
        base = setup.facts.cpu.base_clock_mhz
        held = compare_on(self.data, self.load, figure_of("clock"), self.rig).ladder.rung(name)
        if base is None or held is None:
            return None, "over"
        return f"{base / MHZ_IN_GHZ:.2f} GHz", "over" if held.figure.value >= base else "under"

    def clocks(self, name: str, causes: Sequence[str]) -> tuple[str | None, str | None, str | None]:
        """The clock a setup has when free, the one it is held at by any of these causes, and the loss; each None where not
        known. Of several stretches the one that costs most."""
        found = [
            (h.clock_loss_pct, r.reading.free_clock_mhz, h.mean_clock_mhz)
            for r in as_they_ran(self.data.under(self.load).get(name, []))
            for h in r.reading.held
            if h.by in causes and h.clock_loss_pct and r.reading.free_clock_mhz
        ]
        if not found:
            return None, None, None
        loss, free, held = max(found)
        return f"{free / MHZ_IN_GHZ:.2f} GHz", f"{held / MHZ_IN_GHZ:.2f} GHz", f"{loss:.0f} %"


def kind_of(figure: Figure) -> str:
    """By what a text selects the words for a figure."""
    if figure.key in OWN_VERBS:
        return figure.key
    if figure.quantity == "temperature" and figure.statistic in ("rise", "steady", "at", "peak"):
        return "temperature-rise" if figure.statistic == "rise" else "temperature"
    return "rate" if figure.quantity == "work" and figure.unit.endswith("/s") else "other"
