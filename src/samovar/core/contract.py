"""A reading as the command line promises it: plain dictionaries, seconds, plain numbers, null for unknown."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from samovar.core.effect import Effect
from samovar.core.marks import Change
from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.core.results.result import Result
from samovar.core.results.steps import StepResults


def plain(value: float | None, digits: int = 6) -> float | None:
    """A float that JSON can carry; None for what is not known or not finite."""
    if value is None or not math.isfinite(value):
        return None
    return round(float(value), digits)


def result_row(result: Result) -> dict[str, Any]:
    """One result as scripts get it."""
    row: dict[str, Any] = {
        "part": result.part,
        "channel": result.channel,
        "quantity": result.quantity,
        "statistic": result.statistic,
        "unit": result.unit,
        "value": plain(result.value),
        "half_width_95": plain(result.half_width),
        "bound": result.bound,
        "source": result.source,
        "window": None if result.window is None else [plain(edge) for edge in result.window],
        "n": result.n,
    }
    beside = {
        "by": result.by, "at_s": plain(result.at_s), "direction": result.direction,
        "instrument_half_width_95": plain(result.off_by),
    }  # fmt: skip
    return {**row, **{key: value for key, value in beside.items() if value is not None}}


def step_row(one: StepResults) -> dict[str, Any]:
    """One step as scripts get it."""
    return {
        "name": one.step.name,
        "start_s": plain(one.step.start_s),
        "end_s": plain(one.step.end_s),
        "results": [result_row(r) for r in one.results],
    }


def change_row(change: Change, until_s: float, effects: Sequence[Effect]) -> dict[str, Any]:
    """One change, and what became of every channel by the end of what followed it."""
    return {
        "at_s": plain(change.at_s),
        "what": change.words,
        "until_s": plain(until_s),
        "effects": [
            {
                "channel": e.channel.name,
                "unit": e.unit,
                "before": plain(e.before.value),
                "after": plain(e.after.value),
                "difference": plain(e.difference.value),
                "half_width_95": plain(e.difference.half_width),
                "half_s": plain(e.half_s),
                "ninety_s": plain(e.ninety_s),
            }
            for e in effects
        ],
    }


def as_contract(
    reading: Reading, recording: Recording | None = None, results: Sequence[Result] | None = None
) -> dict[str, Any]:
    """The object that `samovar read --json` prints; with `recording`, its samples too, with `results` those."""
    window = reading.window
    found = window is not None and window.start_s is not None and window.end_s is not None
    thermal = reading.thermal
    out: dict[str, Any] = {
        "log": {
            "rows": reading.rows,
            "duration_s": plain(reading.duration_s),
            "interval_s": plain(reading.interval_s),
            "gaps": [[plain(g.start_s), plain(g.end_s)] for g in reading.gaps],
            "warnings": reading.warnings,
        },
        "channels": [
            {
                "name": c.name,
                "quantity": c.quantity,
                "unit": c.unit,
                "role": c.role,
                "domain": c.domain,
                "valid": valid,
                "invalid": max(0, due - valid),
            }
            for c, valid, due in zip(reading.channels, reading.valid, reading.due, strict=True)
        ],
        "phases": [
            {"name": p.name, "start_s": plain(p.start_s), "end_s": plain(p.end_s)} for p in reading.phases
        ],
        "steady": None
        if window is None
        else {
            "window": [plain(window.start_s), plain(window.end_s)] if found else None,
            "reason": window.reason,
            "channels": {
                name: {
                    "mean": plain(s.mean),
                    "half_width_95": plain(s.half_width),
                    "sd": plain(s.sd),
                    "min": plain(s.minimum),
                    "max": plain(s.maximum),
                }
                for name, s in reading.steady.items()
            },
        },
        "peak": {name: {"value": plain(p.value), "at_s": plain(p.at_s)} for name, p in reading.peak.items()},
        "held": [
            {
                "by": h.by,
                "domain": h.domain,
                "start_s": plain(h.start_s),
                "end_s": plain(h.end_s),
                "clock_loss_pct": plain(h.clock_loss_pct, 2),
                "work_loss_pct": plain(h.work_loss_pct, 2),
                "confidence": plain(h.confidence, 3),
                "evidence": h.evidence,
            }
            for h in sorted([*reading.held, *reading.held_graphics], key=lambda h: h.start_s)
        ],
        "judgement": reading.judgement,
        "thermal": None
        if thermal is None
        else {
            "room_c": plain(thermal.room_c),
            "rise_k": plain(thermal.rise_k),
            "power_w": plain(thermal.power_w),
            "resistance_k_per_w": plain(thermal.resistance_k_per_w),
            "half_width_95": plain(thermal.half_width_95),
            "time_constants_s": [plain(t) for t in thermal.time_constants_s],
            "headroom_w": plain(thermal.headroom_w, 2),
        },
        "forecast": None
        if reading.forecast is None
        else {
            "steady_c": plain(reading.forecast.value, 3),
            "half_width_95": plain(reading.forecast.half_width, 3),
        },
    }
    if results is not None:
        out["results"] = [result_row(r) for r in results]
    if recording is not None:
        samples: dict[str, Any] = {"time_s": [plain(t) for t in recording.time_s]}
        for channel, row in zip(recording.channels, recording.values, strict=True):
            samples[channel.name] = [plain(v) for v in row]
        out["samples"] = samples
    return out
