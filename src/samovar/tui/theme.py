"""The theme: warm near-black, brass for what is selected, porcelain for text; and its light sister."""

from __future__ import annotations

from textual.theme import Theme

from samovar.figures.palette import DARK, LIGHT, Palette


def _theme(name: str, palette: Palette) -> Theme:
    return Theme(
        name=name,
        primary=palette.brass,
        secondary=palette.quantity["clock"],
        accent=palette.brass,
        warning=palette.caution,
        error=palette.bad,
        success=palette.good,
        foreground=palette.text,
        background=palette.ground,
        surface=palette.ground,
        panel=palette.raised,
        boost=palette.raised,
        dark=palette.dark,
        variables={
            "soft": palette.soft,
            "faint": palette.faint,
            "line": palette.line,
            "raised": palette.raised,
            "on-brass": palette.on_brass,
            "footer-background": palette.raised,
            "footer-key-foreground": palette.brass,
            "footer-description-foreground": palette.soft,
            "footer-item-background": palette.raised,
            "footer-description-background": palette.raised,
            "footer-key-background": palette.raised,
            "block-cursor-background": palette.brass,
            "block-cursor-foreground": palette.on_brass,
            "block-cursor-text-style": "bold",
            "block-cursor-blurred-background": palette.raised,
            "block-cursor-blurred-foreground": palette.text,
            "border": palette.brass,
            "border-blurred": palette.line,
            "scrollbar": palette.line,
            "scrollbar-background": palette.ground,
            "scrollbar-hover": palette.faint,
            "scrollbar-active": palette.brass,
            "scrollbar-corner-color": palette.ground,
            "input-selection-background": palette.line,
        },
    )


DARK_THEME = _theme("samovar-dark", DARK)
LIGHT_THEME = _theme("samovar-light", LIGHT)


def palette_of(theme_name: str) -> Palette:
    """The palette behind a theme."""
    return LIGHT if theme_name == LIGHT_THEME.name else DARK
