"""Reviews in the archive, with their setups."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any

from sqlalchemy import Connection, Engine, delete, func, insert, select, update

from samovar.archive.claims import ClaimStore
from samovar.archive.kept import DELETED, KEPT, ChangedMeanwhile, KeptTable, NameTaken, entered, row_name
from samovar.archive.problems import Problems
from samovar.archive.records import Product, Review, Rig, Setup
from samovar.archive.schema import PRODUCT, REVIEW, RIG, RUN, SETUP, SETUP_PRODUCT
from samovar.archive.shelf import product_of, rig_of
from samovar.core.entered import checked, free_stem, visible
from samovar.core.framed import ReviewFrame, SetupFrame


class ReviewStore(ClaimStore):
    """The reviews of one archive, their setups and claims."""

    def __init__(self, engine: Engine, problems: Problems) -> None:
        super().__init__(engine)
        self._problems = problems
        self._review = KeptTable(engine, REVIEW, "review")
        self._setup = KeptTable(engine, SETUP, "setup of this review", "review_id")

    def add_review(
        self,
        name: str,
        question: str,
        loads: Sequence[str],
        *,
        passes_wanted: int = 2,
        noise_limit_dba: float | None = None,
        margin_k: float = 1.0,
        margin_share: float = 0.02,
        courses: Mapping[str, str] | None = None,
        verdict: str = "",
        noise_distance_m: float | None = None,
        figure: str = "",
        demands: Sequence[str] = (),
        elsewhere: Sequence[str] = (),
        criteria: Sequence[str] = (),
        priced: str = "",
        conclusion: Sequence[str] = (),
    ) -> int:
        """Enter a review; the answer is its key. Raises NameTaken."""
        frame = entered(
            ReviewFrame,
            {
                "name": name, "question": question, "verdict": verdict, "loads": list(loads), "courses": dict(courses or {}),
                "passes_wanted": passes_wanted, "margin_k": margin_k, "margin_share": margin_share,
                "noise_limit_dba": noise_limit_dba, "noise_distance_m": noise_distance_m, "figure": figure,
                "demands": list(demands), "elsewhere": list(elsewhere), "criteria": list(criteria), "priced": priced,
                "conclusion": list(conclusion),
            },
        )  # fmt: skip
        with self._engine.begin() as connection:
            self._refuse_name(connection, frame.name, None)
            return self._review.add_in(
                connection, slug=_free_slug(connection, frame.name, None), **_review_values(frame)
            )

    def save_review(self, review: Review) -> None:
        """Keep a review's own values as they now are; its setups are kept by `save_setup`. Raises NameTaken."""
        frame = entered(
            ReviewFrame,
            {
                "name": review.name, "question": review.question, "verdict": review.verdict, "loads": list(review.loads),
                "courses": {k: v for k, v in review.courses.items() if k in review.loads},
                "passes_wanted": review.passes_wanted, "margin_k": review.margin_k, "margin_share": review.margin_share,
                "noise_limit_dba": review.noise_limit_dba, "noise_distance_m": review.noise_distance_m,
                "figure": review.figure, "demands": list(review.demands),
                "elsewhere": list(review.elsewhere), "criteria": list(review.criteria), "priced": review.priced,
                "conclusion": list(review.conclusion),
            },
        )  # fmt: skip
        with self._engine.begin() as connection:
            self._refuse_name(connection, frame.name, review.id)
            slug = _free_slug(connection, frame.name, review.id)
            self._review.change_in(connection, review.id, review.revision, slug=slug, **_review_values(frame))

    def _refuse_name(self, connection: Connection, name: str, but: int | None) -> None:
        # Calls and links find a review by its name whatever its capitals.
        others = connection.execute(select(REVIEW.c.name).where(REVIEW.c.id != (but or -1))).scalars()
        if name.casefold() in {other.casefold() for other in others}:
            raise NameTaken(f"{name}: another review has this name; choose another")

    def set_review_state(self, review_id: int, state: str) -> None:
        """Put a review out of sight, delete it, or bring it back; its runs stay as they are."""
        name = self._review.set_state(review_id, state)
        with self._engine.begin() as connection:
            slug = _free_slug(connection, name, review_id)
            connection.execute(update(REVIEW).where(REVIEW.c.id == review_id).values(slug=slug))

    def free_review_name(self, name: str) -> str:
        """The name, or `name (2)` where it is taken."""
        return self._review.free_name(name)

    def add_setup(
        self,
        review_id: int,
        name: str,
        rig_id: int | None,
        product_ids: Sequence[int] = (),
        *,
        reference: bool = False,
        changes: Mapping[str, Any] | None = None,
    ) -> int:
        """Enter a setup behind those the review has; the answer is its key. Raises NameTaken."""
        frame = _setup_frame(name, changes or {}, reference)
        with self._engine.begin() as connection:
            position = connection.execute(
                select(func.coalesce(func.max(SETUP.c.position), -1)).where(SETUP.c.review_id == review_id)
            ).scalar_one()
            if reference:
                self._no_reference(connection, review_id, rig_id)
            key = self._setup.add_in(
                connection, review_id=review_id, rig_id=rig_id, name=frame.name, position=position + 1,
                reference=int(reference), changes=frame.changes,
            )  # fmt: skip
            self._fit(connection, key, product_ids)
        return key

    def save_setup(self, setup: Setup) -> None:
        """Keep a setup as it now is. Raises NameTaken."""
        frame = _setup_frame(setup.name, setup.changes, setup.reference)
        with self._engine.begin() as connection:
            self._setup.change_in(
                connection, setup.id, setup.revision, name=frame.name, rig_id=setup.rig.id if setup.rig else None,
                position=setup.position, changes=frame.changes,
            )  # fmt: skip
            if setup.reference:
                self._no_reference(connection, setup.review_id, setup.rig.id if setup.rig else None)
            connection.execute(
                update(SETUP).where(SETUP.c.id == setup.id).values(reference=int(setup.reference))
            )
            connection.execute(delete(SETUP_PRODUCT).where(SETUP_PRODUCT.c.setup_id == setup.id))
            self._fit(connection, setup.id, [p.id for p in setup.products])

    @staticmethod
    def _no_reference(connection: Any, review_id: int, rig_id: int | None) -> None:
        """There is one reference for each rig."""
        there = update(SETUP).where(
            SETUP.c.review_id == review_id, SETUP.c.rig_id.is_not_distinct_from(rig_id)
        )
        connection.execute(there.values(reference=0))

    @staticmethod
    def _fit(connection: Any, setup_id: int, product_ids: Sequence[int]) -> None:
        for product_id in product_ids:
            connection.execute(insert(SETUP_PRODUCT).values(setup_id=setup_id, product_id=product_id))

    def set_setup_state(self, setup_id: int, state: str) -> None:
        """Delete a setup or bring it back; its runs stay as they are."""
        self._setup.set_state(setup_id, state)

    def reviews(self, state: str = KEPT) -> list[Review]:
        """Every review in this state with its setups, in the order they were entered."""
        with self._engine.connect() as connection:
            query = select(REVIEW).where(REVIEW.c.state == state).order_by(REVIEW.c.id)
            reviews = connection.execute(query).all()
            readable = self._problems.readable
            rigs = {r.id: r for r in readable("rig", connection.execute(select(RIG)), rig_of)}
            products = {p.id: p for p in readable("product", connection.execute(select(PRODUCT)), product_of)}
            fitted: dict[int, list[Product]] = {}
            for row in connection.execute(select(SETUP_PRODUCT).order_by(SETUP_PRODUCT.c.id)):
                if row.product_id in products:
                    fitted.setdefault(row.setup_id, []).append(products[row.product_id])
            setups: dict[int, list[Setup]] = {}
            rows = select(SETUP).where(SETUP.c.state != DELETED).order_by(SETUP.c.position, SETUP.c.id)
            for setup in readable("setup", connection.execute(rows), lambda r: _setup_of(r, rigs, fitted)):
                setups.setdefault(setup.review_id, []).append(setup)
        return readable("review", reviews, lambda r: _review_of(r, setups.get(r.id, [])))

    def names(self, keys: Collection[int]) -> tuple[dict[int, str], dict[int, str], dict[int, str]]:
        """Of these reviews their names, the names of their setups, and the figures they were chosen to be about, by key."""
        reviews = select(REVIEW.c.id, REVIEW.c.name, REVIEW.c.figure).where(REVIEW.c.id.in_(keys))
        setups = select(SETUP.c.id, SETUP.c.name).where(SETUP.c.review_id.in_(keys))
        with self._engine.connect() as connection:
            rows = connection.execute(reviews).all()
            fitted = {row.id: row_name(row) for row in connection.execute(setups)}
        return {r.id: row_name(r) for r in rows}, fitted, {r.id: r.figure for r in rows if r.figure}

    def review(self, name: str | int) -> Review | None:
        """The review of this key, slug or name, archived ones too; None where there is none."""
        for state in (KEPT, "archived"):
            for review in self.reviews(state):
                if name == review.id or str(name).lower() in (review.slug, review.name.lower()):
                    return review
        return None

    def set_verdict(self, review_id: int, text: str, was: str | None = None) -> None:
        """Keep the reviewer's own words. `was` is the text they began with. Raises ChangedMeanwhile."""
        with self._engine.begin() as connection:
            if was is not None:
                query = select(REVIEW.c.name, REVIEW.c.verdict, REVIEW.c.changed_by)
                now = connection.execute(query.where(REVIEW.c.id == review_id).with_for_update()).first()
                if now is not None and now.verdict.rstrip() not in (was.rstrip(), text.rstrip()):
                    raise ChangedMeanwhile(
                        f"{now.name}: {now.changed_by or 'someone else'} has changed the article meanwhile; "
                        "both stand in it now, theirs first: bring the two together"
                    )
            self._review.change_in(connection, review_id, verdict=text)

    def last_run_of_each(self) -> dict[int, str]:
        """When the last run of each review was begun, ISO 8601, by the review's key."""
        with self._engine.connect() as connection:
            query = select(RUN.c.review_id, func.max(RUN.c.started)).group_by(RUN.c.review_id)
            return {row[0]: row[1] for row in connection.execute(query) if row[0] is not None}


def _free_slug(connection: Connection, name: str, but: int | None) -> str:
    """A short name for calls and files, made apart from the name: two reviews' may read alike there."""
    query = select(REVIEW.c.slug).where(REVIEW.c.id != (but or -1))
    return free_stem(name, set(connection.execute(query).scalars()), "review")


def _review_values(frame: ReviewFrame) -> dict[str, Any]:
    return {
        "name": frame.name, "question": frame.question, "verdict": frame.verdict, "margin_k": frame.margin_k,
        "margin_share": frame.margin_share, "noise_limit_dba": frame.noise_limit_dba,
        "noise_distance_m": frame.noise_distance_m, "figure": frame.figure, "demands": list(frame.demands), "elsewhere": list(frame.elsewhere),
        "criteria": list(frame.criteria), "priced": frame.priced, "conclusion": list(frame.conclusion),
        "passes_wanted": frame.passes_wanted, "loads": list(frame.loads), "courses": frame.courses,
    }  # fmt: skip


def _setup_frame(name: str, changes: Mapping[str, Any], reference: bool) -> SetupFrame:
    return entered(SetupFrame, {"name": name, "changes": dict(changes), "reference": reference})


def _setup_of(row: Any, rigs: Mapping[int, Rig], fitted: Mapping[int, list[Product]]) -> Setup:
    frame = checked(SetupFrame, {"name": row_name(row), "changes": row.changes or {}})
    return Setup(
        row.id, row.review_id, visible(row.name), bool(row.reference), row.position, frame.changes,
        tuple(fitted.get(row.id, ())), rigs.get(row.rig_id), row.state, row.revision,
    )  # fmt: skip


def _review_of(row: Any, setups: Sequence[Setup]) -> Review:
    frame = checked(
        ReviewFrame,
        {
            "name": row_name(row), "question": row.question, "verdict": row.verdict, "loads": row.loads or (),
            "courses": {k: v for k, v in (row.courses or {}).items() if k in (row.loads or ())},
            "passes_wanted": row.passes_wanted, "margin_k": row.margin_k, "margin_share": row.margin_share,
            "noise_limit_dba": row.noise_limit_dba, "noise_distance_m": row.noise_distance_m, "figure": row.figure or "",
            "demands": row.demands or (), "elsewhere": row.elsewhere or (), "criteria": row.criteria or (), "priced": row.priced or "",
            "conclusion": row.conclusion or (),
        },
    )  # fmt: skip
    return Review(
        row.id, row.slug, visible(row.name), frame.question, frame.verdict, frame.margin_k, frame.margin_share,
        frame.noise_limit_dba, frame.passes_wanted, frame.loads, tuple(setups), frame.courses, row.state,
        frame.noise_distance_m, frame.figure, frame.demands, frame.elsewhere, frame.criteria, frame.priced, frame.conclusion,
        row.revision,
    )  # fmt: skip
