"""An archive of years: 20,000 runs and 300 reviews, in a file and on a server."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from bench.keeping import best
from bench.table import Row

RUNS, REVIEWS, SETUPS = 20_000, 300, 6
DESK_S, SEARCH_S = 0.3, 0.2


def measure() -> Iterator[Row]:
    """The Desk and a search, on both."""
    from tests.server import PROGRAMS, Server

    from samovar.archive import Archive
    from samovar.archive.moving import move

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "years.sqlite"
        _fill(path)
        with Archive(path) as archive:
            yield from _asked(archive, "a file")
            if PROGRAMS is None:
                return
            server = Server()
            try:
                with Archive(server.database()) as there:
                    move(archive, there)
                    server.sql("ANALYZE", there.where.rsplit("/", 1)[1])
                    yield from _asked(there, "a server")
            finally:
                server.close()


def _asked(archive: object, where: str) -> Iterator[Row]:
    from samovar.archive.search import read_query, search
    from samovar.archive.told import latest_runs, plans_of

    def desk() -> None:
        reviews = archive.reviews.reviews()  # type: ignore[attr-defined]
        for plan in plans_of(archive, reviews).values():  # type: ignore[arg-type]
            plan.coverage.measured_cells()
            plan.proposal()
        archive.reviews.last_run_of_each()  # type: ignore[attr-defined]
        latest_runs(archive, 40)  # type: ignore[arg-type]

    yield Row(f"20,000 runs, 300 reviews in {where}: what the Desk asks of it", best(desk), DESK_S, "s")
    for text in ("setup 3", "panel 777", "judgement:budget load:worst"):
        took = best(lambda t=text: search(archive, read_query(t)))  # type: ignore[misc, arg-type]
        yield Row(f"20,000 runs, 300 reviews in {where}: finding {text!r}", took, SEARCH_S, "s")


def _fill(path: Path) -> None:
    """Runs that were read and their marks, without samples: none of this asks for those."""
    from sqlalchemy import insert

    from samovar.archive import Archive
    from samovar.archive.schema import FINDING, MARK, RESULT, RUN
    from samovar.core.method import METHOD_VERSION
    from samovar.core.reading import read
    from samovar.core.reading_plain import to_plain
    from samovar.demo.plan import FACTS, PlannedRun
    from samovar.demo.record import record

    body = to_plain(read(record(PlannedRun("Osprey 161", "worst case", 22.5, 1), FACTS, {}).recording, FACTS))
    with Archive(path) as archive:
        setups = []
        for k in range(REVIEWS):
            key = archive.reviews.add_review(f"Review {k}", "Which?", ["worst case"])
            setups += [
                (key, archive.reviews.add_setup(key, f"Setup {j}", None, reference=j == 0))
                for j in range(SETUPS)
            ]
        with archive.connect() as connection, connection.begin():
            runs, findings, marks, results = [], [], [], []
            for n in range(1, RUNS + 1):
                review, setup = setups[n % len(setups)]
                runs.append(
                    {
                        "id": n, "review_id": review, "setup_id": setup, "load": "worst case", "pass_number": 1,
                        "state": "sealed", "started": f"20{10 + n // 2000}-03-02T09:00:00Z", "duration_s": 1800.0,
                        "channels": 8, "samples": 14400, "facts": {"cpu": {"name": "Halden 8"}}, "bench": "ada on bench-2",
                    }
                )  # fmt: skip
                findings.append(
                    {
                        "run_id": n, "method_version": METHOD_VERSION, "judgement": ("clear", "budget")[n % 2],
                        "free_clock_mhz": 4900.0, "body": body,
                    }
                )  # fmt: skip
                marks.append({"run_id": n, "at_s": 60.0, "text": f"panel {n} off"})
                results.append(
                    {
                        "run_id": n, "step": 0, "part": "die", "quantity": "temperature", "statistic": "rise", "unit": "K",
                        "value": 50.0 + n % 7, "half_width": 0.4, "n": 480,
                    }
                )  # fmt: skip
            for table, rows in ((RUN, runs), (FINDING, findings), (MARK, marks), (RESULT, results)):
                connection.execute(insert(table), rows)
