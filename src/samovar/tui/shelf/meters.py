"""The instruments beside a rig, set up from what they say: an address, a look at what is there, a channel chosen."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from platformdirs import user_data_path

from samovar.bench.loads.protocol import LoadError
from samovar.core.fields import Field
from samovar.core.instrument import PROTOCOLS, Instrument, InstrumentChannel, instruments_of
from samovar.core.quantity import ROLES, UNITS
from samovar.core.rig import INSTRUMENTS_FILE, Rig
from samovar.core.units import Unreadable
from samovar.exchange.instrument_file import write_instruments
from samovar.exchange.problems import InputError
from samovar.sources.instruments.look import Looked, Seen, look
from samovar.sources.instruments.source import reason_of
from samovar.tui.aside import aside
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.form import Line
from samovar.tui.shelf.view import ShelfView

ADD = "add one"
DONE = "that is all"
_FIELDS = (
    Field("instrument", "instrument", example="wall meter", needed=True),
    Field("name", "channel", example="Wall power", needed=True),
    Field("quantity", "quantity", "choice", tuple(UNITS), needed=True),
    Field("unit", "its unit there", example="W, mW, °F"),
    Field("role", "role", "choice", ROLES, needed=True),
    Field("accuracy", "may be off by", example="class 1, K 1, 0.5 % + 0.2"),
)
_SCALE = Field("scale", "times", "number", example="0.1")


async def ask_instruments(view: ShelfView, rig: Rig) -> None:
    """Show the rig's instruments; add one, or take one away. They stand in a file that scripts read too."""
    try:
        known = list(aside(view.session.equipment.kept, rig))
        every = aside(view.session.equipment.instruments, rig)
    except LoadError as problem:
        view.place.notify(str(problem), severity="error", timeout=12)
        return
    options = [(ADD, "by its address: what it says is looked at, and a channel of it chosen")]
    options += [(one.name, f"{one.shown}: {', '.join(c.name for c in one.channel)}") for one in every]
    chosen = await view.place.app.push_screen_wait(Choose(f"Instruments beside {rig.name}", options))
    if chosen is None:
        return
    if chosen == ADD:
        await _add(view, rig, known)
        return
    if all(one.name != chosen for one in known):
        view.place.notify(f"{chosen} is the demo's own: it comes and goes with it.")
        return
    left = [one for one in known if one.name != chosen]
    question = f"{chosen} is taken away from {rig.name}; the runs that it was part of stay as they are."
    answer = await view.place.app.push_screen_wait(
        Choose(question, [("keep it", "nothing changes"), ("take it away", "z brings it back")])
    )
    if answer == "take it away":
        _keep(view, rig, left, known, f"{chosen} taken away")


async def _add(view: ShelfView, rig: Rig, known: Sequence[Instrument]) -> None:
    app = view.place.app
    examples = "\n".join(dict.fromkeys(p.example for p in PROTOCOLS.values() if p.own_channels))
    address = await app.push_screen_wait(
        Ask(f"At which address?\n\n{examples}", hint="scpi+tcp://192.0.2.7:5025")
    )
    if not address:
        return
    looked = _look(view, address)
    if looked is None:
        return
    if not looked.seen:
        who = f" It says it is {looked.identity}." if looked.identity else ""
        view.place.notify(
            f"Nothing that could be read was found there.{who} Its manual says more: name it in a file.",
            severity="warning",
            timeout=12,
        )
        return
    found: Instrument | None = None
    while True:
        options = [(one.name, one.says) for one in looked.seen]
        options += [(DONE, f"{len(found.channel)} of it")] if found is not None else []
        title = looked.identity or f"What is at {address.rpartition('@')[2]}"
        chosen = await app.push_screen_wait(Choose(f"{title}\n\nWhich is a channel?", options))
        if chosen is None or chosen == DONE:
            break
        seen = next(one for one in looked.seen if one.name == chosen)
        found = await _channel(view, address, seen, looked, found, known) or found
    if found is not None:
        kept = [one for one in known if one.name != found.name]
        _keep(view, rig, [*kept, found], list(known), f"{found.name} added")


def _look(view: ShelfView, address: str) -> Looked | None:
    """What is there; None where nothing is, which is said."""
    try:
        return aside(look, address)
    except ValueError as problem:
        view.place.notify(str(problem), severity="error", timeout=12)
    except Exception as problem:
        # Whatever a device or a package comes up with.
        words = reason_of(problem, Instrument("it", address))
        view.place.notify(words, severity="error", timeout=12)
    return None


async def _channel(
    view: ShelfView,
    address: str,
    seen: Seen,
    looked: Looked,
    so_far: Instrument | None,
    known: Sequence[Instrument],
) -> Instrument | None:
    """What it is as a channel, as far as a person says; the instrument with it."""
    called = so_far.name if so_far is not None else _free_name(looked, address, known)
    values = {
        "instrument": called, "name": _title(seen), "quantity": seen.quantity, "unit": seen.unit, "role": seen.role,
    }  # fmt: skip
    lines = [Line(f, values.get(f.key, "")) for f in _FIELDS]
    if "scale" in seen.keys:
        lines.append(Line(_SCALE, seen.keys["scale"]))
    made: list[Instrument] = []

    def check(answer: dict[str, Any]) -> str | None:
        body = {key: value for key, value in answer.items() if value is not None}
        name = str(body.pop("instrument"))
        before = so_far.channel if so_far is not None else ()
        try:
            channel = InstrumentChannel(**{**seen.keys, **body})
            one = Instrument(name, address, (*before, channel))
            # Held against all that a file is held against.
            made[:] = instruments_of({"instrument": [one]})
        except (Unreadable, TypeError, ValueError) as problem:
            return str(problem)
        return None

    answer = await view.ask(f"{seen.name}: now {seen.says}", lines, "", check)
    return made[0] if answer is not None and made else None


def _title(seen: Seen) -> str:
    words = re.sub(r"[^\w]+", " ", seen.name).strip()
    return words[:40].capitalize()


def _free_name(looked: Looked, address: str, known: Sequence[Instrument]) -> str:
    """A name that no other has: what it calls itself, or where it is."""
    parts = [part.strip() for part in looked.identity.split(",")]
    host = re.sub(r"^.*@", "", address.partition("://")[2]).partition("/")[0]
    name = (parts[1].lower() if len(parts) > 1 and parts[1] else host or "instrument")[:60]
    taken, number = {one.name for one in known}, 2
    free = name
    while free in taken:
        free, number = f"{name} {number}", number + 1
    return free


def _keep(
    view: ShelfView, rig: Rig, instruments: Sequence[Instrument], before: Sequence[Instrument], words: str
) -> None:
    """Write the rig's file, and name it with the rig; z puts back what was."""
    shelf = view.session.archive.shelf
    named = rig.details.get(INSTRUMENTS_FILE)
    path = Path(str(named)).expanduser() if named else _own_file(rig)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        aside(write_instruments, path, instruments)
    except (InputError, OSError) as problem:
        view.place.notify(str(problem), severity="error", timeout=12)
        return
    now = {**rig.details, INSTRUMENTS_FILE: str(path)} if instruments else _without_file(rig)
    shelf.save_rig(replace(rig, details=now))

    def undo() -> None:
        write_instruments(path, before)
        current = shelf.rig(rig.id)
        if current is not None:
            details = {**current.details, INSTRUMENTS_FILE: str(path)} if before else _without_file(current)
            shelf.save_rig(replace(current, details=details))

    view.session.remember(words, undo)
    view.place.notify(f"{words.capitalize()}; the file is {path}.")


def _without_file(rig: Rig) -> dict[str, Any]:
    return {k: v for k, v in rig.details.items() if k != INSTRUMENTS_FILE}


def _own_file(rig: Rig) -> Path:
    stem = re.sub(r"[^\w]+", "-", rig.name.lower()).strip("-") or "rig"
    return user_data_path("samovar", appauthor=False) / "instruments" / f"{stem}.toml"
