"""Readings of an older method are worked out again, one after another, off the interface's thread and with progress."""

from __future__ import annotations

import contextlib
from typing import TYPE_CHECKING

from textual.widgets import Static

if TYPE_CHECKING:
    from samovar.tui.screens.place import Place


def read_again(place: Place) -> None:
    """Work out what is stale, telling in the place's head of the reviews how far it is. To be run in a worker; it ends with
    the program, and goes on where it was at the next start."""
    runs = place.session.archive.runs
    # Who may only read keeps nothing of what is worked out.
    stale = [] if place.session.guest else runs.findings.stale()
    for count, number in enumerate(stale, 1):
        if not place.app.is_running:
            return
        words = f"Reviews   the methods have changed: run {count} of {len(stale)} is read again"
        place.tell(place.query_one("#reviews-head", Static).update, words)
        # A run that cannot be read is shown as that where it is opened.
        with contextlib.suppress(Exception):
            runs.reading(number)
    if stale:
        place.tell(place.refresh_all)
