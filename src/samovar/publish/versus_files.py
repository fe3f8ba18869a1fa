"""What Versus shows as files: figures as SVG and PDF, tables as CSV."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Sequence
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import RigComparison, reference_on
from samovar.archive.standing import arrangement_name, standing_on
from samovar.archive.versus_views import criteria_on, loads_on, trade_on
from samovar.core.compare.criteria import Criterion
from samovar.core.compare.rungs import Rung
from samovar.core.entered import free_stem
from samovar.core.overlay import Overlay
from samovar.core.results.figure import Figure
from samovar.exchange.problems import InputError
from samovar.exchange.whole_file import whole_file
from samovar.publish.folder import make_folder


def write_view(
    archive: Archive, data: ReviewData, found: RigComparison, view: str, across: Figure, folder: Path, curves: Overlay | None,
) -> list[Path]:  # fmt: skip
    """Write one view of Versus.

    Raises:
        InputError: the folder cannot be written, or the view shows nothing.
    """
    make_folder(folder)
    stem = free_stem(
        f"{found.load} {found.figure.key.replace(':', ' ')} {found.terms.words if found.terms.words != 'as they ran' else ''}".strip(),
        set(),
        "view",
    )
    if view == "standing":
        return _standing(archive, data, found, folder / f"{stem}-standing")
    if view == "loads":
        rows: Sequence[Criterion] = loads_on(data, found.figure, found.rig).rows
        title = f"{found.figure.label.capitalize()}, all loads"
        return _criteria(
            data, found, rows, title, folder / f"{free_stem(found.figure.key, set(), 'figure')}-loads"
        )
    if view == "criteria":
        rows = criteria_on(data, found.load, found.rig, found.terms)
        title = f"Criteria, {found.load}"
        return _criteria(
            data, found, rows, title, folder / f"{free_stem(found.load, set(), 'load')}-criteria"
        )
    if view == "trade":
        return _trade(data, found, across, folder / f"{stem}-trade")
    if view == "overlay":
        return _overlay(curves, found, folder / f"{free_stem(found.load, set(), 'load')}-curves")
    return _ladder(found, folder / f"{stem}-ladder")


def _drawn(figure: object, place: Path) -> list[Path]:
    from matplotlib.figure import Figure as Drawn

    from samovar.figures.write import write_both

    assert isinstance(figure, Drawn)
    return write_both(figure, place)


def _table(place: Path, rows: Iterable[Sequence[object]]) -> Path:
    path = place.with_name(place.name + ".csv")
    with whole_file(path) as part, part.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows(rows)
    return path


def _ladder(found: RigComparison, place: Path) -> list[Path]:
    from samovar.figures.ladder_chart import ladder_chart

    if not found.ladder.rungs:
        raise InputError(
            f"no setup has {found.figure.label} {found.terms.words}: choose another figure or other terms"
        )
    title = f"{found.figure.label.capitalize()}, {found.load}, {found.terms.words}"
    head = (
        "setup",
        "rig",
        "value",
        "half_width_95",
        "unit",
        "bound",
        "passes",
        "to",
        "difference",
        "difference_half_width_95",
        "p",
        "words",
    )
    rows: list[Sequence[object]] = [head]
    for r in found.ladder.rungs:
        gap = r.difference
        rest = (
            ("", "", "", "", "")
            if gap is None
            else (gap.other, gap.value, gap.half_width, gap.p, gap.words())
        )
        rows.append(
            (
                r.name,
                found.rig,
                r.figure.value,
                r.figure.half_width,
                found.figure.unit,
                r.figure.bound,
                r.passes,
                *rest,
            )
        )
    chart = ladder_chart(found.ladder.rungs, found.figure, found.reference, title)
    return [*_drawn(chart, place), _table(place, rows)]


def _trade(data: ReviewData, found: RigComparison, across: Figure, place: Path) -> list[Path]:
    from samovar.figures.trade_chart import trade_chart

    shown = trade_on(data, found, across)
    if shown is None or not shown.points:
        raise InputError(f"no setup has both {found.figure.label} and {across.label}: choose other figures")
    limit = data.review.noise_limit_dba if across.quantity == "noise" else None
    head = ("setup", shown.across.key, "half_width_95", shown.up.key, "half_width_95", "unbeaten")
    rows: list[Sequence[object]] = [head]
    rows += [
        (p.name, p.across.value, p.across.half_width, p.up.value, p.up.half_width, p.unbeaten)
        for p in shown.points
    ]
    title = f"{shown.up.label.capitalize()} over {shown.across.label}, {found.load}"
    return [*_drawn(trade_chart(shown, limit, title), place), _table(place, rows)]


def _criteria(
    data: ReviewData, found: RigComparison, rows: Sequence[Criterion], title: str, place: Path
) -> list[Path]:
    from samovar.figures.criteria_chart import criteria_chart

    names = [s.name for s in data.review.setups if s.rig_name == found.rig]
    if not rows:
        raise InputError("no run carries a figure under this load yet: record one first")
    lines: list[Sequence[object]] = [("criterion", "better", *names, "verdict", "best")]
    lines += [
        (r.label, r.better, *(r.cells.get(n, "") for n in names), r.verdict, ", ".join(r.best)) for r in rows
    ]
    return [*_drawn(criteria_chart(rows, names, title), place), _table(place, lines)]


def _standing(archive: Archive, data: ReviewData, found: RigComparison, place: Path) -> list[Path]:
    """The standing table, and as a figure its ladder."""
    from samovar.figures.ladder_chart import ladder_chart

    shown = standing_on(archive, data.review, found.rig, found.load, found.figure)
    if not shown.rows:
        raise InputError(
            f"no run of any review carries {found.figure.label} under {found.load} on {found.rig}"
        )
    base = reference_on(data.review, found.rig)
    rows: list[Sequence[object]] = [
        (
            "arrangement",
            "value",
            "half_width_95",
            "unit",
            "difference",
            "difference_half_width_95",
            "passes",
            "reviews",
        )
    ]
    for r in shown.rows:
        gap = (r.difference.value, r.difference.half_width) if r.difference is not None else ("", "")
        rows.append(
            (
                r.name,
                r.value.value,
                r.value.half_width,
                found.figure.unit,
                *gap,
                r.passes,
                ", ".join(r.reviews),
            )
        )
    rungs = [Rung(r.name, r.value, r.passes, None, None) for r in shown.rows]
    title = f"{found.figure.label.capitalize()}, {found.load}, all reviews on {found.rig}"
    chart = ladder_chart(rungs, found.figure, arrangement_name(base) if base else None, title)
    return [*_drawn(chart, place), _table(place, rows)]


def _overlay(curves: Overlay | None, found: RigComparison, place: Path) -> list[Path]:
    from samovar.figures.overlay_chart import overlay_chart

    if curves is None:
        raise InputError("no finished run under this load yet: record one first")
    rows: list[Sequence[object]] = [("seconds", *curves.names)]
    rows += [
        (t, *(None if v != v else v for v in column))
        for t, column in zip(curves.time_s.tolist(), curves.values.T.tolist(), strict=True)
    ]
    chart = overlay_chart(curves, f"{curves.label.capitalize()}, {found.load}")
    return [*_drawn(chart, place), _table(place, rows)]
