"""The archive's records as the rest of the program sees them."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

from samovar.core.facts import Facts
from samovar.core.product import Product
from samovar.core.rig import Rig
from samovar.core.setup_changes import Arrangement

CHANGED_FACTS = ("sustained_power_w", "burst_power_w", "burst_time_s")
"""Changes of a setup that are facts of its processor."""

NO_RIG = "no rig named"


@dataclass(frozen=True, slots=True)
class Setup:
    """One arrangement of a review: a rig, the products fitted, and by the keys of `CHANGES` what was changed."""

    id: int
    review_id: int
    name: str
    reference: bool
    position: int
    changes: dict[str, Any]
    products: tuple[Product, ...] = ()
    rig: Rig | None = None
    state: str = "kept"
    revision: int = field(default=0, compare=False)

    @property
    def facts(self) -> Facts:
        """What is known of its rig, with the budgets that the setup changed."""
        facts = self.rig.full_facts if self.rig else Facts()
        budgets = {key: self.changes[key] for key in CHANGED_FACTS if self.changes.get(key) is not None}
        return replace(facts, cpu=replace(facts.cpu, **budgets)) if budgets else facts

    @property
    def rig_name(self) -> str:
        """Its rig's name, or words for none."""
        return self.rig.name if self.rig is not None else NO_RIG

    @property
    def arrangement(self) -> Arrangement:
        """The setup as far as it can be compared with another."""
        fitted = [(p.kind, p.name) for p in self.products]
        return Arrangement(self.rig.name if self.rig else None, fitted, self.changes)


@dataclass(frozen=True, slots=True)
class Review:
    """A question, its setups and loads. `margin_k` and `margin_share` are what counts as a practical
    difference in temperature and in all else; `courses` names the course of a load that has one of its own;
    `noise_distance_m` is where its sound levels hold, `figure` the key of the result it is about (the rise where empty), `demands`
    the lines of what it asks of a setup, `elsewhere` those of what others published, `criteria` those of its table (the usual ones
    where there are none), `priced` how its prices are told, `conclusion` the lines of its conclusion."""

    id: int
    slug: str
    name: str
    question: str
    verdict: str
    margin_k: float
    margin_share: float
    noise_limit_dba: float | None
    passes_wanted: int
    loads: tuple[str, ...]
    setups: tuple[Setup, ...] = ()
    courses: dict[str, str] = field(default_factory=dict)
    state: str = "kept"
    noise_distance_m: float | None = None
    figure: str = ""
    demands: tuple[str, ...] = ()
    elsewhere: tuple[str, ...] = ()
    criteria: tuple[str, ...] = ()
    priced: str = ""
    conclusion: tuple[str, ...] = ()
    revision: int = field(default=0, compare=False)

    @property
    def compared_at_m(self) -> float:
        """The distance at which sound levels are held against each other: 1 m where none is set."""
        return self.noise_distance_m or 1.0

    @property
    def reference(self) -> Setup | None:
        """The setup the others are held against; the first where none is named."""
        named = [s for s in self.setups if s.reference]
        return named[0] if named else (self.setups[0] if self.setups else None)

    def setup(self, setup_id: int | None) -> Setup | None:
        """The setup of this id, None where there is none."""
        return next((s for s in self.setups if s.id == setup_id), None)


@dataclass(frozen=True, slots=True)
class Run:
    """One recording's entry. `number` is its key, `id` what people and scripts call it (`r0007`), `bench` who recorded it where."""

    number: int
    review_id: int | None
    setup_id: int | None
    load: str
    pass_number: int
    state: str
    reason: str | None
    started: str
    duration_s: float
    interval_s: float | None
    channels: int
    samples: int
    facts: Facts
    left_out: str | None = None
    unguarded: bool = False
    bench: str = ""

    @property
    def id(self) -> str:
        """Its name in words and files."""
        return f"r{self.number:04d}"


@dataclass(frozen=True, slots=True)
class CellCount:
    """The runs of one cell, counted: finished ones that count, `plain` or in steps, and the number of the newest of all."""

    review_id: int
    setup_id: int
    load: str
    plain: int
    in_steps: int
    newest: int


@dataclass(frozen=True, slots=True)
class Claim:
    """A sentence of the verdict in the form that can be checked; `accepted` is its text when the
    reviewer last agreed to it."""

    id: int
    review_id: int
    kind: str
    setup_id: int | None
    other_id: int | None
    load: str
    accepted: str | None
    about: dict[str, Any] | None = None
