"""A review published: one folder with index.html, figures, data, method and caveats."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from samovar import __version__
from samovar.archive.archive import Archive
from samovar.archive.records import Review, Run
from samovar.archive.review_data import ReviewData, load_review, shown_figures
from samovar.archive.rig_comparison import compare_all, setup_prices
from samovar.bench.course_spec import clock_text
from samovar.core.elevation import elevation
from samovar.core.entered import free_stem
from samovar.core.judgement import MEANING
from samovar.core.money import amount_text
from samovar.core.recording import Recording
from samovar.core.results.figure import FIGURES, Figure, as_they_ran, figure_of
from samovar.exchange.export import export_recording, facts_beside
from samovar.exchange.problems import InputError
from samovar.exchange.whole_file import write_whole
from samovar.figures.write import FORMATS
from samovar.publish.figures import Comparison, FitJob, Job, RunJob, comparison, draw_all, load_stems
from samovar.publish.folder import PublicationFolder
from samovar.publish.products import Fitted, fitted_products, product_entries
from samovar.publish.verdict import draft_verdict, hardest_load
from samovar.report import headline


class Cancelled(Exception):
    """Publishing was cancelled; what is written stays."""


def publish_review(
    archive: Archive,
    review: Review,
    folder: Path,
    on_progress: Callable[[int, int], None] | None = None,
    into: bool = False,
) -> list[Path]:
    """Write a review.

    Args:
        archive: where its runs are.
        review: what to publish.
        folder: made where it is missing; what an earlier edition wrote in it is replaced.
        on_progress: told how many steps are done of how many.
        into: the folder may hold what is not ours.

    Returns:
        The files written.

    Raises:
        InputError: the folder cannot be written or holds what is not ours, or the review has no run yet.
    """
    data = load_review(archive, review)
    runs = [(cell, run, result) for cell in data.cells.values() for run, result in cell.runs]
    if not runs:
        raise InputError(f"{review.slug}: this review has no run yet; record one first")
    runs.sort(key=lambda item: item[1].number)
    place = PublicationFolder(folder, into)
    loads = [load for load in review.loads if data.under(load)]
    taken: set[str] = set()
    stems = load_stems(loads, taken)

    def drawn_at(name: str) -> Path:
        """Where a figure goes: both its files are this edition's."""
        for ending in FORMATS:
            place.file("figures", name + ending)
        return folder / "figures" / name

    # What the review is about, and what reviews ask for most, are drawn; the table of criteria has the rest.
    keys = list(dict.fromkeys([data.subject.key, *(f.key for f in FIGURES)]))
    compared: dict[str, Comparison] = {}
    for load in loads:
        stem = stems[load]
        compared[load] = comparison(
            archive,
            data,
            load,
            keys,
            lambda key, stem=stem: drawn_at(f"{stem}-{key}"),  # type: ignore[misc]
        )
    jobs: list[Job] = [job for found in compared.values() for job in found.jobs]
    fitted = fitted_products(data, hardest_load(data) or loads[-1])
    fits = {
        key: FitJob(drawn_at(free_stem(f"fit {job.path.name}", taken, "fit")), job.drawing, job.rig)
        for key, job in _fit_jobs(fitted).items()
    }
    jobs += fits.values()
    page = place.file("index.html")
    written: list[Path] = []
    entries: list[dict[str, Any]] = []
    charts: dict[str, RunJob] = {}
    exports: list[tuple[Run, Recording, Path]] = []
    for cell, run, result in runs:
        recording = archive.runs.recording(run.number)
        name = free_stem(f"{run.id} {cell.setup.name} {cell.load}", taken, run.id)
        title = f"{cell.setup.name}, {cell.load}, pass {run.pass_number} ({run.id})"
        charts[run.id] = RunJob(drawn_at(name), recording, result.reading, run.facts, title)
        data_file = place.file("data", f"{name}.csv")
        place.file("data", facts_beside(data_file).name)
        exports.append((run, recording, data_file))
        entries.append(_run_entry(data.subject, cell.setup.name, cell.load, run, result, name))
    jobs += charts.values()
    total, done = len(jobs) + 1, 0

    def step() -> None:
        nonlocal done
        done += 1
        if on_progress:
            on_progress(done, total)

    place.announce()
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
    written += draw_all(jobs, step)
    write_whole(page, _page(archive, data, loads, entries, compared, charts, (fitted, fits)))
    written.append(page)
    place.close()
    step()
    return written


def _fit_jobs(fitted: list[Fitted]) -> dict[int, FitJob]:
    """A drawing for each product whose height could be in the way, by the product's key; its path is its name yet."""
    jobs = {}
    for one in fitted:
        drawing = elevation(one.product, one.rig.details) if one.rig is not None else None
        if drawing is not None and one.rig is not None:
            jobs[one.product.id] = FitJob(Path(one.product.name.replace("/", " ")), drawing, one.rig.name)
    return jobs


def _run_entry(subject: Figure, setup: str, load: str, run: Any, result: Any, name: str) -> dict[str, Any]:
    value = subject.of(result)
    return {
        "id": run.id,
        "setup": setup,
        "load": load,
        "pass": run.pass_number,
        "state": run.state,
        "day": run.started[:10],
        "length": clock_text(run.duration_s),
        "result": subject.text(value) if value else "not known",
        "words": result.reason or headline(result.reading),
        "left_out": run.left_out,
        "unguarded": run.unguarded,
        "name": name,
    }


def _svg_inside(path: Path) -> str:
    """An SVG as it can stand in a page: without the XML prolog."""
    text = path.read_text(encoding="utf-8")
    return text[text.index("<svg") :]


def _drawn(job: Job) -> dict[str, str]:
    """A figure as it stands in the page, from the very job that drew it, and where its files are."""
    svg = job.path.with_name(f"{job.path.name}.svg")
    return {"svg": _svg_inside(svg), "file": f"figures/{job.path.name}"}


def _page(
    archive: Archive,
    data: ReviewData,
    loads: list[str],
    entries: list[dict[str, Any]],
    compared: dict[str, Comparison],
    charts: dict[str, RunJob],
    products: tuple[list[Fitted], dict[int, FitJob]],
) -> str:
    from jinja2 import Environment, PackageLoader, StrictUndefined

    review = data.review
    reference = review.reference.name if review.reference else None
    claims = archive.reviews.claims(review.id)
    checked = [data.check(c) for c in claims]
    main = hardest_load(data) or loads[-1]
    environment = Environment(
        loader=PackageLoader("samovar", "publish/templates"), autoescape=True, undefined=StrictUndefined
    )
    sections = []
    for load in [main, *[x for x in loads if x != main]]:
        drawn = compared[load].by_key
        wanted = dict.fromkeys((data.subject.key, "rise", "work", "noise", "curves"))
        figures = [_drawn(drawn[key]) for key in wanted if key in drawn]
        sections.append(
            {"load": load, "figures": figures, "criteria": _criteria(data, load), "steps": _steps(data, load)}
        )
    fitted, fits = products
    drawings = {key: _drawn(job) for key, job in fits.items()}
    facts = review.setups[0].facts if review.setups else None
    return environment.get_template("index.html.j2").render(
        review=review,
        version=__version__,
        verdict=draft_verdict(data, checked),
        own_words=[p for p in review.verdict.split("\n\n") if p.strip()],
        claims=list(zip(claims, checked, strict=True)),
        sections=sections,
        products=product_entries(archive, fitted, drawings),
        runs=entries,
        caveats=_caveats(archive, data, loads),
        facts=facts,
        reference=reference,
        chart=_main_chart(charts, entries, main),
        subject=data.subject.label,
        meaning=MEANING,
    )


def _main_chart(charts: dict[str, RunJob], entries: list[dict[str, Any]], load: str) -> dict[str, str] | None:
    """One time chart in the page itself: a run that shows the reference under the hardest load."""
    found = [e for e in entries if e["load"] == load and e["state"] == "sealed"]
    return {**_drawn(charts[found[0]["id"]]), "words": found[0]["words"]} if found else None


def _criteria(data: ReviewData, load: str) -> dict[str, Any]:
    """The table of criteria under a load: setups down, measures across."""
    review = data.review
    cells = data.under(load)
    shown = [m for m in shown_figures(data) if m.key != "settle"]
    columns = {
        m.key: {r.name: r for one in compare_all(data, load, m) for r in one.ladder.rungs} for m in shown
    }
    prices = setup_prices(review.setups, data.rates, review.priced)
    rows = []
    for setup in review.setups:
        results = cells.get(setup.name, [])
        judgements = sorted({r.reading.judgement for r in as_they_ran(results) if r.reading.judgement})
        price = prices[setup.name]
        rows.append(
            {
                "name": setup.name,
                "judgement": ", ".join(judgements) or ("not judged" if results else "not measured"),
                "figures": [
                    columns[m.key][setup.name].figure.text(finest=m.finest)
                    if setup.name in columns[m.key]
                    else "–"
                    for m in shown
                ],
                "price": amount_text(price.amount, price.currency)
                if price.amount is not None
                else "no price",
                "passes": sum(r.finished for r in results),
            }
        )
    return {"heads": [f"{m.label}, {m.unit}" for m in shown], "rows": rows}


def _steps(data: ReviewData, load: str) -> dict[str, Any] | None:
    """What the review is about, and the noise, in each step of the runs that have several; None without any."""
    runs = [
        (setup, result) for setup, results in data.under(load).items() for result in results if result.steps
    ]
    if not runs:
        return None
    figures = [f for f in dict.fromkeys((data.subject.key, "noise", "power", "clock", "work")) if f]
    shown = [
        f
        for f in map(figure_of, figures)
        if any(f.among(one.results) is not None for _, result in runs for one in result.steps)
    ]
    rows = [
        (setup, result.run, one.step.name, [f.text(v) if (v := f.among(one.results)) else "–" for f in shown])
        for setup, result in runs
        for one in result.steps
    ]
    return {"heads": [f.label for f in shown], "rows": rows} if shown else None


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
