"""How well a run is read, against what was really so, and how fast a long log is."""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
from tests.core.behaving import Logged
from tests.core.habits import habit
from tests.core.settling import on_its_way
from tests.core.stories import told
from tests.core.test_settling import errors
from tests.core.turns import turned
from tests.held_score import CAUSES, Score, Stretches

from bench.table import Row

STORIES = 600
HABITS, SETTLING = 440, 700
"""About five hundred of so many loads settle."""
LOOKS = (1 / 3, 0.5, 0.7, 1.0)
"""When a forecast is looked at, in shares of the time to settle."""
LOG_MB = 100
RATE_HZ = 10


def measure() -> Iterator[Row]:
    """Held stretches and judgements over many stories; logs in four ways of writing."""
    score, turning = Score(), Score()
    with ProcessPoolExecutor() as pool:
        parts = [range(k, k + 40) for k in range(1000, 1000 + STORIES, 40)]
        for part, turned_part in zip(pool.map(_score, parts), pool.map(_score_turned, parts), strict=True):
            score.join(part)
            turning.join(turned_part)
    print("\n".join([*score.lines("stories"), *turning.lines("runs that turn")]), file=sys.stderr)
    for cause in CAUSES:
        bound = 0.05 if cause != "unexplained" else None
        yield Row(
            f"held by {cause}, read wrongly (1 less F1, by time)", 1.0 - (score.f1(cause) or 0.0), bound, ""
        )
    yield Row("judgement wrong", 100.0 * (1.0 - score.right_share), 3.0, "%")
    yield Row("judgement wrong, runs that turn", 100.0 * (1.0 - turning.right_share), 3.0, "%")
    yield Row("quiet runs falsely held", 100.0 * score.false_share, 0.5, "% of time")
    yield from _habits()
    yield from _settled()
    with tempfile.TemporaryDirectory() as folder:
        for name, path, separator in _logs(Path(folder)):
            yield Row(
                f"reading a {LOG_MB} MB log, {name}, times the bare parse",
                _times_bare(path, separator),
                1.5,
                "×",
            )


def _habits() -> Iterator[Row]:
    """Machines of another make than the stories': judgement, cause, onset and cost."""
    score, judged, right = Stretches(), 0, 0
    with ProcessPoolExecutor() as pool:
        for part, hits, count in pool.map(
            _score_habits, [range(k, k + 22) for k in range(9000, 9000 + HABITS, 22)]
        ):
            score.join(part)
            right, judged = right + hits, judged + count
    print(score.line("habits"), file=sys.stderr)
    yield Row("habits: judgement wrong", 100.0 * (1.0 - right / judged), 2.0, "%")
    yield Row("habits: cause wrong", 100.0 * (1.0 - score.named / score.asked), 2.0, "%")
    yield Row("habits: onset wrong", 100.0 * (1.0 - score.onset / score.asked), 4.0, "%")
    yield Row("habits: cost wrong", 100.0 * (1.0 - score.cost / score.asked), 4.0, "%")
    yield Row("habits: quiet runs said to be held", float(score.falsely), 0.0, "")


def _score_habits(seeds: range) -> tuple[Stretches, int, int]:
    from samovar.core.reading import read

    score, right = Stretches(), 0
    for seed in seeds:
        log = habit(seed)
        reading = read(log.recording, log.facts)
        score.add(reading, log.recording.time_s, log.truth, log.clock, log.free)
        right += reading.judgement == log.judgement
    return score, right, len(seeds)


def _settled() -> Iterator[Row]:
    """How often the half-width of a settled mean holds, how far it lies off, and what forecasts are worth."""
    with ProcessPoolExecutor() as pool:
        parts = list(pool.map(errors, [range(k, k + 25) for k in range(20_000, 20_000 + SETTLING, 25)]))
        seen = list(pool.map(_foreseen, [range(k, k + 25) for k in range(30_000, 30_200, 25)]))
    off = np.array([one for part in parts for one in part])
    covered = 100.0 * float(np.mean(np.abs(off[:, 0]) <= off[:, 1]))
    print(
        f"settled: {len(off)} of {SETTLING} loads, half-width {np.median(off[:, 1]):.2f} K", file=sys.stderr
    )
    yield Row("settled mean: outside its half-width, over 2 % and under", 100.0 - covered, 7.0, "%")
    yield Row("settled mean: bias", abs(float(off[:, 0].mean())), 0.05, "K")
    for changed in (False, True):
        rows = np.array([one[1:] for part in seen for one in part if one[0] == changed])
        name = "after a change of fan" if changed else "from the load's beginning"
        outside = 100.0 * float(np.mean(np.abs(rows[:, 1]) > rows[:, 2]))
        third = rows[np.isclose(rows[:, 0], LOOKS[0])]
        yield Row(f"forecast {name}: outside its half-width", outside, 7.0, "%")
        yield Row(f"forecast {name}: half-width at a third", float(np.median(third[:, 2])), 2.5, "K")


def _foreseen(seeds: range) -> list[tuple[bool, float, float, float]]:
    """For each load and look: whether its fan was changed, the look, the error and the half-width, K."""
    from samovar.core.reading import read

    found = []
    for seed in seeds:
        for changed in (False, True):
            for look in LOOKS:
                recording, steady_c = on_its_way(seed, changed, look)
                forecast = read(recording).forecast
                if forecast is not None and forecast.half_width is not None:
                    found.append((changed, look, forecast.value - steady_c, forecast.half_width))
    return found


def _score(seeds: range) -> Score:
    return _score_of(told, seeds)


def _score_turned(seeds: range) -> Score:
    return _score_of(turned, seeds)


def _score_of(tell: Callable[[int], Logged], seeds: range) -> Score:
    from samovar.core.reading import read

    score = Score()
    for seed in seeds:
        log = tell(seed)
        reading = read(log.recording, log.facts)
        score.add(reading, log.recording.time_s, log.truth, log.judgement, log.judgement == "clear")
    return score


def _logs(folder: Path) -> Iterator[tuple[str, Path, str]]:
    """The same samples as numbers with seconds, with dates, with decimal commas, and with lines that are damaged."""
    import polars

    rows = LOG_MB * 1_000_000 // 190
    rng = np.random.default_rng(2)
    names = [f"Core {k} (MHz)" for k in range(15)] + [f"Sensor {k} (°C)" for k in range(15)]
    data = {n: np.round(rng.normal(3800.0 if "MHz" in n else 60.0, 3.0, rows), 2) for n in names}
    plain = polars.DataFrame({"Time (s)": np.arange(rows) / RATE_HZ, **data})
    path = folder / "log.csv"
    plain.write_csv(path)
    yield "numbers only", path, ","
    begin = datetime(2026, 3, 4, 18, 20, 11)
    stamps = [(begin + timedelta(seconds=k / RATE_HZ)).isoformat(" ", "milliseconds") for k in range(rows)]
    dated = plain.with_columns(polars.Series("Time (s)", stamps)).rename({"Time (s)": "Timestamp"})
    dated.write_csv(path)
    yield "with dates", path, ","
    lines = path.read_text(encoding="utf-8").split("\n")
    for k in range(5000, rows, 50_000):
        lines[k] = lines[k].rsplit(",", 2)[0]
        lines[k + 7] = lines[k + 7].rsplit(",", 1)[0] + ",N/A"
    path.write_text("\n".join([*lines, "End of log"]), encoding="utf-8")
    yield "with dates and damaged lines", path, ","
    plain.write_csv(path)
    path.write_text(path.read_text(encoding="utf-8").replace(",", ";").replace(".", ","), encoding="utf-8")
    yield "with decimal commas", path, ";"


def _times_bare(path: Path, separator: str) -> float:
    import polars

    from samovar.exchange.logs import read_log

    def bare() -> object:
        return polars.read_csv(
            path,
            separator=separator,
            decimal_comma=separator == ";",
            truncate_ragged_lines=True,
            ignore_errors=True,
        )

    # Side by side, the best of each: what else the machine does disturbs both.
    pairs = [(_took(bare), _took(lambda: read_log(path))) for _ in range(4)]
    return min(ours for _, ours in pairs) / min(alone for alone, _ in pairs)


def _took(act: Callable[[], object]) -> float:
    began = time.perf_counter()
    act()
    return time.perf_counter() - began
