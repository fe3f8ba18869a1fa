"""The article of a review: everything a publication says, put together from its runs, claims, demands and products."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from samovar.archive.archive import Archive
from samovar.archive.before_after import steps_on
from samovar.archive.claim_checks import claim_made
from samovar.archive.deciding import hardest_load
from samovar.archive.editions import AUTHOR, LICENCE
from samovar.archive.records import Claim
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import across, compare_all, setups_on
from samovar.archive.versus_views import criteria_on, lacking_on
from samovar.core.claims.judged import Checked
from samovar.core.conclusion import gathered
from samovar.core.edition import Edition, changes_between
from samovar.core.judgement import MEANING
from samovar.core.live_fields import passages, with_values
from samovar.core.measured import Measured
from samovar.core.results.figure import Figure, figure_of
from samovar.publish.article import Article, ClaimLine, Grid, Photo, Picture, Section, Sounds, criteria_grid
from samovar.publish.comparison_figures import Comparison
from samovar.publish.data_package import LICENCES
from samovar.publish.draft.draft import standing_draft, values_in
from samovar.publish.figure_jobs import FitJob, RunJob, Shown
from samovar.publish.form import PLAIN, Form
from samovar.publish.markdown import plain_text
from samovar.publish.method import method_paragraphs
from samovar.publish.products import Fitted, product_entries
from samovar.publish.tables import PublishedRun

ON_THE_PAGE = (
    "chain",
    "rise",
    "work",
    "noise",
    "trade",
    "price",
    "sound",
    "surface-0",
    "surface-1",
    "held",
    "before-0",
    "before-1",
    "curves",
)
"""The figures that stand in the page under a load, after that of what the review is about; the rest are files."""


def picture_of(job: Shown) -> Picture:
    """A figure as it stands in the article."""
    if isinstance(job, FitJob):
        return Picture(
            job.path, f"{job.rig}: does it fit?", "The clearances are dimensioned where they decide."
        )
    return Picture(job.path, job.title, job.finding)


def compose(
    archive: Archive,
    data: ReviewData,
    checked: Sequence[tuple[Claim, Checked]],
    compared: Mapping[str, Comparison],
    charts: Mapping[str, RunJob],
    fitted: tuple[list[Fitted], Mapping[int, FitJob]],
    runs: Sequence[PublishedRun],
    caveats: Sequence[str],
    day: str,
    form: Form = PLAIN,
    sounds: Sounds | None = None,
) -> tuple[Article, Edition]:
    """The article, and the edition it is: the last one's where it says the same, the next one else."""
    review = data.review
    texts = form.texts
    draft = standing_draft(data, [c for _, c in checked], archive.drafts.of(review.id), texts)
    own = with_values(review.verdict.strip() or draft, values_in(data, texts)).strip()
    paragraphs = [
        p for kind, words in passages(own) if kind == "text" for p in words.split("\n\n") if p.strip()
    ]
    said = [*paragraphs, *review.conclusion]
    edition, changes = _edition(archive, data, said, compared, day)
    products, drawings = fitted
    article = Article(
        title=review.name,
        question=review.question,
        lead=plain_text(paragraphs[0]) if paragraphs else "",
        own=own,
        photographs=tuple(
            Photo(p.name, p.caption, p.words, f"photographs/{p.name}.{p.kind}", p.kind, p.image)
            for p in archive.photographs.of(review.id)
        ),
        conclusion=tuple((title, tuple(words)) for title, words in gathered(review.conclusion)),
        claims=tuple(
            ClaimLine(claim_made(data, c), found.sentence, found.state, ", ".join(found.evidence))
            for c, found in checked
        ),
        sections=tuple(_sections(data, compared)),
        lacking=tuple(
            (setup, kind, item)
            for rig in dict.fromkeys(s.rig_name for s in review.setups)
            for setup, lists in lacking_on(data, rig).items()
            for kind, items in lists.items()
            for item in items
        ),
        products=tuple(
            product_entries(archive, products, {k: picture_of(job) for k, job in drawings.items()})
        ),
        sounds=sounds,
        near=_near(data, charts, runs),
        readings=_readings(archive, runs),
        method=tuple(method_paragraphs(archive, data)),
        caveats=tuple(caveats),
        runs=tuple(_run_entry(data.subject, one, charts) for one in runs),
        edition=edition.number,
        day=edition.day,
        changes=tuple(changes),
        author=archive.editions.imprint(AUTHOR),
        licence=licence if (licence := archive.editions.imprint(LICENCE)) in LICENCES else "",
        meaning=dict(MEANING),
    )
    return form.article(article), edition


def _edition(
    archive: Archive, data: ReviewData, words: Sequence[str], compared: Mapping[str, Comparison], day: str
) -> tuple[Edition, list[str]]:
    numbers: dict[str, str] = {}
    for load in compared:
        for key in dict.fromkeys((data.subject.key, "rise", "work", "noise")):
            for one in compare_all(data, load, figure_of(key)):
                for rung in one.ladder.own:
                    numbers[f"{rung.name}, {load}, {one.figure.label}"] = one.figure.text(rung.figure)
    kept = archive.editions.of(data.review.id)
    now = Edition(len(kept) + 1, day, tuple(words), numbers)
    if not kept:
        return now, []
    last = kept[-1]
    if last.same_as(now):
        # Written again: what it changed was against the one before it.
        return last, changes_between(kept[-2], last) if len(kept) > 1 else []
    return now, changes_between(last, now)


def _sections(data: ReviewData, compared: Mapping[str, Comparison]) -> list[Section]:
    main = hardest_load(data)
    loads = sorted(compared, key=lambda load: load != main)
    out = []
    for load in loads:
        found = compared[load]
        gains = across(data, compare_all(data, load, figure_of("rise")))
        for number, (rig, jobs) in enumerate(found.by_rig.items()):
            names = [s.name for s in setups_on(data.review, rig)]
            wanted = dict.fromkeys((data.subject.key, *ON_THE_PAGE))
            words = [
                f"{s.before} to {s.after}: {', '.join(s.work)}; {s.gained()}."
                for s in steps_on(data, load, rig)
            ]
            if number == 0:
                words += [
                    f"{g.product} on {g.rig}: {figure_of('rise').difference_text(g.difference.measured, signed=True)} to {g.difference.other}, "
                    f"{g.difference.words()}."
                    for g in gains
                ]
            title = f"Under {load}" + (f", {rig}" if len(found.by_rig) > 1 else "")
            out.append(
                Section(
                    title,
                    criteria_grid(criteria_on(data, load, rig), names),
                    tuple(picture_of(jobs[key]) for key in wanted if key in jobs),
                    _steps(data, load, names),
                    tuple(words),
                )
            )
    return out


def _steps(data: ReviewData, load: str, names: Sequence[str]) -> Grid | None:
    """What the review is about, and the noise, in each step of the runs that have several; None without any."""
    runs = [(n, r) for n in names for r in data.under(load).get(n, []) if r.steps]
    figures = [figure_of(k) for k in dict.fromkeys((data.subject.key, "noise", "power", "clock", "work"))]
    shown = [f for f in figures if any(f.among(s.results) is not None for _, r in runs for s in r.steps)]
    if not runs or not shown:
        return None
    rows = [
        (name, r.run, s.step.name, *(f.text(v) if (v := f.among(s.results)) else "–" for f in shown))
        for name, r in runs
        for s in r.steps
    ]
    return Grid(("setup", "run", "step", *(f.label for f in shown)), tuple(rows))


def _near(
    data: ReviewData, charts: Mapping[str, RunJob], runs: Sequence[PublishedRun]
) -> tuple[Picture, str] | None:
    """One run from near: under the hardest load, of a setup that was held if there is one, for its ribbon tells most."""
    main = hardest_load(data)
    there = [r for r in runs if r.run.load == main and r.run.state == "sealed" and r.run.left_out is None]
    there.sort(key=lambda r: (not r.result.reading.held, bool(r.result.steps)))
    if not there:
        return None
    job = charts[there[0].run.id]
    return picture_of(job), job.finding


def _readings(archive: Archive, runs: Sequence[PublishedRun]) -> Grid | None:
    """What was read by hand: where, with what, when, the value with its width."""
    rows = []
    for one in runs:
        for r in archive.runs.hands.of(one.run.number):
            value = (
                Measured(r.value, r.half_width, r.bound).text(r.unit) if r.value is not None else "nothing"
            )
            how = [r.instrument] if r.instrument else []
            how += [f"at {r.distance_m:.3g} m"] if r.distance_m is not None else []
            how += [f"over {r.background:g} dBA"] if r.background is not None else []
            how += [f"emissivity {r.emissivity:g}"] if r.emissivity is not None else []
            minute = f"{int(r.at_s // 60)}:{int(r.at_s % 60):02d}" if r.at_s is not None else "whole run"
            rows.append(
                (
                    one.setup.name,
                    one.run.load,
                    one.run.id,
                    f"{r.kind} {r.place}".strip(),
                    value,
                    ", ".join(how),
                    minute,
                )
            )
    heads = ("setup", "load", "run", "what", "value", "how", "at")
    return Grid(heads, tuple(rows)) if rows else None


def _run_entry(subject: Figure, one: PublishedRun, charts: Mapping[str, RunJob]) -> dict[str, Any]:
    run, value = one.run, subject.of(one.result)
    job = charts[run.id]
    return {
        "id": run.id, "setup": one.setup.name, "load": run.load, "pass": run.pass_number, "day": run.started[:10],
        "result": subject.text(value) if value else "not known", "words": job.finding, "left_out": run.left_out,
        "unguarded": run.unguarded, "data": one.file, "figure": f"figures/{Path(job.path).name}",
    }  # fmt: skip
