"""`python -m tests.fuzz [MINUTES] [TARGET ...]`: strangers' input by the ten thousand, with fresh seeds until time is up.

Each target takes a random generator, makes one input, and hands it in; nothing but an answer or one plain line may
come of it. What ends otherwise is printed with its seed, and belongs into the tests as an example.
"""

from __future__ import annotations

import json
import random
import sys
import tempfile
import time
import traceback
import warnings
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from samovar.archive import Archive, schema
from samovar.archive.database import ArchiveError
from samovar.bench.loads.protocol import LoadError
from samovar.core.by_hand.line import Circumstances, read_line, read_value
from samovar.core.by_hand.reading import KINDS
from samovar.core.contract import as_contract
from samovar.core.money import read_price, read_rate
from samovar.core.reading import read
from samovar.core.units import DIMENSIONS, Unreadable, parse
from samovar.exchange.frame_toml import frame_of, frame_text, read_frame
from samovar.exchange.logs import read_log
from samovar.exchange.problems import InputError
from samovar.framing import review_frame, shelf_frame, take
from tests.demo_archive import demo_archive
from tests.exchange.test_many_logs import RUN, cells, comma, text

SLOW_S = 20.0
"""An input that takes longer than this is a fault, too."""
CAME_TO_NOTHING = "refused"
JUNK: tuple[Any, ...] = (
    None, "", "x", " ", "nan", "\x1b[31m", "\u202e", "[/b]", "$x$", "=1+1", "9" * 400, 0, -1, 1.5, 1e308, float("nan"),
    float("inf"), True, [], {}, [1], {"a": 1}, [[]], "2026-13-99", -(2**63), "a" * 5000, "'\"\\", "\0",
)  # fmt: skip
SIGNS = "0123456789.,:;-+±<>°%\"'()[]{}/\\ \t#=eE~µ²abcdfghkmnoprstwCFKWVARH"


class Grounds:
    """What the targets share: a folder, the demo's archive and its documents."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.demo = demo_archive(folder)
        with Archive(self.demo) as archive:
            frames = [shelf_frame(archive), *(review_frame(archive, r) for r in archive.reviews.reviews())]
        self.documents = [frame_text(f) for f in frames]
        head = "Time (s),CPU die (°C),Core clock (MHz),Package power (W),CPU utilisation (%)"
        self.logs = [
            text(head), text(head.replace(",", ";"), comma, ";"), text(head.replace(",", "\t"), cells, "\t"),
            "Logger\nInterval: 2 s\n" + text(head.replace("Time (s)", "Sample")),
            "".join(f"2026-03-02 10:{k // 60:02d}:{k % 60:02d} temp={r[1]}'C frequency(48)={r[2]}000000\n" for k, r in enumerate(RUN)),
            "Timestamp,Sensor,Value,Unit\n" + "".join(f"2026-03-02 10:00:{k % 60:02d},CPU die,{r[1]},°C\n" for k, r in enumerate(RUN)),
            text('"Time, s","CPU, die, °C","Clock, MHz","Power, W","Limit reached"', lambda r: [*cells(r)[:4], "Yes"]),
        ]  # fmt: skip


def mutated(chance: random.Random, data: bytearray, pieces: list[bytes]) -> bytes:
    """Some bytes changed, cut, doubled, moved, or put in."""
    for _ in range(chance.randint(1, 12)):
        at, how = chance.randrange(len(data) + 1), chance.random()
        if how < 0.25 and data:
            data[at % len(data)] = chance.randrange(256)
        elif how < 0.4:
            del data[at : at + chance.randint(1, 200)]
        elif how < 0.6:
            data[at:at] = chance.choice(pieces)
        elif how < 0.75:
            other = chance.randrange(len(data) + 1)
            data[at:at] = data[other : other + chance.randint(1, 300)]
        elif how < 0.85:
            data[at:at] = bytes(chance.randrange(256) for _ in range(chance.randint(1, 20)))
        elif how < 0.95:
            lines = bytes(data).split(b"\n")
            chance.shuffle(lines) if chance.random() < 0.3 else lines.insert(
                chance.randrange(len(lines)), lines[chance.randrange(len(lines))]
            )
            data = bytearray(b"\n".join(lines))
        else:
            data[at:at] = chance.choice(pieces) * chance.choice((10, 1000))
    return bytes(data)


LOG_PIECES = [
    b"\0" * 40, b'"', b"'", b",,,,", b";", b"\t", b"\r\n", b"\r", b"\n\n", b"#", b"nan", b"inf", b"-9e99", b"1e-12", b"N/A",
    b"\xb0C", b"\xff", "°C".encode(), b"Yes", b"Time (s)", b"(W)", b"[MHz]", b"=", b"2026-03-04 18:20:11", b"1,234.5", b":,",
]  # fmt: skip


def logs(chance: random.Random, grounds: Grounds) -> str:
    """A log of some kind, spoilt in some ways."""
    path = grounds.folder / "log.csv"
    whole = chance.choice(grounds.logs).encode(
        chance.choice(("utf-8", "utf-8", "utf-16", "cp1252", "latin-1")), "replace"
    )
    if chance.random() < 0.2:
        whole = "".join(chance.choice(SIGNS + "\n\n,,") for _ in range(chance.randint(0, 300))).encode()
    path.write_bytes(mutated(chance, bytearray(whole), LOG_PIECES))
    log = read_log(path)
    with warnings.catch_warnings():
        warnings.simplefilter("error", RuntimeWarning)
        reading = read(log.recording)
    json.dumps(as_contract(reading, log.recording), allow_nan=False)
    return "read"


def _spoilt(chance: random.Random, thing: Any) -> Any:
    """A document's value with something in it replaced by junk."""
    if chance.random() < 0.12:
        return chance.choice(JUNK)
    if isinstance(thing, dict):
        found = dict(thing)
        for key in chance.sample(list(found), min(len(found), 2)):
            found[key] = _spoilt(chance, found[key])
        if chance.random() < 0.05:
            found[chance.choice(("x", "name", "kind", "origin", "", "a" * 300))] = chance.choice(JUNK)
        return found
    if isinstance(thing, list) and thing:
        found_list = list(thing)
        found_list[chance.randrange(len(found_list))] = _spoilt(chance, chance.choice(found_list))
        return found_list
    return thing


def frames(chance: random.Random, grounds: Grounds) -> str:
    """A document spoilt as text, or in its values, and taken in."""
    import tomllib

    document = chance.choice(grounds.documents)
    if chance.random() < 0.4:
        path = grounds.folder / "frame.toml"
        path.write_bytes(
            mutated(
                chance,
                bytearray(document.encode()),
                [b"[[", b"]", b"=", b'"', b"nan", b"\0", b"\n", b"1e400"],
            )
        )
        frame = read_frame(path)
    else:
        spoilt = _spoilt(chance, tomllib.loads(document))
        frame = frame_of(spoilt if isinstance(spoilt, dict) else {})
    with (
        tempfile.TemporaryDirectory(dir=grounds.folder) as folder,
        Archive(Path(folder) / "a.sqlite") as archive,
    ):
        take(archive, frame, "fuzz.toml")
        everything(archive)
        if archive.problems.said:
            raise AssertionError(f"what was taken in cannot be read: {archive.problems.said}")
    return "taken"


def everything(archive: Archive) -> None:
    """All that the first screen of the program asks an archive for."""
    for state in ("kept", "archived", "deleted"):
        archive.shelf.products(state), archive.shelf.rigs(state), archive.plans.courses(state)
        archive.plans.own_rows(state), archive.reviews.reviews(state)
    archive.shelf.rates(), archive.runs.runs(), archive.runs.findings.judgements()
    for review in archive.reviews.reviews():
        archive.reviews.claims(review.id)


def typed(chance: random.Random, grounds: Grounds) -> str:
    """Something typed where a measure, a price, a rate or a reading is asked for."""
    seeds = ("161 mm", "6.34 in", "1,200", "56 CFM", "84.50 EUR street 2026-03-02 tax 19 % at Kaimann", "1 EUR = 11.45 NOK",
             "27.4 ± 1.4", "noise 33 to 36 dBA at 3 ft, phone, background 30", "time 17:46", "room 72 °F", "33 to 36", "61.3 black tape", "61.3 e 0.9", "vrm 58.2 probe K1", "22.4", "2 lb 10 oz", "5 min ago")  # fmt: skip
    words = list(chance.choice(seeds))
    for _ in range(chance.randint(0, 6)):
        at = chance.randrange(len(words) + 1)
        words[at : at + chance.randint(0, 2)] = [chance.choice([*SIGNS, "\x1b", "\u0660", "½", "１", "\n"])]
    line = "".join(words)
    asks: list[Callable[[], Any]] = [
        lambda: parse(chance.choice(sorted(DIMENSIONS)), line), lambda: read_price(line, "2026-03-02"),
        lambda: read_rate(line, "2026-03-02"), lambda: read_line(line, Circumstances(room_c=22.5)),
        lambda: read_value(chance.choice(list(KINDS)), line, Circumstances(room_c=22.5, now_s=900.0)),
    ]  # fmt: skip
    found = chance.choice(asks)()
    numbers = [v for v in np.ravel([getattr(found, "value", found)]) if isinstance(v, float)]
    if not all(np.isfinite(numbers)):
        raise AssertionError(f"{line!r} became {found}")
    return "understood"


TABLES = (
    schema.PRODUCT, schema.RIG, schema.RATE, schema.COURSE, schema.LOAD, schema.REVIEW, schema.SETUP, schema.CLAIM, schema.RUN,
)  # fmt: skip


def archives(chance: random.Random, grounds: Grounds) -> str:
    """An archive with junk in some of its cells: all of it opens, but for what is junk."""
    import shutil

    from sqlalchemy import select, text, update
    from sqlalchemy.exc import IntegrityError, StatementError

    place = grounds.folder / "spoilt.sqlite"
    shutil.copy(grounds.demo, place)
    with Archive(place) as archive:
        for _ in range(chance.randint(1, 5)):
            table = chance.choice(TABLES)
            column = chance.choice(
                [c for c in table.c if c.name not in ("id", "review_id", "setup_id", "rig_id", "state")]
            )
            try:
                with archive._engine.begin() as connection:
                    connection.execute(text("PRAGMA ignore_check_constraints=1"))
                    keys = list(connection.execute(select(table.c.id)).scalars())
                    if not keys:
                        continue
                    if chance.random() < 0.5:
                        connection.execute(
                            update(table)
                            .where(table.c.id == chance.choice(keys))
                            .values({column.name: chance.choice(JUNK)})
                        )
                    else:
                        raw = chance.choice(
                            (
                                "1",
                                "'x'",
                                "'[1'",
                                "x'00ff'",
                                "'{}'",
                                "'null'",
                                "1.5",
                                "''",
                                "'[null]'",
                                "9e999",
                            )
                        )
                        connection.exec_driver_sql(
                            f"update {table.name} set {column.name} = {raw} where id = {chance.choice(keys)}"
                        )
            except (IntegrityError, StatementError, OverflowError, ValueError, TypeError):
                continue
    with Archive(place) as archive:
        everything(archive)
    return "opened"


TARGETS: dict[str, Callable[[random.Random, Grounds], str]] = {
    "logs": logs, "frames": frames, "typed": typed, "archives": archives,
}  # fmt: skip
PLAIN = (InputError, ArchiveError, LoadError, Unreadable)


def once(target: str, seed: int, grounds: Grounds) -> tuple[str, str | None]:
    """What came of one input, and the fault where it was one."""
    began = time.monotonic()
    try:
        outcome = TARGETS[target](random.Random(seed), grounds)
    except PLAIN as problem:
        outcome = CAME_TO_NOTHING
        if "\n" in str(problem):
            return outcome, f"more than one line: {str(problem)[:200]!r}"
    except Exception:
        return "FAULT", traceback.format_exc(limit=-4)
    took = time.monotonic() - began
    return outcome, f"took {took:.0f} s" if took > SLOW_S else None


def main(arguments: list[str]) -> int:
    """Hand in until the minutes are over; the answer is 1 where anything was a fault."""
    numbers = [float(a) for a in arguments if a.replace(".", "").isdigit()]
    targets = [a for a in arguments if a in TARGETS] or list(TARGETS)
    until = time.monotonic() + 60.0 * (numbers[0] if numbers else 30.0)
    first = int(numbers[1]) if len(numbers) > 1 else random.SystemRandom().randrange(10**9)
    counts: dict[str, dict[str, int]] = {t: {} for t in targets}
    faults = 0
    with tempfile.TemporaryDirectory(prefix="samovar-fuzz-") as folder:
        grounds = Grounds(Path(folder))
        seed = first
        while time.monotonic() < until:
            target = targets[seed % len(targets)]
            outcome, fault = once(target, seed, grounds)
            counts[target][outcome] = counts[target].get(outcome, 0) + 1
            if fault:
                faults += 1
                print(f"{target}, seed {seed}: {fault}", flush=True)
            seed += 1
    print(f"seeds {first} to {seed - 1}")
    for target, found in counts.items():
        print(f"{target:<10} " + ", ".join(f"{n} {what}" for what, n in sorted(found.items())))
    print(f"{faults} faults")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
