"""An archive that several benches share: what is different where the database is a PostgreSQL server."""

from __future__ import annotations

import getpass
import socket
from collections.abc import Callable

from sqlalchemy import Engine, create_engine, text

from samovar.archive.place import CONNECT_S, Place

SILENT_MS = 3000
"""What a server has not acknowledged by then counts as lost: a bench must know soon that its network is gone."""
STATEMENT_MS = 60_000
"""No statement of ours takes longer but for a whole archive that is moved, which sets its own."""
_WORDS = (
    (("authentication failed", "no password supplied"), "the server refuses this user or password; check both"),
    (("does not exist",), "there is no such database or user there; have it made, or check the address"),
    (("permission denied", "must be owner"), "you may not do this there; ask whoever keeps the server for the right"),
    (
        ("could not connect", "connection failed", "connection refused", "connection timeout", "timeout expired",
         "server closed the connection", "terminating connection", "could not translate host", "failed to resolve",
         "name or service not known", "the connection is closed", "connection is lost", "could not receive data",
         "starting up", "shutting down", "consuming input failed", "connection to server"),
        "the server cannot be reached; check that it runs and the network is there, then try again",
    ),
)  # fmt: skip


def engine_for(place: Place, from_json: Callable[[str], object]) -> Engine:
    """An engine on a server that notices within seconds that the server is gone."""
    assert place.server is not None
    return create_engine(
        place.server,
        json_deserializer=from_json,
        pool_pre_ping=True,
        connect_args={
            "connect_timeout": CONNECT_S,
            "application_name": f"samovar {bench_name()}"[:60],
            "keepalives_idle": 5,
            "keepalives_interval": 2,
            "keepalives_count": 2,
            "tcp_user_timeout": SILENT_MS,
            "options": f"-c statement_timeout={STATEMENT_MS} -c TimeZone=UTC",
        },
    )


def may_only_read(engine: Engine, there: bool) -> bool:
    """Whether this user may read the archive and no more; of a database without one, whether none can be made in it."""
    query = (
        "SELECT has_table_privilege(current_user, 'run', 'INSERT') "
        "AND current_setting('transaction_read_only') = 'off' AND NOT pg_is_in_recovery()"
        if there
        else "SELECT has_schema_privilege(current_user, current_schema(), 'CREATE')"
    )
    with engine.connect() as connection:
        return not connection.execute(text(query)).scalar()


def in_words(low: str) -> str | None:
    """What a server said, in lower case, as one plain line; None where it is none of what is known."""
    return next((words for signs, words in _WORDS if any(sign in low for sign in signs)), None)


def bench_name() -> str:
    """Who records where, as it is kept with every run and change: `ada on bench-2`."""
    try:
        user = getpass.getuser()
    except (KeyError, OSError):
        user = "someone"
    return f"{user} on {socket.gethostname()}"
