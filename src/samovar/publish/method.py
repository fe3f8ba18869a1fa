"""How a review's runs were made and read, from the runs themselves: nothing here is said of what was not used."""

from __future__ import annotations

from samovar.archive.archive import Archive
from samovar.archive.review_data import ReviewData
from samovar.archive.rig_comparison import rigs_of, setups_on
from samovar.bench.course_spec import clock_text, spec_of
from samovar.bench.loads.catalogue import KINDS
from samovar.core.fields import known, value_shown
from samovar.core.rig import DETAIL_FIELDS, FACT_FIELDS
from samovar.core.setup_changes import change_words

TOLD_OF_A_RIG = ("memory", "storage", "board", "case", "supply", "system", "firmware", "power_plan")
"""What a reader needs to build the machine again; the rest of a rig is of the bench's own."""
STATISTICS = (
    "Steady is the longest last stretch of a load that drifts by less than 0.05 K/min, its autocorrelation taken into account; what is "
    "left of the approach is taken off. Half-widths are 95 % (k = 2): of a run from the effective number of samples, the sensor's "
    "steps and the room (JCGM 100:2008). The passes of one machine, load and figure are one experiment: a value a setup, one scatter of a "
    "pass for all, a drift over the order of the runs where there are enough. Intervals of differences hold all at once (Dunnett against "
    "the reference, Tukey among all); what all runs share cancels in them."
)


def method_paragraphs(archive: Archive, data: ReviewData) -> list[tuple[str, str]]:
    """Heading and text of each paragraph of the method."""
    found = [*_machines(data), *_setups(data), *_loads(archive, data)]
    found.append(("How it was read", STATISTICS))
    review = data.review
    found.append(
        (
            "What counts as no difference",
            f"No practical difference: the whole interval lies within {review.margin_k:g} K, 1 dB or "
            f"{100 * review.margin_share:g} %. Not shown to differ: neither that nor its contrary.",
        )
    )
    return found


def _machines(data: ReviewData) -> list[tuple[str, str]]:
    out = []
    for name in rigs_of(data.review):
        rig = next((s.rig for s in setups_on(data.review, name) if s.rig is not None), None)
        if rig is None:
            continue
        values = rig.values()
        facts = [
            f"{f.label} {value_shown(f, v)}" for f, v in known(FACT_FIELDS, values) if f.key != "cpu.name"
        ]
        parts = [
            f"{f.label} {value_shown(f, v)}"
            for f, v in known(DETAIL_FIELDS, values)
            if f.key in TOLD_OF_A_RIG
        ]
        chip = values.get("cpu.name")
        words = f"{chip} ({', '.join(facts)})" if chip and facts else str(chip or ", ".join(facts))
        rooms = [
            r.reading.room.value
            for s in setups_on(data.review, name)
            for load in data.review.loads
            for r in data.cell(s, load).results
            if r.reading.room is not None
        ]
        probe = values.get("room_probe")
        room = ""
        if rooms:
            span = (
                f"{min(rooms):.1f} to {max(rooms):.1f} °C"
                if max(rooms) - min(rooms) >= 0.1
                else f"{rooms[0]:.1f} °C"
            )
            room = f" The room was at {span}{f', read by {probe}' if probe else ''}."
        out.append((f"The machine: {name}", f"{words}{'; ' if parts else ''}{', '.join(parts)}.{room}"))
    return out


def _setups(data: ReviewData) -> list[tuple[str, str]]:
    lines = []
    for setup in data.review.setups:
        fitted = " + ".join(p.name for p in setup.products)
        changed = ", ".join(change_words(setup.changes))
        words = "; ".join(x for x in (fitted, changed) if x) or "nothing fitted, nothing changed"
        if words != setup.name:
            lines.append(f"{setup.name}: {words}")
    return [("The setups", ". ".join(lines) + ".")] if lines else []


def _loads(archive: Archive, data: ReviewData) -> list[tuple[str, str]]:
    own, lines = archive.plans.own_loads(), []
    for load in data.review.loads:
        if not data.under(load):
            continue
        what = own[load].words if load in own else KINDS[load].words if load in KINDS else ""
        spec = spec_of(load, archive.plans.body_of(data.review.courses.get(load)), None)
        lines.append(
            f"{load}{f' ({what})' if what else ''}: idle until calm, at most {clock_text(spec.idle_most_s)}; load "
            f"{spec.words()}; cool-down to within {spec.cool_down_k:g} K, at most {clock_text(spec.cool_down_most_s)}"
        )
    by_hand = [
        run.id
        for cell in data.cells.values()
        for run, _ in cell.runs
        if archive.runs.annotations.window(run.number) is not None
    ]
    words = ". ".join(lines) + "."
    if by_hand:
        words += f" The averaging window of {', '.join(by_hand)} was set by hand; all others are found by the rule below."
    return [("The loads", words)] if lines else []
