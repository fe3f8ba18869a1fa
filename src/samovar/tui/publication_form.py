"""How publications are written: their language, their units, their decimal sign, chosen in the interface."""

from __future__ import annotations

from samovar.publish.form import COMMA, IMPERIAL, METRIC, POINT
from samovar.publish.imprint import choose_form, form_of
from samovar.publish.language import languages
from samovar.tui.aside import aside, behind
from samovar.tui.screens.place import Place
from samovar.tui.sheets.choose import Choose


async def ask_form(place: Place) -> None:
    """Ask for language, units and decimal sign; what is chosen is kept, also where the rest is left."""
    archive = place.session.archive
    now = aside(form_of, behind(archive))
    names = aside(languages)
    chosen = await place.app.push_screen_wait(
        Choose(
            f"Written in which language? Now: {names[now.code]}.",
            [(name, code) for code, name in names.items()],
        )
    )
    if chosen is None:
        return
    choose_form(archive, next(code for code, name in names.items() if name == chosen))
    units = await place.app.push_screen_wait(
        Choose("In which units?", [(METRIC, "°C, K, metres"), (IMPERIAL, "°F, feet")])
    )
    if units is None:
        return
    choose_form(archive, units=units)
    decimals = await place.app.push_screen_wait(
        Choose("With which decimal sign?", [(POINT, "49.6 ±0.4"), (COMMA, "49,6 ±0,4")])
    )
    if decimals is not None:
        choose_form(archive, decimals=decimals)
    place.notify("The next edition is written so; the data stay as they are.")
