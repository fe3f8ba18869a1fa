"""Deciding on drafted sentences: the article as it grows, what was decided, and the way back."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.archive.archive import Archive
from samovar.archive.drafted import KEPT, STRUCK, Drafted
from samovar.archive.field_values import values_of
from samovar.archive.review_data import ReviewData
from samovar.core.claims.judged import Checked
from samovar.core.drafting import Offered, offered, taken_in
from samovar.core.live_fields import as_agreed, with_values
from samovar.publish.draft.draft import draft_of


class Drafting:
    """The draft of a review beside its article. `article` is the text as it stands now."""

    def __init__(self, archive: Archive, data: ReviewData, checked: Sequence[Checked], article: str) -> None:
        self._store, self._review_id = archive.drafts, data.review.id
        self._values = values_of(data)
        self._draft = {s.key: s for s in draft_of(data, checked)}
        self._undo: list[tuple[str, Drafted | None, str]] = []
        self._decided = self._store.of(self._review_id)
        self.article = article

    def offers(self) -> list[Offered]:
        """Every sentence with what became of it."""
        decided = {k: (d.state, d.text) for k, d in self._decided.items()}
        return offered([(s.key, s.text) for s in self._draft.values()], decided, self.article)

    def plain(self, text: str) -> str:
        """A sentence with the values of its fields."""
        return with_values(text, self._values).replace("**", "")

    def plain_before(self, text: str) -> str:
        """A sentence as it read when it was decided on."""
        return as_agreed(text).replace("**", "")

    def keep(self, key: str) -> None:
        """Take a sentence into the article, beside those of its paragraph."""
        one = self._draft[key]
        self._decide(key, KEPT)
        beside = [s.text for s in self._draft.values() if s.paragraph == one.paragraph and s.key != key]
        self.article = taken_in(self.article, one.text, beside)

    def strike(self, key: str) -> None:
        """Leave a sentence out for good."""
        self._decide(key, STRUCK)

    def _decide(self, key: str, state: str) -> None:
        self._undo.append((key, self._decided.get(key), self.article))
        self._store.decide(self._review_id, key, state, self._draft[key].text)
        self._decided = self._store.of(self._review_id)

    def undo(self) -> bool:
        """Take the last decision back; False where there is none."""
        if not self._undo:
            return False
        key, before, self.article = self._undo.pop()
        self._store.decide(
            self._review_id, key, before.state if before else None, before.text if before else ""
        )
        self._decided = self._store.of(self._review_id)
        return True
