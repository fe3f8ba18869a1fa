"""What a person at the bench does while a run is recorded without the interface, as lines on standard input."""

from __future__ import annotations

import sys
import threading

from samovar.bench.loads.protocol import LoadError
from samovar.core.by_hand.line import read_line
from samovar.core.units import Unreadable
from samovar.exchange.problems import InputError
from samovar.recording.hand_readings import circumstances, keep_reading
from samovar.recording.live import LiveRun

LINES = """\
Lines on standard input, while it records:
  fans 60            set the fans to 60 % of full speed
  join memory        another load joins the one that is on; leave memory takes it off
  read noise 33 to 36 dBA at 1 m, background 24      a value that somebody read, as samovar enter takes it: room 22.4;
                     surface 61.3 on vrm, e 0.95; wall power 231 W, 2 min ago; score 8120; time 17:46
  runs, ended        a load that is started by hand runs now, has ended
  anything else      is kept as a mark at this moment"""


def act(live: LiveRun, line: str) -> str:
    """Do what one line asks for; the answer says what was done.

    Raises:
        InputError: what is wrong with it, and an example.
    """
    words = line.strip()
    verb, _, rest = words.partition(" ")
    rest = rest.strip()
    if verb == "fans" and rest:
        return _fans(live, rest)
    if verb == "join" and rest:
        if live.step != "load":
            raise InputError(f"join {rest}: no load is on; wait until the course is at its load")
        try:
            live.join(rest)
        except LoadError as problem:
            raise InputError(f"join {rest}: {problem}") from problem
        return f"{rest} joins"
    if verb == "leave" and rest in live.recorder.joined:
        live.leave(rest)
        return f"{rest} leaves"
    if verb == "read" and rest:
        try:
            kept = keep_reading(live, read_line(rest, circumstances(live)))
        except Unreadable as problem:
            raise InputError(f"read {problem}") from problem
        return f"{kept.kind} {kept.text()} kept"
    if words == "runs" and live.by_hand:
        live.release()
        return "it runs"
    if words == "ended" and live.by_hand:
        live.load_over()
        return "it has ended"
    live.note(words)
    return f"marked: {words}"


def _fans(live: LiveRun, text: str) -> str:
    try:
        share = float(text.rstrip(" %").replace(",", ".")) / 100.0
    except ValueError:
        share = -1.0
    if not 0.0 <= share <= 1.0:
        raise InputError(f"fans {text}: a share of full speed is from 0 to 100; type one such as fans 60")
    live.change_fans(share)
    return f"fans {100 * share:.0f} %"


def listen(live: LiveRun) -> None:
    """Take lines from standard input until it ends, on a thread of its own; what each did, or what was wrong with
    it, is said on standard error."""

    def serve() -> None:
        for line in sys.stdin:
            if live.sealed.is_set():
                return
            if not line.strip():
                continue
            try:
                print(f"samovar: {live.id}: {act(live, line)}", file=sys.stderr, flush=True)
            except InputError as problem:
                print(f"samovar: {problem}", file=sys.stderr, flush=True)

    if sys.stdin.isatty():
        print(LINES, file=sys.stderr)
    threading.Thread(target=serve, name="standard-input", daemon=True).start()
