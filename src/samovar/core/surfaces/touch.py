"""How long a surface may be touched: the burn thresholds of EN ISO 13732-1:2006, table 1, for one minute and longer.

They say from which temperature on a burn is to be expected, no more: whether something is pleasant to hold the standard leaves open,
and so do we. Its thresholds for contacts of seconds depend on thickness and roughness, and are left out.
"""

from __future__ import annotations

from samovar.core.measured import Measured

SPANS = ("a minute", "ten minutes", "eight hours")
_LATER = (48.0, 43.0)
"""For ten minutes and for eight hours and longer the material no longer matters."""
_METAL, _STONE, _PLASTIC = (51.0, *_LATER), (56.0, *_LATER), (60.0, *_LATER)
THRESHOLDS_C: dict[str, tuple[float, float, float]] = {
    "bare metal": _METAL, "oxidised metal": _METAL, "anodised metal": _METAL, "matt paint": _METAL, "black tape": _METAL,
    "ceramic": _STONE, "board": _PLASTIC, "plastic": _PLASTIC,
}  # fmt: skip
"""By surface, °C, for each of SPANS: metals bare or with a coat, ceramics and stone, plastics. Paint and tape count as what may
be under them, metal."""


def may_be_touched(surface: Measured, made_of: str) -> str:
    """For how long, in words: `for eight hours`, `for ten minutes`, `for a minute`, `under a minute`, with `not shown` where the
    interval leaves it open."""
    half = surface.half_width or 0.0
    sure = open_too = ""
    for span, limit in zip(SPANS, THRESHOLDS_C[made_of], strict=True):
        if surface.value + half < limit:
            sure = span
        if surface.value - half < limit:
            open_too = span
    words = f"for {sure}" if sure else "under a minute"
    if surface.half_width is None:
        return f"about {words}"
    return words if open_too == sure else f"{words}; for {open_too} not shown"
