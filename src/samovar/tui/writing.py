"""What of each place writes into the archive: none of it is offered to whoever may only read there."""

from __future__ import annotations

WRITES: dict[str, frozenset[str]] = {
    "desk": frozenset({"add", "edit", "asked", "duplicate", "hide", "delete", "bring", "take", "record"}),
    "shelf": frozenset({"add", "edit", "prices", "notes", "sensors", "meters", "duplicate", "delete", "hide", "take"}),
    "grid": frozenset(
        {"record", "add", "edit", "duplicate", "frame", "about", "course", "leave_out", "reference", "delete"}
    ),
    "bench": frozenset({"record", "mark", "noise", "reading", "hear", "row", "change", "by_hand"}),
    "trace": frozenset(
        {
            "leave_out", "marks", "hand", "claim_change", "edge", "type_window", "automatic", "exclude", "note", "replay",
            "undo_here",
        }
    ),
    "versus": frozenset({"lines"}),
    "writeup": frozenset(
        {
            "accept", "claim", "drop", "undo", "draft", "field", "agree", "editor", "conclude", "photographs", "form", "text",
            "publish",
        }
    ),
    "surfaces": frozenset({"plan", "spot", "area", "part", "picture", "hand", "take_off", "undo"}),
    "cell runs": frozenset({"hand", "leave_out", "move", "undo"}),
}  # fmt: skip
"""By place, the names of its actions. A test looks through all actions of all places for one that writes and is missing."""
GUEST = "you may only read this archive: nothing here can be changed"
