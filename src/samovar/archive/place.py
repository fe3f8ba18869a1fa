"""Where an archive is: a file, or a laboratory's PostgreSQL by its address."""

from __future__ import annotations

import importlib.util
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote

from sqlalchemy import URL, make_url
from sqlalchemy.exc import ArgumentError

SERVER_SCHEMES = ("postgresql", "postgres")
DRIVER = "postgresql+psycopg"
CONNECT_S = 3
"""So long a server has to answer at all: a bench does not wait longer to know that it is gone."""


class ArchiveError(Exception):
    """The archive cannot be used as asked; the text is one line that says where, what, and what to do."""


def files_of(path: Path) -> tuple[Path, ...]:
    """An archive's file, and those that SQLite keeps beside it while it is open, whether they are there or not."""
    return path, *(path.with_name(f"{path.name}{end}") for end in ("-wal", "-shm", "-journal"))


@dataclass(frozen=True)
class Place:
    """One archive's place; exactly one of the two is set.

    Attributes:
        path: its file.
        server: the address of its database on a server, its password with it.
    """

    path: Path | None
    server: URL | None = None

    @property
    def words(self) -> str:
        """As it is shown and kept: never with a password."""
        if self.server is None:
            return str(self.path)
        # As people type it: without the name of the driver, the password, and what else may stand behind it.
        shown = self.server
        plain = URL.create("postgresql", shown.username, None, shown.host, shown.port, shown.database)
        return plain.render_as_string()

    @property
    def url(self) -> URL:
        """What the database layer connects to."""
        if self.server is not None:
            return self.server
        # Made of its parts: a name with `%`, `?` or `#` is exactly that file, and never read as an address.
        return URL.create("sqlite", database=str(self._file))

    @property
    def _file(self) -> Path:
        assert self.path is not None
        return self.path.absolute()

    def read_only_uri(self, *, immutable: bool = False) -> str:
        """The file's address for a look that must not change a byte; `immutable`: nor make any file beside it."""
        return f"file:{quote(str(self._file))}?{'immutable=1' if immutable else 'mode=ro'}"


def place_of(where: str | Path | Place) -> Place:
    """What was named: a file, or an address such as `postgresql://bench@lab/samovar`.

    Raises:
        ArchiveError: an address of another kind of database, one that cannot be read, or the driver is not installed.
    """
    if isinstance(where, Place):
        return where
    text = str(where)
    scheme, colon, _ = text.partition("://")
    if isinstance(where, Path) or not colon or not scheme.replace("+", "").isalnum():
        return Place(Path(where))
    if scheme.partition("+")[0] not in SERVER_SCHEMES:
        raise ArchiveError(
            f"{scheme}://…: no kind of archive; name a file, or an address such as postgresql://bench@lab/samovar"
        )
    try:
        url = make_url(text).set(drivername=DRIVER)
    except (ArgumentError, ValueError) as problem:
        raise ArchiveError(
            f"{scheme}://…: the address cannot be read; write it as postgresql://user@host:port/database"
        ) from problem
    if not url.database:
        raise ArchiveError(f"{scheme}://…: names no database; write it as postgresql://user@host/database")
    if importlib.util.find_spec("psycopg") is None:
        raise ArchiveError(
            f"{scheme}://…: a server needs the package psycopg; install it with pip install 'samovar[lab]'"
        )
    return Place(None, url)
