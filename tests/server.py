"""A PostgreSQL server of the tests' own: in a folder of its own, on the loopback, gone when they end."""

from __future__ import annotations

import contextlib
import os
import shutil
import socket
import subprocess
import tempfile
import unittest
from pathlib import Path

USER = "samovar"


def _programs() -> Path | None:
    """Where the server's programs are: on Debian outside the path, by version."""
    found = shutil.which("initdb")
    if found:
        return Path(found).parent
    versions = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"))
    return versions[-1].parent if versions else None


PROGRAMS = _programs()
needs_server = unittest.skipUnless(PROGRAMS, "no PostgreSQL here: apt-get install postgresql")


class Server:
    """One server. It refuses to be run by root, and then runs as `postgres`."""

    def __init__(self) -> None:
        assert PROGRAMS is not None
        self.folder = Path(tempfile.mkdtemp(prefix="samovar-pg-"))
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self._names = 0
        if os.getuid() == 0:
            shutil.chown(self.folder, "postgres")
        self._run(
            f"{PROGRAMS}/initdb -D {self.folder}/data -A trust -U {USER} --no-sync -E UTF8 --locale=C.UTF-8"
        )
        self.start()

    def _run(self, command: str) -> None:
        as_whom = ["su", "postgres", "-s", "/bin/sh", "-c"] if os.getuid() == 0 else ["sh", "-c"]
        subprocess.run(
            [*as_whom, command], check=True, stdout=subprocess.DEVNULL, cwd=self.folder, timeout=120
        )

    def start(self) -> None:
        """Start it, and wait until it answers."""
        options = f"-p {self.port} -k {self.folder} -c listen_addresses=127.0.0.1 -c fsync=off"
        self._run(f'{PROGRAMS}/pg_ctl -D {self.folder}/data -o "{options}" -l {self.folder}/log -w start')

    def stop(self) -> None:
        """Stop it as a power cut would."""
        self._run(f"{PROGRAMS}/pg_ctl -D {self.folder}/data -m immediate -w stop")

    def close(self) -> None:
        """Stop it, and take its folder away."""
        with contextlib.suppress(subprocess.CalledProcessError):
            self.stop()
        shutil.rmtree(self.folder, ignore_errors=True)

    def database(self, user: str = USER) -> str:
        """The address of a new, empty database."""
        self._names += 1
        self.sql(f"CREATE DATABASE lab{self._names}", "postgres")
        return self.address(f"lab{self._names}", user)

    def address(self, database: str, user: str = USER) -> str:
        """The address of a database."""
        return f"postgresql://{user}@127.0.0.1:{self.port}/{database}"

    def sql(self, statement: str, database: str) -> None:
        """Execute something outside of any transaction."""
        import psycopg

        with psycopg.connect(self.address(database), autocommit=True) as connection:
            connection.execute(statement)
