"""Readings, runs and sources as text that people read on a command line."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any

from samovar.bench.course_spec import clock_text
from samovar.core.agreement import Agreement, agreements
from samovar.core.facts import Facts
from samovar.core.heat_path import heat_path
from samovar.core.judgement import MEANING
from samovar.core.measured import Measured
from samovar.core.quantity import decimals_of, value_text
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.core.results.figure import Figure
from samovar.core.sentence import sentence
from samovar.core.totals import LoadTotals, totals_of
from samovar.sources.protocol import Probed

SPIKES_SHOWN = 5


def table(rows: Sequence[Sequence[str]], right: Sequence[int] = ()) -> str:
    """Rows as aligned columns, the first row the heads; columns in `right` stand at the right."""
    widths = [max(len(row[k]) for row in rows) for k in range(len(rows[0]))]
    lines = []
    for row in rows:
        cells = [
            c.rjust(w) if k in right else c.ljust(w) for k, (c, w) in enumerate(zip(row, widths, strict=True))
        ]
        lines.append("  ".join(cells).rstrip())
    return "\n".join(lines)


def sources_text(found: list[Probed]) -> str:
    """What can be measured here, or what to do where nothing can."""
    if not any(p.status == "ok" and p.channel.quantity == "temperature" for p in found):
        head = "No temperature sensor of this machine can be read"
        hint = "samovar demo shows Samovar with recorded runs; samovar read LOG reads a log made elsewhere."
        return f"{head}.\n{hint}" + (f"\n\n{_sources_table(found)}" if found else "")
    return _sources_table(found)


def _sources_table(found: list[Probed]) -> str:
    rows = [["channel", "quantity", "value", "role", "status", "id"]]
    for p in found:
        status = p.status if p.reason is None else f"{p.status}: {p.reason}"
        rows.append(
            [
                p.channel.name,
                p.channel.quantity,
                value_text(p.value, p.channel.unit),
                p.channel.role,
                status,
                p.channel.id,
            ]
        )
    return table(rows, right=(2,))


def runs_text(entries: list[dict[str, Any]], read: Collection[str], results: Mapping[str, str]) -> str:
    """The list of runs: `read` are those that were read, `results` what they tell in one figure, by name."""
    if not entries:
        return "No runs yet. samovar demo shows some; samovar record makes one."
    # Who recorded it where is of interest as soon as there are several who do.
    several = len({e["bench"] for e in entries}) > 1
    rows = [["run", "review", "setup", "load", "pass", "state", "length", "judgement", "result"]]
    rows[0] += ["recorded by"] if several else []
    for e in entries:
        rows.append(
            [
                e["id"],
                e["review"] or "inbox",
                e["setup"] or "–",
                e["load"],
                str(e["pass"]),
                e["state"],
                clock_text(e["duration_s"]),
                e["judgement"] or ("not judged" if e["id"] in read else "not read yet"),
                results.get(e["id"], "–"),
                *([e["bench"] or "not known"] if several else []),
            ]
        )
    return table(rows, right=(4, 6))


def result_text(figure: Figure, value: Measured) -> str:
    """What a run tells in one figure; of what, where that is not the die's rise."""
    return figure.text(value) if figure.key == "rise" else f"{figure.label} {figure.text(value)}"


def headline(reading: Reading) -> str:
    """The judgement in one sentence with its main figures."""
    if reading.judgement is None:
        if reading.held:
            return "No judgement: the clock was held and nothing shows by what."
        if reading.load_phase() is None:
            return "No load in this recording."
        return "No judgement: this recording carries no clock."
    text = f"{reading.judgement}: {MEANING[reading.judgement]}"
    kinds = (
        ("thermal", "firmware") if reading.judgement in ("rides-limit", "throttles") else ("power", "shared")
    )
    costs = [
        h
        for h in (reading.held or reading.held_graphics)
        if h.clock_loss_pct and (h.by in kinds or reading.judgement == "stopped")
    ]
    if costs and reading.judgement != "clear":
        last = max(costs, key=lambda h: h.end_s - h.start_s)
        work = f", {last.work_loss_pct:.0f} % of its work" if last.work_loss_pct is not None else ""
        text += f" (held by {last.by}, at a cost of {last.clock_loss_pct:.0f} % of the clock it has when free{work})"
    return text + "."


def reading_text(
    reading: Reading, name: str, recording: Recording | None = None, facts: Facts | None = None
) -> str:
    """A reading as an expert's note; with its recording, what the load took and gave as well."""
    lines = [f"{name}: {headline(reading)}"]
    words = sentence(reading, facts or Facts())
    lines += [words, ""] if words else [""]
    interval = f", one sample every {reading.interval_s:.3g} s" if reading.interval_s else ""
    lines.append(
        f"{reading.rows} rows over {clock_text(reading.duration_s)}{interval}, {len(reading.channels)} channels."
    )
    lines += [f"Gap from {clock_text(g.start_s)} to {clock_text(g.end_s)}." for g in reading.gaps]
    phases = ", ".join(f"{p.name} {clock_text(p.start_s)}–{clock_text(p.end_s)}" for p in reading.phases)
    lines.append(f"Phases: {phases or 'none'}.")
    lines.append("")
    window = reading.window
    if window is None:
        lines.append("Steady: no temperature under load to judge by.")
    elif window.start_s is None or window.end_s is None:
        lines.append(f"Steady: {window.reason}.")
    else:
        lines.append(f"Steady from {clock_text(window.start_s)} to {clock_text(window.end_s)}:")
        rows = [["", "mean", "spread", "least", "most"]]
        for channel in reading.channels:
            if (s := reading.steady.get(channel.name)) is not None:
                unit = channel.unit
                finest = decimals_of(unit)
                rows.append(
                    [
                        f"  {channel.name}",
                        Measured(s.mean, s.half_width).text(unit, finest=finest),
                        f"{s.sd:.0f}" if s.sd >= 100 else f"{s.sd:.2g}",
                        value_text(s.minimum, unit),
                        value_text(s.maximum, unit),
                    ]
                )
        lines.append(table(rows, right=(1, 2, 3, 4)))
    lines.append("")
    if reading.held or reading.held_graphics:
        lines.append("Held:")
        for h in [*reading.held, *reading.held_graphics]:
            cost = (
                f"{h.clock_loss_pct:.1f} % of its free clock"
                if h.clock_loss_pct is not None
                else "cost not known"
            )
            work = f", {h.work_loss_pct:.1f} % of its work" if h.work_loss_pct is not None else ""
            span = f"{clock_text(h.start_s)}–{clock_text(h.end_s)}"
            lines.append(
                f"  {span} {'' if h.domain == 'cpu' else 'graphics '}by {h.by}, {cost}{work}: {h.evidence} (confidence {100 * h.confidence:.0f} %)"
            )
    elif any(c.quantity == "clock" for c in reading.channels):
        lines.append("Held: nothing held the clock.")
    else:
        lines.append("Held: not known, this recording carries no clock.")
    lines += _thermal_lines(reading)
    totals = totals_of(recording, reading.phases, reading.load_phase()) if recording is not None else None
    lines += totals_lines(totals) if totals is not None else []
    lines += agreement_lines(agreements(recording, reading)) if recording is not None else []
    lines += [
        f"Set aside: {s.channel} {value_text(s.value, s.unit)} at {clock_text(s.at_s)}, alone among its neighbours."
        for s in reading.spikes[:SPIKES_SHOWN]
    ]
    if len(reading.spikes) > SPIKES_SHOWN:
        lines.append(f"Set aside: {len(reading.spikes) - SPIKES_SHOWN} more lone values.")
    lines += [f"Note: {w}" for w in reading.warnings]
    return "\n".join(lines)


def agreement_lines(found: list[Agreement]) -> list[str]:
    """What several sensors say of one part, a line each."""
    lines = []
    for one in found:
        said = ", ".join(f"{t.name} {t.value.text('°C', finest=1)}" for t in one.told)
        go_by = "" if one.agree else f"; go by {one.believe.name}"
        lines.append(f"Sensors of the {one.part}: {said}{go_by} ({one.why}).")
    return lines


def totals_lines(totals: LoadTotals) -> list[str]:
    """What the load took and gave, a line each."""
    lines = []
    if totals.energy_j is not None:
        text = f"Energy under load: {totals.energy_j / 3600.0:.1f} Wh"
        text += f" ({totals.wall_j / 3600.0:.1f} Wh at the wall)" if totals.wall_j is not None else ""
        if totals.work_per_j is not None:
            text += f"; {totals.work_per_j:.3g} units of work for each joule"
        lines.append(text + ".")
    if totals.work_units is not None:
        lines.append(f"Work done: {totals.work_units:.4g} units.")
    for name, unit, found in (("Clock", "MHz", totals.clock_mhz), ("Die", "°C", totals.die_c)):
        if found is not None:
            decimals = 0 if unit == "MHz" else 1
            low, quarter, middle, upper, high = (f"{v:.{decimals}f}" for v in found)
            lines.append(
                f"{name} under load: median {middle} {unit}, half of it from {quarter} to {upper}, 90 % from {low} to {high}."
            )
    if totals.w_per_ghz is not None:
        lines.append(f"Power for its clock: {totals.w_per_ghz:.1f} W/GHz.")
    if totals.voltage is not None:
        v = totals.voltage
        droop = f", {1000.0 * v.droop_v:.0f} mV under idle" if v.droop_v is not None and v.droop_v > 0 else ""
        lines.append(f"Core voltage under load: {v.mean_v:.3f} V, spread {1000.0 * v.sd_v:.0f} mV{droop}.")
    return lines


def _thermal_lines(reading: Reading) -> list[str]:
    lines = []
    thermal = reading.thermal
    rise = reading.rise()
    if thermal is not None and rise is not None:
        room = f"{thermal.room_c:.1f}" if thermal.room_c is not None else "not known"
        lines.append(f"Rise over the room of {room} °C: {rise.text('K', finest=1)}.")
        if thermal.resistance_k_per_w is not None:
            r = Measured(thermal.resistance_k_per_w, thermal.half_width_95)
            head = (
                f"; room for {thermal.headroom_w:.0f} W at this limit"
                if thermal.headroom_w is not None
                else ""
            )
            lines.append(f"Resistance: {r.text('K/W')} at {thermal.power_w:.0f} W{head}.")
    elif thermal is None or thermal.room_c is None:
        lines.append("Rise: not known, the room was not measured (give --facts with [room] temperature_c).")
    stages = heat_path(reading)
    if len(stages) > 1:
        parts = ", ".join(
            f"{s.start} to {s.end} {s.difference_k.text('K', finest=1)}, {s.resistance_k_per_w.text('K/W')}"
            for s in stages
        )
        lines.append(f"On its way: {parts}.")
    if thermal is not None and thermal.time_constants_s:
        lines.append(
            "Time constants: "
            + ", ".join(f"{t:.0f} s" if t >= 10 else f"{t:.1f} s" for t in thermal.time_constants_s)
            + "."
        )
    graphics = reading.graphics
    if graphics is not None:
        constants = ", ".join(f"{t:.0f} s" if t >= 10 else f"{t:.1f} s" for t in graphics.time_constants_s)
        lines.append(
            f"Graphics heading for {graphics.heading_c.text('°C', finest=1)} by {graphics.power_of}"
            + (f"; time constants {constants}." if constants else ".")
        )
    if reading.forecast is not None:
        lines.append(f"Heading for {reading.forecast.text('°C', finest=1)}.")
    peaks = ", ".join(f"{n} {p.value:.1f} °C at {clock_text(p.at_s)}" for n, p in reading.peak.items())
    if peaks:
        lines.append(f"Peaks: {peaks}.")
    return lines
