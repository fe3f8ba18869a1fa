"""Asking for readings by hand, in mid-run and afterwards, and for changes in mid-run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from samovar.archive.database import ArchiveError
from samovar.archive.hand_readings import HandReadings
from samovar.bench.course_spec import clock_text
from samovar.bench.loads.catalogue import commands_of
from samovar.bench.loads.protocol import LoadError
from samovar.core.by_hand.line import WAYS_OF_KINDS, Circumstances, read_value
from samovar.core.by_hand.reading import KINDS, HandReading
from samovar.core.units import Unreadable
from samovar.exchange.problems import InputError
from samovar.heard_line import heard_readings, names_recording
from samovar.recording.hand_readings import circumstances, keep_reading
from samovar.recording.live import LiveRun
from samovar.tui.aside import aside
from samovar.tui.run_start import leave_for
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose

NEW = "a new reading"


async def ask_value(
    place: Place, kind: str, there: Circumstances, typed: str = "", more: str = ""
) -> HandReading | None:
    """A reading of one kind, asked for until it can be read; None where it was left."""
    way = WAYS_OF_KINDS[kind]
    example = way.example.removeprefix(f"{kind} ")
    listened = " Or a recording: fan.wav, known 33, at 0.5 m." if kind == "noise" else ""
    question = f"{kind.capitalize()}: {KINDS[kind].label}.{listened}{more}"
    while True:
        answer = await place.app.push_screen_wait(Ask(question, typed, hint=example))
        if not answer:
            return None
        try:
            return _read(place, kind, answer, there)
        except (Unreadable, InputError) as problem:
            # What was typed is kept: one letter may be all that is wrong with it.
            typed = answer
            place.notify(str(problem), severity="error", timeout=12)


def _read(place: Place, kind: str, typed: str, there: Circumstances) -> HandReading:
    """A value as it was typed; a recording that is named is listened to. Raises Unreadable, InputError."""
    if kind == "noise" and names_recording(typed):
        level: HandReading = aside(heard_readings, typed, there, place.session.archive.clips.keep)[0]
        return level
    return read_value(kind, typed, there)


async def ask_kind(place: Place, but: tuple[str, ...] = ()) -> str | None:
    """Which kind of reading; None where it was left."""
    options = [(kind.key, kind.label) for kind in KINDS.values() if kind.key not in but]
    return await place.app.push_screen_wait(Choose("What was read?", options))


def keep(place: Place, live: LiveRun, reading: HandReading) -> None:
    """Keep a reading in the run it was asked for, were that sealed meanwhile, and say so."""
    try:
        kept = aside(keep_reading, live, reading)
    except ArchiveError as problem:
        place.notify(str(problem), severity="error", timeout=20)
        return
    where = f" of {live.id}, which is sealed" if live.sealed.is_set() else ""
    place.notify(f"{kept.kind} {kept.text()} kept at {clock_text(kept.at_s or 0.0)}{where}. {kept.said}")


async def ask_noise(place: Place, live: LiveRun) -> None:
    """A sound level, as the meter shows it."""
    reading = await ask_value(place, "noise", aside(circumstances, live))
    if reading is not None:
        keep(place, live, reading)


async def ask_reading(place: Place, live: LiveRun) -> None:
    """Any reading but a sound level."""
    kind = await ask_kind(place, ("noise",))
    reading = await ask_value(place, kind, aside(circumstances, live)) if kind is not None else None
    if reading is not None:
        keep(place, live, reading)


async def edit_readings(
    place: Place, run: str, number: int, there: Circumstances, at_s: float | None
) -> bool:
    """Enter a reading of a run that is over, change one or take it back; True where something is otherwise now.

    Args:
        place: where it is asked.
        run, number: the run's name and number.
        there: what is known of it.
        at_s: a new reading's moment where its line names none; None for one of the whole run.
    """
    hands = place.session.archive.runs.hands
    have = hands.of(number)
    names = [f"{r.kind} {r.text()}" + (f", {clock_text(r.at_s)}" if r.at_s is not None else "") for r in have]
    where = "of the whole run" if at_s is None else f"at the cursor, {clock_text(at_s)}, unless it says when"
    options = [(name, r.said) for name, r in zip(names, have, strict=True)]
    # Two alike are told apart by their numbers.
    options = [
        (f"{name}  ({r.n})" if names.count(name) > 1 else name, said)
        for (name, said), r in zip(options, have, strict=True)
    ]
    chosen = NEW
    if options:
        picked = await place.app.push_screen_wait(Choose(f"Read by hand, {run}", [(NEW, where), *options]))
        if picked is None:
            return False
        chosen = picked
    if chosen == NEW:
        return await _enter(place, run, number, there, at_s)
    return await _change(place, run, number, there, have[[name for name, _ in options].index(chosen)])


async def _enter(place: Place, run: str, number: int, there: Circumstances, at_s: float | None) -> bool:
    hands = place.session.archive.runs.hands
    kind = await ask_kind(place)
    reading = await ask_value(place, kind, there) if kind is not None else None
    if reading is None:
        return False
    if reading.at_s is None and reading.kind not in ("room", "score", "time"):
        reading = replace(reading, at_s=at_s)
    kept = hands.add(number, reading)
    place.session.remember(f"{kept.kind} entered for {run}", lambda: hands.take_back(number, kept.n))
    place.notify(f"{run}: {kept.kind} {kept.text()} kept. {kept.said}")
    return True


async def _change(place: Place, run: str, number: int, there: Circumstances, old: HandReading) -> bool:
    hands = place.session.archive.runs.hands
    typed = old.typed or f"{old.value:g} {old.unit}" if old.value is not None else old.typed
    example = " An empty line takes it back."
    answer = await _retyped(place, old, there, typed, example)
    if answer is None:
        return False
    if answer == "":
        hands.take_back(number, old.n)
        place.session.remember(f"{old.kind} of {run} taken back", lambda: _restore(hands, number, old))
        place.notify(f"{run}: {old.kind} {old.text()} taken back; it can be undone.")
        return True
    assert isinstance(answer, HandReading)
    new = replace(answer, n=old.n, at_s=old.at_s if answer.at_s is None else answer.at_s)
    hands.put(number, new)
    place.session.remember(f"{old.kind} of {run} changed", lambda: hands.put(number, old))
    place.notify(f"{run}: {new.kind} {new.text()} kept. {new.said}")
    return True


async def _retyped(
    place: Place, old: HandReading, there: Circumstances, typed: str, more: str
) -> HandReading | str | None:
    """A reading typed anew; an empty text to take it back, None where it was left as it is."""
    while True:
        question = f"{old.kind.capitalize()}: {old.is_of.label}.{more}"
        answer = await place.app.push_screen_wait(Ask(question, typed))
        if answer is None or (answer == typed and old.typed):
            return None
        if not answer:
            return ""
        try:
            return _read(place, old.is_of.key, answer, there)
        except (Unreadable, InputError) as problem:
            typed = answer
            place.notify(str(problem), severity="error", timeout=12)


def _restore(hands: HandReadings, number: int, reading: HandReading) -> None:
    hands.add(number, reading)


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
            aside(live.join, name)
    except LoadError as problem:
        place.notify(str(problem), severity="error")
        return
    place.notify(f"{chosen}, at {clock_text(live.recorder.elapsed())}: marked.")
