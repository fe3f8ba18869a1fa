"""How a call ends: its exit status, and whatever went wrong as one line on standard error."""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from typing import Any


def guarded(
    call: Callable[[], int], ends: Mapping[type[Exception], Callable[[Any], int]] | None = None
) -> int:
    """Run a call; the answer is its exit status. `ends` are exceptions that end it in an order of their own."""
    try:
        return call()
    except BrokenPipeError:
        sys.stdout = None
        return 0
    except KeyboardInterrupt:
        return fail("interrupted", 1)
    except Exception as problem:
        for kind, status in (ends or {}).items():
            if isinstance(problem, kind):
                return status(problem)
        return fail(*_said(problem))


def _said(problem: Exception) -> tuple[str, int]:
    """What is to be said of a problem, and the exit status."""
    usage = getattr(problem, "format_message", None)
    if usage is not None:
        text = " ".join(str(usage()).split()).rstrip(".")
        return f"command line: {text[:1].lower()}{text[1:]}; see samovar --help", 2
    from samovar.bench.loads.protocol import LoadError
    from samovar.exchange.problems import InputError

    if isinstance(problem, InputError | LoadError):
        return str(problem), 2
    # A problem with an archive can only have come up where that was imported: for others it is not.
    if "samovar.archive.database" in sys.modules:
        from samovar.archive.database import archive_words

        if (words := archive_words(problem)) is not None:
            return words, 1
    return f"{type(problem).__name__}: {problem}; please report this", 1


def fail(text: str, status: int) -> int:
    """Say what went wrong on standard error, in one line; the answer is the exit status."""
    from samovar import first_frame
    from samovar.core.shown_text import one_line

    first_frame.leave()
    # File names and what stands in them are a stranger's: nothing of theirs reaches the terminal but what shows.
    print(f"samovar: {one_line(' '.join(text.split()))}", file=sys.stderr)
    return status
