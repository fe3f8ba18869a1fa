"""Frames to and from TOML files, asked for in the interface."""

from __future__ import annotations

from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.database import ArchiveError
from samovar.bench.loads.catalogue import load_body
from samovar.core.entered import file_stem
from samovar.exchange.frame_toml import Frame, read_frame, write_frame
from samovar.exchange.problems import InputError
from samovar.framing import product_frame, review_frame, rig_frame, shelf_frame, take
from samovar.tui.aside import aside, behind
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose


async def _write(place: Place, frame: Frame, name: str) -> None:
    typed = await place.app.push_screen_wait(
        Ask(f"Write {frame.words()} to which file?", f"{file_stem(name) or 'frame'}.toml")
    )
    if not typed:
        return
    path = Path(typed).expanduser()
    path = path if path.suffix else path.with_suffix(".toml")
    try:
        write_frame(frame, path)
    except InputError as problem:
        place.notify(str(problem), severity="error")
        return
    place.notify(f"Written: {path}, {frame.words()}.")


async def write_from_shelf(place: Place, view: str, key: int | None) -> None:
    """What is under the cursor, or all of the shelf."""
    archive = place.session.archive
    options = [("the whole shelf", "products, rigs, courses, loads and rates")]
    one = _one(archive, view, key) if key is not None else None
    if one is not None:
        options.insert(0, (one[0], "this one alone"))
    chosen = await place.app.push_screen_wait(Choose("Write what to a TOML file?", options))
    if chosen is None:
        return
    if one is not None and chosen == one[0]:
        await _write(place, one[1], one[0])
    else:
        await _write(place, aside(shelf_frame, behind(archive)), "shelf")


def _one(archive: Archive, view: str, key: int) -> tuple[str, Frame] | None:
    """A single thing of the shelf: its name, and the frame that holds it alone."""
    if view == "products" and (product := archive.shelf.product(key)) is not None:
        return product.name, Frame(products=(product_frame(product),))
    if view == "rigs" and (rig := archive.shelf.rig(key)) is not None:
        return rig.name, Frame(rigs=(rig_frame(rig),))
    if view == "courses":
        return next(
            ((c.name, Frame(courses={c.name: c.body})) for c in archive.plans.courses() if c.id == key), None
        )
    if view == "loads":
        own = archive.plans.own_rows()
        return next(((x.name, Frame(loads={x.name: load_body(x)})) for k, x in own if k == key), None)
    return None


async def write_review(place: Place) -> None:
    """The review in hand with all it stands on."""
    review = place.session.review
    if review is None:
        place.notify("No review is open: choose one on the Desk (0).", severity="warning")
        return
    await _write(place, aside(review_frame, behind(place.session.archive), review), review.name)


async def take_in(place: Place) -> bool:
    """A document from a file into the archive; whether anything came of it."""
    typed = await place.app.push_screen_wait(Ask("Take in which TOML file?", hint="shelf.toml"))
    if not typed:
        return False
    try:
        path = Path(typed).expanduser()
        said = aside(lambda: take(behind(place.session.archive), read_frame(path), path.name))
    except (InputError, ArchiveError) as problem:
        place.notify(str(problem), severity="error", timeout=12)
        return False
    place.session.reload()
    place.notify("\n".join(said[:8]) + ("\n…" if len(said) > 8 else ""), title="Taken in", timeout=8)
    return True
