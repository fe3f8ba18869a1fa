"""What is framed, without an archive: products, rigs, courses, loads and reviews, as documents and forms bring them and
archives keep them. Each is checked by `core.entered.checked`; what one record alone cannot see (a rig that is nowhere)
is asked of the whole where it is taken in.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated, Any

from samovar.core.chosen import Chosen, read_chosen
from samovar.core.claims.kinds import ABOUT
from samovar.core.claims.kinds import KINDS as CLAIM_KINDS
from samovar.core.conclusion import Concluded, read_concluded
from samovar.core.demands import Demand, read_demand
from samovar.core.elsewhere import Elsewhere, read_elsewhere
from samovar.core.entered import (
    LIST_MOST,
    Check,
    Line,
    Name,
    Truth,
    Words,
    between,
    checked,
    one_of,
    plain,
    strict,
    values_of,
    visible,
)
from samovar.core.facts import Facts
from samovar.core.price_terms import PriceTerms, read_price_terms
from samovar.core.product import KINDS, Note, Price
from samovar.core.quantity import ROLES
from samovar.core.results.figure import figure_of
from samovar.core.rig import RIG_FIELDS, split_values
from samovar.core.setup_changes import CHANGES
from samovar.core.units import Unreadable

PASSES_MOST = 20
"""More passes of one cell than anyone sits through."""


@strict
@dataclass(frozen=True)
class ProductFrame:
    """A product. Raises ValueError: a kind that is none, or a specification that its kind does not have."""

    name: Name
    kind: Annotated[str, one_of(tuple(KINDS), "kind of product")]
    specification: dict[str, Any] = field(default_factory=dict)
    prices: tuple[Price, ...] = ()
    notes: tuple[Note, ...] = ()

    def __post_init__(self) -> None:
        if self.kind in KINDS:
            object.__setattr__(self, "specification", values_of(KINDS[self.kind])(self.specification))


@strict
@dataclass(frozen=True)
class RigFrame:
    """A rig: `values` by the keys of RIG_FIELDS, `sensors` the confirmed role of each channel id. Raises ValueError:
    values that are no facts of any chip."""

    name: Name
    values: Annotated[dict[str, Any], Check(values_of(RIG_FIELDS))] = field(default_factory=dict)
    sensors: dict[Line, Annotated[str, one_of(ROLES, "role")]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        checked(Facts, plain(split_values(self.values)[0]))


@strict
@dataclass(frozen=True)
class SetupFrame:
    """A setup: its rig and products by name."""

    name: Name
    rig: Name | None = None
    products: tuple[Name, ...] = ()
    changes: Annotated[dict[str, Any], Check(values_of(CHANGES))] = field(default_factory=dict)
    reference: Truth = False


def known_figure(key: str) -> str:
    """The key of a figure, or nothing. Raises ValueError: there is none of this key."""
    if key:
        try:
            figure_of(key)
        except KeyError:
            raise ValueError(
                f"{visible(key, 60)!r} is no figure; write one such as rise or steady:temperature:memory"
            ) from None
    return key


def known_about(about: dict[str, Line | float]) -> dict[str, Line | float]:
    """What a claim is about beside setups and load. Raises ValueError: a key that no kind of claim has, or no such figure or demand."""
    for key in about:
        if key not in ABOUT:
            raise ValueError(
                f"{visible(key, 60)!r} is nothing a claim is about; write one of {', '.join(ABOUT)}"
            )
    known_figure(str(about.get("figure", "")))
    if "line" in about:
        known_demand(str(about["line"]))
    return about


@strict
@dataclass(frozen=True)
class ClaimFrame:
    """A claim of the verdict: its setups by name."""

    kind: Annotated[str, one_of(tuple(CLAIM_KINDS), "kind of claim")]
    setup: Name | None = None
    other: Name | None = None
    load: Line = ""
    accepted: Words | None = None
    about: Annotated[dict[str, Line | float], Check(known_about)] = field(default_factory=dict)


def known_demand(line: str) -> str:
    """A demand's line, in plain form. Raises ValueError: it is none."""
    return _plain_line(line, read_demand)


def known_elsewhere(line: str) -> str:
    """The line of a figure from elsewhere, in plain form. Raises ValueError: it is none."""
    return _plain_line(line, read_elsewhere)


def known_criterion(line: str) -> str:
    """A criterion's line, in plain form. Raises ValueError: it is none."""
    return _plain_line(line, read_chosen)


def known_concluded(line: str) -> str:
    """A conclusion's line, in plain form. Raises ValueError: it is none."""
    return _plain_line(line, read_concluded)


def known_price_terms(line: str) -> str:
    """How prices are told, in plain form. Raises ValueError: it is nothing of the kind."""
    return _plain_line(line, read_price_terms)


def _plain_line(
    line: str, read: Callable[[str], Demand | Elsewhere | Chosen | PriceTerms | Concluded]
) -> str:
    try:
        return read(line).line
    except Unreadable as problem:
        raise ValueError(visible(str(problem), 300)) from None


@strict
@dataclass(frozen=True)
class ReviewFrame:
    """A review without its runs.

    Raises ValueError: two setups of one name, two references on one rig, a claim about a setup that is not there, a course for a
    load that is not the review's.
    """

    name: Name
    question: Words = ""
    verdict: Words = ""
    loads: tuple[Name, ...] = ()
    courses: dict[Name, Name] = field(default_factory=dict)
    passes_wanted: Annotated[int, between(1, PASSES_MOST)] = 2
    margin_k: Annotated[float, between(0.0, 100.0, "K")] = 1.0
    margin_share: Annotated[float, between(0.0, 1.0)] = 0.02
    noise_limit_dba: Annotated[float, between(0.0, 140.0, "dBA")] | None = None
    noise_distance_m: Annotated[float, between(0.01, 20.0, "m")] | None = None
    figure: Annotated[str, Check(known_figure)] = ""
    demands: tuple[Annotated[str, Check(known_demand)], ...] = ()
    elsewhere: tuple[Annotated[str, Check(known_elsewhere)], ...] = ()
    criteria: tuple[Annotated[str, Check(known_criterion)], ...] = ()
    priced: Annotated[str, Check(known_price_terms)] = ""
    conclusion: tuple[Annotated[str, Check(known_concluded)], ...] = ()
    setups: tuple[SetupFrame, ...] = ()
    claims: tuple[ClaimFrame, ...] = ()

    def __post_init__(self) -> None:
        lists = (
            self.setups,
            self.claims,
            self.loads,
            self.demands,
            self.elsewhere,
            self.criteria,
            self.conclusion,
        )
        if max(len(one) for one in lists) > LIST_MOST:
            raise ValueError(
                f"more than {LIST_MOST} setups, claims, loads, demands or criteria; leave some out"
            )
        names = [s.name for s in self.setups]
        double = next((n for n in names if names.count(n) > 1), None)
        if double is not None:
            raise ValueError(f"two setups have one name, {double!r}; rename one")
        for rig in {s.rig for s in self.setups}:
            if sum(s.reference and s.rig == rig for s in self.setups) > 1:
                raise ValueError(
                    "two setups of one rig are the reference; leave reference = true with one of them"
                )
        if len(set(self.loads)) < len(self.loads):
            raise ValueError("a load is named twice; leave it out once")
        for load in self.courses:
            if load not in self.loads:
                raise ValueError(f"courses: {load!r} is none of the review's loads; add it to loads")
        for claim in self.claims:
            for name in (claim.setup, claim.other):
                if name is not None and name not in names:
                    raise ValueError(f"a claim names the setup {name!r}, which is not there; correct it")
