"""The program's own loads by name, and the loads of a reviewer's own: what each is made of."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from samovar.bench.loads.protocol import LoadError


@dataclass(frozen=True, slots=True)
class Kind:
    """One of the program's loads: its kernel, pace, default threads (0: all there are), memory and disk each
    thread or the whole takes (bytes), what one unit of work is, and a line on it."""

    kernel: str
    pace: str
    threads: int
    unit: str
    words: str
    memory_bytes: int = 60 << 20
    disk_bytes: int = 0


KINDS: dict[str, Kind] = {
    "worst case": Kind("dense", "1/1", 0, "100 Mflop", "dense vector arithmetic from cache, all threads"),
    "heavy work": Kind("transforms", "1/1", 0, "100 Mflop", "long transforms in cache, all threads"),
    "large transforms": Kind(
        "large transforms", "1/1", 0, "100 Mflop", "transforms that exceed the cache: processor and memory at once", 160 << 20
    ),
    "memory": Kind("stream", "1/1", 0, "MB", "long arrays streamed from memory and back", 260 << 20),
    "compression": Kind("compression", "1/1", 0, "MB", "packing and hashing: integers and branches"),
    "everyday": Kind("dense", "0.4/1", 2, "100 Mflop", "short bursts on two threads"),
    "game-like": Kind("dense", "game", 6, "100 Mflop", "some threads, uneven, frame by frame, with pauses"),
    "storage": Kind("storage", "1/1", 1, "MB", "one file written, read, and read here and there", 40 << 20, 128 << 20),
    "idle": Kind("", "0/1", 0, "", "nothing: what the machine does by itself"),
}  # fmt: skip
"""The program's loads. `idle` makes no heat: its cell measures the machine at rest."""

OWN_KINDS = ("ours", "command", "by hand", "several")


@dataclass(frozen=True, slots=True)
class OwnLoad:
    """A load of the reviewer's own.

    `kind`: `ours` is one of the program's (`of`) at other threads, duty, seed; `command` any command, its score
    picked out of its output by `score_pattern` (the first group, or the whole match); `by hand` is started by a
    person elsewhere; `several` runs its `parts` at once.
    """

    name: str
    kind: str = "ours"
    of: str = ""
    threads: int | None = None
    duty: float | None = None
    seed: int = 0
    command: str = ""
    score_pattern: str = ""
    score_unit: str = ""
    parts: tuple[str, ...] = ()
    note: str = ""

    @property
    def words(self) -> str:
        """A line on what it is."""
        if self.note:
            return self.note
        if self.kind == "command":
            return f"command: {self.command}"
        if self.kind == "by hand":
            return "started by hand on the machine under test"
        if self.kind == "several":
            return " and ".join(self.parts) + " at once"
        bits = [
            f"{self.threads} threads" if self.threads else "",
            f"{100 * self.duty:.0f} % duty" if self.duty else "",
        ]
        return ", ".join([self.of, *(b for b in bits if b)])


def check_own(load: OwnLoad, others: Mapping[str, OwnLoad]) -> None:
    """Refuse a load that cannot be what it says. Raises LoadError with what would do."""
    import re

    if not load.name.strip():
        raise LoadError("a load needs a name; write one")
    if load.name in KINDS or load.name == "none":
        raise LoadError(f"{load.name}: the program's own load has this name; choose another")
    if load.kind not in OWN_KINDS:
        raise LoadError(f"{load.name}: {load.kind!r} is no kind of load; write one of {', '.join(OWN_KINDS)}")
    if load.kind == "ours" and load.of not in KINDS:
        raise LoadError(
            f"{load.name}: {load.of!r} is none of the program's loads; write one of {', '.join(KINDS)}"
        )
    if load.kind == "command":
        if not load.command.strip():
            raise LoadError(f"{load.name}: a command is missing; write one, such as make -j8")
        try:
            re.compile(load.score_pattern)
        except re.error as problem:
            raise LoadError(
                f"{load.name}: the score's pattern is wrong ({problem}); write one such as score: ([0-9.]+)"
            ) from problem
    if load.duty is not None and not 0.0 < load.duty <= 1.0:
        raise LoadError(f"{load.name}: a duty is more than 0 and at most 100 %; write one such as 50 %")
    if load.threads is not None and load.threads < 1:
        raise LoadError(f"{load.name}: at least one thread; write 1 or more")
    if load.kind == "several":
        if len(load.parts) < 2:
            raise LoadError(f"{load.name}: several at once are at least two; name two loads")
        for part in load.parts:
            if part not in KINDS and part not in others:
                raise LoadError(
                    f"{load.name}: there is no load {part!r}; there are {', '.join([*KINDS, *others])}"
                )
            if part in others and others[part].kind in ("several", "by hand"):
                raise LoadError(
                    f"{load.name}: {part} cannot be a part of several; name one that runs by itself"
                )


def own_to_plain(load: OwnLoad) -> dict[str, Any]:
    """Only what is set; its name is kept beside it."""
    from dataclasses import asdict

    return {
        k: (list(v) if isinstance(v, tuple) else v)
        for k, v in asdict(load).items()
        if k != "name" and v not in (None, "", (), 0)
    }


def own_from_plain(name: str, plain: Mapping[str, Any]) -> OwnLoad:
    """A load again; unknown keys are left out, so that a newer archive's can still be read."""
    known = OwnLoad.__dataclass_fields__
    values: dict[str, Any] = {
        k: (tuple(v) if isinstance(v, list) else v) for k, v in plain.items() if k in known and k != "name"
    }
    return OwnLoad(name, **values)
