"""A review published: one folder with index.html, figures, data, method and caveats."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from functools import partial
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.claim_checks import check_claim
from samovar.archive.deciding import hardest_load
from samovar.archive.records import Review, Run
from samovar.archive.review_data import ReviewData, load_review
from samovar.archive.rig_comparison import compare_all
from samovar.core.elevation import elevation
from samovar.core.entered import free_stem
from samovar.core.judgement import MEANING
from samovar.core.measured import Measured
from samovar.core.recording import Recording
from samovar.core.results.figure import figure_of
from samovar.exchange.export import export_recording, facts_beside
from samovar.exchange.problems import InputError
from samovar.exchange.whole_file import write_whole, write_whole_bytes
from samovar.figures.card import ENDINGS, LOOKS
from samovar.figures.sound_chart import has_sound
from samovar.figures.time_chart import Extras, HandPoint
from samovar.figures.write import COLUMN, FORMATS
from samovar.publish.again import keep_edition
from samovar.publish.article import Article, Picture
from samovar.publish.card import card_of
from samovar.publish.comparison_figures import Comparison, comparison, load_stems
from samovar.publish.compose import compose, picture_of
from samovar.publish.data_package import SCRIPT, Imprint, Samples, write_package, write_table
from samovar.publish.figure_jobs import CardJob, FitJob, Job, RunJob, SoundJob, files_of
from samovar.publish.figures import FEW, Drawing, draw_all, fingerprint
from samovar.publish.folder import PublicationFolder
from samovar.publish.imprint import form_of
from samovar.publish.page import page_of
from samovar.publish.pdf import pdf_document
from samovar.publish.products import Fitted, fitted_products
from samovar.publish.sounds import sounds_of
from samovar.publish.surface_tables import surface_tables
from samovar.publish.tables import (
    PublishedRun,
    reading_table,
    result_table,
    run_table,
    setup_table,
    spread_table,
)
from samovar.report import headline


class Cancelled(Exception):
    """Publishing was cancelled; what is written stays."""


def publish_review(
    archive: Archive,
    review: Review,
    folder: Path,
    on_progress: Callable[[int, int], None] | None = None,
    into: bool = False,
    day: str = "",
) -> list[Path]:
    """Write a review.

    Args:
        archive: where its runs are.
        review: what to publish.
        folder: made where it is missing; what an earlier edition wrote in it is replaced.
        on_progress: told how many steps are done of how many.
        into: the folder may hold what is not ours.
        day: of the edition, ISO 8601; today where empty.

    Returns:
        The files written.

    Raises:
        InputError: the folder cannot be written or holds what is not ours, or the review has no run yet.
    """
    data = load_review(archive, review)
    if not data.cells:
        raise InputError(f"{review.slug}: this review has no run yet; record one first")
    place = PublicationFolder(folder, into)
    # Where nothing was drawn before all is to be drawn: those who draw get ready while it is worked out what.
    with Drawing(place.fresh and len(data.every()) > FEW) as drawing:
        return _publish(archive, data, place, folder, drawing, on_progress, day or _today())


def _publish(
    archive: Archive,
    data: ReviewData,
    place: PublicationFolder,
    folder: Path,
    drawing: Drawing,
    on_progress: Callable[[int, int], None] | None,
    day: str,
) -> list[Path]:
    review = data.review
    runs = [(cell, run, result) for cell in data.cells.values() for run, result in cell.runs]
    runs.sort(key=lambda item: item[1].number)
    loads = [load for load in review.loads if data.under(load)]
    taken: set[str] = set()
    stems = load_stems(loads, taken)

    def drawn_at(name: str) -> Path:
        """Where a figure goes: all its files are this edition's."""
        for ending in FORMATS:
            place.file("figures", name + ending)
            place.file("figures", name + COLUMN + ending)
        return folder / "figures" / name

    keys = list(dict.fromkeys([data.subject.key, *LADDERS]))
    compared: dict[str, Comparison] = {
        load: comparison(archive, data, load, keys, partial(_named, drawn_at, stems[load])) for load in loads
    }
    jobs: list[Job] = [job for found in compared.values() for job in found.jobs]
    fitted = fitted_products(data, hardest_load(data) or loads[-1])
    fits = {
        key: FitJob(drawn_at(free_stem(f"fit {job.path.name}", taken, "fit")), job.drawing, job.rig)
        for key, job in _fit_jobs(fitted).items()
    }
    jobs += fits.values()
    charts: dict[str, RunJob] = {}
    published: list[PublishedRun] = []
    exports: list[tuple[Run, Recording, Path]] = []
    for cell, run, result in runs:
        recording = archive.runs.recording(run.number)
        name = free_stem(f"{run.id} {cell.setup.name} {cell.load}", taken, run.id)
        title = f"{cell.setup.name}, {cell.load}, pass {run.pass_number}"
        charts[run.id] = RunJob(
            drawn_at(name),
            recording,
            result.reading,
            run.facts,
            title,
            result.reason or headline(result.reading),
            Extras(by_hand=hand_points(archive, run)),
            f"{cell.setup.name}: {MEANING[judged]}." if (judged := result.reading.judgement) else "",
        )
        if has_sound(recording):
            jobs.append(SoundJob(drawn_at(f"{name}-sound"), recording, f"How it sounded: {title}"))
        data_file = place.file("data", f"{run.id}.csv")
        place.file("data", facts_beside(data_file).name)
        exports.append((run, recording, data_file))
        published.append(PublishedRun(review.slug, cell.setup, run, result, f"data/{run.id}.csv"))
    jobs += charts.values()
    singles = {name: place.file(name) for name in ("index.html", "review.pdf")}
    for look in LOOKS:
        for ending in ENDINGS:
            place.file(look.name + ending)
    tables = [
        result_table(published),
        reading_table(archive, published),
        run_table(published),
        setup_table(data),
        *surface_tables(archive, published),
    ]
    for name in (*(f"{t.name}.csv" for t in tables), SPREADS, "datapackage.json", "README.md", SCRIPT):
        place.file(name)
    claims = archive.reviews.claims(review.id)
    checked = [(c, check_claim(data, c)) for c in claims]
    caveats = _caveats(archive, data, loads)
    form = form_of(archive)
    sounds = sounds_of(archive, data, place.file)
    article, edition = compose(
        archive, data, checked, compared, charts, (fitted, fits), published, caveats, day, form, sounds
    )
    words, chart = card_of(data, article)
    jobs += [CardJob(folder / look.name, words, chart, look) for look in LOOKS]
    # What stands there already, drawn from the very same, is not drawn again.
    due = [
        job
        for job in jobs
        if not place.stands(
            job.path.name, (f.relative_to(folder).as_posix() for f in files_of(job)), fingerprint(job, form)
        )
    ]
    total, done = len(due) + STAGES, 0

    def step() -> None:
        nonlocal done
        done += 1
        if on_progress:
            on_progress(done, total)

    photos = {
        p.name: place.file("photographs", f"{p.name}.{p.kind}") for p in archive.photographs.of(review.id)
    }
    place.announce()
    written: list[Path] = []
    for run, recording, data_file in exports:
        read = archive.runs.hands.of(run.number)
        export_recording(
            recording,
            data_file,
            run.facts,
            *archive.runs.annotations.by_hand(run.number),
            read,
            archive.runs.findings.reference_clock(run.number),
        )
        written.append(data_file)
    for _ in drawing.draw(due, step, form) if drawing.many else draw_all(due, step, form):
        pass
    written += [f for job in jobs for f in files_of(job)]
    subject = form.text(data.subject.label)
    shown = {p.path for p in _shown(article)}
    drawn_all = (form.article(picture_of(job)) for found in compared.values() for job in found.jobs)
    others = [picture for picture in drawn_all if picture.path not in shown]
    write_whole(singles["index.html"], page_of(article, folder, subject, others, form))
    step()
    write_whole_bytes(singles["review.pdf"], pdf_document(article, folder, subject, form))
    step()
    for photo in article.photographs:
        write_whole_bytes(photos[photo.name], photo.image)
        written.append(photos[photo.name])
    for piece in article.sounds.files if article.sounds is not None else ():
        write_whole_bytes(folder / piece.file, piece.flac)
        written.append(folder / piece.file)
    tables.append(spread_table(data))
    for table in tables:
        write_table(table, folder / f"{table.name}.csv")
        written.append(folder / f"{table.name}.csv")
    imprint = Imprint(article.author, article.licence)
    samples = [Samples(f"data/{run.id}.csv", run.id, recording.channels) for run, recording, _ in exports]
    written += write_package(
        folder,
        review.slug,
        review.name,
        review.question,
        edition.number,
        edition.day,
        imprint,
        tables,
        samples,
    )
    written += [*singles.values(), *(facts for _, _, f in exports if (facts := facts_beside(f)).exists())]
    archive.editions.keep(review.id, edition)
    keep_edition(archive, review, edition.number, folder, written)
    place.close()
    step()
    return written


LADDERS = ("rise", "work", "noise", "clock", "power", "score", "time")
"""What is drawn after what the review is about: what readers look for. The table of criteria has the rest."""
SPREADS = "spreads.csv"


def hand_points(archive: Archive, run: Run) -> tuple[HandPoint, ...]:
    """What people read of a run at a moment: levels, and temperatures of spots."""
    return tuple(
        HandPoint(
            "noise" if r.kind == "noise" else "temperature",
            "" if r.kind == "noise" else r.place,
            r.at_s,
            Measured(r.value, r.half_width, r.bound),
        )
        for r in archive.runs.hands.of(run.number)
        if r.at_s is not None and r.value is not None and (r.kind == "noise" or r.unit == "°C")
    )


STAGES = 3
"""Steps after the figures: the page, the document, the data package."""


def _named(place: Callable[[str], Path], stem: str, name: str) -> Path:
    return place(f"{stem}-{name}")


def _today() -> str:
    return datetime.now(UTC).date().isoformat()


def _shown(article: Article) -> list[Picture]:
    return [p for section in article.sections for p in section.pictures]


def _fit_jobs(fitted: list[Fitted]) -> dict[int, FitJob]:
    """A drawing for each product whose height could be in the way, by the product's key; its path is its name yet."""
    jobs = {}
    for one in fitted:
        drawing = elevation(one.product, one.rig.details) if one.rig is not None else None
        if drawing is not None and one.rig is not None:
            jobs[one.product.id] = FitJob(Path(one.product.name.replace("/", " ")), drawing, one.rig.name)
    return jobs


def _caveats(archive: Archive, data: ReviewData, loads: list[str]) -> list[str]:
    found: list[str] = []
    for load in loads:
        for key in ("rise", "work"):
            for item in (item for one in compare_all(data, load, figure_of(key)) for item in one.audit):
                text = f"{load}: {item.text}"
                if item.level == "caution" and text not in found:
                    found.append(text)
    for cell in data.cells.values():
        unguarded = [run.id for run, _ in cell.runs if run.unguarded]
        if unguarded:
            found.append(
                f"{cell.setup.name}, {cell.load}: {', '.join(unguarded)} ran unguarded, "
                "since nothing on the machine stood for the die"
            )
    return [*found, *_noise_words(archive, data)]


def _noise_words(archive: Archive, data: ReviewData) -> list[str]:
    """With what, and where, noise was read by hand."""
    numbers = [run.number for cell in data.cells.values() for run, _ in cell.runs if run.left_out is None]
    read = [r for hands in archive.runs.hands.of_all(numbers).values() for r in hands if r.kind == "noise"]
    ways = set()
    for one in read:
        where = f" at {one.distance_m:.3g} m" if one.distance_m is not None else ""
        over = f" over a background of {one.background:g} dBA" if one.background is not None else ""
        ways.add(f"{one.instrument or 'a sound level meter'}{where}{over}")
    if not ways:
        return []
    bounds = sum(one.bound is not None for one in read)
    hidden = f"; {bounds} of {len(read)} are no more than bounds" if bounds else ""
    return [
        f"noise was read by hand with {', '.join(sorted(ways))}, and holds for {data.review.compared_at_m:g} m; "
        f"what the meter leaves open is in the half-width{hidden}"
    ]
