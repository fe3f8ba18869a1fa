"""What the places share: the archive, the machine on the bench, the review in hand, the run under way."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, cast

from samovar.archive import Archive
from samovar.archive.coverage import coverages
from samovar.archive.records import Review, Run, Setup
from samovar.archive.review_plan import ReviewPlan
from samovar.bench.course_spec import CourseSpec, spec_of
from samovar.bench.machine import Machine
from samovar.core.planner import Proposal
from samovar.core.results.figure import figure_of
from samovar.core.rig import Rig
from samovar.tui.aside import ArchiveAside, aside, behind

if TYPE_CHECKING:
    # What reads a review and compares its runs is imported with the first review: the Desk is seen before.
    from samovar.archive.review_data import Cell, ReviewData
    from samovar.core.instrument import Instrument
    from samovar.core.sound.listening import Listening
    from samovar.recording.ear import Ear
    from samovar.recording.equipment import Equipment
    from samovar.recording.live import LiveRun
    from samovar.tui.channel_view import ChannelView


@dataclass
class Session:
    """State beyond any one place. Changes of what is stored go through `reload`."""

    archive: Archive
    machine: Machine
    title: str = "Samovar"
    review: Review | None = None
    data: ReviewData | None = None
    live: LiveRun | None = None
    ears: list[Ear] = field(default_factory=list)
    backgrounds: dict[str, Listening] = field(default_factory=dict)
    trace_run: int | None = None
    chosen: tuple[str, str] | None = None
    load: str | None = None
    measure_key: str = "rise"
    messages: list[str] = field(default_factory=list)
    unreadable: tuple[str, ...] = ()
    begun: bool = False
    _undo: list[tuple[str, Callable[[], object]]] = field(default_factory=list)
    _views: dict[int, ChannelView] = field(default_factory=dict)
    _plan: tuple[ReviewData, ReviewPlan] | None = None

    _equipment: Equipment | None = None
    beside: Mapping[str, Sequence[Instrument]] = field(default_factory=dict)

    @property
    def equipment(self) -> Equipment:
        """The machines and instruments of the rigs."""
        if self._equipment is None:
            from samovar.recording.equipment import Equipment

            self._equipment = Equipment(self.machine, self.beside)
        return self._equipment

    def rig(self) -> Rig | None:
        """The rig that is measured next: that of the cell which stands ready."""
        cell = self.next_cell()
        return cell[0].rig if cell is not None else None

    def close(self) -> None:
        """Take leave of other machines."""
        if self._equipment is not None:
            self._equipment.close()

    def __post_init__(self) -> None:
        # Whoever asks it on the interface's own thread does not hold that up.
        self.archive = cast(Archive, ArchiveAside(self.archive))

    @property
    def guest(self) -> bool:
        """Whether this user may only read the archive."""
        return bool(self.archive.read_only)

    def begin(self) -> None:
        """Take the first review in hand, and look for what of the frame cannot be read."""
        reviews = self.archive.reviews.reviews()
        self.archive.plans.courses()
        self.archive.plans.own_loads()
        self.unreadable = self.archive.problems.said
        self.open_review(reviews[0] if reviews else None)

    def open_review(self, review: Review | None) -> None:
        """Take a review in hand and read its runs."""
        self.begun = True
        data = aside(_read, behind(self.archive), review) if review else None
        self.review, self.data = review, data
        self.load = self._telling_load()
        self.measure_key = self.data.subject.key if self.data is not None else "rise"
        self.chosen = None
        if self.data is not None:
            known = [run.number for cell in self.data.cells.values() for run, _ in cell.runs]
            self.trace_run = max(known) if known else None
        elif self.trace_run is None:
            # Without a review the runs of the inbox are all there is to read.
            self.trace_run = max((run.number for run in self.archive.runs.runs()), default=None)

    def _telling_load(self) -> str | None:
        """The last of the review's loads that has runs; the last where none has."""
        if self.review is None or not self.review.loads:
            return None
        measured = {load for _, load in self.data.cells} if self.data else set()
        return next((x for x in reversed(self.review.loads) if x in measured), self.review.loads[-1])

    def reload(self) -> None:
        """Read the review again, after something changed. A review that is gone gives way to the first there is."""
        self._plan = None
        if self.review is not None:
            found = self.archive.reviews.review(self.review.id)
            if found is None:
                kept = self.archive.reviews.reviews()
                self.open_review(kept[0] if kept else None)
                return
            self.data, self.review = aside(_read, behind(self.archive), found), found
            if self.load not in self.review.loads:
                self.load = self._telling_load()

    def plan(self) -> ReviewPlan | None:
        """What is still to do in the review in hand."""
        data = self.data
        if data is None:
            return None
        if self._plan is None or self._plan[0] is not data:
            self._plan = (data, aside(plan_of, behind(self.archive), data.review))
        return self._plan[1]

    def in_the_way(self, setup: Setup, load: str) -> list[str]:
        """What keeps a cell from being compared as it stands."""
        from samovar.archive.review_plan import stands_in_the_way

        return stands_in_the_way(self.data, setup, load) if self.data else []

    def proposal(self) -> Proposal | None:
        """The next run to record."""
        plan = self.plan()
        return plan.proposal() if plan else None

    def spec(self, setup: Setup | None, load: str) -> CourseSpec:
        """The course of a cell; of a run that no review asks for, the usual one."""
        plan = self.plan()
        if plan is not None and self.review is not None and load in self.review.loads:
            return plan.spec(load, setup)
        return spec_of(load, {}, setup.facts.cpu.temperature_limit_c if setup else None)

    def loads(self) -> dict[str, str]:
        """Every load there is, the machine's and the reviewer's own, with a line on each."""
        own = {name: load.words for name, load in self.archive.plans.own_loads().items()}
        return {**self.machine.loads(), **own}

    def channel_view(self, rig: Rig | None) -> ChannelView:
        """Which channels of a rig are drawn, and how; without a rig, of runs in the inbox."""
        from samovar.tui.channel_view import view_of

        key = rig.id if rig else 0
        if key not in self._views:
            self._views[key] = view_of(self.archive.plans.channel_view(rig.id if rig else None))
        return self._views[key]

    def keep_channel_view(self, rig: Rig | None, view: ChannelView) -> None:
        """Keep that choice with the rig."""
        key = rig.id if rig else 0
        self._views[key] = view
        if not self.guest:
            self.archive.plans.keep_channel_view(rig.id if rig else None, view.to_plain())

    def remember(self, words: str, undo: Callable[[], object]) -> None:
        """Keep how to undo what was just done."""
        self._undo.append((words, undo))

    def undo(self) -> str | None:
        """Undo the last thing that can be undone; the answer says what it was, None where there is none."""
        if not self._undo:
            return None
        words, act = self._undo.pop()
        act()
        self.reload()
        return words

    def next_cell(self) -> tuple[Setup, str, str] | None:
        """Setup, load and reason of the cell to record now: the chosen one, else the proposed one."""
        if self.review is None:
            return None
        by_name = {s.name: s for s in self.review.setups}
        proposal = self.proposal()
        chosen = self.chosen
        if chosen is not None and chosen[0] in by_name and chosen[1] in self.review.loads:
            same = proposal is not None and chosen == (proposal.setup, proposal.load)
            reason = proposal.reason if proposal is not None and same else "you chose this cell in the Grid"
            return by_name[chosen[0]], chosen[1], reason
        return None if proposal is None else (by_name[proposal.setup], proposal.load, proposal.reason)

    def cell(self, setup: Setup, load: str) -> Cell:
        """The cell, empty where nothing is known."""
        from samovar.archive.review_data import Cell

        return self.data.cell(setup, load) if self.data else Cell(setup, load)

    def run(self) -> Run | None:
        """The run that Trace shows."""
        return None if self.trace_run is None else self.archive.runs.run(self.trace_run)

    def holding(self) -> tuple[int, int]:
        """Claims of the review that hold, and claims in all."""
        if self.review is None or self.data is None:
            return 0, 0
        from samovar.archive.claim_checks import holding

        claims = self.archive.reviews.claims(self.review.id)
        return holding(self.data, claims), len(claims)

    def rail(self) -> dict[str, str]:
        """How far each place of the review is, in a few words. Not for the interface's own thread:
        the first time, the statistics have to be loaded."""
        out = {"desk": "", "shelf": "", "grid": "", "bench": "idle", "trace": "", "versus": "", "writeup": ""}
        out["desk"] = "all reviews"
        if self.live is not None and not self.live.sealed.is_set():
            out["bench"] = "● recording"
        out["shelf"] = _counted(len(self.archive.shelf.products()), "product")
        if self.review is None or self.data is None:
            return out
        done, total = self.data.measured_cells()
        out["grid"] = f"{done}/{total} cells" if total else "no cells yet"
        if not self.data.cells:
            out["trace"], out["versus"] = "no runs yet", "no runs yet"
            holding, claims = self.holding()
            out["writeup"] = f"{holding}/{claims} hold" if claims else "no claims"
            return out
        odd = sum(
            result.reading.judgement in ("throttles", "stopped")
            or (result.reading.judgement is None and bool(result.reading.held))
            for cell in self.data.cells.values()
            for run, result in cell.runs
            if run.left_out is None
        )
        out["trace"] = f"{odd} to look at" if odd else "all quiet"
        from samovar.archive.rig_comparison import compare_on

        load = self.load or ""
        items = compare_on(self.data, load, figure_of(self.measure_key)).audit
        cautions = sum(i.level == "caution" for i in items)
        out["versus"] = f"{cautions} caution{'s' if cautions != 1 else ''}" if cautions else "like for like"
        holding, claims = self.holding()
        out["writeup"] = f"{holding}/{claims} hold" if claims else "no claims"
        return out


def _read(archive: Archive, review: Review) -> ReviewData:
    """A review with its runs read."""
    from samovar.archive.review_data import load_review

    return load_review(archive, review)


def plan_of(archive: Archive, review: Review) -> ReviewPlan:
    """What is still to do in a review."""
    coverage = coverages([review], archive.runs.counts(review.id))[review.id]
    coverage.lengths_s = archive.runs.lengths_s(review.id)
    return ReviewPlan(coverage, archive.plans.courses())


def _counted(number: int, word: str) -> str:
    return f"{number} {word}" if number == 1 else f"{number} {word}s"
