"""Taking drafted sentences into an article that is the reviewer's: a new draft offers what is new in it and replaces nothing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from samovar.core.live_fields import bare

NEW, IN, OWN, STRUCK, CHANGED = "new", "in the article", "in your words", "struck", "reads otherwise now"


@dataclass(frozen=True, slots=True)
class Offered:
    """A drafted sentence beside what was made of it.

    Attributes:
        key, text: of the draft as it is now.
        state: new; in the article; in the reviewer's own words; struck; or it reads otherwise than when that was decided.
        before: how the draft read when it was decided on; empty where it was not.
    """

    key: str
    text: str
    state: str
    before: str = ""


def offered(
    draft: Sequence[tuple[str, str]], decided: Mapping[str, tuple[str, str]], article: str
) -> list[Offered]:
    """Every sentence of a draft with what became of it.

    Args:
        draft: key and text of each.
        decided: by key the decision and how the draft read then.
        article: the reviewer's, as it stands.
    """
    there = bare(article)
    out = []
    for key, text in draft:
        state, before = decided.get(key, (NEW, ""))
        if bare(text) in there:
            out.append(Offered(key, text, IN, before))
        elif state == NEW:
            out.append(Offered(key, text, NEW))
        elif bare(before) != bare(text):
            out.append(Offered(key, text, CHANGED, before))
        else:
            out.append(Offered(key, text, STRUCK if state == "struck" else OWN, before))
    return out


def taken_in(article: str, text: str, beside: Sequence[str]) -> str:
    """The article with a sentence more: behind the last of those it belongs beside that stand there, else as a paragraph of its
    own at the end."""
    at = max((end for other in beside if (end := _end_of(article, other)) >= 0), default=-1)
    if at >= 0:
        return f"{article[:at]} {text}{article[at:]}"
    before = f"{article.rstrip()}\n\n" if article.strip() else ""
    return f"{before}{text}\n"


def _end_of(article: str, sentence: str) -> int:
    """Where a sentence ends in an article, whatever its fields read when they were agreed to; -1 where it is not there."""
    at = article.find(sentence)
    if at >= 0:
        return at + len(sentence)
    for line in article.splitlines():
        if bare(sentence) in bare(line):
            return article.find(line) + len(line)
    return -1
