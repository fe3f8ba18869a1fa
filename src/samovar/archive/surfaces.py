"""Plans of what stands on rigs, and the temperature pictures that runs have of them."""

from __future__ import annotations

import hashlib
import zlib
from dataclasses import dataclass
from typing import TYPE_CHECKING

from sqlalchemy import Engine, delete, insert, select, update

from samovar.archive.schema import PICTURE, PLAN
from samovar.core.entered import plain
from samovar.core.shown_text import one_line
from samovar.core.surfaces.plan import Plan, plan_of
from samovar.core.units import Unreadable

if TYPE_CHECKING:
    from samovar.core.surfaces.picture import Picture

STORED = "<f4"
"""Four bytes are a hundred times finer than any camera."""


@dataclass(frozen=True)
class KeptPicture:
    """A picture with its key, and the name of the plan it is of."""

    id: int
    plan: str
    picture: Picture


class Surfaces:
    """The plans and pictures of one archive."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def plans_of(self, rig_id: int) -> list[Plan]:
        """A rig's plans, in the order in which they were drawn; one that can no longer be read is left out."""
        query = select(PLAN.c.body).where(PLAN.c.rig_id == rig_id).order_by(PLAN.c.id)
        with self._engine.connect() as connection:
            bodies = connection.execute(query).scalars().all()
        found = []
        for body in bodies:
            try:
                found.append(plan_of(body))
            except Unreadable:
                continue
        return found

    def keep_plan(self, rig_id: int, plan: Plan) -> None:
        """Keep a plan, in place of the one of its name."""
        mine = (PLAN.c.rig_id == rig_id) & (PLAN.c.name == plan.name)
        with self._engine.begin() as connection:
            body = plain(plan)
            if not connection.execute(update(PLAN).where(mine).values(body=body)).rowcount:
                connection.execute(insert(PLAN).values(rig_id=rig_id, name=plan.name, body=body))

    def drop_plan(self, rig_id: int, name: str) -> None:
        """Take a plan away; its pictures stay with their runs."""
        with self._engine.begin() as connection:
            connection.execute(delete(PLAN).where((PLAN.c.rig_id == rig_id) & (PLAN.c.name == name)))

    def pictures_of(self, run: int) -> list[KeptPicture]:
        """A run's pictures in the order in which they were brought in; one that is no longer what was kept is left out."""
        return self.pictures_of_all([run]).get(run, [])

    def pictures_of_all(self, runs: list[int]) -> dict[int, list[KeptPicture]]:
        """The pictures of several runs, in one statement; runs without any are not named."""
        query = select(PICTURE).where(PICTURE.c.run_id.in_(runs)).order_by(PICTURE.c.id)
        found: dict[int, list[KeptPicture]] = {}
        with self._engine.connect() as connection:
            for row in connection.execute(query):
                picture = _unpacked(row)
                if picture is not None:
                    found.setdefault(row.run_id, []).append(KeptPicture(row.id, row.plan, picture))
        return found

    def damaged(self) -> list[int]:
        """The runs of which a picture is no longer what was kept."""
        with self._engine.connect() as connection:
            return sorted(
                {row.run_id for row in connection.execute(select(PICTURE)) if _unpacked(row) is None}
            )

    def add_picture(self, run: int, plan: str, picture: Picture, key: int | None = None) -> int:
        """Keep a picture of a run; the answer is its key, `key` where one that was taken out is put back."""
        import numpy as np

        values = np.ascontiguousarray(picture.celsius, STORED).tobytes()
        rows, columns = picture.celsius.shape
        row = {
            "run_id": run, "plan": plan, "name": one_line(picture.name), "at_s": picture.at_s, "set_to": picture.set_to,
            "reflected_c": picture.reflected_c, "row_count": rows, "column_count": columns,
            "digest": hashlib.sha256(values).hexdigest(), "packed": zlib.compress(values, 6),
        }  # fmt: skip
        if key is not None:
            row["id"] = key
        with self._engine.begin() as connection:
            made = connection.execute(insert(PICTURE).values(**row)).inserted_primary_key
        assert made is not None
        return int(made[0])

    def drop_picture(self, key: int) -> None:
        """Take a picture out."""
        with self._engine.begin() as connection:
            connection.execute(delete(PICTURE).where(PICTURE.c.id == key))


def _unpacked(row: object) -> Picture | None:
    # Imported here: the first places show no pictures, and need no numerics.
    import numpy as np

    from samovar.core.surfaces.picture import Picture

    try:
        values = zlib.decompress(bytes(row.packed))  # type: ignore[attr-defined]
        if hashlib.sha256(values).hexdigest() != row.digest:  # type: ignore[attr-defined]
            return None
        shape = (row.row_count, row.column_count)  # type: ignore[attr-defined]
        celsius = np.frombuffer(values, STORED).astype(np.float64).reshape(shape)
    except (zlib.error, ValueError, TypeError):
        return None
    return Picture(celsius, row.set_to, row.reflected_c, row.at_s, row.name)  # type: ignore[attr-defined]
