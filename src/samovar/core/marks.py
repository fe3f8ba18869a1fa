"""What is noted at a moment of a run: what happened, and what was changed of its load and its fans."""

from __future__ import annotations

from dataclasses import dataclass

from samovar.core.shown_text import one_line


@dataclass(frozen=True, slots=True)
class Mark:
    """Something noted at a moment, `at_s` seconds from the first sample."""

    at_s: float
    text: str

    def __post_init__(self) -> None:
        # Typed at the bench, or by a stranger: what hides in it is shown.
        object.__setattr__(self, "text", one_line(self.text))


FANS, LOAD, JOINS, LEAVES = "fans", "load", "joins", "leaves"


@dataclass(frozen=True, slots=True)
class Change:
    """What the recorder, or a person, changed at a moment, `at_s` seconds from the first sample.

    `what` is FANS (`value` their share of full speed), LOAD (`name` the load that is on from now; empty where none is),
    JOINS or LEAVES (`name` a further load).
    """

    at_s: float
    what: str
    name: str = ""
    value: float | None = None

    def __post_init__(self) -> None:
        object.__setattr__(self, "name", one_line(self.name))

    @property
    def words(self) -> str:
        """What changed, as people read it."""
        if self.what == FANS:
            return (
                f"fans {100 * (self.value or 0.0):.0f} %" if self.value is not None else f"fans {self.name}"
            )
        if self.what == LOAD:
            return f"{self.name} on" if self.name else "load off"
        return f"{self.name} {self.what}"
