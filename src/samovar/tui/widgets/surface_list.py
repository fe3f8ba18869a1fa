"""The spots and areas of a plan with what is known of each, as a list beside the drawing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from rich.text import Text

from samovar.core.measured import Measured
from samovar.core.surfaces.picture import less
from samovar.core.surfaces.told import AtHeat, Told
from samovar.core.surfaces.touch import no_burn_within
from samovar.figures.palette import Palette

INDENT, NAMES = "  ", 17


@dataclass(frozen=True)
class Beside:
    """What stands beside the values: of what heat they are told too, and what another run's are.

    Attributes:
        heat: the heat that was asked for, W, and the surfaces at it by name.
        other: the name of the run that is held against this one, and its surfaces by name.
    """

    heat_w: float | None = None
    at_heat: dict[str, AtHeat] | None = None
    other: str = ""
    others: dict[str, Measured] | None = None

    def differences(self, told: Sequence[Told]) -> list[tuple[str, Measured]]:
        """By how much each surface is warmer here than in the other run, K."""
        others = self.others or {}
        return [
            (one.item.name, less(one.seen.hottest, others[one.item.name]))
            for one in told
            if one.seen is not None and one.item.name in others
        ]


def list_text(found: Sequence[Told], chosen: str, beside: Beside, palette: Palette) -> Text:
    """The list, the chosen one marked."""
    text = Text()
    warmer = dict(beside.differences(found))
    for one in found:
        mark = "▸ " if one.item.name == chosen else "  "
        text.append(
            f"{mark}{one.item.name}", f"bold {palette.brass if one.item.name == chosen else palette.text}"
        )
        text.append(f"   {one.item.made_of}\n", palette.soft)
        _line(text, palette, "picture, hottest", one.seen.hottest if one.seen else None)
        if one.seen is not None and one.seen.mean is not one.seen.hottest:
            _line(text, palette, "picture, mean", one.seen.mean)
        _line(text, palette, "by hand", one.hand.measured if one.hand is not None else None)
        _line(text, palette, "software", one.software)
        surface = one.surface
        if surface is None:
            text.append(f"{INDENT}nothing is known of it yet\n", palette.soft)
            continue
        text.append(f"{INDENT}{'no burn within':<{NAMES}}", palette.soft)
        text.append(f"{no_burn_within(surface, one.item.made_of)}\n", palette.text)
        if beside.at_heat is not None and one.item.name in beside.at_heat:
            then = beside.at_heat[one.item.name]
            beyond = ", extrapolated" if then.extrapolated else ""
            _line(text, palette, f"at {beside.heat_w:g} W", then.surface, beyond)
        _line(text, palette, f"less {beside.other}", warmer.get(one.item.name), unit="K")
    return text


def _line(
    text: Text, palette: Palette, name: str, value: Measured | None, beyond: str = "", unit: str = "°C"
) -> None:
    if value is None:
        return
    text.append(f"{INDENT}{name:<{NAMES}}", palette.soft)
    text.append(f"{value.text(unit)}{beyond}\n", palette.text)
