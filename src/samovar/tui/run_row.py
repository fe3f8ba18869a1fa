"""Runs in a row: the Grid's proposals one after another, by themselves where no hand is needed, else with a prompt."""

from __future__ import annotations

from dataclasses import dataclass

from samovar.core.setup_changes import hand_work
from samovar.recording.live import LiveRun
from samovar.tui.session import Session

_NOTE = "runs in a row"


@dataclass(frozen=True, slots=True)
class NextStep:
    """What comes after a run: `start` by itself, `hands` first, `paused` since something went wrong, or `done`."""

    kind: str
    words: str = ""


class RunRow:
    """Whether runs go on in a row; kept in the archive, so that a pause survives the program's end."""

    def __init__(self, session: Session) -> None:
        self._session = session

    @property
    def on(self) -> bool:
        """Whether the review in hand is being recorded in a row."""
        review = self._session.review
        return review is not None and self._session.archive.plans.note(_NOTE) == str(review.id)

    def turn(self, on: bool) -> None:
        """Begin or end it."""
        review = self._session.review
        self._session.archive.plans.keep_note(_NOTE, str(review.id) if on and review is not None else None)

    def after(self, live: LiveRun) -> NextStep:
        """What comes after a run that has ended."""
        outcome = live.outcome
        if outcome is None or outcome.state != "sealed":
            why = outcome.reason or outcome.state if outcome else "it failed"
            return NextStep("paused", f"PAUSED: {live.id} {why}. r goes on, w ends it")
        cell = self._session.next_cell()
        if cell is None:
            return NextStep("done", "EVERY CELL HAS ITS PASSES")
        setup, load, _ = cell
        before = live.setup.arrangement if live.setup is not None else None
        to_do = hand_work(before, setup.arrangement) if before is not None else []
        if to_do:
            return NextStep("hands", f"NOW {'; '.join(to_do)}. Then press r")
        own = self._session.archive.plans.own_loads().get(load)
        if own is not None and own.kind == "by hand":
            return NextStep("hands", f"NEXT {load}: be at the machine, then press r")
        return NextStep("start", f"next {setup.name} ▸ {load}")
