"""Which channels are drawn, and how: hidden ones, and the cores of a chip as one band or one by one."""

from __future__ import annotations

import warnings
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from samovar.core.quantity import Channel
from samovar.core.recording import Array

FEWEST = 3
"""So many cores make a band."""
_KINDS = ("Fast", "Middle", "Slow")
GROUPED = ("clock", "temperature", "load")


@dataclass(frozen=True, slots=True)
class ChannelView:
    """The choice of a rig. `hidden`: channels that are not drawn, by `key_of`; `apart`: quantities whose cores
    are drawn one by one rather than as a band of least, median and greatest."""

    hidden: frozenset[str] = field(default_factory=frozenset)
    apart: frozenset[str] = field(default_factory=frozenset)

    def to_plain(self) -> dict[str, list[str]]:
        """As it is kept."""
        return {"hidden": sorted(self.hidden), "apart": sorted(self.apart)}


def view_of(body: Mapping[str, Any]) -> ChannelView:
    """The choice as it was kept; everything is drawn, cores as bands, where nothing was."""
    try:
        return ChannelView(
            frozenset(map(str, body.get("hidden", ()))), frozenset(map(str, body.get("apart", ())))
        )
    except TypeError:
        return ChannelView()


def key_of(channel: Channel) -> str:
    """What a channel is known by from run to run."""
    return channel.id or channel.name


def cores_of(channels: Sequence[Channel], quantity: str) -> list[int]:
    """The positions of the single cores' channels of a quantity, where there are enough for a band."""
    rows = [
        i for i, c in enumerate(channels) if c.quantity == quantity and c.role == "core" and c.domain == "cpu"
    ]
    return rows if len(rows) >= FEWEST else []


def groups_of(channels: Sequence[Channel], quantity: str) -> list[tuple[str, list[int]]]:
    """The bands that the cores of a quantity make: all cores, or those of each kind where a chip has unlike ones."""
    cores = cores_of(channels, quantity)
    kinds: dict[str, list[int]] = {}
    for row in cores:
        first = channels[row].name.partition(" ")[0]
        kinds.setdefault(f"{first.lower()} " if first in _KINDS else "", []).append(row)
    return [(f"{len(rows)} {kind}core{'' if len(rows) == 1 else 's'}", rows) for kind, rows in kinds.items()]


def is_band(channel: Channel) -> bool:
    """Whether a channel is the median of a band, made by `with_bands`."""
    return channel.id.startswith("band:")


def with_bands(channels: Sequence[Channel], values: Array) -> tuple[tuple[Channel, ...], Array]:
    """Channels and values with a further row for each quantity of which there are several cores: their median,
    shape (m + bands, n), which leads the band that the single cores make."""
    made, rows = [], []
    for quantity in GROUPED:
        for number, (name, cores) in enumerate(groups_of(channels, quantity)):
            key = f"band:{quantity}" + (f":{number}" if number else "")
            made.append(Channel(name, quantity, channels[cores[0]].unit, "package", "cpu", key))
            rows.append(_median(values[cores]))
    if not made:
        return tuple(channels), values
    return (*channels, *made), np.vstack([values, np.array(rows)])


def _median(rows: Array) -> Array:
    """Medians down the columns, shape (n,); NaN where no core has a value."""
    if rows.shape[1] == 0:
        return np.empty(0)
    if not np.isnan(rows).any():
        return np.asarray(np.median(rows, axis=0))
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)
        return np.asarray(np.nanmedian(rows, axis=0))
