"""The forms that frame a review: its question, loads and passes; its setups."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from samovar.archive.database import ArchiveError
from samovar.archive.kept import DELETED, KEPT
from samovar.archive.records import Review, Setup
from samovar.archive.review_data import ReviewData
from samovar.bench.course_spec import USUAL
from samovar.core.chosen import Chosen, read_chosen
from samovar.core.conclusion import read_concluded
from samovar.core.demands import Demand, read_demand
from samovar.core.elsewhere import Elsewhere, read_elsewhere
from samovar.core.fields import Field
from samovar.core.price_terms import read_price_terms
from samovar.core.results.figure import figures_in, telling_figure
from samovar.core.setup_changes import CHANGES, change_words, differences
from samovar.tui.screens.place import Place
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.form import FormSheet, FormText, Line
from samovar.tui.sheets.lines import Lined, Lines

_NAME = Field("name", "name", example="Voice booth playout PC", needed=True)
_QUESTION = Field(
    "question", "question", example="Which cooler keeps it at work, at no more than 28 dBA?", needed=True
)
_LOADS = Field("loads", "loads, space picks", "pick", needed=True)
_PASSES = Field("passes_wanted", "passes of each cell", "count", example="2", needed=True)
_NOISE = Field("noise_limit_dba", "noise at most", "level", section="what counts", example="28 dBA")
_DISTANCE = Field("noise_distance_m", "at a distance of", "length", section="what counts", example="1 m")
_DEMANDS = Field(
    "demands",
    "asked of a setup",
    section="what counts",
    example="regulators at most 85 °C; price at most 120 EUR; wish work",
)
_ELSEWHERE = Field(
    "elsewhere",
    "from elsewhere",
    section="what counts",
    example="score 5012 points, Kestrel 9, by Quay Bench, 2026-01-12",
)
_CRITERIA = Field(
    "criteria",
    "criteria",
    section="what counts",
    example="noise; height less; ease of mounting: Osprey 161 = 8, Tern 47 = 6",
)
_PRICED = Field("priced", "prices in", section="what counts", example="EUR without tax")
_MARGIN = Field(
    "margin_k", "no difference under, K", "difference", section="what counts", example="1 K", needed=True
)
_SHARE = Field(
    "margin_share", "no difference under, %", "share", section="what counts", example="2 %", needed=True
)


def _loads_of(place: Place, review: Review | None) -> list[tuple[str, str]]:
    every = place.session.loads()
    gone = {x: "no longer there" for x in (review.loads if review else ()) if x not in every}
    return [*every.items(), *gone.items()]


def _priced_typed(typed: str) -> str | None:
    return read_price_terms(typed).line or None if typed.strip() else None


def lines_typed(
    read: Callable[[str], Demand | Elsewhere | Chosen],
) -> Callable[[str], tuple[str, ...] | None]:
    """What reads lines typed with `;` between them, each in plain form; None where nothing was typed. Raises Unreadable."""

    def lines(typed: str) -> tuple[str, ...] | None:
        return tuple(read(part.strip()).line for part in typed.split(";") if part.strip()) or None

    return lines


async def ask_review(place: Place, review: Review | None = None) -> int | None:
    """Frame a new review, or change one; its key, None where it was left."""
    session = place.session
    store = session.archive.reviews
    courses = (USUAL, *(c.name for c in session.archive.plans.courses()))
    used = {review.courses.get(x, USUAL) for x in review.loads} if review else {USUAL}
    mixed = len(used) > 1
    course = Field(
        "course", "course", "choice", ((*courses, "as they are") if mixed else courses), needed=True
    )
    lines = [
        Line(_NAME, review.name if review else None),
        Line(_QUESTION, review.question if review else None),
        Line(_LOADS, review.loads if review else (), _loads_of(place, review)),
        Line(_PASSES, review.passes_wanted if review else 2),
        Line(
            course,
            "as they are" if mixed else next(iter(used)),
            note="of every load; the Grid (k) changes one",
        ),
        Line(_NOISE, review.noise_limit_dba if review else None),
        Line(_DISTANCE, review.noise_distance_m if review else None),
        Line(
            _DEMANDS,
            "; ".join(review.demands) if review else None,
            read=lines_typed(read_demand),
            note="one or more, with ; between; wishes in their order",
        ),
        Line(
            _ELSEWHERE,
            "; ".join(review.elsewhere) if review else None,
            read=lines_typed(read_elsewhere),
            note="others' figures, with ; between; marked, never counted",
        ),
        Line(
            _CRITERIA,
            "; ".join(review.criteria) if review else None,
            read=lines_typed(read_chosen),
            note="rows of the table, with ; between; none: the usual ones",
        ),
        Line(
            _PRICED,
            (review.priced or None) if review else None,
            read=_priced_typed,
            note="none: as most prices are",
        ),
        Line(_MARGIN, review.margin_k if review else 1.0),
        Line(_SHARE, review.margin_share if review else 0.02),
    ]
    kept: list[int] = []

    def keep(values: Mapping[str, Any]) -> str | None:
        if not 1 <= values["passes_wanted"] <= 20:
            return "From 1 to 20 passes."
        wanted = values["course"]
        before = review.courses if review else {}
        named = {
            load: (before.get(load, USUAL) if wanted == "as they are" else wanted) for load in values["loads"]
        }
        named = {load: name for load, name in named.items() if name != USUAL}
        common: dict[str, Any] = {k: values[k] for k in ("passes_wanted", "margin_k", "margin_share")}
        common["noise_limit_dba"] = values.get("noise_limit_dba")
        common["elsewhere"] = values.get("elsewhere") or ()
        common["demands"] = values.get("demands") or ()
        common["criteria"] = values.get("criteria") or ()
        common["priced"] = values.get("priced") or ""
        common["noise_distance_m"] = values.get("noise_distance_m")
        try:
            if review is None:
                kept.append(
                    store.add_review(
                        values["name"], values["question"], values["loads"], courses=named, **common
                    )
                )
            else:
                changed = replace(
                    review,
                    name=values["name"],
                    question=values["question"],
                    loads=tuple(values["loads"]),
                    courses=named,
                    **common,
                )
                store.save_review(changed)
                kept.append(review.id)
        except ArchiveError as problem:
            return str(problem)
        return None

    title = f"Review: {review.name}" if review else "A new review"
    intro = "A review is a question, the loads it is asked under, and the setups that are compared."
    answer = await place.app.push_screen_wait(FormSheet(FormText(title, intro, lines), keep))
    if answer is None:
        return None
    if review is None:
        session.remember(f"{answer['name']} added", lambda: store.set_review_state(kept[0], DELETED))
    else:
        session.remember(f"{review.name} changed", lambda: store.save_review(review))
    return kept[0]


async def ask_lines(place: Place, review: Review, of: str, proposed: Sequence[str] = ()) -> bool:
    """The lines of a review that make one list, `demands`, `criteria`, `elsewhere` or `conclusion`, on a sheet of their own, with
    what is proposed where there are none yet; True where they were changed."""
    title, intro, read = LISTS[of]
    before: tuple[str, ...] = getattr(review, of)
    kept = await place.app.push_screen_wait(Lines(f"{review.name}: {title}", intro, before or proposed, read))
    if kept is None or kept == before:
        return False
    store = place.session.archive.reviews
    try:
        changed: dict[str, Any] = {of: kept}
        store.save_review(replace(review, **changed))
    except ArchiveError as problem:
        place.notify(str(problem), severity="error")
        return False
    place.session.remember(f"{review.name}: {title} changed", lambda: store.save_review(review))
    return True


LISTS: dict[str, tuple[str, str, Callable[[str], Lined]]] = {
    "demands": (
        "what is asked of a setup",
        "A line each: noise at most 28 dBA, regulators at most 85 °C under worst case, price at most 120 EUR; then what is wished "
        "for, in its order: wish work, wish price.",
        read_demand,
    ),
    "criteria": (
        "the criteria of the table",
        "A line each, in their order; without any the usual ones stand. What runs tell or the Shelf knows by name: noise, height less, "
        "price, judgement, regulators under worst case. By hand: ease of mounting x2: Osprey 161 = 8, Tern 47 = 6 (of ten; x2 is its "
        "weight), remote start: Osprey 161 = yes. Lists: missing Tern 47: a fan hub, fault Fjord 280: the pump ticks.",
        read_chosen,
    ),
    "conclusion": (
        "the conclusion",
        "A line each, printed after the answer: pick: Osprey 161, runner-up: Loam P, good: quiet at every load, bad: dearer than needed, "
        "missing: a fan hub, for: studios, not for: low cases, and if you give one, rating: 9/10.",
        read_concluded,
    ),
    "elsewhere": (
        "figures from elsewhere",
        "A line each, typed or pasted: score 5012 points, Kestrel 9, by Quay Bench, 2026-01-12, under worst case, 28 W. "
        "Or rows pasted from a table: figure, value, unit, name, source, day, load, what else is known. They stand marked, and are never "
        "counted; a name that begins with norm of is drawn through all bars.",
        read_elsewhere,
    ),
}
"""The lists of a review that have a sheet of lines: its title, what can be written, what reads a line."""

BY_ITSELF = "by itself"


async def ask_figure(place: Place, data: ReviewData) -> bool:
    """Which figure a review is about; True where it is another one now."""
    session, review = place.session, data.review
    found = figures_in(r for x in data.every() for r in x.results)
    if not found:
        place.notify(
            "No run of this review gives a figure yet: record one, or bring one in.", severity="warning"
        )
        return False
    now = data.subject.key
    by_itself = telling_figure(r for x in data.every() for r in x.results)
    options = [(BY_ITSELF, f"as the runs tell: {by_itself.label}")]
    labels = [f.label for f in found]
    # Two that read alike are told apart by their keys.
    labels = [x if labels.count(x) == 1 else f"{x} ({f.key})" for x, f in zip(labels, found, strict=True)]
    options += [
        (x, f"{f.unit}{', as now' if f.key == now else ''}") for x, f in zip(labels, found, strict=True)
    ]
    names = [name for name, _ in options]
    chosen = await place.app.push_screen_wait(Choose(f"What is {review.name} about?", options))
    if chosen is None:
        return False
    key = "" if chosen == BY_ITSELF else found[names.index(chosen) - 1].key
    if key == review.figure:
        return False
    store = session.archive.reviews
    store.save_review(replace(review, figure=key))
    session.remember(f"{review.name}: what it is about", lambda: store.save_review(review))
    return True


async def ask_setup(
    place: Place, review: Review, setup: Setup | None = None, like: Setup | None = None
) -> int | None:
    """Add a setup to a review, `like` another one to begin with, or change one; its key, None where it was left."""
    session = place.session
    store, shelf = session.archive.reviews, session.archive.shelf
    rigs = {r.name: r for r in shelf.rigs()}
    products = {p.name: p for p in shelf.products()}
    model = setup or like
    if model is not None:
        # What is archived since stays fitted.
        rigs |= {model.rig.name: model.rig} if model.rig else {}
        products |= {p.name: p for p in model.products}
    usual = model.rig.name if model and model.rig else None
    if model is None:
        before = next((s.rig.name for s in reversed(review.setups) if s.rig), None)
        usual = before or (next(iter(rigs)) if len(rigs) == 1 else None)
    changes = model.changes if model else {}
    lines = [
        Line(Field("name", "name", example="empty: named after its products"), setup.name if setup else None),
        Line(Field("rig", "rig", "choice", tuple(rigs)), usual, note="" if rigs else "none yet: Shelf (1), g, a"),
        Line(Field("products", "fitted, space picks", "pick"), [p.name for p in model.products] if model else (),
             [(name, p.kind) for name, p in products.items()]),
        Line(Field("reference", "is the reference", "yes-no", needed=True), setup.reference if setup else not review.setups,
             note="the others are held against it"),
        *(Line(f, changes.get(f.key)) for f in CHANGES),
    ]  # fmt: skip
    kept: list[int] = []

    def keep(values: Mapping[str, Any]) -> str | None:
        fitted = [products[n] for n in values.get("products", ())]
        name = values.get("name") or ", ".join(p.name for p in fitted) or f"setup {len(review.setups) + 1}"
        unknown = {k: v for k, v in changes.items() if k not in {f.key for f in CHANGES}}
        changed = {**unknown, **{f.key: values[f.key] for f in CHANGES if f.key in values}}
        rig = rigs.get(values.get("rig", ""))
        made = Setup(
            setup.id if setup else 0,
            review.id,
            name,
            bool(values["reference"]),
            0,
            changed,
            tuple(fitted),
            rig,
        )
        twin = next(
            (
                s
                for s in review.setups
                if s.id != made.id and not differences(s.arrangement, made.arrangement)
            ),
            None,
        )
        if twin is not None:
            return f"Nothing tells it from {twin.name}: fit something else, or write down what is changed."
        try:
            if setup is None:
                key = store.add_setup(
                    review.id,
                    name,
                    rig.id if rig else None,
                    [p.id for p in fitted],
                    reference=made.reference,
                    changes=changed,
                )
                kept.append(key)
            else:
                store.save_setup(replace(made, position=setup.position))
                kept.append(setup.id)
        except ArchiveError as problem:
            return str(problem)
        return None

    title = f"Setup: {setup.name}" if setup else f"A new setup of {review.name}"
    intro = "A setup is a rig, the products fitted to it, and what was changed. What is left empty is as the rig has it."
    answer = await place.app.push_screen_wait(FormSheet(FormText(title, intro, lines), keep))
    if answer is None:
        return None
    if setup is None:
        session.remember("setup added", lambda: store.set_setup_state(kept[0], DELETED))
    else:
        reference = review.reference
        session.remember(f"{setup.name} changed", lambda: _restore(place, setup, reference))
    return kept[0]


def _restore(place: Place, setup: Setup, reference: Setup | None) -> None:
    store = place.session.archive.reviews
    store.save_setup(setup)
    if reference is not None and reference.id != setup.id:
        store.save_setup(reference)


def delete_setup(place: Place, setup: Setup) -> None:
    """Delete a setup; its runs stay, and come back with it."""
    store = place.session.archive.reviews
    store.set_setup_state(setup.id, DELETED)
    place.session.remember(f"{setup.name} deleted", lambda: store.set_setup_state(setup.id, KEPT))


def against_reference(review: Review, setup: Setup) -> list[str]:
    """What sets a setup apart from the reference, in words; for the reference, what was changed on its rig."""
    reference = review.reference
    if reference is None or reference.id == setup.id:
        return change_words(setup.changes)
    return [d.words for d in differences(setup.arrangement, reference.arrangement)]
