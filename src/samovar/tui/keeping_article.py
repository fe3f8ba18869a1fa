"""Keeping the article: what someone else wrote into it meanwhile is never written over."""

from __future__ import annotations

from dataclasses import replace

from samovar.archive.kept import ChangedMeanwhile
from samovar.tui.screens.place import Place


def keep_article(place: Place, review_id: int, text: str, before: str) -> str | None:
    """Keep the words of a review, which were `before` when they were last kept or read; the answer is how they stand now,
    None where nothing was changed. Where someone else changed them meanwhile, both texts are kept, theirs first."""
    session, store = place.session, place.session.archive.reviews
    if text.rstrip() == before.rstrip():
        return None
    try:
        store.set_verdict(review_id, text, was=before)
    except ChangedMeanwhile as problem:
        theirs = store.review(review_id)
        text = f"{theirs.verdict if theirs else ''}\n\n{text}"
        store.set_verdict(review_id, text)
        place.notify(str(problem), severity="warning", timeout=12)
    if session.review is not None and session.review.id == review_id:
        session.review = store.review(review_id)
        if session.data is not None and session.review is not None:
            session.data = replace(session.data, review=session.review)
    return text
