"""Publishing from the interface: where to, under whose name, with progress, and back with what was written."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from rich.text import Text

from samovar.archive.records import Review
from samovar.exchange.problems import InputError
from samovar.tui.imprint import ask_imprint
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.widgets.plain import Static

NOW = "as it is now"
INTO, ELSEWHERE = "publish beside them", "leave it"
WHAT = (
    "Publish into which folder?\n\nIt gets a page that stands alone, the same as PDF, cards, each figure for page and column, and the "
    "data as a package that others can compute with."
)
BAR = 24
"""Columns of the bar of progress."""


async def ask_and_publish(place: Place, review: Review) -> None:
    """Ask which edition and where, then write in the background with progress."""
    edition = await _which(place, review)
    if edition is None or not await ask_imprint(place):
        return
    typed = await place.app.push_screen_wait(Ask(WHAT, str(Path.cwd() / review.slug)))
    if typed:
        _begin(place, Order(review, edition, Path(typed).expanduser()))


@dataclass(frozen=True)
class Order:
    """What is to be written: an edition by its number, 0 the review as it is now, and where."""

    review: Review
    edition: int
    folder: Path
    into: bool = False


async def _which(place: Place, review: Review) -> int | None:
    """The edition to write, by its number; 0 for the review as it is now, None where the sheet was left."""
    kept = place.session.archive.editions.of(review.id)
    if not kept:
        return 0
    options = [(NOW, "a new edition where it says something else than the last")]
    options += [(f"edition {e.number}", f"{e.day}, written again as it was") for e in reversed(kept)]
    chosen = await place.app.push_screen_wait(Choose("Publish which edition?", options))
    return None if chosen is None else 0 if chosen == NOW else int(chosen.split()[1])


def _begin(place: Place, order: Order) -> None:
    place.run_worker(partial(_write, place, order), thread=True, exclusive=True, group="publish")


def _write(place: Place, order: Order) -> None:
    """In a thread of its own: everything said of it goes through `place.tell`."""
    from textual.worker import get_current_worker

    from samovar.publish.again import write_edition
    from samovar.publish.folder import HoldsOthers
    from samovar.publish.review import Cancelled, publish_review

    worker = get_current_worker()

    def progress(done: int, total: int) -> None:
        if worker.is_cancelled:
            raise Cancelled
        bar = "━" * round(BAR * done / total)
        place.tell(_say, place, f"publishing {bar:<{BAR}} {done} of {total}   Ctrl+X cancels")

    try:
        archive, review, folder = place.session.archive, order.review, order.folder
        if order.edition:
            written = write_edition(archive, review, order.edition, folder, order.into)
        else:
            written = publish_review(archive, review, folder, progress, order.into)
    except HoldsOthers as problem:
        place.tell(_ask_into, place, order, str(problem))
        return
    except InputError as problem:
        place.tell(place.notify, str(problem), severity="error", timeout=12)
        return
    except Cancelled:
        place.tell(_cancelled, place)
        return
    place.tell(_published, place, folder, len(written))


def _ask_into(place: Place, order: Order, problem: str) -> None:
    """The folder holds other things: publish beside them, or leave it."""

    def answered(choice: str | None) -> None:
        if choice == INTO:
            _begin(place, replace(order, into=True))

    options = [(ELSEWHERE, "nothing is written"), (INTO, "what stands there stays, or is moved aside")]
    place.app.push_screen(Choose(problem.partition(";")[0] + ".", options), answered)


def _say(place: Place, words: str) -> None:
    text: Text = place.title_line()
    text.append(f"   {words}", f"bold {place.palette.brass}")
    place.query_one("#title", Static).update(text)


def _cancelled(place: Place) -> None:
    place.query_one("#title", Static).update(place.title_line())
    place.notify("Publishing was cancelled; p goes on with what was not drawn yet.")


def _published(place: Place, folder: Path, files: int) -> None:
    place.query_one("#title", Static).update(place.title_line())
    place.notify(f"{files} files written. Open {folder / 'index.html'}", title="Published", timeout=15)
