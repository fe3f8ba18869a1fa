"""Asking for readings by hand in mid-run, and for marks, with those the course has prepared."""

from __future__ import annotations

from collections.abc import Mapping

from samovar.archive.database import ArchiveError
from samovar.bench.course_spec import clock_text
from samovar.bench.loads.catalogue import commands_of
from samovar.bench.loads.protocol import LoadError
from samovar.core.uncertainty import Measured
from samovar.exchange.hand_entry import (
    OTHER_UNITS,
    Entered,
    noise_by_rig,
    read_other,
    read_room,
    read_surface,
    split_ago,
)
from samovar.exchange.problems import InputError
from samovar.recording.live import LiveRun
from samovar.recording.room import ROOM
from samovar.tui.run_start import leave_for
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose

KINDS = (
    ("surface", "spot thermometer or contact probe, °C"),
    ("wall power", "a meter at the wall, W"),
    ("score", "what a benchmark printed"),
    ("time", "how long something took, s"),
    ("other", "anything else, with its unit"),
)


def keep(place: Place, live: LiveRun, entered: Entered, seconds_ago: float = 0.0) -> None:
    """Keep a reading in the run it was asked for, were that sealed meanwhile, and say so."""
    try:
        live.read_by_hand(
            entered.quantity, entered.value, entered.half_width, entered.unit, entered.instrument, seconds_ago
        )
    except ArchiveError as problem:
        place.notify(str(problem), severity="error", timeout=20)
        return
    shown = Measured(entered.value, entered.half_width).text(entered.unit, finest=1)
    at_s = live.hand_readings[-1].at_s
    where = f" of {live.id}, which is sealed" if live.sealed.is_set() else ""
    place.notify(f"{entered.quantity} {shown} kept at {clock_text(at_s)}{where}. {entered.instrument}")


async def ask_noise(place: Place, live: LiveRun) -> None:
    """A sound level: background off, at 1 m."""
    rig = live.setup.rig if live.setup else None
    details = rig.details if rig else {}
    where = f"at {details['meter_distance_m']:g} m" if details.get("meter_distance_m") else "at 1 m"
    typed = await place.app.push_screen_wait(
        Ask(f"Sound level {where}, dBA, as the meter shows it?", hint="27.4 or 27.4 ± 1.4, 2 min ago")
    )
    if not typed:
        return
    try:
        typed, seconds_ago = split_ago(typed)
        entered = noise_by_rig(typed, rig)
    except InputError as problem:
        place.notify(str(problem), severity="error")
        return
    keep(place, live, entered, seconds_ago)


async def ask_change(place: Place, live: LiveRun, loads: Mapping[str, str]) -> None:
    """Other fans, or a load that joins the one that is on, or leaves it."""
    joined = live.recorder.joined
    options = [(f"fans {share} %", "of their full speed") for share in (100, 80, 60, 40, 25)]
    options += [(f"{name} leaves", "the course's load goes on alone") for name in joined]
    if live.step == "load":
        others = [n for n in loads if n not in (live.spec.load, "idle", *joined)]
        options += [(f"{name} joins", loads[name]) for name in others]
    chosen = await place.app.push_screen_wait(Choose("What changes, in mid-run?", options))
    if chosen is None:
        return
    if live.sealed.is_set():
        place.notify(f"{live.id} has ended meanwhile: nothing was changed.", severity="warning")
        return
    try:
        if chosen.startswith("fans "):
            live.change_fans(float(chosen.split()[1]) / 100.0)
        elif chosen.endswith(" leaves"):
            live.leave(chosen.removesuffix(" leaves"))
        else:
            name = chosen.removesuffix(" joins")
            own = place.session.archive.plans.own_loads()
            commands = commands_of(own[name], own) if name in own else []
            if not await leave_for(place, [c for c in commands if c.waits_for_leave]):
                return
            live.join(name)
    except LoadError as problem:
        place.notify(str(problem), severity="error")
        return
    place.notify(f"{chosen}, at {clock_text(live.recorder.elapsed())}: marked.")


async def ask_reading(place: Place, live: LiveRun, room_c: float | None) -> None:
    """Any reading but a sound level."""
    kinds = (*KINDS, (ROOM, "the room's temperature, °C")) if live.room_by_hand is not None else KINDS
    kind = await place.app.push_screen_wait(Choose("What was read?", kinds))
    if kind is None:
        return
    question = (
        "Surface, °C? The part first, then what it is of, or which probe."
        if kind == "surface"
        else f"{kind.capitalize()}?"
    )
    if kind == ROOM:
        question = "Room, °C?"
    hint = (
        "61.3 black tape, 61.3 e 0.9, vrm 58.2 probe K1" if kind == "surface" else "231, 231 ± 2 or 33 to 36"
    )
    typed = await place.app.push_screen_wait(Ask(question, hint=hint))
    if not typed:
        return
    try:
        typed, seconds_ago = split_ago(typed)
        if kind == ROOM:
            entered = read_room(typed)
        elif kind == "surface":
            entered = read_surface(typed, room_c)
        else:
            entered = read_other(kind, OTHER_UNITS[kind], typed)
    except InputError as problem:
        place.notify(str(problem), severity="error")
        return
    keep(place, live, entered, seconds_ago)
