"""Frames in and out of an archive: what a document holds entered, what an archive holds written down."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from sqlalchemy.exc import OperationalError

from samovar.archive.archive import Archive, Framed
from samovar.archive.database import ArchiveError, in_words
from samovar.archive.plans import NamedCourse
from samovar.archive.records import Product, Review, Rig
from samovar.bench.course_spec import USUAL, checked_course
from samovar.bench.loads.catalogue import KINDS, OwnLoad, check_own, load_body, load_of
from samovar.bench.loads.protocol import LoadError
from samovar.core.claims.kinds import CHANGE
from samovar.core.entered import visible
from samovar.core.rig import split_values, without_bench
from samovar.core.units import Unreadable
from samovar.exchange.frame_toml import ClaimFrame, Frame, ProductFrame, ReviewFrame, RigFrame, SetupFrame
from samovar.exchange.problems import InputError


def product_frame(product: Product) -> ProductFrame:
    """A product as a document holds it."""
    return ProductFrame(
        product.name, product.kind, dict(product.specification), product.prices, product.notes
    )


def rig_frame(rig: Rig) -> RigFrame:
    """A rig as a document holds it."""
    return RigFrame(rig.name, without_bench(rig.values()), dict(rig.sensors))


def shelf_frame(archive: Archive) -> Frame:
    """Everything on the shelf."""
    return Frame(
        tuple(product_frame(p) for p in archive.shelf.products()),
        tuple(rig_frame(r) for r in archive.shelf.rigs()),
        {c.name: c.body for c in archive.plans.courses()},
        {name: load_body(load) for name, load in archive.plans.own_loads().items()},
        tuple(rate for _, rate in archive.shelf.rates()),
    )


def review_frame(archive: Archive, review: Review) -> Frame:
    """A review with every product, rig, course and load it stands on; not its runs."""
    names = {s.id: s.name for s in review.setups}
    setups = tuple(
        SetupFrame(
            s.name,
            s.rig.name if s.rig else None,
            tuple(p.name for p in s.products),
            dict(s.changes),
            s.reference,
        )
        for s in review.setups
    )
    claims = tuple(
        ClaimFrame(
            c.kind,
            names.get(c.setup_id or -1),
            names.get(c.other_id or -1),
            c.load,
            c.accepted,
            c.about or {},
        )
        for c in archive.reviews.claims(review.id)
        # A change is one of a run, and a frame has no runs.
        if c.kind != CHANGE
    )
    framed = ReviewFrame(
        review.name, review.question, review.verdict, review.loads, dict(review.courses), review.passes_wanted,
        review.margin_k, review.margin_share, review.noise_limit_dba, review.noise_distance_m, review.figure,
        review.demands, review.elsewhere, review.criteria, review.priced, review.conclusion,
        setups, claims,
    )  # fmt: skip
    products = {p.id: p for s in review.setups for p in s.products}
    rigs = {s.rig.id: s.rig for s in review.setups if s.rig is not None}
    used = set(review.courses.values())
    own = archive.plans.own_loads()
    wanted = [x for x in review.loads if x in own]
    wanted += [part for x in wanted for part in own[x].parts if part in own and part not in wanted]
    return Frame(
        tuple(product_frame(p) for p in products.values()),
        tuple(rig_frame(r) for r in rigs.values()),
        {c.name: c.body for c in archive.plans.courses() if c.name in used},
        {name: load_body(own[name]) for name in wanted},
        (),
        (framed,),
    )


class _Names:
    """What each name of the document is called in the archive."""

    def __init__(self) -> None:
        self.products: dict[str, int] = {}
        self.rigs: dict[str, int] = {}
        self.courses: dict[str, str] = {}
        self.loads: dict[str, str] = {}


def take(archive: Archive, frame: Frame, origin: str = "a document") -> list[str]:
    """Enter what a document holds, all of it or nothing. What the archive has already, the same in every value, is
    used as it is; what it has otherwise under the same name is entered beside it as `name (2)`. `origin` is what the
    document is called: commands carry it, and run only once a person has agreed to them.

    Returns:
        A line for each thing, saying what became of it.

    Raises:
        InputError: a part that nothing else can stand on, such as a setup whose rig is nowhere.
        ArchiveError: the archive cannot be written.
    """
    loads, courses = _checked_bodies(frame, origin)
    _check_whole(archive, frame, loads, courses)
    try:
        with archive.all_or_nothing() as whole:
            return _take(whole, replace(frame, courses=courses), loads)
    except OperationalError as problem:
        raise ArchiveError(f"{archive.where}: {in_words(problem)}; nothing was entered") from problem


def commands_in(archive: Archive, frame: Frame) -> list[OwnLoad]:
    """The commands that a document brought, as the archive has them now."""
    return [x for x in archive.plans.own_loads().values() if x.kind == "command" and x.command in {
        body.get("command") for body in frame.loads.values()
    } and x.waits_for_leave]  # fmt: skip


def _checked_bodies(frame: Frame, origin: str) -> tuple[dict[str, OwnLoad], dict[str, dict[str, Any]]]:
    """The document's loads and courses, every value checked. Raises InputError."""
    loads, courses = {}, {}
    for name, body in frame.loads.items():
        try:
            load = load_of(name, body)
        except Unreadable as problem:
            raise InputError(f"load {name!r}: {problem}") from problem
        loads[name] = replace(load, origin=origin if load.kind == "command" else "", agreed="")
    for name, body in frame.courses.items():
        try:
            courses[name] = checked_course(body)
        except Unreadable as problem:
            raise InputError(f"course {name!r}: {problem}") from problem
    return loads, courses


def _take(archive: Framed, frame: Frame, loads: dict[str, OwnLoad]) -> list[str]:
    names, said = _Names(), []
    for course, body in frame.courses.items():
        said.append(_take_course(archive, course, body, names))
    for load in sorted(loads.values(), key=lambda x: x.kind == "several"):
        said.append(_take_load(archive, load, names))
    here = {p.name: p for p in archive.shelf.products()}
    for product in frame.products:
        same = here.get(product.name)
        if same is not None and product_frame(same) == product:
            names.products[product.name] = same.id
            said.append(f"product {product.name}: here already")
            continue
        name = _free(product.name, here)
        key = archive.shelf.add_product(
            name, product.kind, product.specification, product.prices, product.notes
        )
        names.products[product.name] = key
        said.append(f"product {name}: added")
    rigs = {r.name: r for r in archive.shelf.rigs()}
    for rig in frame.rigs:
        held = rigs.get(rig.name)
        if held is not None and rig_frame(held) == rig:
            names.rigs[rig.name] = held.id
            said.append(f"rig {rig.name}: here already")
            continue
        name = _free(rig.name, rigs)
        facts, details = split_values(without_bench(rig.values))
        names.rigs[rig.name] = archive.shelf.add_rig(name, facts, details, rig.sensors)
        said.append(f"rig {name}: added")
    known_rates = [rate for _, rate in archive.shelf.rates()]
    for rate in frame.rates:
        if rate not in known_rates:
            archive.shelf.add_rate(rate)
            said.append(f"rate {rate.currency} to {rate.into} of {rate.day}: added")
    for review in frame.reviews:
        said.append(_take_review(archive, review, names))
    return said


def _free(name: str, taken: Iterable[str]) -> str:
    number, candidate, used = 2, name, set(taken)
    while candidate in used:
        candidate, number = f"{name} ({number})", number + 1
    return candidate


def _check_whole(
    archive: Archive, frame: Frame, loads: dict[str, OwnLoad], courses: dict[str, dict[str, Any]]
) -> None:
    """What one record alone cannot see: that everything it stands on is here or in the document. Raises InputError."""
    own = {**archive.plans.own_loads(), **loads}
    for load in loads.values():
        try:
            check_own(load, own)
        except LoadError as problem:
            raise InputError(f"load {problem}") from problem
    there = {
        "rig": {r.name for r in frame.rigs} | {r.name for r in archive.shelf.rigs()},
        "product": {p.name for p in frame.products} | {p.name for p in archive.shelf.products()},
        "load": {*KINDS, *own},
        "course": {USUAL, *courses} | {c.name for c in archive.plans.courses()},
    }

    def wanted(where: str, word: str, names: Iterable[str]) -> None:
        for name in names:
            if name not in there[word]:
                raise InputError(f"{where}: there is no {word} {name!r}, here or in the document; add it")

    for review in frame.reviews:
        where = f"review {review.name!r}"
        wanted(where, "load", review.loads)
        wanted(where, "course", review.courses.values())
        for setup in review.setups:
            wanted(f"{where}, setup {setup.name!r}", "rig", [setup.rig] if setup.rig is not None else [])
            wanted(f"{where}, setup {setup.name!r}", "product", setup.products)


def _take_course(archive: Framed, name: str, body: dict[str, Any], names: _Names) -> str:
    here: dict[str, NamedCourse] = {c.name: c for c in archive.plans.courses()}
    if name in here and here[name].body == body:
        names.courses[name] = name
        return f"course {name}: here already"
    names.courses[name] = _free(name, here)
    archive.plans.add_course(names.courses[name], body)
    return f"course {names.courses[name]}: added"


def _take_load(archive: Framed, load: OwnLoad, names: _Names) -> str:
    here = archive.plans.own_loads()
    load = replace(load, parts=tuple(names.loads.get(p, p) for p in load.parts))
    held = here.get(load.name)
    if held is not None and replace(held, origin="", agreed="") == replace(load, origin=""):
        names.loads[load.name] = load.name
        return f"load {load.name}: here already"
    name = names.loads[load.name] = _free(load.name, here)
    archive.plans.add_load(replace(load, name=name))
    if load.kind == "command":
        return f"load {name}: added; its command runs once you have allowed it: {visible(load.command)}"
    return f"load {name}: added"


def _take_review(archive: Framed, review: ReviewFrame, names: _Names) -> str:
    store = archive.reviews
    name = store.free_review_name(review.name)
    loads = [names.loads.get(x, x) for x in review.loads]
    courses = {names.loads.get(k, k): names.courses.get(v, v) for k, v in review.courses.items()}
    key = store.add_review(
        name, review.question, loads, passes_wanted=review.passes_wanted, noise_limit_dba=review.noise_limit_dba,
        margin_k=review.margin_k, margin_share=review.margin_share, courses=courses, verdict=review.verdict,
        noise_distance_m=review.noise_distance_m, figure=review.figure, demands=review.demands,
        elsewhere=review.elsewhere, criteria=review.criteria, priced=review.priced, conclusion=review.conclusion,
    )  # fmt: skip
    rigs = {r.name: r.id for r in archive.shelf.rigs()} | names.rigs
    products = {p.name: p.id for p in archive.shelf.products()} | names.products
    setups: dict[str | None, int] = {}
    for setup in review.setups:
        setups[setup.name] = store.add_setup(
            key, setup.name, rigs[setup.rig] if setup.rig is not None else None, [products[p] for p in setup.products],
            reference=setup.reference, changes=setup.changes,
        )  # fmt: skip
    for claim in review.claims:
        number = store.add_claim(
            key,
            claim.kind,
            setups.get(claim.setup),
            setups.get(claim.other),
            names.loads.get(claim.load, claim.load),
            dict(claim.about) or None,
        )
        if claim.accepted is not None:
            store.accept_claim(number, claim.accepted)
    return f"review {name}: added"
