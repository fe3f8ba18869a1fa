"""The palette: one colour for each quantity, on dark, on light and on paper, apart for colour-blind eyes."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

from samovar.core.quantity import QUANTITIES

_DARK = {key: q.colour[0] for key, q in QUANTITIES.items()}
_LIGHT = {key: q.colour[1] for key, q in QUANTITIES.items()}
_SERIES_DARK = ("#e7a81c", "#02b3a8", "#f16c57", "#58d898", "#c3c9ff", "#c990f4", "#ffe823", "#2788c7")
_SERIES_LIGHT = ("#be7614", "#1486e2", "#c32557", "#18652a", "#7125c5", "#971386", "#343f03", "#866d91")
"""Apart for all eyes: `figures.eyes` says how far, and a test holds them to it."""


@dataclass(frozen=True)
class Palette:
    """Colours as `#rrggbb`. `series` tells setups apart where several are drawn together."""

    dark: bool
    ground: str
    raised: str
    line: str
    text: str
    soft: str
    faint: str
    brass: str
    on_brass: str
    good: str
    caution: str
    bad: str
    quantity: dict[str, str] = field(default_factory=dict)
    series: tuple[str, ...] = ()

    def blend(self, colour: str, share: float) -> str:
        """A colour laid over the ground at this share."""
        return laid_over(self.ground, colour, share)


@lru_cache(maxsize=512)
def laid_over(ground: str, colour: str, share: float) -> str:
    """A colour laid over another at this share; each is asked for again with every picture."""
    a, b = _rgb(ground), _rgb(colour)
    return "#" + "".join(f"{round(x + (y - x) * share):02x}" for x, y in zip(a, b, strict=True))


def _rgb(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


DARK = Palette(
    True, "#171310", "#221c17", "#453b31", "#f1e8d8", "#a89c8b", "#6f6557", "#d9a94e", "#1a1408",
    "#7fc490", "#eed45f", "#f0705f", _DARK, _SERIES_DARK,
)  # fmt: skip
LIGHT = Palette(
    False, "#f8f4ec", "#ece4d5", "#c9bca6", "#241f19", "#6a6054", "#9a8f80", "#9a6a10", "#fffaf0",
    "#1f6b38", "#7d6100", "#a82a1c", _LIGHT, _SERIES_LIGHT,
)  # fmt: skip
PAPER = Palette(
    False, "#ffffff", "#f4efe6", "#cfc6b6", "#241f19", "#5f564b", "#9a8f80", "#8a5a00", "#ffffff",
    "#1f6b38", "#7d6100", "#a82a1c", _LIGHT, _SERIES_LIGHT,
)  # fmt: skip

HELD_PATTERN = {"thermal": "▓", "power": "▚", "shared": "◫", "firmware": "▤", "unexplained": "░"}
"""What fills a held stretch in the terminal, one shape a cause; its word stands in it too."""
HELD_COLOUR = {
    "thermal": "temperature", "power": "power", "shared": "noise", "firmware": "fan", "unexplained": "load",
}  # fmt: skip
"""The quantity whose colour a cause takes."""
JUDGEMENT_MARK = {"clear": "○", "budget": "◐", "rides-limit": "◑", "throttles": "●", "stopped": "✕"}
