"""The score in what a command printed, looked for in a process of its own: a pattern may search for ever.

As a program (`python -m samovar.bench.loads.score PATTERN`, the text on standard input) it prints the score.
"""

from __future__ import annotations

import re
import subprocess
import sys

SEARCH_PATIENCE_S = 5.0
"""An honest pattern searches 4 MB in well under a second."""
_NUMBER = re.compile(r"[+-]?\d+(?:[.,]\d+)?(?:[eE][+-]?\d+)?")


def score_in(text: str, pattern: str) -> float | None:
    """The last match of a pattern as a number: its first group where it has one; None where there is none."""
    found = None
    for match in re.finditer(pattern, text):
        typed = match[1] if match.re.groups else match[0]
        number = _NUMBER.search(typed or "")
        if number:
            found = float(number[0].replace(",", "."))
    return found


def find_score(
    text: str, pattern: str, patience_s: float = SEARCH_PATIENCE_S
) -> tuple[float | None, str | None]:
    """The score, and why there is none where that is not simply because nothing matched."""
    if not pattern or not text:
        return None, None
    try:
        done = subprocess.run(
            [sys.executable, "-m", "samovar.bench.loads.score", pattern],
            input=text.encode("utf-8", "replace"),
            capture_output=True,
            timeout=patience_s,
            start_new_session=True,
        )
    except subprocess.TimeoutExpired:
        return (
            None,
            f"its score's pattern searched for {patience_s:g} s and found no end: write a simpler one",
        )
    except (OSError, ValueError) as problem:
        return None, f"its score could not be looked for: {problem}"
    printed = done.stdout.decode().strip()
    if done.returncode != 0:
        return None, "its score's pattern could not be used"
    return (float(printed), None) if printed else (None, None)


if __name__ == "__main__":
    _score = score_in(sys.stdin.buffer.read().decode("utf-8", "replace"), sys.argv[1])
    print("" if _score is None else repr(_score))
