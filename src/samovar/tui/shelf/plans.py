"""Courses and the reviewer's own loads on the Shelf."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, ClassVar

from rich.text import Text

from samovar.archive.database import ArchiveError
from samovar.archive.plans import NamedCourse
from samovar.bench.course_spec import COURSE_FIELDS, read_course, spec_of
from samovar.bench.loads.catalogue import OWN_KINDS, OwnLoad
from samovar.bench.loads.protocol import LoadError
from samovar.core.fields import Field, value_shown
from samovar.core.units import Unreadable, shown
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.form import Line
from samovar.tui.shelf.view import ShelfView

_COURSE_NAME = Field("name", "name", example="Booth, half an hour", needed=True)


class CoursesView(ShelfView):
    """Courses that are kept under a name."""

    NAME: ClassVar[str] = "courses"
    ONE: ClassVar[str] = "course"
    COLUMNS: ClassVar[Sequence[str]] = ("course", "load", "at most")
    EMPTY: ClassVar[str] = (
        "No course of your own yet.\n\nWithout one a run idles until calm, loads until steady (at most 30 min) and cools\n"
        "down to idle + 2 K. Press a for another: a fixed time, steps of fan speed, readings by hand."
    )

    def _course(self, key: int) -> NamedCourse:
        for state in ("kept", "archived", "deleted"):
            for course in self.session.archive.plans.courses(state):
                if course.id == key:
                    return course
        raise KeyError(key)

    def count(self) -> int:
        """How many there are."""
        return len(self.session.archive.plans.courses())

    def rows(self) -> list[tuple[int, Sequence[str | Text]]]:
        """Name, the load's rule, the longest it takes."""
        out: list[tuple[int, Sequence[str | Text]]] = []
        for course in self.session.archive.plans.courses(self.state):
            spec = spec_of("", course.body)
            rule = f"{len(spec.steps)} steps" if spec.steps else spec.words().partition(",")[0]
            out.append(
                (
                    course.id,
                    (Text(course.name, f"bold {self.palette.text}"), rule, shown("time", spec.longest_s)),
                )
            )
        return out

    def detail(self, key: int) -> Text:
        """Every rule, the usual ones too."""
        course = self._course(key)
        spec = spec_of("", course.body)
        text = self.heading(course.name, "course")
        self.section(text, "idle")
        self.pair(text, "at least", shown("time", spec.idle_least_s))
        self.pair(
            text, "until", f"under {spec.calm_k_per_min:g} K/min, at most {shown('time', spec.idle_most_s)}"
        )
        self.section(text, "load")
        for number, line in enumerate(spec.words().split(", then "), start=1):
            self.pair(text, f"step {number}" if spec.steps else "rule", line)
        self.section(text, "cool-down and guard")
        self.pair(
            text, "until", f"idle + {spec.cool_down_k:g} K, at most {shown('time', spec.cool_down_most_s)}"
        )
        guard = (
            f"over {spec.stop_above_c:.0f} °C"
            if "stop_above_c" in course.body
            else "10 K over the chip's limit"
        )
        self.pair(text, "guard stops", ", ".join([guard, *(f"{limit} °C" for limit in spec.limits)]))
        if spec.rise_k_per_s is not None:
            self.pair(text, "", f"and over {spec.rise_k_per_s:g} K/s")
        self.section(text, "by hand")
        for due in spec.readings:
            text.append(f"{due.words}\n")
        reviews = [
            r.name for r in self.session.archive.reviews.reviews() if course.name in r.courses.values()
        ]
        if reviews:
            self.section(text, "in use by")
            text.append(", ".join(reviews) + "\n")
        return text

    def _lines(self, name: str, body: dict[str, Any]) -> list[Line]:
        return [Line(_COURSE_NAME, name), *(Line(f, body.get(f.key)) for f in COURSE_FIELDS)]

    async def add(self) -> int | None:
        """Every rule; what is left empty is as usual."""
        added: list[int] = []

        def keep(values: dict[str, Any]) -> str | None:
            try:
                added.append(self.session.archive.plans.add_course(values["name"], _body(values)))
            except (ArchiveError, Unreadable) as problem:
                return str(problem)
            return None

        intro = "What is left empty is as usual. Steps: fans 40 %, fans 60 % at most 12 min, heavy work for 10 min."
        if await self.ask("A new course", self._lines("", {}), intro, keep) is None:
            return None
        self.session.remember(f"{self.name_of(added[0])} added", lambda: self.set_state(added[0], "deleted"))
        return added[0]

    async def edit(self, key: int) -> None:
        """All its rules."""
        course = self._course(key)
        plans = self.session.archive.plans

        def keep(values: dict[str, Any]) -> str | None:
            try:
                plans.save_course(replace(course, name=values["name"], body=_body(values)))
            except (ArchiveError, Unreadable) as problem:
                return str(problem)
            return None

        if await self.ask(course.name, self._lines(course.name, course.body), "", keep) is not None:
            self.session.remember(f"{course.name} changed", lambda: plans.save_course(course))

    def duplicate(self, key: int) -> int | None:
        """A second one like it."""
        new = self.session.archive.plans.duplicate_course(self._course(key))
        self.session.remember(f"{self.name_of(new)} added", lambda: self.set_state(new, "deleted"))
        return new

    def name_of(self, key: int) -> str:
        """Its name."""
        return self._course(key).name

    def set_state(self, key: int, state: str) -> None:
        """Out of sight, deleted, back."""
        self.session.archive.plans.set_course_state(key, state)


def _body(values: dict[str, Any]) -> dict[str, Any]:
    return read_course({k: v for k, v in values.items() if k != "name"})


_LOAD_LINES: dict[str, tuple[Field, ...]] = {
    "ours": (
        Field("of", "load", "choice", (), needed=True),
        Field("threads", "threads", "count", example="empty: as many as it takes"),
        Field("duty", "duty", "share", example="empty: its own"),
        Field("seed", "seed", "count", example="0"),
        Field("block_kb", "storage: a block, KB", "count", example="empty: 1024 in a row, 4 here and there"),
        Field("queue", "storage: blocks at once", "count", example="empty: 8 in a row, 32 here and there"),
        Field("file_mb", "storage: the file, MB", "count", example="empty: 1024"),
    ),
    "command": (
        Field("command", "command", example="make -j8 -C ~/kernel", needed=True),
        Field("score_pattern", "score's pattern", example="score: ([0-9.]+)"),
        Field("score_unit", "score's unit", example="points"),
    ),
    "by hand": (),
    "several": (Field("parts", "loads at once", "pick", needed=True),),
}
_KIND_WORDS = {
    "ours": "one of the program's loads at other threads, duty, blocks or queue",
    "command": "any command, its score picked out of what it prints",
    "by hand": "started by you on another machine: you press when it runs",
    "several": "several loads at once",
}


class LoadsView(ShelfView):
    """The reviewer's own loads; the program's are listed below them."""

    NAME: ClassVar[str] = "loads"
    ONE: ClassVar[str] = "load"
    COLUMNS: ClassVar[Sequence[str]] = ("load", "what it is")
    EMPTY: ClassVar[str] = (
        "No load of your own yet.\n\nThe program's own are there for every review. Press a for one of yours: other threads or\n"
        "duty, any command with its score, one that is started by hand elsewhere, several at once."
    )

    def _load(self, key: int) -> OwnLoad:
        for state in ("kept", "archived", "deleted"):
            for number, load in self.session.archive.plans.own_rows(state):
                if number == key:
                    return load
        raise KeyError(key)

    def count(self) -> int:
        """How many of the reviewer's own there are."""
        return len(self.session.archive.plans.own_loads())

    def rows(self) -> list[tuple[int, Sequence[str | Text]]]:
        """Name and what it is."""
        found = self.session.archive.plans.own_rows(self.state)
        return [(key, (Text(load.name, f"bold {self.palette.text}"), load.words)) for key, load in found]

    def detail(self, key: int) -> Text:
        """What it is made of, then the program's own loads."""
        load = self._load(key)
        text = self.heading(load.name, _KIND_WORDS[load.kind])
        self.section(text, "made of")
        for f in _LOAD_LINES[load.kind]:
            value = getattr(load, f.key)
            if value not in (None, "", ()):
                shown_value = ", ".join(value) if isinstance(value, tuple) else value_shown(f, value)
                self.pair(text, f.label, shown_value)
        self.program_loads(text)
        return text

    def program_loads(self, text: Text) -> None:
        """The loads of the program itself."""
        self.section(text, "the program's own loads")
        for name, words in self.session.machine.loads().items():
            self.pair(text, name, words, width=18)

    def _lines(self, load: OwnLoad) -> list[Line]:
        program = self.session.machine.loads()
        lines = [Line(Field("name", "name", example="kernel build", needed=True), load.name)]
        for f in _LOAD_LINES[load.kind]:
            value = getattr(load, f.key)
            if f.key == "of":
                f = replace(f, choices=tuple(program))
            options = (
                [(n, w) for n, w in self.session.loads().items() if n != load.name] if f.of == "pick" else []
            )
            lines.append(Line(f, value or None, options))
        lines.append(Line(Field("note", "a line on it"), load.note or None))
        return lines

    async def add(self) -> int | None:
        """Its kind, then what it is made of."""
        kind = await self.place.app.push_screen_wait(
            Choose("What kind of load is it?", [(k, _KIND_WORDS[k]) for k in OWN_KINDS])
        )
        if kind is None:
            return None
        added: list[int] = []

        def keep(values: dict[str, Any]) -> str | None:
            try:
                added.append(self.session.archive.plans.add_load(_made(kind, values)))
            except (ArchiveError, LoadError) as problem:
                return str(problem)
            return None

        if (
            await self.ask(
                f"A load of your own: {_KIND_WORDS[kind]}", self._lines(OwnLoad("", kind)), "", keep
            )
            is None
        ):
            return None
        self.session.remember(f"{self.name_of(added[0])} added", lambda: self.set_state(added[0], "deleted"))
        return added[0]

    async def edit(self, key: int) -> None:
        """All of it."""
        load = self._load(key)
        plans = self.session.archive.plans

        def keep(values: dict[str, Any]) -> str | None:
            try:
                # What is written here is the reviewer's own: only a command left as it was keeps where it came from.
                made = _made(load.kind, values)
                same = made.command == load.command
                made = replace(made, origin=load.origin, agreed=load.agreed) if same else made
                plans.save_load(key, made, load)
            except (ArchiveError, LoadError) as problem:
                return str(problem)
            return None

        if await self.ask(load.name, self._lines(load), "", keep) is not None:
            self.session.remember(f"{load.name} changed", lambda: plans.save_load(key, load))

    def duplicate(self, key: int) -> int | None:
        """A second one like it."""
        new = self.session.archive.plans.duplicate_load(self._load(key))
        self.session.remember(f"{self.name_of(new)} added", lambda: self.set_state(new, "deleted"))
        return new

    def name_of(self, key: int) -> str:
        """Its name."""
        return self._load(key).name

    def set_state(self, key: int, state: str) -> None:
        """Out of sight, deleted, back."""
        self.session.archive.plans.set_load_state(key, state)


def _made(kind: str, values: dict[str, Any]) -> OwnLoad:
    found: dict[str, Any] = {
        k: (tuple(v) if isinstance(v, list) else v) for k, v in values.items() if v is not None
    }
    return OwnLoad(kind=kind, **found)
