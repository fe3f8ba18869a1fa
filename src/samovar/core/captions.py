"""Captions of a run: what was happening when, for a film of its time chart, as WebVTT.

Source: W3C, WebVTT: The Web Video Text Tracks Format.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from samovar.core.reading import Reading
from samovar.core.recording import Recording
from samovar.core.shown_text import one_line

MARK_S = 2.5
"""So long a mark's caption stands, in seconds of the film."""
LEAST_S = 0.8
"""A caption that stands for less nobody reads."""


@dataclass(frozen=True, slots=True)
class Cue:
    """One caption, from and to in seconds of the film."""

    start_s: float
    end_s: float
    text: str


def cues_of(recording: Recording, reading: Reading, span_s: tuple[float, float], film_s: float) -> list[Cue]:
    """The captions of a run's film, in order.

    Args:
        recording: gives the marks.
        reading: gives phases and held stretches.
        span_s: the part of the run that is shown, s.
        film_s: how long it takes in the film.
    """
    begin, end = span_s
    scale = film_s / max(end - begin, 1e-9)

    def at(moment_s: float) -> float:
        return min(max((moment_s - begin) * scale, 0.0), film_s)

    cues = [Cue(at(p.start_s), at(p.end_s), p.name) for p in reading.phases]
    for held in reading.held or reading.held_graphics:
        loss = f", {held.clock_loss_pct:.0f} % of the clock lost" if held.clock_loss_pct else ""
        cues.append(Cue(at(held.start_s), at(held.end_s), f"held by {held.by}{loss}"))
    cues += [
        Cue(at(m.at_s), min(at(m.at_s) + MARK_S, film_s), one_line(m.text))
        for m in recording.marks
        if begin <= m.at_s <= end
    ]
    told = [
        c if c.end_s - c.start_s >= LEAST_S else Cue(c.start_s, c.start_s + LEAST_S, c.text)
        for c in cues
        if c.end_s > c.start_s
    ]
    return sorted(told, key=lambda c: (c.start_s, c.end_s))


def vtt_text(cues: Sequence[Cue]) -> str:
    """Captions as a WebVTT file."""
    blocks = [f"{_time(c.start_s)} --> {_time(c.end_s)}\n{_plain(c.text)}\n" for c in cues]
    return "\n".join(["WEBVTT\n", *blocks])


def _time(seconds: float) -> str:
    millis = round(1000.0 * seconds)
    hours, rest = divmod(millis, 3_600_000)
    minutes, rest = divmod(rest, 60_000)
    return f"{hours:02d}:{minutes:02d}:{rest // 1000:02d}.{rest % 1000:03d}"


def _plain(text: str) -> str:
    """Words that are no markup there, and no arrow."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
