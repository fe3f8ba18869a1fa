"""The room where no probe stands: a temperature that a person types in."""

from __future__ import annotations

from samovar.core.quantity import Channel

ROOM = "room"
ROOM_BY_HAND = Channel("Room by hand", "temperature", "°C", "inlet", "case", "hand:room")
ROOM_HOLDS_S = 1800.0
"""So long a room temperature that was typed in counts; a room drifts."""
ROOM_SAMPLES = 60
"""The room now is its probe's mean over so many samples."""
