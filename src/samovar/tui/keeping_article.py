"""Keeping the article: what someone else wrote into it meanwhile is never written over."""

from __future__ import annotations

from samovar.archive.kept import ChangedMeanwhile
from samovar.tui.screens.place import Place


def keep_article(place: Place, review_id: int, text: str) -> str | None:
    """Keep the words of a review where they are others than before; the answer is the text as it stands now, None where
    there was nothing to keep. Where it was changed by someone else, both texts stand in it, theirs first."""
    session, store = place.session, place.session.archive.reviews
    review = session.review
    if review is None or review.id != review_id or text == review.verdict:
        return None
    try:
        store.set_verdict(review_id, text, was=review.verdict)
    except ChangedMeanwhile as problem:
        theirs = store.review(review_id)
        text = f"{theirs.verdict if theirs else ''}\n\n{text}"
        store.set_verdict(review_id, text)
        place.notify(str(problem), severity="warning", timeout=12)
    session.review = store.review(review_id)
    if session.data is not None and session.review is not None:
        session.data.review = session.review
    return text
