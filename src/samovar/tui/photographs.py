"""The photographs of a review: taken in, described, placed in the article, taken out."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from samovar.archive.photographs import Photograph
from samovar.core.live_fields import photo_line
from samovar.exchange.photograph import read_photograph
from samovar.exchange.problems import InputError
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose

TAKE_IN = "take one in"
PLACE, DESCRIBE, OUT = "place it in the article", "caption and words", "take it out"


async def ask_photographs(place: Place, review_id: int) -> str:
    """Choose a photograph or take one in; the answer is the line that places it in the article, empty for none."""
    store = place.session.archive.photographs
    have = {p.name: p for p in store.of(review_id)}
    options = [(TAKE_IN, "from a file: JPEG, PNG, WebP, TIFF")]
    options += [(p.name, p.caption or "no caption yet") for p in have.values()]
    name = TAKE_IN if not have else await place.app.push_screen_wait(Choose("Photographs", options))
    if name is None:
        return ""
    if name == TAKE_IN:
        return await _take_in(place, review_id)
    one = have[name]
    choices = [
        (PLACE, "as a paragraph of its own, at the end; move it where it belongs"),
        (DESCRIBE, "what stands under it, and what it shows"),
        (OUT, "z puts it back"),
    ]
    what = await place.app.push_screen_wait(Choose(name, choices))
    if what == PLACE:
        return photo_line(name)
    if what == DESCRIBE and (told := await _described(place, one.caption, one.words)) is not None:
        store.describe(one.id, *told)
    if what == OUT:
        store.drop(one.id)
        place.session.remember(f"the photograph {name}", _back(place, review_id, one))
        place.notify(f"{name} is taken out; z puts it back.")
    return ""


def _back(place: Place, review_id: int, one: Photograph) -> Callable[[], None]:
    return partial(place.session.archive.photographs.restore, review_id, one)


async def _take_in(place: Place, review_id: int) -> str:
    typed = await place.app.push_screen_wait(Ask("Which picture?", hint="~/pictures/duct.jpg"))
    if not typed:
        return ""
    path = Path(typed).expanduser()
    try:
        taken = read_photograph(path)
    except InputError as problem:
        place.notify(str(problem), severity="error", timeout=10)
        return ""
    told = await _described(place, "", "")
    if told is None:
        return ""
    store = place.session.archive.photographs
    name = store.add(review_id, path.stem, *told, taken.kind, taken.image)
    place.notify(f"{name} is taken in: {len(taken.image) // 1000} kB, without what the camera noted.")
    return photo_line(name)


async def _described(place: Place, caption: str, words: str) -> tuple[str, str] | None:
    said = await place.app.push_screen_wait(Ask("What stands under it?", caption, "The duct from above"))
    if said is None:
        return None
    shows = await place.app.push_screen_wait(
        Ask(
            "What does it show, for those who do not see it?",
            words,
            "A sheet metal duct from the fan to the row of regulators",
        )
    )
    return None if shows is None else (said, shows)
