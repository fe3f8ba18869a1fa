"""The card of a review: what it says, put together from its article and its pick."""

from __future__ import annotations

from samovar.archive.deciding import decided_on, hardest_load
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import compare_on
from samovar.core.results.figure import figure_of
from samovar.figures.card import CardChart, CardText
from samovar.publish.article import Article

TOLD = ("rise", "work", "noise", "price", "clock", "power")
"""Figures that stand on the card after that of what the review is about, as many as there is room for."""


def card_of(data: ReviewData, article: Article) -> tuple[CardText, CardChart]:
    """What the cards of a review say, and their chart."""
    load = hardest_load(data) or (data.review.loads[-1] if data.review.loads else "")
    decided = decided_on(data)
    subject = compare_on(data, load, data.subject)
    named = decided.decision.pick if decided is not None else None
    if named is None and subject.ladder.own:
        named = subject.ladder.own[0].name
    figures: list[tuple[str, str]] = []
    for key in dict.fromkeys((data.subject.key, *TOLD)):
        found = compare_on(data, load, figure_of(key))
        rung = found.ladder.rung(named) if named is not None else None
        if rung is not None:
            figures.append((found.figure.brief(rung.figure), f"{found.figure.label}, {named}"))
    # Its first sentence: the figures stand below, larger.
    answer = article.lead.partition(". ")[0].rstrip(".") + "."
    by = f"{article.author}, " if article.author else ""
    text = CardText(
        article.title, article.question, f"{answer[:1].upper()}{answer[1:]}", tuple(figures),
        f"{by}edition {article.edition}, {article.day}. Measured under {load}; half-widths are 95 %.",
    )  # fmt: skip
    title = f"{subject.figure.label.capitalize()}, {load}"
    return text, CardChart(subject.ladder.rungs, subject.figure, title, named)
