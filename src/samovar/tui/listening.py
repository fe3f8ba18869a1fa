"""Listening from the Bench: a sound level taken by the run's microphone, and the room alone before a run."""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import TYPE_CHECKING

from samovar.core.instrument import MICROPHONE, Instrument
from samovar.recording.instruments import listens
from samovar.sources.protocol import Source
from samovar.tui.aside import aside
from samovar.tui.widgets.spectrum import SpectrumView

if TYPE_CHECKING:
    from samovar.bench.clock import Clock
    from samovar.core.sound.listening import Listening
    from samovar.recording.ear import Ear, HeardNow
    from samovar.recording.live import LiveRun
    from samovar.tui.screens.place import Place
    from samovar.tui.session import Session

WAITS_S = 5.0
"""So much longer than it listens is a microphone waited for."""
HELD_AGAINST = "The next runs' levels are held against it."
NO_SCALE = "Its full scale is not known, so no run gets a level from it, only tones and character: give full_scale in its address."
NO_MICROPHONE = (
    "No microphone stands beside this rig: 1, then m on the rig adds one by its address, such as "
    "microphone:?full_scale=112.4"
)


def give_ears(place: Place, live: LiveRun, beside: Sequence[Source]) -> None:
    """Let the microphones among a run's instruments listen for it."""
    session = place.session
    session.ears = []
    if not any(map(listens, beside)):
        return
    from samovar.recording.ear import ears_of

    def told(heard: HeardNow) -> None:
        severity = "information" if heard.reading is not None else "warning"
        place.app.call_from_thread(place.notify, heard.words, title="heard", severity=severity, timeout=12)

    session.ears = ears_of(live, beside, session.backgrounds, told)


def hear(place: Place) -> None:
    """Listen: for a reading of the run under way, else to the room alone."""
    session = place.session
    live = session.live
    if live is not None and not live.sealed.is_set():
        if not session.ears:
            place.notify(NO_MICROPHONE, severity="warning", timeout=12)
            return
        for ear in session.ears:
            ear.begin()
        place.notify("Listening: be still.", timeout=5)
        return
    cell = session.next_cell()
    rig = cell[0].rig if cell is not None else None
    found = [one for one in aside(session.equipment.instruments, rig) if one.protocol.name == MICROPHONE]
    if not found:
        place.notify(NO_MICROPHONE, severity="warning", timeout=12)
        return
    place.notify("Listening to the room: be still, with the machine switched off.", timeout=20)
    clock = aside(session.equipment.machine, rig).clock
    # It takes a while: on a thread of its own, so that every key is answered meanwhile.
    place.run_worker(lambda: _hear_room(place, found, clock), thread=True, group="hearing")


def _hear_room(place: Place, found: Sequence[Instrument], clock: Clock) -> None:
    for one in found:
        background, words = _background(one, clock)
        if background is not None:
            place.session.backgrounds[one.name] = background
            words += f". {HELD_AGAINST if 'full_scale' in one.options else NO_SCALE}"
        severity = "warning" if background is None else "information"
        place.app.call_from_thread(
            place.notify, f"{one.name}: {words}", title="the room alone", severity=severity, timeout=15
        )


def _background(instrument: Instrument, clock: Clock) -> tuple[Listening | None, str]:
    """The room alone by one microphone, and words on it."""
    from samovar.recording.ear import background_by, sound_wanted_s
    from samovar.sources.microphone.source import Microphone

    microphone = Microphone(instrument, clock)
    try:
        # One that was just plugged in, or a rig that was just switched off, takes a moment.
        wanted_s = sound_wanted_s(clock.speed)
        until = time.monotonic() + 2.0 * wanted_s + WAITS_S
        while microphone.heard_s < wanted_s + WAITS_S / 2.0 and time.monotonic() < until:
            time.sleep(0.1)
        return background_by(microphone, wanted_s)
    except ValueError as problem:
        return None, str(problem)
    finally:
        microphone.close()


def still_for(session: Session) -> str:
    """What to say while it listens; empty while it does not."""
    left = [left for ear in session.ears if (left := ear.remaining_s) is not None]
    return f"listening: be still, {max(left):.0f} s" if left else ""


def spectrum_of(session: Session, live: LiveRun) -> SpectrumView | None:
    """What the first microphone hears now; None where there is none, or it hears nothing yet."""
    ear: Ear | None = next((one for one in session.ears if one.live is live), None)
    if ear is None:
        return None
    rows = [
        k
        for k, c in enumerate(live.channels)
        if c.quantity == "band" and c.id.startswith(f"{ear.microphone.name}:")
    ]
    _, values = live.arrays()
    if not rows or not values.shape[1]:
        return None
    newest = values[rows, -1].tolist()
    behind = dict(ear.bands_db)
    hz = [float(live.channels[k].id.rpartition(":")[2]) for k in rows]
    return SpectrumView(
        tuple(hz), tuple(newest), tuple(behind.get(one, float("nan")) for one in hz), ear.character,
        live.channels[rows[0]].unit,
    )  # fmt: skip
