"""Which strips a recording gets: a strip for each quantity, its main channel first, its limits drawn in."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from samovar.core.facts import Facts
from samovar.core.quantity import QUANTITIES, Channel, decimals_of
from samovar.core.recording import Array
from samovar.tui.channel_view import ChannelView, cores_of, is_band, key_of


@dataclass(frozen=True)
class StripSpec:
    """One strip: a quantity over time.

    `rows` are positions of channels, the main one first, `labels` their short names; `limits` are
    levels drawn across with a word; `colours` tell series apart where quantities do not; `band` are those places
    in `rows` that are drawn as one band and not named one by one, but together by `band_word`; `other` the place in `rows` of another run's curve;
    `is_picture` whether it is a picture of all rows, lowest first, and no curves;
    `least_span` what the strip shows at the least, where that is not the quantity's usual.
    """

    title: str
    quantity: str
    unit: str
    rows: tuple[int, ...]
    labels: tuple[str, ...]
    limits: tuple[tuple[float, str], ...] = ()
    weight: float = 1.0
    decimals: int = 1
    over_room: bool = False
    colours: tuple[str, ...] = field(default=())
    band: frozenset[int] = field(default_factory=frozenset)
    other: int | None = None
    least_span: float | None = None
    band_word: str = "cores"
    is_picture: bool = False


_ROLE_ORDER = (
    "die", "package", "hotspot", "gpu", "core", "vrm", "memory", "storage", "chipset", "coolant", "surface",
    "wall", "other", "case-fan", "inlet",
)  # fmt: skip
_LESSER = ("other", "inlet", "storage", "chipset")
_ORDER = ("temperature", "clock", "power", "fan", "work", "load", "noise", "voltage", "current", "humidity")
"""Down the screen."""
LOOKS = {key: look for key in _ORDER if (look := QUANTITIES[key].strip) is not None}
_ALWAYS = tuple(key for key, look in LOOKS.items() if look.always)
_MORE = tuple(key for key, look in LOOKS.items() if not look.always)


def plan_strips(
    channels: Sequence[Channel],
    values: Array,
    facts: Facts,
    more: bool = False,
    view: ChannelView | None = None,
) -> list[StripSpec]:
    """The strips of a recording in their order down the screen.

    Args:
        channels: m channels, as `with_bands` gives them.
        values: shape (m, n); a channel without any value gets no line.
        facts: give the limits.
        more: the lesser quantities too.
        view: what is hidden and what is drawn apart; nothing where None.
    """
    view = view or ChannelView()
    out = []
    # A microphone is no lesser thing: whoever puts one up wants to see it.
    heard = {QUANTITIES[c.quantity].drawn_with for c in channels}
    quantities = [*_ALWAYS, *(key for key in _MORE if more or key in heard)]
    if not any(c.quantity in _ALWAYS[:3] for c in channels):
        quantities = [*_ALWAYS, *_MORE]
    for quantity in quantities:
        rows = [
            i for i, c in enumerate(channels) if quantity in (c.quantity, QUANTITIES[c.quantity].drawn_with)
        ]
        if values.shape[1]:
            rows = [i for i in rows if bool(np.isfinite(values[i]).any())]
        cores = set() if quantity in view.apart else set(cores_of(channels, quantity))
        rows = [
            i for i in rows if key_of(channels[i]) not in view.hidden and (cores or not is_band(channels[i]))
        ]
        if not rows:
            continue
        if quantity == "temperature" and not more:
            rows = [i for i in rows if channels[i].role not in _LESSER] or rows
        rows.sort(key=lambda i: _rank(channels[i], i))
        known = QUANTITIES[quantity]
        out.append(
            StripSpec(
                known.label,
                quantity,
                channels[rows[0]].unit,
                tuple(rows),
                tuple(_short(channels[i]) for i in rows),
                _limits(quantity, facts),
                LOOKS[quantity].weight,
                min(known.decimals, decimals_of(channels[rows[0]].unit, quantity)),
                quantity == "temperature",
                band=frozenset(
                    k for k, i in enumerate(rows) if i in cores or channels[i].quantity != quantity
                ),
                band_word="F" if quantity in heard else "cores",
            )
        )
    bands = [i for i, c in enumerate(channels) if c.quantity == "band"]
    if bands and values.shape[1] and np.isfinite(values[bands]).any():
        out.append(_spectrogram(channels, bands))
    return out


def _spectrogram(channels: Sequence[Channel], rows: list[int]) -> StripSpec:
    """The third octaves of the first microphone that has any."""
    name = channels[rows[0]].id.rpartition(":")[0]
    mine = [i for i in rows if channels[i].id.rpartition(":")[0] == name]
    labels = tuple(channels[i].id.rpartition(":")[2] for i in mine)
    return StripSpec(
        "Third octaves",
        "band",
        channels[mine[0]].unit,
        tuple(mine),
        labels,
        weight=0.9,
        decimals=0,
        is_picture=True,
    )


def with_beside(spec: StripSpec, row: int | None, name: str) -> StripSpec:
    """A strip of two runs: the main channel of its own, and the other's at position `row`; as it is without one."""
    if row is None:
        return spec
    return replace(spec, rows=(spec.rows[0], row), labels=(spec.labels[0], name), band=frozenset(), other=1)


def residual_strip(row: int) -> StripSpec:
    """The strip of what the thermal model leaves over: die less model, K, at position `row`."""
    return StripSpec(
        "Residual",
        "temperature",
        "K",
        (row,),
        ("die",),
        ((0.0, "model"),),
        0.8,
        1,
        least_span=2.0,
    )


def _rank(channel: Channel, position: int) -> tuple[bool, int, int]:
    """The order within a strip: the processor first, then by role; a band right behind what leads the strip."""
    role = "core" if is_band(channel) and channel.quantity == "temperature" else channel.role
    # What is drawn about another's curve comes behind it.
    drawn_with = bool(QUANTITIES[channel.quantity].drawn_with)
    place = _ROLE_ORDER.index(role) + (len(_ROLE_ORDER) if drawn_with else 0)
    return channel.domain != "cpu", place, -1 if is_band(channel) else position


def _short(channel: Channel) -> str:
    if channel.role in ("die", "vrm", "coolant") and channel.quantity == "temperature":
        return channel.role
    if channel.role == "inlet":
        return "room"
    return channel.name.removesuffix(" clock").removesuffix(" power").removesuffix(" level").lower()


def _limits(quantity: str, facts: Facts) -> tuple[tuple[float, str], ...]:
    cpu = facts.cpu
    found: list[tuple[float | None, str]] = []
    if quantity == "temperature":
        found = [(cpu.temperature_limit_c, "limit")]
    elif quantity == "clock":
        found = [(cpu.base_clock_mhz, "base")]
    elif quantity == "power":
        found = [(cpu.sustained_power_w, "sustained"), (cpu.burst_power_w, "burst")]
    return tuple((value, word) for value, word in found if value is not None)


def nice_range(
    low: float, high: float, decimals: int, zero: bool = True, least: float = 0.0
) -> tuple[float, float]:
    """A range a little wider than the data, its ends on round numbers; from zero where that is near
    and `zero` allows, and never narrower than `least`."""
    if not math.isfinite(low) or not math.isfinite(high):
        return 0.0, 1.0
    if zero and 0 <= low < 0.3 * high:
        low = 0.0
    span = max(high - low, 10.0**-decimals * 4, abs(high) * 0.01, least)
    raw = span / 4.0
    magnitude = 10.0 ** math.floor(math.log10(raw))
    step = next(float(m * magnitude) for m in (1, 2, 2.5, 5, 10) if m * magnitude >= raw * 0.999)
    natural = low
    if high - low < least:
        low, high = (low + high - least) / 2.0, (low + high + least) / 2.0
    bottom, top = step * math.floor(low / step + 1e-9), step * math.ceil(high / step - 1e-9)
    if top - high < 0.02 * span:
        top += step * 0.5 if step * 0.5 == round(step * 0.5, decimals) else step
    # What is never below nothing, such as a fan that stands still, has no room below it.
    return float(max(bottom, 0.0) if zero and natural >= 0 else bottom), float(top)
