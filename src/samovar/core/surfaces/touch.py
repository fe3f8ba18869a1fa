"""How long a surface may be touched: the burn thresholds of EN ISO 13732-1:2006, table 1, for one minute and longer.

They say from which temperature on a burn is to be expected, no more: whether something is pleasant to hold the standard leaves open,
and so do we. Its thresholds for contacts of seconds depend on thickness and roughness, and are left out.
"""

from __future__ import annotations

from samovar.core.measured import Measured

SPANS = ("1 min", "10 min", "8 h")
_LATER = (48.0, 43.0)
"""For ten minutes and for eight hours and longer the material no longer matters."""
_METAL, _STONE, _PLASTIC = (51.0, *_LATER), (56.0, *_LATER), (60.0, *_LATER)
THRESHOLDS_C: dict[str, tuple[float, float, float]] = {
    "bare metal": _METAL, "oxidised metal": _METAL, "anodised metal": _METAL, "matt paint": _METAL, "black tape": _METAL,
    "ceramic": _STONE, "board": _PLASTIC, "plastic": _PLASTIC,
}  # fmt: skip
"""By surface, °C, for each of SPANS: metals bare or with a coat, ceramics and stone, plastics. Paint and tape count as what may
be under them, metal."""


def no_burn_within(surface: Measured, made_of: str) -> str:
    """For how long it may be touched without a burn, in words: `8 h`, `10 min`, `1 min`, `less than 1 min`; with `8 h open`
    where the interval leaves that open."""
    half = surface.half_width or 0.0
    sure = left_open = ""
    for span, limit in zip(SPANS, THRESHOLDS_C[made_of], strict=True):
        if surface.value + half < limit:
            sure = span
        if surface.value - half < limit:
            left_open = span
    words = sure or f"less than {SPANS[0]}"
    if surface.half_width is None:
        return f"about {words}"
    return words if left_open == sure else f"{words}, {left_open} open"
