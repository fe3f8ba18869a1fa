"""Under whose name, and under which licence the data, an archive's publications go out: asked once."""

from __future__ import annotations

from samovar.archive.editions import AUTHOR, LICENCE
from samovar.publish.data_package import LICENCES, NO_LICENCE
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose


async def ask_imprint(place: Place) -> bool:
    """Ask for author and licence where nobody was asked yet; False where a sheet was left."""
    kept = place.session.archive.editions
    if kept.imprint(LICENCE):
        return True
    author = await place.app.push_screen_wait(
        Ask("Under whose name do you publish? Empty for none.", kept.imprint(AUTHOR))
    )
    if author is None:
        return False
    options = [(key, words) for key, (words, _) in LICENCES.items()]
    options.append((NO_LICENCE, "no licence: others may read the data, no more"))
    licence = await place.app.push_screen_wait(
        Choose("Under which licence may others use the data?", options)
    )
    if licence is None:
        return False
    kept.set_imprint(AUTHOR, author.strip())
    kept.set_imprint(LICENCE, licence)
    return True
