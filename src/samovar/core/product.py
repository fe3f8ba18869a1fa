"""Products: their kinds, the fields reviewers quote of each, prices, and what was found while handling one."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Any

from samovar.core.currencies import Currency, Day
from samovar.core.entered import Line, Truth, Words, between, one_of, strict
from samovar.core.fields import Field

_SIZE, _RATED, _FAN, _SOUND, _BUILD = "size", "rated", "fans", "noise", "made of"

_HEIGHT = Field("height_m", "height", "length", section=_SIZE, example="161 mm or 6.34 in")
_WIDTH = Field("width_m", "width", "length", section=_SIZE, example="150 mm")
_DEPTH = Field("depth_m", "depth", "length", section=_SIZE, example="135 mm")
_MASS = Field("mass_kg", "mass", "mass", section=_SIZE)
_HEAT = Field("rated_heat_w", "rated heat", "power", section=_RATED)
_NOISE = Field("rated_noise_dba", "rated noise", "level", section=_SOUND)
_SOCKETS = Field("sockets", "sockets", "words", section=_BUILD, example="HL8, HL4")
_MATERIALS = Field("materials", "materials", "words", section=_BUILD, example="aluminium, copper")
_WARRANTY = Field("warranty_months", "warranty", "term", section=_BUILD)
_PORTS = Field("ports", "ports and slots", "words", section=_BUILD, example="2 x USB 3, HDMI")
_SUPPLY = Field("supply_w", "supply power", "power", section=_RATED)
_FANS = (
    Field("fans", "fans", "count", section=_FAN, example="2"),
    Field("fan_size_m", "fan size", "length", section=_FAN, example="140 mm"),
    Field("fan_thickness_m", "fan thickness", "length", section=_FAN, example="25 mm"),
    Field("speed_rpm", "speed range", "range", section=_FAN),
    Field("airflow_m3_per_s", "airflow", "airflow", section=_FAN),
    Field("static_pressure_pa", "static pressure", "pressure", section=_FAN),
)
_OVER_MEMORY = (
    Field("overhang_m", "centre to edge over the memory", "length", section=_SIZE, example="68 mm"),
    Field("memory_clearance_m", "free height under the edge", "length", section=_SIZE, example="42 mm"),
)
_BOX = (_HEIGHT, _WIDTH, _DEPTH, _MASS)
_END = (_MATERIALS, _WARRANTY)
_SYSTEM = (
    *_BOX,
    Field("processor", "processor", section=_BUILD),
    Field("memory", "memory", section=_BUILD),
    Field("graphics", "graphics", section=_BUILD),
    Field("storage", "storage", section=_BUILD),
    _PORTS,
    _SUPPLY,
    _HEAT,
    _NOISE,
    *_FANS[:2],
    *_END,
)
_CASE = (
    *_BOX,
    Field("volume_m3", "volume", "volume", section=_SIZE),
    Field("cooler_height_m", "room for a cooler", "length", section=_SIZE, example="165 mm"),
    Field("card_length_m", "room for a card", "length", section=_SIZE, example="310 mm"),
    Field("radiators", "radiator mounts", "words", section=_SIZE, example="280 top, 240 front"),
    Field("boards", "board formats", "words", section=_BUILD, example="micro, mini"),
    *_FANS[:4],
    _PORTS,
    _SUPPLY,
    _NOISE,
    *_END,
)

_FIELDS: dict[str, tuple[Field, ...]] = {
    "air cooler": (*_BOX, *_OVER_MEMORY, _HEAT, *_FANS, _NOISE, _SOCKETS, *_END),
    "liquid cooler": (
        Field("radiator_length_m", "radiator length", "length", section=_SIZE, example="280 mm"),
        Field("radiator_width_m", "radiator width", "length", section=_SIZE, example="140 mm"),
        Field("radiator_thickness_m", "radiator thickness", "length", section=_SIZE, example="30 mm"),
        Field("height_m", "height of the block", "length", section=_SIZE, example="52 mm"),
        _MASS,
        Field("pump_w", "pump power", "power", section=_RATED),
        _HEAT,
        *_FANS,
        _NOISE,
        _SOCKETS,
        *_END,
    ),
    "passive heatsink": (*_BOX, *_OVER_MEMORY, _HEAT, _SOCKETS, *_END),
    "heatsink case": (*_CASE[:-3], _HEAT, _SOCKETS, *_END),
    "case": _CASE,
    "board": (
        *_BOX[1:],
        Field("format", "format", section=_BUILD, example="micro"),
        Field("socket", "socket", section=_BUILD, example="HL8"),
        Field("phases", "regulator phases", "count", section=_RATED, example="10"),
        Field("memory_slots", "memory slots", "count", section=_BUILD, example="4"),
        _PORTS,
        _SUPPLY,
        *_END,
    ),
    "memory cooler": (*_BOX, *_FANS, _NOISE, *_END),
    "storage heatsink": (*_BOX, _HEAT, *_FANS[:2], _NOISE, *_END),
    "laptop stand": (*_BOX, *_FANS, _NOISE, _PORTS, _SUPPLY, *_END),
    "small-board case": (*_BOX, Field("boards", "boards it takes", "words", section=_BUILD, example="K4"), *_FANS, _NOISE, _PORTS, *_END),
    "desktop": _SYSTEM,
    "compact computer": _SYSTEM,
    "laptop": _SYSTEM,
    "single-board computer": _SYSTEM,
    "fan": (*_BOX, *_FANS[1:], _NOISE, _SUPPLY, *_END),
    "paste": (
        Field("conductivity_w_per_mk", "conductivity", "conductivity", section=_RATED),
        Field("hottest_c", "usable up to", "temperature", section=_RATED, example="180 °C"),
        Field("contents_kg", "contents", "mass", section=_SIZE, example="4 g"),
        _WARRANTY,
    ),
}  # fmt: skip


def _by_section(fields: tuple[Field, ...]) -> tuple[Field, ...]:
    """Fields of one section side by side: what several kinds have in common comes from several lists."""
    sections = list(dict.fromkeys(f.section for f in fields))
    return tuple(sorted(fields, key=lambda f: sections.index(f.section)))


KINDS = {kind: _by_section(fields) for kind, fields in _FIELDS.items()}
"""Every kind of product, and its fields in the order they are shown."""

PRICE_KINDS = ("list", "street", "sale")
NOTE_KINDS = ("rating", "in the box", "fault on arrival", "quirk", "photograph", "note")


@strict
@dataclass(frozen=True, slots=True)
class Price:
    """What it cost, where and when. `tax_share` is the tax's rate where `taxed` (0.19), None where not known."""

    amount: Annotated[float, between(0.0, 1e9)]
    currency: Currency
    day: Day
    kind: Annotated[str, one_of(PRICE_KINDS, "kind of price")] = "street"
    taxed: Truth = True
    tax_share: Annotated[float, between(0.0, 1.0)] | None = None
    shop: Line = ""


@strict
@dataclass(frozen=True, slots=True)
class Note:
    """Something found while handling it; `rating` out of ten for the kind of that name. A photograph's
    `text` is its file's name."""

    kind: Annotated[str, one_of(NOTE_KINDS, "kind of note")]
    text: Words
    rating: Annotated[float, between(0.0, 10.0)] | None = None


@dataclass(frozen=True, slots=True)
class Product:
    """A thing that can be bought. `specification` holds what its maker says of it, by the keys of its kind's
    fields; `state` is kept, archived or deleted,
    `revision` counts its changes."""

    id: int
    name: str
    kind: str
    specification: dict[str, Any] = field(default_factory=dict)
    prices: tuple[Price, ...] = ()
    notes: tuple[Note, ...] = ()
    state: str = "kept"
    revision: int = field(default=0, compare=False)

    @property
    def fields(self) -> tuple[Field, ...]:
        """The fields of its kind."""
        return KINDS.get(self.kind, ())

    @property
    def price(self) -> Price | None:
        """The price that counts: the latest street price, else the latest of any kind."""
        street = [p for p in self.prices if p.kind == "street"] or list(self.prices)
        return max(street, key=lambda p: p.day) if street else None
