"""Rigs on the Shelf: facts, parts, conditions, clearances, and the role of each sensor."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, ClassVar

from rich.text import Text

from samovar.archive.database import ArchiveError
from samovar.bench.loads.protocol import LoadError
from samovar.core.fields import Field, known, value_shown
from samovar.core.quantity import ROLES, value_text
from samovar.core.rig import DETAIL_FIELDS, FACT_FIELDS, REACHED_BY, RIG_FIELDS, Rig, split_values
from samovar.sources.protocol import Probed
from samovar.tui.aside import aside
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.form import Line
from samovar.tui.shelf.view import ShelfView

OF_THE_MACHINE = (*FACT_FIELDS, *DETAIL_FIELDS)
"""What there is to know of a rig, however it is reached."""
NAME = Field("name", "name", example="Halden 8 in Larch C2", needed=True)
_ROLED = ("temperature", "power", "fan")
_FILL, _FAR, _EMPTY_RIG = "this machine", "another machine", "empty"


class RigsView(ShelfView):
    """Test machines."""

    NAME: ClassVar[str] = "rigs"
    ONE: ClassVar[str] = "rig"
    COLUMNS: ClassVar[Sequence[str]] = ("rig", "processor", "known", "sensors")
    EMPTY: ClassVar[str] = (
        "No rig yet.\n\nA rig is the machine the setups are built on. Press a: it can be filled in from the machine\n"
        "Samovar measures, as far as the kernel tells, and completed by hand."
    )

    def _rig(self, key: int) -> Rig:
        found = self.session.archive.shelf.rig(key)
        assert found is not None
        return found

    def count(self) -> int:
        """How many there are."""
        return len(self.session.archive.shelf.rigs())

    def rows(self) -> list[tuple[int, Sequence[str | Text]]]:
        """Name, processor, how much is known of it, sensors confirmed."""
        return [
            (
                rig.id,
                (
                    Text(rig.name, f"bold {self.palette.text}"),
                    rig.facts.cpu.name or "not known",
                    f"{len(known(OF_THE_MACHINE, rig.values()))} of {len(OF_THE_MACHINE)}",
                    "confirmed" if rig.sensors else "proposed",
                ),
            )
            for rig in self.session.archive.shelf.rigs(self.state)
        ]

    def detail(self, key: int) -> Text:
        """Everything, by section; what matters and is not known, said."""
        rig = self._rig(key)
        text = self.heading(rig.name, "rig")
        values = rig.values()
        section = ""
        for f in RIG_FIELDS:
            if values.get(f.key) is None:
                continue
            if f.section != section:
                section = f.section
                self.section(text, section)
            self.pair(text, f.label, value_shown(f, values[f.key]))
        missing = [f.label for f in OF_THE_MACHINE if values.get(f.key) is None]
        if missing:
            self.section(text, "not known")
            text.append(", ".join(missing) + "\n", self.palette.faint)
        self.section(text, "sensors")
        for sensor, role in rig.sensors.items():
            self.pair(text, role, sensor, width=12)
        if not rig.sensors:
            text.append(
                "Roles are proposed from driver and label: s looks through them and confirms.\n",
                self.palette.soft,
            )
        self._instruments(text, rig)
        setups = [
            s.name
            for r in self.session.archive.reviews.reviews()
            for s in r.setups
            if s.rig and s.rig.id == key
        ]
        if setups:
            self.section(text, "setups on it")
            text.append(", ".join(setups) + "\n")
        return text

    def _instruments(self, text: Text, rig: Rig) -> None:
        """What stands beside it, or what to do."""
        self.section(text, "instruments")
        try:
            found = aside(self.session.equipment.instruments, rig)
        except LoadError as problem:
            text.append(f"{problem}\n", self.palette.caution)
            return
        for one in found:
            self.pair(
                text,
                one.name,
                f"{', '.join(c.name for c in one.channel) or 'its titles'}: {one.shown}",
                width=16,
            )
        if not found:
            text.append("None: m sets one up from what it says.\n", self.palette.soft)

    def _lines(self, name: str, values: dict[str, Any], filled: set[str] | None = None) -> list[Line]:
        told = filled or set()
        return [
            Line(NAME, name),
            *(
                Line(f, values.get(f.key), note="as the machine says" if f.key in told else "")
                for f in RIG_FIELDS
            ),
        ]

    async def add(self) -> int | None:
        """From this machine, or empty."""
        how = await self.place.app.push_screen_wait(
            Choose(
                "Where does the rig come from?",
                [
                    (_FILL, "what the kernel tells of the machine that is measured"),
                    (_FAR, "one that a command reaches, with samovar agent on it"),
                    (_EMPTY_RIG, "everything by hand"),
                ],
            )
        )
        if how is None:
            return None
        values = self.session.machine.known_facts() if how == _FILL else {}
        if how == _FAR:
            told = await self._far_facts()
            if told is None:
                return None
            values = told
        name = str(values.get("cpu.name", ""))
        added: list[int] = []

        def keep(answer: dict[str, Any]) -> str | None:
            body = dict(answer)
            called = body.pop("name")
            facts, details = split_values(body)
            try:
                added.append(self.session.archive.shelf.add_rig(called, facts, details))
            except ArchiveError as problem:
                return str(problem)
            return None

        intro = "The clearances decide the fit check; the room probe's half-width goes into every rise."
        if await self.ask("A new rig", self._lines(name, values, set(values)), intro, keep) is None:
            return None
        self.session.remember(f"{self.name_of(added[0])} added", lambda: self.set_state(added[0], "deleted"))
        return added[0]

    async def _far_facts(self) -> dict[str, Any] | None:
        """What another machine tells of itself, and the command that reaches it; None where none is reached."""
        command = await self.place.app.push_screen_wait(
            Ask(
                "Which command reaches the agent?\n\nIts login must need no password: ssh asks for none here.",
                hint="ssh bench@pebble samovar agent",
            )
        )
        if not command:
            return None
        rig = Rig(0, "", details={REACHED_BY: command})
        try:
            facts = aside(lambda: self.session.equipment.machine(rig).known_facts())
        except LoadError as problem:
            self.place.notify(str(problem), severity="error", timeout=12)
            return None
        return {**facts, REACHED_BY: command}

    async def edit(self, key: int) -> None:
        """All its fields."""
        rig = self._rig(key)
        shelf = self.session.archive.shelf

        def keep(answer: dict[str, Any]) -> str | None:
            body = dict(answer)
            called = body.pop("name")
            facts, details = split_values(body, rig.facts)
            fields = {f.key for f in RIG_FIELDS}
            others = {k: v for k, v in rig.details.items() if k not in fields}
            try:
                shelf.save_rig(replace(rig, name=called, facts=facts, details={**others, **details}))
            except ArchiveError as problem:
                return str(problem)
            return None

        if await self.ask(rig.name, self._lines(rig.name, rig.values()), "", keep) is not None:
            self.session.remember(f"{rig.name} changed", lambda: shelf.save_rig(rig))

    async def sensors(self, key: int, found: Sequence[Probed]) -> None:
        """The role of each sensor: proposed, to be confirmed once."""
        rig = self._rig(key)
        usable = [p for p in found if p.status == "ok" and p.channel.quantity in _ROLED]
        if not usable:
            self.place.notify(
                "No sensor can be read here now: u on the Desk looks again.", severity="warning"
            )
            return
        lines = [
            Line(
                Field(p.channel.id, p.channel.name, "choice", ROLES, section=p.channel.quantity, needed=True),
                rig.sensors.get(p.channel.id, p.channel.role),
                note=f"now {value_text(p.value, p.channel.unit)}"
                + ("" if p.channel.id in rig.sensors else f", proposed {p.channel.role}"),
            )
            for p in sorted(usable, key=lambda p: _ROLED.index(p.channel.quantity))
        ]
        answer = await self.ask(
            f"Sensors of {rig.name}",
            lines,
            "Each sensor's role is remembered by its id, on every later run of this rig.",
        )
        if answer is not None:
            self.session.archive.shelf.save_rig(replace(rig, sensors={**rig.sensors, **answer}))
            self.session.remember(
                f"sensors of {rig.name} confirmed", lambda: self.session.archive.shelf.save_rig(rig)
            )

    def duplicate(self, key: int) -> int | None:
        """A second one like it."""
        new = self.session.archive.shelf.duplicate_rig(self._rig(key))
        self.session.remember(f"{self.name_of(new)} added", lambda: self.set_state(new, "deleted"))
        return new

    def name_of(self, key: int) -> str:
        """Its name."""
        return self._rig(key).name

    def set_state(self, key: int, state: str) -> None:
        """Out of sight, deleted, back. Raises InUse."""
        self.session.archive.shelf.set_rig_state(self._rig(key), state)
