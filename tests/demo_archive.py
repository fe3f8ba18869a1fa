"""One demo archive for all tests that need it, built once for each machine and state of the source."""

from __future__ import annotations

import fcntl
import hashlib
import shutil
import tempfile
from pathlib import Path

from samovar.demo import field_laptop, relay_site, van, voice_booth
from samovar.demo.plan import RUNS

SOURCE = Path(__file__).parent.parent / "src" / "samovar"
DEMO_RUNS = len(RUNS)
DEMO_PRODUCTS = sum(len(part.PRODUCTS) for part in (voice_booth, van, relay_site, field_laptop))
DEMO_REVIEWS = len({run.review for run in RUNS})
"""What there is of each in it."""


def demo_archive(folder: Path) -> Path:
    """A copy of the demo's archive in a folder, to do with as one likes."""
    from samovar.demo.build import build

    state = hashlib.sha256()
    for path in sorted(SOURCE.rglob("*.py")):
        if path.relative_to(SOURCE).parts[0] not in ("tui", "figures", "publish"):
            state.update(path.read_bytes())
    kept = Path(tempfile.gettempdir()) / f"samovar-test-demo-{state.hexdigest()[:16]}.sqlite"
    with kept.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.exists():
            build(kept)
    target = folder / "demo.sqlite"
    shutil.copy(kept, target)
    return target


def with_many_runs(path: Path, count: int) -> None:
    """Let an archive hold so many runs, by further ones in its inbox that read like its first, and were read."""
    from sqlalchemy import func, insert, select

    from samovar.archive import Archive
    from samovar.archive.schema import CHANNEL, FINDING, MARK, RESULT, RUN
    from samovar.archive.sums import seal_all

    with Archive(path) as archive, archive.connect() as connection, connection.begin():
        have = connection.execute(select(func.count()).select_from(RUN)).scalar_one()
        new = range(have + 1, count + 1)
        run = dict(connection.execute(select(RUN).where(RUN.c.id == 1)).mappings().one())
        run |= {"review_id": None, "setup_id": None, "samples": 0}
        connection.execute(insert(RUN), [{**run, "id": k, "token": f"many {k}"} for k in new])
        for table in (CHANNEL, FINDING, MARK):
            rows = [dict(r) for r in connection.execute(select(table).where(table.c.run_id == 1)).mappings()]
            values = [{k: v for k, v in row.items() if k != "id"} for row in rows]
            connection.execute(insert(table), [{**row, "run_id": k} for k in new for row in values])
        rises = select(RESULT).where(RESULT.c.run_id == 1, RESULT.c.statistic == "rise")
        rows = [{k: v for k, v in row.items() if k != "id"} for row in connection.execute(rises).mappings()]
        connection.execute(insert(RESULT), [{**row, "run_id": k} for k in new for row in rows])
        seal_all(connection)
