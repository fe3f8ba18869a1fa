"""Marks of a finished run: moved, reworded, taken away, added at the cursor; each can be undone."""

from __future__ import annotations

import re

from samovar.archive.records import Run
from samovar.bench.course_spec import clock_text
from samovar.core.marks import Mark
from samovar.core.phases import LOAD_OFF, LOAD_ON
from samovar.core.recording import Recording
from samovar.exchange.problems import InputError
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose

NEW = "a new mark"
_TYPED = re.compile(
    r"^\s*(?:(?P<hours>\d+):)?(?P<minutes>\d+):(?P<seconds>\d{2}(?:[.,]\d+)?)\s*(?P<words>.*)$"
)


def is_structural(mark: Mark) -> bool:
    """Whether a mark tells when a load was on: the reading goes by those, and they stay as they are."""
    return mark.text.startswith((LOAD_ON, LOAD_OFF))


def read_mark(text: str, duration_s: float) -> Mark:
    """A mark as typed, `14:32 panel off`.

    Raises:
        InputError: no time, no words, or a time outside the run.
    """
    found = _TYPED.match(text)
    if found is None or not found["words"].strip():
        raise InputError(f"{text!r} is no mark; write its time and its words, such as 14:32 panel off")
    seconds = float(found["seconds"].replace(",", "."))
    at_s = 3600.0 * int(found["hours"] or 0) + 60.0 * int(found["minutes"]) + seconds
    if seconds >= 60.0 or at_s > duration_s:
        raise InputError(f"{text!r} lies outside the run, which ends at {clock_text(duration_s)}")
    return Mark(at_s, found["words"].strip())


async def edit_marks(place: Place, run: Run, recording: Recording, cursor_s: float | None) -> bool:
    """Let one mark be chosen and changed; True where something is otherwise now."""
    marks = [m for m in recording.marks if not is_structural(m)]
    names = [f"{clock_text(m.at_s)}  {m.text}" for m in marks]
    at_s = cursor_s if cursor_s is not None else 0.0
    options = [(name, "") for name in names] + [(NEW, f"at the cursor, {clock_text(at_s)}")]
    chosen = await place.app.push_screen_wait(Choose("Which mark?", options))
    if chosen is None:
        return False
    old = None if chosen == NEW else marks[names.index(chosen)]
    value = f"{clock_text(at_s)} " if old is None else f"{clock_text(old.at_s)} {old.text}"
    question = "When, and what?" + ("" if old is None else " Leave it empty to take the mark away.")
    typed = await place.app.push_screen_wait(Ask(question, value, "14:32 panel off"))
    if typed is None or (old is None and not typed):
        return False
    try:
        new = read_mark(typed, recording.duration_s) if typed else None
    except InputError as problem:
        place.notify(str(problem), severity="error")
        return False
    if new is not None and old is not None and clock_text(new.at_s) == clock_text(old.at_s):
        # Only the words were changed: the moment stays to the fraction of a second.
        new = Mark(old.at_s, new.text)
    runs = place.session.archive.runs
    runs.change_mark(run.number, old, new)
    words = "mark taken away" if new is None else "mark added" if old is None else "mark changed"
    place.session.remember(f"{words} in {run.id}", lambda: runs.change_mark(run.number, new, old))
    place.notify(f"{words.capitalize()}; u undoes it.")
    return True
