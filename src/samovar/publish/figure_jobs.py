"""Figures that a publication has, each as a job: what it is drawn from, and, in one table, what draws it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

from samovar.core.compare.rungs import Rung
from samovar.core.compare.trade import Trade
from samovar.core.elevation import Elevation
from samovar.core.facts import Facts
from samovar.core.overlay import Overlay
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.core.results.figure import Figure
from samovar.core.sound.kept import KeptSound
from samovar.figures.card import ENDINGS, CardChart, CardLook, CardText, card
from samovar.figures.chain_chart import ChainColumn
from samovar.figures.surface_chart import Face
from samovar.figures.time_chart import Extras
from samovar.figures.write import COLUMN, FORMATS

if TYPE_CHECKING:
    from matplotlib.figure import Figure as Drawn


@dataclass(frozen=True)
class LadderJob:
    """A ladder. Of all jobs: `path` has no ending yet; `title` says what is drawn, `finding` what it shows, the first words of
    which, `lead`, stand above it."""

    path: Path
    rungs: tuple[Rung, ...]
    measure: Figure
    reference: str | None
    title: str
    finding: str = ""
    asked: tuple[tuple[float, str], ...] = ()
    rig: str = ""


@dataclass(frozen=True)
class CurvesJob:
    """An overlay of several setups' curves."""

    path: Path
    overlay: Overlay
    title: str
    finding: str = ""
    rig: str = ""


@dataclass(frozen=True)
class TradeJob:
    """One result over another, with the demand's line."""

    path: Path
    trade: Trade
    limit: float | None
    title: str
    finding: str = ""
    rig: str = ""


@dataclass(frozen=True)
class BandsJob:
    """What setups sound like, in third octaves over the room's own."""

    path: Path
    sounds: tuple[tuple[str, KeptSound], ...]
    title: str
    finding: str = ""
    rig: str = ""


@dataclass(frozen=True)
class HeldJob:
    """What held each setup, as shares of the load."""

    path: Path
    shares: tuple[tuple[str, Mapping[str, float]], ...]
    title: str
    finding: str = ""
    rig: str = ""


@dataclass(frozen=True)
class ChainJob:
    """What each step of a chain of changes did."""

    path: Path
    steps: tuple[str, ...]
    columns: tuple[ChainColumn, ...]
    title: str
    finding: str = ""
    rig: str = ""


@dataclass(frozen=True)
class RunJob:
    """A run's time chart, with another run's curves beside its own where it is shown before and after. `said` stands above it."""

    path: Path
    recording: Recording
    reading: Reading
    facts: Facts
    title: str
    finding: str = ""
    extras: Extras = field(default_factory=Extras)
    said: str = ""


@dataclass(frozen=True)
class SoundJob:
    """How a run sounded from beginning to end."""

    path: Path
    recording: Recording
    title: str
    finding: str = ""


@dataclass(frozen=True)
class SurfaceJob:
    """Faces of setups under a load, with their pictures."""

    path: Path
    faces: tuple[Face, ...]
    title: str
    finding: str
    rig: str


@dataclass(frozen=True)
class FitJob:
    """A product on its rig."""

    path: Path
    drawing: Elevation
    rig: str


@dataclass(frozen=True)
class CardJob:
    """A card, in one look."""

    path: Path
    words: CardText
    chart: CardChart
    look: CardLook


Shown = LadderJob | CurvesJob | TradeJob | BandsJob | SurfaceJob | HeldJob | ChainJob | RunJob | FitJob
"""Figures that stand in the page."""
Job = Shown | SoundJob | CardJob


def lead_of(
    job: LadderJob | CurvesJob | TradeJob | BandsJob | SurfaceJob | HeldJob | ChainJob | RunJob,
) -> str:
    """What stands above a figure: the first sentence of its finding, else what is drawn."""
    if isinstance(job, RunJob):
        return job.said or job.title
    first = job.finding.partition(". ")[0].partition("; ")[0].rstrip(".")
    return f"{first}." if first else job.title


def _ladder(job: LadderJob) -> Drawn:
    from samovar.figures.ladder_chart import ladder_chart

    return ladder_chart(job.rungs, job.measure, job.reference, lead_of(job), job.asked, job.title)


def _trade(job: TradeJob) -> Drawn:
    from samovar.figures.trade_chart import trade_chart

    return trade_chart(job.trade, job.limit, lead_of(job), job.title)


def _curves(job: CurvesJob) -> Drawn:
    from samovar.figures.overlay_chart import overlay_chart

    # Its finding says what is drawn, no more.
    return overlay_chart(job.overlay, job.title)


def _bands(job: BandsJob) -> Drawn:
    from samovar.figures.bands_chart import bands_chart

    return bands_chart(job.sounds, lead_of(job), job.title)


def _surface(job: SurfaceJob) -> Drawn:
    from samovar.figures.surface_chart import surface_chart

    return surface_chart(job.faces, lead_of(job), job.title)


def _sound(job: SoundJob) -> Drawn:
    from samovar.figures.sound_chart import sound_chart

    return sound_chart(job.recording, job.finding or job.title, job.title)


def _held(job: HeldJob) -> Drawn:
    from samovar.figures.held_chart import held_chart

    return held_chart(job.shares, lead_of(job), job.title)


def _chain(job: ChainJob) -> Drawn:
    from samovar.figures.chain_chart import chain_chart

    return chain_chart(job.steps, job.columns, lead_of(job), job.title)


def _run(job: RunJob) -> Drawn:
    from samovar.figures.time_chart import time_chart

    return time_chart(job.recording, job.reading, job.facts, lead_of(job), job.extras, job.title)


def _fit(job: FitJob) -> Drawn:
    from samovar.figures.elevation_chart import elevation_chart

    return elevation_chart(job.drawing, job.rig)


def _card(job: CardJob) -> Drawn:
    return card(job.words, job.chart, job.look)


_DRAWN_BY: dict[type, Callable[[Any], Drawn]] = {
    LadderJob: _ladder, TradeJob: _trade, CurvesJob: _curves, BandsJob: _bands, SurfaceJob: _surface, SoundJob: _sound, HeldJob: _held, ChainJob: _chain, RunJob: _run, FitJob: _fit,
    CardJob: _card,
}  # fmt: skip
"""What draws each kind of figure."""


def files_of(job: Job) -> list[Path]:
    """The files a job writes."""
    if isinstance(job, CardJob):
        return [job.path.with_name(job.path.name + ending) for ending in ENDINGS]
    names = [f"{job.path.name}{column}{ending}" for column in ("", COLUMN) for ending in FORMATS]
    return [job.path.with_name(n) for n in names]


def draw(job: Job, said: Callable[[bytes], bytes] = bytes) -> list[Path]:
    """Draw a job for the page's width and for a column, as SVG and PDF, a card as SVG and PNG; the answer is the files. `said`
    makes of an SVG the one that is written.

    Raises:
        InputError: the place cannot be written.
    """
    from samovar.figures.write import write_as_picture, write_for_print

    figure = _DRAWN_BY[type(job)](job)
    write = write_as_picture if isinstance(job, CardJob) else write_for_print
    return write(figure, job.path, said)
