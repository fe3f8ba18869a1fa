"""Frames to and from TOML files, asked for in the interface."""

from __future__ import annotations

from pathlib import Path

from samovar.archive.reviews import slug_of
from samovar.exchange.frame_toml import Frame, read_frame, write_frame
from samovar.exchange.problems import InputError
from samovar.framing import product_frame, review_frame, rig_frame, shelf_frame, take
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose


async def _write(place: Place, frame: Frame, name: str) -> None:
    typed = await place.app.push_screen_wait(
        Ask(f"Write {frame.words()} to which file?", f"{slug_of(name)}.toml")
    )
    if not typed:
        return
    path = Path(typed).expanduser()
    try:
        write_frame(frame, path if path.suffix else path.with_suffix(".toml"))
    except InputError as problem:
        place.notify(str(problem), severity="error")
        return
    place.notify(f"Written: {path}, {frame.words()}.")


async def write_from_shelf(place: Place, view: str, key: int | None) -> None:
    """What is under the cursor, or all of the shelf."""
    archive = place.session.archive
    options = [("the whole shelf", "products, rigs, courses, loads and rates")]
    product = archive.shelf.product(key) if view == "products" and key is not None else None
    rig = archive.shelf.rig(key) if view == "rigs" and key is not None else None
    one = product or rig
    if one is not None:
        options.insert(0, (one.name, "this one alone"))
    chosen = await place.app.push_screen_wait(Choose("Write what to a TOML file?", options))
    if chosen is None:
        return
    if one is not None and chosen == one.name:
        frame = (
            Frame(products=(product_frame(product),))
            if product
            else Frame(rigs=(rig_frame(rig),) if rig else ())
        )
        await _write(place, frame, one.name)
    else:
        await _write(place, shelf_frame(archive), "shelf")


async def write_review(place: Place) -> None:
    """The review in hand with all it stands on."""
    review = place.session.review
    if review is None:
        place.notify("No review is open: choose one on the Desk (0).", severity="warning")
        return
    await _write(place, review_frame(place.session.archive, review), review.name)


async def take_in(place: Place) -> bool:
    """A document from a file into the archive; whether anything came of it."""
    typed = await place.app.push_screen_wait(Ask("Take in which TOML file?", hint="shelf.toml"))
    if not typed:
        return False
    try:
        said = take(place.session.archive, read_frame(Path(typed).expanduser()))
    except InputError as problem:
        place.notify(str(problem), severity="error", timeout=12)
        return False
    place.session.reload()
    place.notify("\n".join(said[:8]) + ("\n…" if len(said) > 8 else ""), title="Taken in", timeout=8)
    return True
