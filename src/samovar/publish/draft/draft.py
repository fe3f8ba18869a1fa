"""A review's draft: what the findings answer, why, what it costs, for whom and for whom not, and what is not known."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from samovar.archive.deciding import decided_on, hardest_load
from samovar.archive.drafted import STRUCK, Drafted
from samovar.archive.field_values import values_of
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import rigs_of
from samovar.core.claims.judged import Checked
from samovar.core.live_fields import LiveField, ValueOf, with_values
from samovar.publish.draft.answer import answer
from samovar.publish.draft.reasons import cost, for_whom, why
from samovar.publish.draft.sentence import ANSWER, Sentence, Telling
from samovar.publish.draft.unknown import unknown
from samovar.publish.language import Language, language


def draft_of(data: ReviewData, checked: Sequence[Checked], texts: Language | None = None) -> list[Sentence]:
    """The sentences of a draft, in the order of the argument.

    Args:
        data: the review.
        checked: its claims, held against the runs.
        texts: the language it is in; English where none is given.
    """
    texts = texts or language()
    tellings = [
        Telling(data, rig, load, texts)
        for rig in rigs_of(data.review)
        if (load := hardest_load(data, rig)) is not None
    ]
    if not tellings:
        return [Sentence(ANSWER, "nothing measured", texts.say("nothing-measured"))]
    found: list[Sentence] = []
    for k, telling in enumerate(tellings):
        found += answer(telling, k)
    first = tellings[0]
    decided = decided_on(data, first.rig)
    if decided is not None:
        reasons = why(first, decided)
        said = [s.key.removeprefix("better but ") for s in reasons if s.key.startswith("better but ")]
        found += [*reasons, *cost(first, decided), *for_whom(first, decided, said)]
    return [*found, *unknown(first, checked)]


def paragraphs_of(sentences: Sequence[Sentence]) -> list[str]:
    """Sentences as paragraphs of Markdown, their numbers live fields."""
    order = dict.fromkeys(s.paragraph for s in sentences)
    return [" ".join(s.text for s in sentences if s.paragraph == p) for p in order]


def standing_draft(
    data: ReviewData,
    checked: Sequence[Checked],
    decided: Mapping[str, Drafted],
    texts: Language | None = None,
) -> str:
    """The draft as it is published where there is no article: without the sentences that were struck."""
    kept = [
        s for s in draft_of(data, checked, texts) if s.key not in decided or decided[s.key].state != STRUCK
    ]
    return "\n\n".join(paragraphs_of(kept))


def draft_verdict(data: ReviewData, checked: Sequence[Checked], texts: Language | None = None) -> list[str]:
    """The draft as paragraphs that can be read: their numbers in their places."""
    read = values_in(data, texts or language())
    return [with_values(p, read) for p in paragraphs_of(draft_of(data, checked, texts))]


def values_in(data: ReviewData, texts: Language) -> ValueOf:
    """What live fields read, in a language: `at least` is words, too."""
    read = values_of(data)

    def value(field: LiveField) -> str | None:
        return None if (found := read(field)) is None else texts.words(found)

    return value
