"""The program's own loads by name, and the loads of a reviewer's own: what each is made of."""

from __future__ import annotations

import hashlib
import shlex
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from samovar.bench.loads import storage
from samovar.bench.loads.protocol import WORK, LoadError
from samovar.core.entered import Check, Line, Name, between, checked, clean, one_of, plain, strict, visible
from samovar.core.quantity import Channel

MOST_THREADS = 4096
"""As many as any machine has processors: each is a process of its own."""

WITHOUT_NUMPY = ("", "compression", "storage", *storage.KERNELS)
GRAPHICS_WORK = Channel("Graphics work", "work", "1/s", "gpu", "gpu", "load:graphics")
"""What a graphics chip gets done."""


def _drive(does: str, unit: str = "MB/s") -> Channel:
    """What a drive gets done, as a channel."""
    return Channel(f"Drive {does}", "work", unit, "storage", "storage", f"load:drive {does}")


@dataclass(frozen=True)
class Kind:
    """One of the program's loads: its kernel, pace, default threads (0: all there are), memory and disk each
    thread or the whole takes (bytes; of `graphics` loads the chip's memory), what one unit of work is, and a line on it;
    the channel its `work` is counted in, and whether it reads and writes a drive `direct`."""

    kernel: str
    pace: str
    threads: int
    unit: str
    words: str
    memory_bytes: int = 60 << 20
    disk_bytes: int = 0
    graphics: bool = False
    work: Channel = WORK
    direct: bool = False

    @property
    def needs(self) -> str:
        """The package that its workers import; empty where the standard library is all they need."""
        if self.graphics:
            return "wgpu"
        return "" if self.kernel in WITHOUT_NUMPY else "numpy"


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
    "storage": Kind("storage", "1/1", 1, "MB", "one file written, read, and read here and there", 40 << 20, 128 << 20, work=_drive("work")),
    "storage read": Kind(
        "storage read", "1/1", 1, "MB", "a file read from end to end, past the cache",
        40 << 20, storage.FILE_BYTES, work=_drive("read"), direct=True,
    ),
    "storage write": Kind(
        "storage write", "1/1", 1, "MB", "a file written from end to end, past the cache",
        40 << 20, storage.FILE_BYTES, work=_drive("write"), direct=True,
    ),
    "storage random read": Kind(
        "storage random read", "1/1", 1, "operation", "4 KB read here and there, 32 at once",
        40 << 20, storage.FILE_BYTES, work=_drive("random read", "IOPS"), direct=True,
    ),
    "storage random write": Kind(
        "storage random write", "1/1", 1, "operation", "4 KB written here and there, 32 at once",
        40 << 20, storage.FILE_BYTES, work=_drive("random write", "IOPS"), direct=True,
    ),
    "graphics arithmetic": Kind(
        "graphics arithmetic", "1/1", 1, "100 Mflop", "long chains of multiply and add on the graphics chip", 1 << 20, graphics=True, work=GRAPHICS_WORK
    ),
    "graphics memory": Kind(
        "graphics memory", "1/1", 1, "MB", "long arrays streamed through the graphics chip's memory", 64 << 20, graphics=True, work=GRAPHICS_WORK
    ),
    "graphics drawing": Kind(
        "graphics drawing", "1/1", 1, "Mpixel", "passes over a screen of 1920 x 1080, as play draws them", 16 << 20, graphics=True, work=GRAPHICS_WORK
    ),
    "idle": Kind("", "0/1", 0, "", "nothing: what the machine does by itself"),
}  # fmt: skip
"""The program's loads. `idle` makes no heat: its cell measures the machine at rest."""

OWN_KINDS = ("ours", "command", "by hand", "several")
COMMAND_MOST = 4000
"""Characters of a command: what is longer belongs in a script, and cannot be read before it is agreed to."""


@strict
@dataclass(frozen=True)
class OwnLoad:
    """A load of the reviewer's own.

    `kind`: `ours` is one of the program's (`of`) at other threads, duty, seed; `command` any command, its score
    picked out of its output by `score_pattern` (the first group, or the whole match); `by hand` is started by a
    person elsewhere; `several` runs its `parts` at once. Of a storage load a `block`, the `queue` of blocks under way at
    once, and its file are chosen. `origin` is the document it came with, empty where it was
    written here; a command that came with one runs only once a person has `agreed` to it, to this very command.
    """

    name: Name
    kind: Annotated[str, one_of(OWN_KINDS, "kind of load")] = "ours"
    of: Line = ""
    threads: Annotated[int, between(1, MOST_THREADS)] | None = None
    duty: Annotated[float, between(0.0, 1.0)] | None = None
    seed: Annotated[int, between(0, 2**31)] = 0
    command: Annotated[str, Check(clean(COMMAND_MOST, lines=True))] = ""
    score_pattern: Line = ""
    score_unit: Annotated[str, Check(clean(10))] = ""
    block_kb: Annotated[int, between(4, storage.BLOCK_MOST >> 10, "KB")] | None = None
    queue: Annotated[int, between(1, storage.QUEUE_MOST)] | None = None
    file_mb: Annotated[int, between(16, storage.FILE_MOST >> 20, "MB")] | None = None
    parts: tuple[Name, ...] = ()
    note: Line = ""
    origin: Line = ""
    agreed: Line = ""

    @property
    def options(self) -> dict[str, int]:
        """What its kernel takes beside seed and pace: of a storage load the size of a block, how many at once, and that of
        the file."""
        given = {
            "block": None if self.block_kb is None else self.block_kb << 10, "queue": self.queue,
            "file": None if self.file_mb is None else self.file_mb << 20,
        }  # fmt: skip
        return {key: value for key, value in given.items() if value is not None}

    @property
    def command_mark(self) -> str:
        """What an agreement is to: this command, to the letter."""
        return hashlib.sha256(self.command.encode()).hexdigest()

    @property
    def waits_for_leave(self) -> bool:
        """Whether a person has still to see and allow its command."""
        return self.kind == "command" and bool(self.origin) and self.agreed != self.command_mark

    @property
    def words(self) -> str:
        """A line on what it is."""
        if self.kind == "command":
            # What it runs is always shown, whatever its note says.
            origin = f" (came with {self.origin}, not allowed yet)" if self.waits_for_leave else ""
            return f"{f'{self.note}; ' if self.note else ''}command: {visible(self.command)}{origin}"
        if self.note:
            return self.note
        if self.kind == "by hand":
            return "started by hand on the machine under test"
        if self.kind == "several":
            return " and ".join(self.parts) + " at once"
        bits = [
            f"{self.threads} threads" if self.threads else "",
            f"{100 * self.duty:.0f} % duty" if self.duty else "",
            f"blocks of {self.block_kb} KB" if self.block_kb else "",
            f"{self.queue} at once" if self.queue else "",
            f"a file of {self.file_mb} MB" if self.file_mb else "",
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
    if load.kind == "ours" and load.options and not KINDS[load.of].direct:
        raise LoadError(
            f"{load.name}: {load.of} has no blocks, queue or file to choose; leave them empty, or take a storage load"
        )
    if load.block_kb is not None and load.block_kb % 4:
        raise LoadError(f"{load.name}: blocks of {load.block_kb} KB; write a multiple of 4 KB")
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


def work_of(name: str, own: Mapping[str, OwnLoad]) -> tuple[Channel, ...]:
    """What a load counts as work, by its name: of several what each of them does, of each part of the machine once."""
    if name in KINDS:
        return (KINDS[name].work,)
    load = own.get(name)
    if load is None:
        return (WORK,)
    if load.kind == "several":
        found: dict[str, Channel] = {}
        for channel in (one for part in load.parts for one in work_of(part, own)):
            found.setdefault(channel.id, channel)
        return tuple(found.values())
    return (KINDS[load.of].work,) if load.kind == "ours" and load.of in KINDS else (WORK,)


def load_body(load: OwnLoad) -> dict[str, Any]:
    """A load as an archive keeps it, beside its name."""
    return {k: v for k, v in plain(load).items() if k != "name" and v != 0}


def load_of(name: str, body: Mapping[str, Any]) -> OwnLoad:
    """A load again. Raises Unreadable: the body is none of a load."""
    return checked(OwnLoad, {**body, "name": name})


def commands_of(load: OwnLoad, others: Mapping[str, OwnLoad]) -> list[OwnLoad]:
    """The commands that starting a load would run: its own, or its parts'."""
    if load.kind == "several":
        return [one for part in load.parts if part in others for one in commands_of(others[part], {})]
    return [load] if load.kind == "command" else []


def refuse_without_leave(load: OwnLoad, others: Mapping[str, OwnLoad]) -> None:
    """Refuse a load that would run a command nobody has agreed to. Raises LoadError, the whole command in it."""
    for one in commands_of(load, others):
        if one.waits_for_leave:
            raise LoadError(
                f"{one.name}: this command came with {one.origin}, and nobody has agreed to it yet: "
                f"{visible(one.command)} — read it; if it may run here, say --allow {shlex.quote(one.name)}"
            )
