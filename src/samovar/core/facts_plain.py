"""Facts as plain dictionaries and back."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from samovar.core.facts import Facts, GraphicsFacts, ProcessorFacts, RoomFacts


def facts_to_plain(facts: Facts) -> dict[str, Any]:
    """Only what is known, by part."""
    return {
        part: {k: v for k, v in values.items() if v is not None}
        for part, values in asdict(facts).items()
        if values
    }


def facts_from_plain(plain: dict[str, Any] | None) -> Facts:
    """The facts again; unknown keys are left out, so that a newer archive's facts can still be read."""
    plain = plain or {}

    def part(kind: type, name: str) -> Any:
        known = kind.__dataclass_fields__  # type: ignore[attr-defined]
        return kind(**{k: v for k, v in plain.get(name, {}).items() if k in known})

    return Facts(part(ProcessorFacts, "cpu"), part(GraphicsFacts, "gpu"), part(RoomFacts, "room"))
