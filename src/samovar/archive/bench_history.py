"""What a bench showed before: how much passes of one cell scattered in an archive's other reviews, rig by rig."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.archive.archive import Archive
from samovar.core.compare.pooling import Spread
from samovar.core.results.figure import Figure


class BenchHistory:
    """The scatter of passes in all reviews but one; asked of the archive once for each rig and figure."""

    def __init__(self, archive: Archive, review_id: int) -> None:
        self._archive, self._review_id = archive, review_id
        self._known: dict[tuple[str, str], list[Spread]] = {}

    def spreads(self, rig: str, figure: Figure) -> Sequence[Spread]:
        """The variance of a pass of a figure on a rig, one for each load of each other review that repeated any."""
        key = rig, figure.key
        if key not in self._known:
            self._known[key] = self._ask(rig, figure)
        return self._known[key]

    def _ask(self, rig: str, figure: Figure) -> list[Spread]:
        reviews = [one for one in self._archive.reviews.reviews() if one.id != self._review_id]
        review_of = {s.id: one.id for one in reviews for s in one.setups if s.rig_name == rig}
        cells: dict[tuple[int, str], dict[int, list[int]]] = {}
        for number, setup, load in self._archive.runs.counted_on(list(review_of)) if review_of else ():
            cells.setdefault((review_of[setup], load), {}).setdefault(setup, []).append(number)
        repeated = {k: [n for n in groups.values() if len(n) > 1] for k, groups in cells.items()}
        numbers = [n for groups in repeated.values() for group in groups for n in group]
        results = self._archive.runs.findings.results(numbers, figure) if numbers else {}
        found = []
        for groups in repeated.values():
            squares, dof = 0.0, 0
            for group in groups:
                told = [figure.among(results.get(n, ())) for n in group]
                values = [v.value for v in told if v is not None and v.bound is None]
                if len(values) > 1:
                    mean = sum(values) / len(values)
                    squares += sum((v - mean) ** 2 for v in values)
                    dof += len(values) - 1
            if dof:
                found.append(Spread(squares / dof, float(dof)))
        return found
