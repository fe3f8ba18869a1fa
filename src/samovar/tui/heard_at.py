"""What a finished run sounded like: at the cursor where it was listened to all along, else as it was listened to once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from samovar.bench.course_spec import clock_text
from samovar.core.by_hand.reading import HandReading
from samovar.core.envelope import Envelope
from samovar.core.quantity import Channel
from samovar.core.sound.own_bands import own_level
from samovar.tui.widgets.spectrum import SpectrumView

NAN = float("nan")


@dataclass(frozen=True)
class HeardAt:
    """What was heard: a heading that says when, the spectrum, and what else is known of it."""

    heading: str
    spectrum: SpectrumView
    besides: str = ""


def heard_at(
    channels: Sequence[Channel], envelope: Envelope, hands: Sequence[HandReading], at_s: float | None
) -> HeardAt | None:
    """What a run sounded like; None where nobody listened.

    Args:
        channels, envelope: the run's, m of each.
        hands: what was read of it; what was listened to brings the room's own spectrum.
        at_s: the cursor; the end of the run where None.
    """
    listened = [(hand, sound) for hand in hands if (sound := hand.sound) is not None and sound.bands]
    behind = dict(listened[-1][1].background) if listened else {}
    rows = [k for k, c in enumerate(channels) if c.quantity == "band"]
    if rows and len(envelope.time_s):
        moment_s = float(envelope.time_s[-1]) if at_s is None else at_s
        index = int(np.clip(np.searchsorted(envelope.time_s, moment_s), 0, len(envelope.time_s) - 1))
        hz = [float(channels[k].id.rpartition(":")[2]) for k in rows]
        levels = envelope.values_at(rows, index)
        heading, unit, character = f"heard at {clock_text(moment_s)}", channels[rows[0]].unit, ""
    elif listened:
        hand, sound = listened[-1]
        hz, levels = [f for f, _ in sound.bands], [db for _, db in sound.bands]
        when = "" if hand.at_s is None else f" at {clock_text(hand.at_s)}"
        heading, unit, character = f"listened to{when}", "dB", hand.character
    else:
        return None
    view = SpectrumView(tuple(hz), tuple(levels), tuple(behind.get(f, NAN) for f in hz), character, unit)
    by_bands = own_level(listened[-1][1].own_bands) if listened else None
    besides = ""
    if by_bands is not None:
        bound = "at most " if by_bands.at_most else ""
        besides = f"without the room, by bands: {bound}{by_bands.dba:.1f} dBA"
    return HeardAt(heading, view, besides)
