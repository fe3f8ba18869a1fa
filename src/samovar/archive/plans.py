"""Courses that were given a name, and loads of the reviewer's own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from sqlalchemy import Engine, delete, insert, select

from samovar.archive.kept import KEPT, ChangedMeanwhile, KeptTable
from samovar.archive.place import ArchiveError
from samovar.archive.problems import Problems
from samovar.archive.schema import CHANNEL_VIEW, COLUMN_MAP, COURSE, LOAD, META
from samovar.bench.course_spec import checked_course
from samovar.bench.loads.catalogue import OwnLoad, check_own, load_body, load_of
from samovar.bench.loads.protocol import LoadError
from samovar.core.entered import NAME_MOST, clean, visible
from samovar.core.units import Unreadable


@dataclass(frozen=True, slots=True)
class NamedCourse:
    """A course that is kept: `body` as `course_spec.read_course` gives it."""

    id: int
    name: str
    body: dict[str, Any] = field(default_factory=dict)
    state: str = "kept"
    revision: int = field(default=0, compare=False)


class PlanStore:
    """The courses and own loads of one archive."""

    def __init__(self, engine: Engine, problems: Problems) -> None:
        self._engine = engine
        self._problems = problems
        self._course = KeptTable(engine, COURSE, "course")
        self._load = KeptTable(engine, LOAD, "load")

    def note(self, key: str) -> str | None:
        """A small note the program keeps for itself; None where there is none."""
        with self._engine.connect() as connection:
            value: str | None = connection.execute(select(META.c.value).where(META.c.key == key)).scalar()
        return value

    def keep_note(self, key: str, value: str | None) -> None:
        """Keep a note, or forget it."""
        with self._engine.begin() as connection:
            connection.execute(delete(META).where(META.c.key == key))
            if value is not None:
                connection.execute(insert(META).values(key=key, value=value))

    def column_map(self, titles: str) -> dict[str, Any]:
        """How the columns of logs with these titles were settled, by `exchange.log_map.key_of_titles`; empty where they
        were not."""
        with self._engine.connect() as connection:
            found = connection.execute(
                select(COLUMN_MAP.c.body).where(COLUMN_MAP.c.titles == titles)
            ).scalar()
        return found if isinstance(found, dict) else {}

    def keep_column_map(self, titles: str, body: Mapping[str, Any]) -> None:
        """Remember that for the next log of the same titles."""
        with self._engine.begin() as connection:
            connection.execute(delete(COLUMN_MAP).where(COLUMN_MAP.c.titles == titles))
            connection.execute(insert(COLUMN_MAP).values(titles=titles, body=dict(body)))

    def channel_view(self, rig_id: int | None) -> dict[str, Any]:
        """Which channels of a rig are drawn, and how, as it was kept; empty where nothing was."""
        mine = CHANNEL_VIEW.c.rig_id.is_not_distinct_from(rig_id)
        with self._engine.connect() as connection:
            found = connection.execute(select(CHANNEL_VIEW.c.body).where(mine)).scalar()
        return found if isinstance(found, dict) else {}

    def keep_channel_view(self, rig_id: int | None, body: Mapping[str, Any]) -> None:
        """Keep that choice."""
        with self._engine.begin() as connection:
            connection.execute(delete(CHANNEL_VIEW).where(CHANNEL_VIEW.c.rig_id.is_not_distinct_from(rig_id)))
            connection.execute(insert(CHANNEL_VIEW).values(rig_id=rig_id, body=dict(body)))

    def courses(self, state: str = KEPT) -> list[NamedCourse]:
        """The courses in this state, by name."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(COURSE).where(COURSE.c.state == state).order_by(COURSE.c.name))
            return self._problems.readable(
                "course",
                rows,
                lambda r: NamedCourse(
                    r.id, visible(r.name), checked_course(r.body or {}), r.state, r.revision
                ),
            )

    def body_of(self, name: str | None) -> dict[str, Any]:
        """The rules of the course of this name; those of the usual one, empty, where there is none."""
        return next((c.body for c in self.courses() if c.name == name), {})

    def add_course(self, name: str, body: Mapping[str, Any]) -> int:
        """Enter a course; the answer is its key. Raises NameTaken."""
        return self._course.add(name=_name(name), body=checked_course(body))

    def save_course(self, course: NamedCourse) -> None:
        """Keep a course as it now is. Raises NameTaken."""
        self._course.change(
            course.id, course.revision, name=_name(course.name), body=checked_course(course.body)
        )

    def duplicate_course(self, course: NamedCourse) -> int:
        """A second one like it under a free name."""
        return self.add_course(self._course.free_name(course.name), course.body)

    def set_course_state(self, key: int, state: str) -> None:
        """Put it out of sight, delete it or bring it back. A review that names it goes by the usual course then."""
        self._course.set_state(key, state)

    def own_loads(self, state: str = KEPT) -> dict[str, OwnLoad]:
        """The reviewer's own loads by name."""
        return {load.name: load for _, load in self.own_rows(state)}

    def own_rows(self, state: str = KEPT) -> list[tuple[int, OwnLoad]]:
        """The reviewer's own loads in this state with their keys, by name."""
        with self._engine.connect() as connection:
            rows = connection.execute(select(LOAD).where(LOAD.c.state == state).order_by(LOAD.c.name))
            return self._problems.readable(
                "load", rows, lambda r: (r.id, load_of(visible(r.name), r.body or {}))
            )

    def add_load(self, load: OwnLoad) -> int:
        """Enter a load; the answer is its key. Raises LoadError: it cannot be what it says; NameTaken."""
        check_own(load, self.own_loads())
        return self._load.add(name=load.name, body=_body(load))

    def save_load(self, key: int, load: OwnLoad, was: OwnLoad | None = None) -> None:
        """Keep a load as it now is; `was` is the one that was changed. Raises as `add_load`, and ChangedMeanwhile."""
        now = dict(self.own_rows()).get(key)
        if was is not None and now is not None and now not in (was, load):
            raise ChangedMeanwhile(
                f"{now.name}: someone else has changed this load meanwhile; theirs stands, "
                "and nothing of yours was kept: look at it as it is now, then change it again"
            )
        check_own(load, {n: x for n, x in self.own_loads().items() if n != load.name})
        self._load.change(key, name=load.name, body=_body(load))

    def allow(self, name: str) -> OwnLoad | None:
        """Keep a person's leave to run the command of this load, as it now reads; None where there is none to ask for."""
        for key, load in self.own_rows():
            if load.name == name and load.kind == "command":
                agreed = replace(load, agreed=load.command_mark)
                self._load.change(key, name=name, body=load_body(agreed))
                return agreed
        return None

    def duplicate_load(self, load: OwnLoad) -> int:
        """A second one like it under a free name."""
        return self.add_load(replace(load, name=self._load.free_name(load.name)))

    def set_load_state(self, key: int, state: str) -> None:
        """Put it out of sight, delete it or bring it back."""
        self._load.set_state(key, state)


_NAME = clean(NAME_MOST, needed=True)


def _name(name: str) -> str:
    try:
        return _NAME(name)
    except ValueError as problem:
        raise ArchiveError(f"name: {problem}") from problem


def _body(load: OwnLoad) -> dict[str, Any]:
    """A load's body, checked as strangers' are. Raises LoadError."""
    try:
        return load_body(load_of(load.name, load_body(load)))
    except Unreadable as problem:
        raise LoadError(f"{visible(load.name, 60)}: {problem}") from problem
