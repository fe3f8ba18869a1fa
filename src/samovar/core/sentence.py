"""A run in one sentence, as its reviewer would write it: one of a few patterns, with the run's own figures."""

from __future__ import annotations

from samovar.core.facts import Facts
from samovar.core.held.stretches import HeldStretch
from samovar.core.reading import Reading
from samovar.core.window import BY_HAND

OTHER_BUDGET = 0.04
CLOSE_K = 3.0
"""Nearer to its limit than this, a cooler has nothing to spare."""


def sentence(reading: Reading, facts: Facts) -> str:
    """One sentence on what the load met, empty where the recording does not carry enough to say it."""
    text = _of_the_chip(reading, facts)
    first = (reading.held or reading.held_graphics)[:1]
    if first and first[0].domain == "gpu":
        return text.replace(" it ", " the graphics chip ", 1)
    return text


def _of_the_chip(reading: Reading, facts: Facts) -> str:
    load = reading.load_phase()
    if load is None:
        return ""
    rise = reading.rise()
    warm = f", {rise.text('K', finest=1)} over the room" if rise is not None else ""
    kinds = {"budget": ("power", "shared")}.get(reading.judgement or "", ("thermal", "firmware"))
    held = reading.held or reading.held_graphics
    fitting = [h for h in held if h.by in kinds] or held
    longest = max(fitting, key=lambda h: h.end_s - h.start_s, default=None)
    if reading.judgement == "stopped":
        at = _clock(load.end_s - load.start_s)
        return f"The load could not be finished: it ended after {at}{_peak(reading)}."
    if reading.judgement == "clear":
        clock = f" at {reading.free_clock_mhz:.0f} MHz" if reading.free_clock_mhz else ""
        settled = _settled(reading)
        return f"Nothing held it back: it ran free{clock} to the end and {settled}{warm}."
    if longest is None:
        return ""
    since = _clock(max(0.0, longest.start_s - load.start_s))
    cost = _cost(longest)
    if reading.judgement == "budget":
        if longest.by == "power" and (cut := _cut_budgets(held, load.start_s)):
            return f"{cut}{_spare(reading, facts)}."
        watts = _watts(reading, longest)
        if longest.by == "shared":
            left = f" and left it{watts.removeprefix(' of')}" if watts else ""
            return f"From {since} into the load the graphics side ate into its power budget{left}{cost}{_spare(reading, facts)}."
        return (
            f"From {since} into the load its power budget{watts} set the pace{cost}{_spare(reading, facts)}."
        )
    if reading.judgement == "rides-limit" and longest.by == "firmware":
        return (
            f"From {since} into the load its firmware held it, well short of its limit{cost}, but at or above its base clock: "
            "that is a policy, not the chip."
        )
    if reading.judgement == "rides-limit":
        return (
            f"From {since} into the load it sat at its temperature limit{cost}, but stayed at or above its base clock: "
            "here more cooling is more speed."
        )
    if reading.judgement == "throttles":
        base = facts.cpu.base_clock_mhz
        under = f", {100.0 * (1.0 - longest.mean_clock_mhz / base):.0f} % under base" if base else ""
        if longest.by == "firmware":
            return f"From {since} into the load its firmware held it at {longest.mean_clock_mhz:.0f} MHz{under}, well short of its limit: that is a policy, not the chip."
        return f"From {since} into the load heat pushed it down to {longest.mean_clock_mhz:.0f} MHz{under}: this cooling does not suffice for this load."
    return f"From {since} into the load its clock was held{cost}, and the recording does not show by what."


def _settled(reading: Reading) -> str:
    """Whether it settled; of a window that a person set that is not known, and is not said."""
    if reading.window is None or not reading.window.found:
        return "had not settled yet"
    return "was averaged where somebody set it" if reading.window.reason == BY_HAND else "settled"


def _clock(seconds: float) -> str:
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes}:{rest:02d}"


def _cost(held: HeldStretch) -> str:
    if held.work_loss_pct is not None and held.work_loss_pct >= 1.0:
        return f", at a cost of {held.work_loss_pct:.0f} % of the work"
    if held.clock_loss_pct is not None and held.clock_loss_pct >= 1.0:
        return f", at a cost of {held.clock_loss_pct:.0f} % of the clock"
    return ""


def _watts(reading: Reading, held: HeldStretch) -> str:
    if held.power_w is not None:
        return f" of {held.power_w:.0f} W"
    power = reading.steady.get(reading.power or "")
    return f" of {power.mean:.0f} W" if power is not None else ""


def _cut_budgets(held: list[HeldStretch], load_start_s: float) -> str:
    """The sentence's first part where one budget took over from another; empty where there was but one."""
    at_budget = [h for h in held if h.by == "power" and h.power_w is not None]
    if len(at_budget) < 2:
        return ""
    first, last = at_budget[0], at_budget[-1]
    if (
        first.power_w is None
        or last.power_w is None
        or abs(last.power_w / first.power_w - 1.0) < OTHER_BUDGET
    ):
        return ""
    since = _clock(max(0.0, first.start_s - load_start_s))
    until = _clock(max(0.0, last.start_s - load_start_s))
    return (
        f"From {since} into the load its power budget set the pace, {first.power_w:.0f} W at first and "
        f"{last.power_w:.0f} W from {until} on{_cost(last)}"
    )


def _spare(reading: Reading, facts: Facts) -> str:
    limit, die = facts.cpu.temperature_limit_c, reading.steady.get(reading.die or "")
    if limit is None or die is None:
        return ""
    spare = limit - die.mean
    return (
        f"; the cooling had {spare:.0f} K to spare"
        if spare > CLOSE_K
        else "; the cooling had nothing to spare"
    )


def _peak(reading: Reading) -> str:
    peak = reading.peak.get(reading.die or "")
    return f", at {peak.value:.0f} °C" if peak is not None else ""
