"""What `samovar compare` answers: the contract's rows, and the same as text."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from samovar.archive.archive import Archive
from samovar.archive.records import Review
from samovar.archive.review_data import ReviewData, load_review
from samovar.archive.rig_comparison import Across, RigComparison, across, compare_on, rigs_of
from samovar.core.compare.experiment import Experiment
from samovar.core.compare.rungs import Difference, Rung
from samovar.core.compare.terms import Terms
from samovar.core.results.figure import FIGURES, PRICE, Figure, figure_of
from samovar.exchange.problems import InputError
from samovar.report import table


def figure_named(key: str) -> Figure:
    """The figure of this key.

    Raises:
        InputError: none of this key, with those there are.
    """
    try:
        return figure_of(key)
    except KeyError:
        names = ", ".join(f.key for f in FIGURES)
        raise InputError(
            f"--by {key}: no such figure; name one of {names}, or STATISTIC:QUANTITY[:PART], such as steady:temperature:memory"
        ) from None


def load_named(data: ReviewData, load: str | None) -> str:
    """The load that a call names, else the last of the review's that has runs.

    Raises:
        InputError: no such load, or no run at all.
    """
    loads = data.review.loads
    if load is not None:
        if load not in loads:
            raise InputError(f"--load {load}: {data.review.slug} has no such load; it has {', '.join(loads)}")
        return load
    measured = [one for one in loads if data.under(one)]
    if not measured:
        raise InputError(f"{data.review.slug}: this review has no run yet; record one first")
    return measured[-1]


def compared_rigs(
    archive: Archive, review: Review, load: str | None, figure: Figure | None, terms: Terms, against: str | None, rig: str | None,
) -> tuple[ReviewData, list[RigComparison]]:  # fmt: skip
    """Every rig that a call asks for.

    Raises:
        InputError: no such rig, setup or load, or a figure that means nothing under these terms.
    """
    data = load_review(archive, review)
    name = load_named(data, load)
    figure = figure or data.subject
    rigs = rigs_of(review)
    if rig is not None and rig not in rigs:
        raise InputError(f"--rig {rig}: {review.slug} has no such rig; it has {', '.join(rigs)}")
    if against is not None:
        setup = next((s for s in review.setups if s.name == against), None)
        if setup is None:
            names = ", ".join(s.name for s in review.setups)
            raise InputError(f"--against {against}: {review.slug} has no such setup; it has {names}")
        if rig is not None and setup.rig_name != rig:
            raise InputError(
                f"--against {against}: it is on {setup.rig_name}, not on {rig}; unlike rigs have no ladder in common"
            )
    found = []
    for one in [rig] if rig is not None else rigs:
        mine = against if any(s.name == against and s.rig_name == one for s in review.setups) else None
        try:
            compared = compare_on(data, name, figure, one, terms, mine)
        except ValueError as problem:
            raise InputError(f"{terms.words}: {problem}") from None
        found.append(compared)
    return data, found


def compared_rows(data: ReviewData, found: Sequence[RigComparison], whole: bool) -> dict[str, Any]:
    """The answer as the contract has it; `whole`: one rig, so that its ladder stands at the top."""
    first = found[0]
    head: dict[str, Any] = {
        "review": data.review.slug,
        "load": first.load,
        "figure": {
            "key": first.figure.key, "label": first.figure.label, "unit": first.figure.unit,
            "better": "less" if first.figure.lower_is_better else "more",
        },
        "terms": {"noise_dba": first.terms.noise_dba, "heat_w": first.terms.heat_w},
    }  # fmt: skip
    if whole:
        return {**head, **_rig_rows(first)}
    return {
        **head,
        "rigs": [{"rig": one.rig, **_rig_rows(one)} for one in found],
        "across": [
            {"product": a.product, "rig": a.rig, "difference": _difference_row(a.difference)}
            for a in across(data, found)
        ],
    }


def _rig_rows(one: RigComparison) -> dict[str, Any]:
    return {
        "model": _model_row(one.ladder.experiment, one.figure),
        "rungs": [_rung_row(r, one.rig) for r in one.ladder.rungs],
        "level": [list(group) for group in one.ladder.level],
        "left_out": [{"setup": name, "why": why} for name, why in one.ladder.left_out.items()],
        "audit": [{"level": item.level, "text": item.text} for item in one.audit],
    }


def _model_row(experiment: Experiment | None, figure: Figure) -> dict[str, Any] | None:
    if experiment is None:
        return None
    drift = experiment.drift
    return {
        "passes": len(experiment.passes),
        "setups": len(experiment.setups),
        "pass_sd": experiment.pass_sd,
        "dof": experiment.pooled.dof if experiment.pooled is not None else None,
        "drift_per_run": drift.value if drift is not None else None,
        "drift_half_width_95": drift.half_width if drift is not None else None,
        "words": model_words(experiment, figure),
    }


def model_words(experiment: Experiment, figure: Figure) -> str:
    """What the comparison stands on, in a sentence."""
    passes, setups = len(experiment.passes), len(experiment.setups)
    words = f"{passes} {'pass' if passes == 1 else 'passes'} of {setups} {'setup' if setups == 1 else 'setups'} as one experiment"
    if experiment.pass_sd is None:
        return (
            f"{words}; none was repeated, so nothing tells how a pass scatters and no difference is claimed"
        )
    spread, pooled = experiment.spread, experiment.pooled
    words += f"; a pass scatters by {experiment.pass_sd:.2g} {figure.unit}".rstrip()
    if pooled is not None and (spread is None or pooled.dof > spread.dof):
        words += ", by these passes and by what this bench showed before"
    if experiment.unequal:
        words += ", each setup by its own"
    if experiment.drift is not None:
        words += f"; drift {experiment.drift.text(figure.difference_unit, signed=True)} a run, taken off"
    return words


def _rung_row(rung: Rung, rig: str) -> dict[str, Any]:
    return {
        "setup": rung.name, "rig": rig, "value": rung.figure.value, "half_width_95": rung.figure.half_width,
        "passes": rung.passes, "bound": rung.figure.bound, "source": rung.source,
        "difference": _difference_row(rung.difference) if rung.difference is not None else None,
    }  # fmt: skip


def _difference_row(gap: Difference) -> dict[str, Any]:
    return {
        "to": gap.other, "value": gap.value, "half_width_95": gap.half_width, "p": gap.p, "bound": gap.bound,
        "words": gap.words(),
    }  # fmt: skip


def compared_text(data: ReviewData, found: Sequence[RigComparison]) -> str:
    """The same for people."""
    parts = []
    for one in found:
        figure = one.figure
        where = f", {one.rig}" if len(found) > 1 else ""
        heading = f"{figure.label[:1].upper()}{figure.label[1:]}"
        if figure.quantity != PRICE.quantity:
            heading += f" under {one.load}, {one.terms.words}"
        lines = [f"{heading}{where}", ""]
        rows = [
            ("setup", figure.unit or "value", "passes", f"to {one.reference}" if one.reference else "", "")
        ]
        for rung in one.ladder.rungs:
            gap = rung.difference
            rows.append(
                (
                    rung.name,
                    figure.text(rung.figure),
                    str(rung.passes),
                    "the reference"
                    if gap is None and rung.name == one.reference
                    else figure.difference_text(gap.measured, signed=True)
                    if gap is not None
                    else "",
                    gap.words() if gap is not None else "",
                )
            )
        lines.append(
            table(rows, right=(1, 2, 3)) if one.ladder.rungs else f"No run carries {figure.label} here."
        )
        lines += [f"level: {', '.join(group)}" for group in one.ladder.level]
        lines += [f"left out: {name}: {why}" for name, why in one.ladder.left_out.items()]
        if one.ladder.experiment is not None:
            lines += ["", f"{model_words(one.ladder.experiment, figure)}."]
        lines += ["", "Like for like?", *(f"  {item.level}: {item.text}" for item in one.audit)]
        parts.append("\n".join(lines))
    gains = across(data, found)
    if gains:
        parts.append("\n".join(["On each rig:", *(_gain_words(a, found[0].figure) for a in gains)]))
    return "\n\n".join(parts)


def _gain_words(a: Across, figure: Figure) -> str:
    return f"  {a.product}, {a.rig}: {figure.difference_text(a.difference.measured, signed=True)} to {a.difference.other}: {a.difference.words()}"
