"""What was found while handling a product, as one line each: `rating 8.5: silent at the desk`."""

from __future__ import annotations

import re

from samovar.core.product import NOTE_KINDS, Note
from samovar.core.units import Unreadable


def note_typed(note: Note) -> str:
    """A note as the line that `read_note` reads back to it."""
    rating = "" if note.rating is None else f" {note.rating:g}"
    return f"{note.kind}{rating}: {note.text}"


def read_note(text: str) -> Note:
    """A note as typed: its kind, a colon, the words; a rating has its figure out of ten before the colon.

    Raises:
        Unreadable: no such kind, or a rating beyond ten.
    """
    head, colon, words = text.partition(":")
    typed, words = " ".join(head.lower().split()), words.strip()
    if not colon:
        return Note("note", text.strip())
    if (rated := re.fullmatch(r"rating\s+(\d+(?:[.,]\d+)?)(?:\s*/\s*10)?", typed)) is not None:
        value = float(rated[1].replace(",", "."))
        if value > 10:
            raise Unreadable(f"{value:g} is more than ten; write rating 8.5: silent at the desk")
        if not words:
            raise Unreadable("a rating has a reason; write rating 8.5: silent at the desk")
        return Note("rating", words, value)
    if typed == "rating":
        raise Unreadable("a rating has a figure out of ten; write rating 8.5: silent at the desk")
    if typed in NOTE_KINDS:
        if not words:
            raise Unreadable(f"write the {typed} behind the colon")
        return Note(typed, words)
    raise Unreadable(f"{head!r} is no kind of note; write {', '.join(NOTE_KINDS)} and a colon")
