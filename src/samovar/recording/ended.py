"""What a run that has ended says: as its archive has it, or, where it waits for its server, from memory."""

from __future__ import annotations

from samovar.core.by_hand.reading import HandReading, with_room
from samovar.core.reading import Reading, read
from samovar.core.recording import Recording
from samovar.recording.live import LiveRun


def said_by(live: LiveRun) -> tuple[Reading, Recording, list[HandReading]]:
    """The reading, the samples and the hand readings of a run that has ended."""
    if live.waits_in is not None:
        recording = live.recording()
        return read(recording, with_room(live.facts, live.hand_readings)), recording, live.hand_readings
    runs = live.archive.runs
    return runs.reading(live.number), runs.recording(live.number), runs.hands.of(live.number)
