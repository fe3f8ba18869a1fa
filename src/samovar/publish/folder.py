"""The folder of a publication: only what Samovar wrote there is ever replaced or removed.

A list in the folder itself (`.samovar-publication.json`) names the files an edition wrote. A folder that holds anything
else is refused, unless the reviewer says that the publication goes into it; then a stranger's file that stands where one
of ours goes is moved aside, never lost. Folders inside it that are links to elsewhere are refused.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from pathlib import Path

from samovar.core.entered import visible
from samovar.exchange.problems import InputError
from samovar.exchange.whole_file import PART_MARK, write_whole

LIST = ".samovar-publication.json"
FORMAT = 1


class HoldsOthers(InputError):
    """The folder holds what is not ours, and nobody has said that the publication goes into it."""


class PublicationFolder:
    """One folder to publish into.

    Args:
        folder: made where it is missing.
        into: whether it may hold what is not ours.

    Raises:
        InputError: it cannot be made.
        HoldsOthers: it holds what is not ours.
    """

    def __init__(self, folder: Path, into: bool = False) -> None:
        self.folder = folder
        self._ours, self._prints = self._listed()
        self._drawn: dict[str, str] = {}
        strangers = self._strangers()
        if strangers and not into:
            names = ", ".join(visible(s, 60) for s in strangers[:3])
            more = " and more" if len(strangers) > 3 else ""
            raise HoldsOthers(
                f"{folder}: it holds {names}{more}, not published by Samovar; "
                "name an empty folder, or say --into to publish beside them"
            )
        self._written: list[Path] = []
        make_folder(folder)

    @property
    def fresh(self) -> bool:
        """Whether nothing that was drawn before stands in it."""
        return not self._prints

    def file(self, *parts: str) -> Path:
        """A place for a file of this edition, its folder made; a stranger's file there is moved aside.

        Raises:
            InputError: the place lies behind a link, or cannot be made.
        """
        place = self.folder.joinpath(*parts)
        inner = self.folder
        for part in parts[:-1]:
            inner = inner / part
            if inner.is_symlink():
                raise InputError(
                    f"{inner}: this is a link to elsewhere; take it away, or name another folder"
                )
            make_folder(inner)
        name = place.relative_to(self.folder).as_posix()
        if name not in self._ours and (place.exists() or place.is_symlink()):
            place.rename(_aside(place))
        self._written.append(place)
        return place

    def stands(self, name: str, files: Iterable[str], fingerprint: str) -> bool:
        """Whether a figure of this name stands already as an earlier edition drew it from the very same; noted for the next one
        either way."""
        self._drawn[name] = fingerprint
        return self._prints.get(name) == fingerprint and all((self.folder / f).is_file() for f in files)

    def announce(self) -> None:
        """List what is going to be written, before it is: were this edition cut off, the next finds its files its own."""
        # What is going to be drawn anew stands for nothing until it is.
        kept = {name: f for name, f in self._drawn.items() if self._prints.get(name) == f}
        self._list(self._ours | self._names(), kept)

    def close(self) -> None:
        """Keep the list of what was written, and remove what an earlier edition wrote and this one did not."""
        names = self._names()
        for name in self._ours - names:
            place = self.folder / name
            if not any(p.is_symlink() for p in place.parents if p != self.folder):
                place.unlink(missing_ok=True)
        self._list(names, self._drawn)

    def _names(self) -> set[str]:
        return {p.relative_to(self.folder).as_posix() for p in self._written}

    def _list(self, names: set[str], drawn: dict[str, str]) -> None:
        kept = {"samovar": FORMAT, "files": sorted(names), "drawn": drawn}
        write_whole(self.folder / LIST, json.dumps(kept, indent=1) + "\n")

    def _listed(self) -> tuple[set[str], dict[str, str]]:
        """The files an earlier edition wrote, and the prints of what its figures were drawn from; empty where none did."""
        try:
            found = json.loads((self.folder / LIST).read_text(encoding="utf-8"))
            names: Iterable[object] = found["files"] if found.get("samovar") == FORMAT else ()
            prints = found.get("drawn", {})
            known = (
                {k: v for k, v in prints.items() if isinstance(v, str)} if isinstance(prints, dict) else {}
            )
            return {n for n in names if isinstance(n, str) and _stays_inside(n)}, known
        except (OSError, ValueError, KeyError, TypeError, AttributeError):
            return set(), {}

    def _strangers(self) -> list[str]:
        """What lies in the folder and is not ours."""
        if not self.folder.is_dir():
            return []
        found = []
        for place in sorted(self.folder.rglob("*")):
            name = place.relative_to(self.folder).as_posix()
            ours = name in self._ours or name == LIST or place.name.startswith(PART_MARK)
            if not ours and (place.is_symlink() or not place.is_dir()):
                found.append(name)
        return found


def _stays_inside(name: str) -> bool:
    path = Path(name)
    return not path.is_absolute() and ".." not in path.parts


def _aside(place: Path) -> Path:
    number = 1
    while (free := place.with_name(f"{place.stem}.before-{number}{place.suffix}")).exists():
        number += 1
    return free


def make_folder(folder: Path) -> None:
    """The folder, made where it is missing. Raises InputError where that cannot be."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise InputError(
            f"{folder}: {(problem.strerror or 'cannot be made').lower()}; name a folder that can be written"
        ) from problem
