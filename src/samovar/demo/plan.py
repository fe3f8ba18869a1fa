"""The demo's facts and its planned runs: which setup, which load, on which day in which room."""

from __future__ import annotations

from dataclasses import dataclass

from samovar.core.facts import Facts, ProcessorFacts, RoomFacts

FACTS = Facts(
    cpu=ProcessorFacts("Halden 8", 8, 95.0, 3400.0, 4900.0, 95.0, 142.0, 28.0),
    room=RoomFacts(None, 0.15),
)


@dataclass(frozen=True, slots=True)
class PlannedRun:
    """One run of the demo: the cell, the room that day, the sensors' seed, the guard's stop temperature, and
    which of the reviews it belongs to; its course, where it is another than its load's."""

    setup: str
    load: str
    room_c: float
    seed: int
    stop_above_c: float | None = None
    review: str = "voice booth"
    course: str | None = None


RUNS: tuple[PlannedRun, ...] = (
    PlannedRun("Plain 65", "worst case", 22.4, 11),
    PlannedRun("Plain 65", "heavy work", 22.5, 12),
    PlannedRun("Plain 65", "everyday", 22.7, 13),
    PlannedRun("Osprey 161", "worst case", 22.6, 21),
    PlannedRun("Osprey 161", "heavy work", 22.8, 22),
    PlannedRun("Osprey 161", "everyday", 22.9, 23),
    PlannedRun("Osprey 161", "worst case", 22.3, 24),
    PlannedRun("Osprey 161", "heavy work", 22.4, 25),
    PlannedRun("Tern 47", "worst case", 22.5, 31, stop_above_c=92.0),
    PlannedRun("Tern 47", "worst case", 22.6, 32),
    PlannedRun("Tern 47", "worst case", 22.7, 33),
    PlannedRun("Tern 47", "heavy work", 22.7, 34),
    PlannedRun("Fjord 280", "worst case", 22.2, 41),
    PlannedRun("Fjord 280", "worst case", 22.3, 42),
    PlannedRun("Fjord 280", "heavy work", 22.5, 43),
    PlannedRun("Loam P", "worst case", 22.9, 51),
    PlannedRun("Loam P", "heavy work", 23.0, 52),
    PlannedRun("Osprey 161", "worst case", 22.5, 26, course="Four fan speeds"),
    PlannedRun("Fjord 280", "worst case", 22.6, 46, course="Four fan speeds"),
    PlannedRun("Plain 65", "worst case", 22.8, 14),
    PlannedRun("Closed", "worst case", 34.0, 61, review="van"),
    PlannedRun("Closed", "heavy work", 34.2, 62, review="van"),
    PlannedRun("Vent kit", "worst case", 34.1, 71, review="van"),
    PlannedRun("Closed, 22 W", "worst case", 34.3, 81, review="van"),
    PlannedRun("As delivered", "worst case", 27.0, 91, review="relay site"),
    PlannedRun("Vent kit", "worst case", 33.9, 72, review="van"),
    PlannedRun("Closed", "worst case", 34.1, 63, review="van"),
    PlannedRun("With duct", "worst case", 27.2, 95, review="relay site"),
    PlannedRun("K2, closed", "worst case", 34.0, 64, review="van"),
    PlannedRun("K2, vent kit", "worst case", 34.2, 74, review="van"),
    PlannedRun("K2, vent kit", "worst case", 33.9, 75, review="van"),
    PlannedRun("K2, closed", "worst case", 34.1, 65, review="van"),
    PlannedRun("Flat on the desk", "both at once", 23.0, 101, review="field laptop"),
    PlannedRun("On the stand", "both at once", 23.0, 111, review="field laptop"),
    PlannedRun("On the stand", "graphics drawing", 23.0, 112, review="field laptop"),
    PlannedRun("Flat on the desk", "graphics drawing", 23.0, 102, review="field laptop"),
    PlannedRun("On the stand", "both at once", 23.0, 113, review="field laptop"),
    PlannedRun("Flat on the desk", "both at once", 23.0, 103, review="field laptop"),
)
