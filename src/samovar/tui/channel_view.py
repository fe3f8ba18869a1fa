"""Which channels are drawn, and how: hidden ones, and the cores of a chip as one band or one by one."""

from __future__ import annotations

import json
import warnings
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from samovar.core.quantity import Channel
from samovar.core.recording import Array

FEWEST = 3
"""So many cores make a band."""
GROUPED = ("clock", "temperature", "load")


@dataclass(frozen=True, slots=True)
class ChannelView:
    """The choice of a rig. `hidden`: channels that are not drawn, by `key_of`; `apart`: quantities whose cores
    are drawn one by one rather than as a band of least, median and greatest."""

    hidden: frozenset[str] = field(default_factory=frozenset)
    apart: frozenset[str] = field(default_factory=frozenset)

    def to_text(self) -> str:
        """As it is kept."""
        return json.dumps({"hidden": sorted(self.hidden), "apart": sorted(self.apart)})


def view_of(text: str | None) -> ChannelView:
    """The choice as it was kept; everything is drawn, cores as bands, where nothing was."""
    try:
        body = json.loads(text or "{}")
        return ChannelView(
            frozenset(map(str, body.get("hidden", ()))), frozenset(map(str, body.get("apart", ())))
        )
    except (ValueError, AttributeError, TypeError):
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


def is_band(channel: Channel) -> bool:
    """Whether a channel is the median of a band, made by `with_bands`."""
    return channel.id.startswith("band:")


def with_bands(channels: Sequence[Channel], values: Array) -> tuple[tuple[Channel, ...], Array]:
    """Channels and values with a further row for each quantity of which there are several cores: their median,
    shape (m + bands, n), which leads the band that the single cores make."""
    made, rows = [], []
    for quantity in GROUPED:
        cores = cores_of(channels, quantity)
        if not cores:
            continue
        unit = channels[cores[0]].unit
        made.append(Channel(f"{len(cores)} cores", quantity, unit, "package", "cpu", f"band:{quantity}"))
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
