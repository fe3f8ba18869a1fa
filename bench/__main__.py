"""`make bench`: measures, and prints the table."""

from __future__ import annotations

import sys

from bench import (
    another,
    comparing,
    drawing,
    keeping,
    laboratory,
    loads,
    long_run,
    publishing,
    reading,
    recording,
    settling,
    sound,
)
from bench.table import Row, table


def main() -> int:
    """Measure all, or what is named (another, comparing, drawing, keeping, laboratory, publishing, recording, reading, loads, settling, sound, long)."""
    parts = {
        "another": another,
        "comparing": comparing,
        "drawing": drawing,
        "keeping": keeping,
        "laboratory": laboratory,
        "recording": recording,
        "publishing": publishing,
        "reading": reading,
        "loads": loads,
        "settling": settling,
        "sound": sound,
        "long": long_run,
    }
    rows: list[Row] = []
    for name, part in parts.items():
        if len(sys.argv) == 1 or name in sys.argv[1:]:
            print(f"measuring {name} ...", file=sys.stderr)
            rows.extend(part.measure())
    print(table(rows))
    return 0


if __name__ == "__main__":
    sys.exit(main())
