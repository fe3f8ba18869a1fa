"""What a run says, beside its strips: judgement, steady values, held stretches, marks."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from rich.text import Text

from samovar.bench.course_spec import clock_text
from samovar.core.agreement import Agreement
from samovar.core.between import Between
from samovar.core.by_hand.reading import HandReading
from samovar.core.effect import Effect
from samovar.core.heat_path import heat_path
from samovar.core.idle import BUSY_PCT
from samovar.core.marks import LOAD, Change
from samovar.core.measured import Measured, rounded, rounded_width
from samovar.core.quantity import UNITS, decimals_of
from samovar.core.rated import EXTRAPOLATED
from samovar.core.reading import Reading
from samovar.core.results.figure import (
    TELLING_PARTS,
    Figure,
    figure_of,
    part_in_words,
    part_of,
    telling_figure,
)
from samovar.core.results.result import BY_HAND, Result
from samovar.core.sentence import sentence
from samovar.core.totals import Distribution, LoadTotals
from samovar.figures.palette import HELD_COLOUR, HELD_PATTERN, JUDGEMENT_MARK, Palette
from samovar.tui.traced_run import TracedRun

BETWEEN_SHOWN = 12
EVIDENCE_OF = 3
"""With more stretches than this only the chosen one tells its evidence."""
SPIKES_SHOWN = 6
_BARS = "▁▂▃▄▅▆▇█"
_RESULTS_SHOWN = 14
PEAK_APART_K = 1.0
"""A peak that is nearer to the steady value tells nothing more."""
_LEVELS = ("steady", "mean")
"""A channel is told by its steady value, and by its mean over the whole load where it never settled."""


def panel_text(
    palette: Palette,
    found: TracedRun,
    chosen_held: int | None,
    between: Sequence[Between] = (),
    note: str = "",
    effects: Sequence[Effect] = (),
) -> Text:
    """The panel as rich text. `between`: what changed from the second cursor to the first; `note`: what was noted on
    the whole run; `effects`: how long what changed between the cursors took."""
    run, reading, hands, totals = found.run, found.reading, found.hands, found.totals
    text = Text()

    def head(words: str) -> None:
        text.append(("\n" if text.plain else "") + words + "\n", f"bold {palette.brass}")

    judgement = reading.judgement
    colour = palette.bad if judgement in ("throttles", "stopped") else palette.text
    if judgement is None:
        text.append("not judged\n", f"bold {palette.soft}")
        why = "no load in this run" if reading.load_phase() is None else "no clock to judge by"
        text.append(("held, and nothing shows by what" if reading.held else why) + "\n", palette.soft)
    else:
        text.append(f"{JUDGEMENT_MARK[judgement]} {judgement}\n", f"bold {colour}")
        words = sentence(reading, run.facts)
        if words:
            text.append(f"{words}\n", palette.text)
    if run.reason:
        text.append(f"{run.reason}\n", palette.bad)
    if run.left_out is not None:
        text.append(f"left out: {run.left_out}\n", palette.caution)
    if note:
        text.append(f"“{note}”\n", palette.brass)
    if found.comparison is not None and found.other is not None:
        head(f"beside {found.other.id}, {found.other.load}")
        _beside(text, palette, found)
    if between:
        head("from the second cursor")
        for one in between[:BETWEEN_SHOWN]:
            decimals = decimals_of(one.channel.unit, one.channel.quantity)
            now = "–" if one.second is None else f"{one.second:.{decimals}f}"
            change = "" if one.change is None else f"{one.change:+.{decimals}f}"
            text.append(f"{one.channel.name[:15]:<16}", palette.soft)
            text.append(f"{now:>8} {one.channel.unit:<4}", palette.text)
            text.append(f"{change:>8}\n", f"bold {palette.quantity.get(one.channel.quantity, palette.text)}")
            took = next((e for e in effects if e.channel.name == one.channel.name), None)
            if took is not None and took.ninety_s is not None and one.channel.quantity == "temperature":
                half = "" if took.half_s is None else f"half in {took.half_s:.0f} s, "
                text.append(f"  {half}90 % in {took.ninety_s:.0f} s\n", palette.soft)
    head("steady")
    window = reading.window
    if window is None or window.start_s is None or window.end_s is None:
        text.append((window.reason if window and window.reason else "no load to settle") + "\n", palette.soft)
    else:
        length = window.end_s - window.start_s
        text.append(f"{clock_text(window.start_s)} to {clock_text(window.end_s)}, ", palette.soft)
        why = (
            f"{window.reason}, {clock_text(length)} long\n"
            if window.reason
            else f"the longest last {clock_text(length)}\nwith under 0.05 K/min of drift\n"
        )
        text.append(why, palette.soft)
    _results(text, palette, found)
    thermal = reading.thermal
    rises = [
        (part, v)
        for part in TELLING_PARTS
        if (v := Figure("rise", "temperature", (part,)).among(found.results))
    ]
    if rises:
        head("over the room")
        for name, over_room in rises:
            text.append(f"{part_in_words(name)[:13]:<14}", palette.soft)
            text.append(over_room.text("K", finest=1) + "\n", f"bold {palette.quantity['temperature']}")
    if thermal is not None and rises:
        if thermal.resistance_k_per_w is not None:
            value = Measured(thermal.resistance_k_per_w, thermal.half_width_95).text("K/W")
            text.append(f"{'resistance':<14}", palette.soft)
            text.append(f"{value}\n")
        stages = heat_path(reading)
        for stage in stages if len(stages) > 1 else ():
            text.append(f"{f' to {stage.end}':<14}", palette.soft)
            text.append(f"{stage.resistance_k_per_w.text('K/W')}\n")
        if thermal.headroom_w is not None:
            text.append(f"{'limit at':<14}", palette.soft)
            text.append(f"{thermal.headroom_w:.0f} W in this room\n")
            if thermal.power_w and thermal.headroom_w > (1.0 + EXTRAPOLATED) * thermal.power_w:
                share = 100.0 * (thermal.headroom_w / thermal.power_w - 1.0)
                text.append(f"  extrapolated by {share:.0f} % from what was measured\n", palette.soft)
    elif reading.forecast is not None:
        head("heading for")
        text.append(reading.forecast.text("°C", finest=1) + "\n", palette.quantity["temperature"])
    if reading.graphics is not None:
        head("graphics heading for")
        text.append(reading.graphics.heading_c.text("°C", finest=1) + "\n", palette.quantity["temperature"])
        text.append(f"by {reading.graphics.power_of}\n", palette.soft)
    head(
        f"held {len(reading.held)} time{'s' if len(reading.held) != 1 else ''}"
        if reading.held
        else "held by nothing"
        if any(c.quantity == "clock" for c in reading.channels)
        else "held: not known"
    )
    many = len(reading.held) > EVIDENCE_OF
    for number, held in enumerate(reading.held):
        colour = palette.quantity[HELD_COLOUR[held.by]]
        pointer = "▸" if number == chosen_held else " "
        loss = f"−{held.clock_loss_pct:.0f} % clock" if held.clock_loss_pct is not None else ""
        text.append(f"{pointer}{HELD_PATTERN[held.by]} {held.by} ", f"bold {colour}")
        text.append(f"{clock_text(held.start_s)}–{clock_text(held.end_s)} {loss}\n", palette.text)
        if number == chosen_held or (chosen_held is None and not many):
            text.append(f"  {held.evidence} ({100 * held.confidence:.0f} %)\n", palette.soft)
    if many and chosen_held is None:
        text.append("  ↑ ↓ choose one and tell what shows it\n", palette.soft)
    if reading.held_graphics:
        head("graphics held")
        for stretch in reading.held_graphics:
            colour = palette.quantity[HELD_COLOUR[stretch.by]]
            text.append(f" {HELD_PATTERN[stretch.by]} {stretch.by} ", f"bold {colour}")
            text.append(f"{clock_text(stretch.start_s)}–{clock_text(stretch.end_s)}\n", palette.text)
            text.append(f"  {stretch.evidence} ({100 * stretch.confidence:.0f} %)\n", palette.soft)
    if found.steps:
        head("in steps")
        _steps(text, palette, found)
    if _told(found.changes):
        head("what changes did")
        _changes(text, palette, found)
    if found.excluded:
        head("left out of all figures")
        for cut in found.excluded:
            text.append(f"{clock_text(cut.start_s)}–{clock_text(cut.end_s)} ", palette.text)
            text.append(f"{cut.reason}\n", palette.soft)
    if totals is not None:
        _totals(text, palette, totals, head)
    if found.agreements:
        head("sensors held against each other")
        for part in found.agreements:
            _agreement(text, palette, part)
    if hands:
        head("by hand")
        for hand in hands:
            text.append(f"{hand.kind:<14}", palette.soft)
            text.append(f"{hand.text()}\n", palette.quantity.get(hand.is_of.quantity, palette.text))
            if words := hand_words(hand):
                text.append(f"  {words}\n", palette.soft)
    if reading.idle_load_pct is not None and reading.idle_load_pct > BUSY_PCT:
        text.append(f"busy at idle: {reading.idle_load_pct:.0f} % of the processors\n", palette.caution)
    if reading.spikes:
        head("lone values, set aside")
        for spike in reading.spikes[:SPIKES_SHOWN]:
            text.append(f"{clock_text(spike.at_s):>6} {spike.channel[:20]} ", palette.soft)
            text.append(f"{spike.value:.0f} {spike.unit}\n", palette.text)
        if len(reading.spikes) > SPIKES_SHOWN:
            text.append(f"and {len(reading.spikes) - SPIKES_SHOWN} more\n", palette.soft)
    for warning in reading.warnings[:4]:
        text.append(f"note: {warning}\n", palette.soft)
    return text


def _results(text: Text, palette: Palette, found: TracedRun) -> None:
    """A line for each part: steady where it settled, with its own window where that is not the die's, else its mean."""
    window = found.reading.window.span if found.reading.window is not None else None
    shown = 0
    for (part, quantity, direction), mine in _by_part(found.results).items():
        best = next((r for how in _LEVELS for r in mine if r.statistic == how), None)
        if best is None or shown == _RESULTS_SHOWN:
            continue
        shown += 1
        peak = next((r for r in mine if r.statistic == "peak" and r.channel == best.channel), None)
        gave_way = next((r for r in mine if r.statistic == "gave_way"), None)
        name = (best.channel if best.channel and len(best.channel) <= 13 else part) or quantity
        name = f"{name} {direction}" if direction and direction not in name.lower() else name
        figure = Figure(best.statistic, quantity, (part_of(best),))
        several = quantity == "clock" and len({r.channel for r in mine}) > 1
        name = "cores" if several and part == "core" else name
        # A level that nobody calibrated is over full scale, not over 20 µPa.
        told = figure if best.unit == figure.unit else replace(figure, counted_in=best.unit)
        value = told.brief((figure.among(mine) if several else None) or best.measured)
        text.append(f"{name[:13]:<14}", palette.soft)
        text.append(value, palette.quantity[quantity])
        if gave_way is not None and gave_way.at_s is not None:
            text.append(f"  gave way {clock_text(gave_way.at_s)} in", palette.caution)
        elif best.statistic == "mean":
            text.append("  mean", palette.soft)
        elif best.window is not None and best.window != window:
            text.append(f"  from {clock_text(best.window[0])}", palette.soft)
        elif peak is not None and quantity == "temperature" and peak.value > best.value + PEAK_APART_K:
            text.append(f"  peak {peak.value:.1f}", palette.soft)
        text.append("\n")


def _by_part(results: Sequence[Result]) -> dict[tuple[str | None, str, str | None], list[Result]]:
    """What was measured of each part, the hottest channel of several first, in the order in which parts tell most."""
    found: dict[tuple[str | None, str, str | None], list[Result]] = {}
    for result in sorted(results, key=lambda r: -r.value if r.quantity == "temperature" else 0.0):
        if result.source != BY_HAND and result.quantity in UNITS and result.quantity != "load":
            found.setdefault((result.part, result.quantity, result.direction), []).append(result)
    order = (*TELLING_PARTS, "package", "wall", "inlet")
    quantities = list(UNITS)

    def rank(key: tuple[str | None, str, str | None]) -> tuple[int, int]:
        return quantities.index(key[1]), order.index(key[0]) if key[0] in order else len(order)

    return dict(sorted(found.items(), key=lambda item: rank(item[0])))


def _steps(text: Text, palette: Palette, found: TracedRun) -> None:
    """What the run is about, and the noise, in each of its steps."""
    figures = [telling_figure(r for one in found.steps for r in one.results), figure_of("noise")]
    for one in found.steps:
        text.append(f"{one.step.name}\n", palette.text)
        values = [(f, v) for f in figures if (v := f.among(one.results)) is not None]
        if not values:
            text.append("  too short to settle\n", palette.soft)
        for figure, value in values:
            text.append(f"  {figure.label[:19]:<20}", palette.soft)
            text.append(f"{figure.text(value)}\n", palette.quantity[figure.quantity])


def _changes(text: Text, palette: Palette, found: TracedRun) -> None:
    """What each change did to what it changed most, temperatures first."""
    for change, _, effects in _told(found.changes):
        text.append(f"{clock_text(change.at_s):>6} {change.words}\n", palette.text)
        shown = [e for e in effects if e.shown and e.channel.quantity == "temperature"][:2]
        shown = shown or [e for e in effects if e.shown][:2]
        for effect in shown:
            text.append(f"       {effect.words()}\n", palette.soft)
        if not shown:
            text.append("       changed nothing that shows\n", palette.soft)


def _told(changes: Sequence[tuple[Change, float, list[Effect]]]) -> list[tuple[Change, float, list[Effect]]]:
    """Changes that tell something: that a load heats, and that its end lets all cool down, goes without saying."""
    loads = [c for c, _, _ in changes if c.what == LOAD and c.name]
    return [one for one in changes if one[0].what != LOAD or (one[0].name and one[0] is not loads[0])]


def hand_words(hand: HandReading) -> str:
    """What stands beside a hand reading: when, where, with what, and what was made of it."""
    when = clock_text(hand.at_s) if hand.at_s is not None else ""
    like = f"sounds {hand.character}" if hand.character else ""
    return "; ".join(w for w in (when, hand.place, hand.instrument, like, hand.words) if w)


def _beside(text: Text, palette: Palette, found: TracedRun) -> None:
    """Figures of both runs, and how far the other's lie from this one's."""
    assert found.comparison is not None and found.other is not None and found.other_reading is not None
    text.append(f"{'':<8}{found.run.id:>7}{found.other.id:>7}{'change':>8}\n", palette.soft)
    for one in found.comparison.figures:
        decimals = decimals_of(one.unit)
        sides = ["–" if m is None else f"{m.value:.{decimals}f}" for m in (one.first, one.second)]
        change = one.difference
        shown = "" if change is None else rounded(change.value, change.half_width, True, decimals)
        name = one.name if one.unit != "K/W" else "R, K/W"
        text.append(f"{name[:8]:<8}", palette.soft)
        text.append(f"{sides[0]:>7}{sides[1]:>7}", palette.text)
        text.append(f"{shown:>8}", f"bold {palette.text}")
        if change is not None and change.half_width is not None:
            text.append(f" ±{rounded_width(change.half_width, decimals)}", palette.soft)
        text.append("\n")
    ours, theirs = found.reading.judgement or "not judged", found.other_reading.judgement or "not judged"
    text.append("judged  ", palette.soft)
    text.append(f"{ours} → {theirs}\n" if ours != theirs else f"{ours}, both\n")


def _agreement(text: Text, palette: Palette, part: Agreement) -> None:
    for told in part.told:
        mark = "▸" if told is part.believe else " "
        text.append(f"{mark}{part.part[:12]} ", palette.text)
        room = max(8, 20 - len(part.part[:12]))
        text.append(f"{told.name[:room]:<{room + 1}}", palette.soft)
        text.append(f"{told.value.text('°C', finest=1)}\n", palette.quantity["temperature"])
    text.append(
        f"  {'agree' if part.agree else 'differ'}: {part.why}\n",
        palette.soft if part.agree else palette.caution,
    )


def _bars(spread: Distribution) -> str:
    most = max(spread.shares)
    return "".join(
        _BARS[min(len(_BARS) - 1, int(np.ceil(len(_BARS) * s / most)) - 1)] if s > 0 else " "
        for s in spread.shares
    )


def _totals(text: Text, palette: Palette, totals: LoadTotals, head: Callable[[str], None]) -> None:
    """Energy, work and distributions, a line each."""
    lines: list[tuple[str, str]] = []
    if totals.energy_j is not None:
        lines.append(("energy", f"{totals.energy_j / 3600.0:.1f} Wh"))
    if totals.work_per_j is not None:
        lines.append(("work", f"{totals.work_per_j:.3g} units a joule"))
    if totals.clock_mhz is not None:
        lines.append(("clock, 90 %", f"{totals.clock_mhz[0]:.0f} to {totals.clock_mhz[-1]:.0f} MHz"))
    if totals.die_c is not None:
        lines.append(("die, 90 %", f"{totals.die_c[0]:.1f} to {totals.die_c[-1]:.1f} °C"))
    if totals.voltage is not None:
        lines.append(("core voltage", f"{totals.voltage.mean_v:.3f} V ±{1000 * totals.voltage.sd_v:.0f} mV"))
    if lines:
        head("over the load")
    spreads = {
        "clock, 90 %": (totals.clock_spread, "clock", 0),
        "die, 90 %": (totals.die_spread, "temperature", 1),
    }
    for name, value in lines:
        text.append(f"{name:<14}", palette.soft)
        text.append(f"{value}\n")
        spread, quantity, decimals = spreads.get(name, (None, "", 0))
        if spread is not None:
            low, high = f"{spread.low:.{decimals}f}", f"{spread.high:.{decimals}f}"
            text.append(f"{low:>5} ", palette.soft)
            text.append(_bars(spread), palette.quantity[quantity])
            text.append(f" {high}\n", palette.soft)


def brief_text(palette: Palette, reading: Reading, figure: Figure, results: Sequence[Result]) -> Text:
    """The panel in one line, for a narrow window; `figure` is what the run's review is about."""
    text = Text(no_wrap=True, overflow="ellipsis")
    judgement, thermal = reading.judgement, reading.thermal
    value = figure.among(results)
    colour = palette.bad if judgement in ("throttles", "stopped") else palette.text
    text.append(f"{JUDGEMENT_MARK[judgement]} {judgement}" if judgement else "not judged", f"bold {colour}")
    if value is not None:
        text.append(f"   {'rise' if figure.key == 'rise' else figure.label} ", palette.soft)
        text.append(figure.text(value), f"bold {palette.quantity[figure.quantity]}")
    if figure.key == "rise" and thermal is not None and thermal.resistance_k_per_w is not None:
        text.append("   ", palette.soft)
        text.append(Measured(thermal.resistance_k_per_w, thermal.half_width_95).text("K/W"))
    if reading.held:
        last = reading.held[-1]
        text.append(f"   held by {last.by}", palette.quantity[HELD_COLOUR[last.by]])
    text.append("   d details", palette.soft)
    return text
