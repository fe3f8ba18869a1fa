"""Loads that are not workers of one kind: several at once, and one that a person starts elsewhere."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from samovar.bench.loads.catalogue import KINDS, OwnLoad, refuse_without_leave
from samovar.bench.loads.command import CommandLoad
from samovar.bench.loads.processor import ProcessorLoad
from samovar.bench.loads.protocol import WORK, Load, LoadEnd, LoadError, Told, stop_all
from samovar.core.quantity import Channel


class SeveralLoad:
    """Several loads at once. Of several that load one part the work counted is the first one's: units of different kinds do
    not add up."""

    by_hand = False

    def __init__(self, name: str, parts: Sequence[Load]) -> None:
        self._name = name
        self._parts = list(parts)
        counted: dict[str, tuple[Channel, Load, int]] = {}
        for part in parts:
            for place, channel in enumerate(part.work):
                counted.setdefault(channel.id, (channel, part, place))
        self._counted = list(counted.values())

    @property
    def work(self) -> tuple[Channel, ...]:
        """What its parts count."""
        return tuple(channel for channel, _, _ in self._counted)

    @property
    def name(self) -> str:
        """The load's name."""
        return self._name

    def start(self) -> None:
        """Start all; where one fails, none runs. Raises LoadError."""
        try:
            for part in self._parts:
                part.start()
        except LoadError:
            stop_all(self._parts)
            raise

    def stop(self) -> None:
        """Stop all at once. Raises LoadError: some could not be."""
        said = stop_all(self._parts)
        if said:
            raise LoadError("; ".join(said))

    def work_done(self) -> tuple[float, ...]:
        """What its parts have done."""
        done = {id(part): part.work_done() for part in self._parts}
        return tuple(done[id(part)][place] for _, part, place in self._counted)

    def told(self) -> list[str]:
        """What its parts have to say."""
        return [words for part in self._parts if isinstance(part, Told) for words in part.told()]

    def ended(self) -> LoadEnd | None:
        """It ends with the first of its parts that does: what is left is another load."""
        return next((end for part in self._parts if (end := part.ended()) is not None), None)


class HandLoad:
    """A load that a person starts and stops on the machine under test; there is nothing here to run."""

    by_hand = True
    work = (WORK,)

    def __init__(self, name: str) -> None:
        self._name = name

    @property
    def name(self) -> str:
        """The load's name."""
        return self._name

    def start(self) -> None:
        """A person has just done it."""

    def stop(self) -> None:
        """A person will do it."""

    def work_done(self) -> tuple[float, ...]:
        """Not known here."""
        return (float("nan"),)

    def ended(self) -> LoadEnd | None:
        """Only a person knows."""
        return None


def make_load(name: str, threads: int | None, own: Mapping[str, OwnLoad]) -> Load:
    """A load of this machine by name, the program's or the reviewer's own; not yet on.

    Raises:
        LoadError: there is none of this name, or the machine cannot carry it.
    """
    if name in KINDS:
        return ProcessorLoad(name, threads)
    if name not in own:
        raise LoadError(f"no load {name!r}; there are {', '.join([*KINDS, *own])}")
    load = own[name]
    refuse_without_leave(load, own)
    if load.kind == "command":
        return CommandLoad(name, load.command)
    if load.kind == "by hand":
        return HandLoad(name)
    if load.kind == "several":
        return SeveralLoad(name, [make_load(part, None, own) for part in load.parts])
    return ProcessorLoad(
        load.of, threads or load.threads, duty=load.duty, seed=load.seed, called=name, options=load.options
    )  # fmt: skip
