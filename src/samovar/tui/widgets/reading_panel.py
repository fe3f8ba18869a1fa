"""What a run says, beside its strips: judgement, steady values, held stretches, marks."""

from __future__ import annotations

from rich.text import Text

from samovar.archive.records import HandReading, Run
from samovar.bench.course_spec import clock_text
from samovar.core.idle import BUSY_PCT
from samovar.core.judgement import MEANING
from samovar.core.rated import EXTRAPOLATED
from samovar.core.reading import Reading
from samovar.core.uncertainty import Measured
from samovar.figures.palette import HELD_COLOUR, HELD_PATTERN, JUDGEMENT_MARK, Palette

_STEADY_SHOWN = (
    ("temperature", "die"), ("temperature", "vrm"), ("power", "package"), ("clock", "core"), ("fan", "other"),
    ("work", "other"), ("temperature", "storage"), ("temperature", "inlet"),
)  # fmt: skip


def panel_text(
    palette: Palette,
    run: Run,
    reading: Reading,
    hands: list[HandReading],
    chosen_held: int | None,
) -> Text:
    """The panel as rich text."""
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
        text.append(f"{MEANING[judgement]}\n", palette.soft)
    if run.reason:
        text.append(f"{run.reason}\n", palette.bad)
    if run.left_out is not None:
        text.append(f"left out: {run.left_out}\n", palette.caution)
    head("steady")
    window = reading.window
    if window is None or window.start_s is None or window.end_s is None:
        text.append((window.reason if window and window.reason else "no load to settle") + "\n", palette.soft)
    else:
        length = window.end_s - window.start_s
        text.append(f"{clock_text(window.start_s)} to {clock_text(window.end_s)}, ", palette.soft)
        text.append(
            f"the longest last {clock_text(length)}\nwith under 0.05 K/min of drift\n",
            palette.soft,
        )
        for quantity, role in _STEADY_SHOWN:
            for channel in reading.channels:
                if (channel.quantity, channel.role) == (quantity, role) and channel.name in reading.steady:
                    figures = reading.steady[channel.name]
                    finest = 0 if quantity in ("clock", "fan", "work") else 1
                    value = Measured(figures.mean, figures.half_width).text(channel.unit, finest=finest)
                    text.append(f"{channel.name[:13]:<14}", palette.soft)
                    text.append(f"{value}\n", palette.quantity[quantity])
                    break
    thermal, rise = reading.thermal, reading.rise()
    if rise is not None and thermal is not None:
        head("over the room")
        text.append(f"{'rise':<14}", palette.soft)
        text.append(rise.text("K", finest=1) + "\n", f"bold {palette.quantity['temperature']}")
        if thermal.resistance_k_per_w is not None:
            value = Measured(thermal.resistance_k_per_w, thermal.half_width_95).text("K/W")
            text.append(f"{'resistance':<14}", palette.soft)
            text.append(f"{value}\n")
        if thermal.headroom_w is not None:
            text.append(f"{'limit at':<14}", palette.soft)
            text.append(f"{thermal.headroom_w:.0f} W in this room\n")
            if thermal.power_w and thermal.headroom_w > (1.0 + EXTRAPOLATED) * thermal.power_w:
                share = 100.0 * (thermal.headroom_w / thermal.power_w - 1.0)
                text.append(f"  extrapolated by {share:.0f} % from what was measured\n", palette.soft)
    elif reading.forecast is not None:
        head("heading for")
        text.append(reading.forecast.text("°C", finest=1) + "\n", palette.quantity["temperature"])
    head(
        f"held {len(reading.held)} time{'s' if len(reading.held) != 1 else ''}"
        if reading.held
        else "held by nothing"
    )
    for number, held in enumerate(reading.held):
        colour = palette.quantity[HELD_COLOUR[held.by]]
        pointer = "▸" if number == chosen_held else " "
        loss = f"−{held.clock_loss_pct:.0f} % clock" if held.clock_loss_pct is not None else ""
        text.append(f"{pointer}{HELD_PATTERN[held.by]} {held.by} ", f"bold {colour}")
        text.append(f"{clock_text(held.start_s)}–{clock_text(held.end_s)} {loss}\n", palette.text)
        if chosen_held is None or number == chosen_held:
            text.append(f"  {held.evidence} ({100 * held.confidence:.0f} %)\n", palette.soft)
    if hands:
        head("by hand")
        for hand in hands:
            value = Measured(hand.value, hand.half_width).text(hand.unit, finest=1)
            text.append(f"{hand.quantity:<14}", palette.soft)
            text.append(f"{value}\n", palette.quantity.get(hand.quantity, palette.text))
            text.append(f"  {hand.instrument}\n", palette.soft)
    if reading.idle_load_pct is not None and reading.idle_load_pct > BUSY_PCT:
        text.append(f"busy at idle: {reading.idle_load_pct:.0f} % of the processors\n", palette.caution)
    for warning in reading.warnings[:4]:
        text.append(f"note: {warning}\n", palette.soft)
    return text


def brief_text(palette: Palette, reading: Reading) -> Text:
    """The panel in one line, for a narrow window."""
    text = Text(no_wrap=True, overflow="ellipsis")
    judgement, rise, thermal = reading.judgement, reading.rise(), reading.thermal
    colour = palette.bad if judgement in ("throttles", "stopped") else palette.text
    text.append(f"{JUDGEMENT_MARK[judgement]} {judgement}" if judgement else "not judged", f"bold {colour}")
    if rise is not None:
        text.append("   rise ", palette.soft)
        text.append(rise.text("K", finest=1), f"bold {palette.quantity['temperature']}")
    if thermal is not None and thermal.resistance_k_per_w is not None:
        text.append("   ", palette.soft)
        text.append(Measured(thermal.resistance_k_per_w, thermal.half_width_95).text("K/W"))
    if reading.held:
        last = reading.held[-1]
        text.append(f"   held by {last.by}", palette.quantity[HELD_COLOUR[last.by]])
    text.append("   d details", palette.soft)
    return text
