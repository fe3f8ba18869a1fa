"""The styles of a place or a sheet, taken in when it is first shown.

Textual works out the styles of everything anew, from their text, whenever a screen with styles of its own is first shown:
a tenth of a second and more in which no key is answered. Here those that are known stay known. What a screen brings is
about itself alone (Textual scopes it), so that nothing that is shown already has to be styled again.
"""

from __future__ import annotations

import inspect

from textual.app import App
from textual.cache import LRUCache
from textual.screen import Screen

KNOWN_MOST = 512
"""Pieces of style that stay known: a few for each place, sheet and widget that there is."""


class StyledApp(App[None]):
    """An application whose screens bring their styles as text, none in files."""

    def __init__(self) -> None:
        super().__init__()
        self.stylesheet._parse_cache = LRUCache(KNOWN_MOST)

    def _load_screen_css(self, screen: Screen[object]) -> None:
        if screen.css_path or not screen.SCOPED_CSS:
            super()._load_screen_css(screen)
            return
        kind = type(screen)
        where = (inspect.getfile(kind), f"{kind.__name__}.CSS")
        if screen.CSS and not self.stylesheet.has_source(*where):
            self.stylesheet.add_source(
                screen.CSS, read_from=where, is_default_css=False, scope=screen._css_type_name
            )
            self.stylesheet.parse()
