"""How well readings say what held the clock, against what really did: F1 by cause, weighted by time; judgements;
and the share of quiet runs that was falsely said to be held."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

import numpy as np

from samovar.core.reading import Reading

NOTICED = 0.05
"""A cause that held for less of a load is not asked for."""
ONSET_S, COST_POINTS, COST_SHARE = 10.0, 2.0, 0.15
"""An onset within so many seconds is right, a cost within so many points, or that share of itself."""

CAUSES = ("thermal", "power", "shared", "firmware", "unexplained")
LONGEST_STEP_S = 5.0


@dataclass
class Score:
    """Counts over many runs, seconds; `pairs` by (said, true). What is truly `either` counts for nothing."""

    pairs: Counter[tuple[str, str]] = field(default_factory=Counter)
    judged: int = 0
    judged_right: int = 0
    quiet_s: float = 0.0
    falsely_s: float = 0.0
    runs: int = 0

    def add(
        self,
        reading: Reading,
        time_s: np.ndarray,
        truth: np.ndarray,
        judgement: str | None = None,
        quiet: bool = False,
    ) -> float:
        """Count one run: what was true at each sample, and the right judgement where there is one.

        Returns:
            For how many seconds it was read wrongly.
        """
        said = np.full(len(time_s), "none", dtype=object)
        for held in reading.held:
            said[(time_s >= held.start_s) & (time_s <= held.end_s)] = held.by
        lasts = np.minimum(np.diff(time_s, append=time_s[-1]), LONGEST_STEP_S)
        for a, b, seconds in zip(said, truth, lasts, strict=True):
            self.pairs[a, b] += float(seconds)  # type: ignore[assignment]
        if judgement is not None:
            self.judged += 1
            self.judged_right += reading.judgement == judgement
        if quiet:
            self.quiet_s += float(lasts.sum())
            self.falsely_s += float(lasts[(said != "none") & (truth == "none")].sum())
        self.runs += 1
        return float(lasts[(said != truth) & (truth != "either")].sum())

    def join(self, other: Score) -> None:
        """Count what another has counted, too."""
        self.pairs.update(other.pairs)
        self.judged += other.judged
        self.judged_right += other.judged_right
        self.quiet_s += other.quiet_s
        self.falsely_s += other.falsely_s
        self.runs += other.runs

    def f1(self, cause: str) -> float | None:
        """F1 of one cause by time; None where it neither was nor was said."""
        right = self.pairs[cause, cause]
        over = sum(s for (said, true), s in self.pairs.items() if said == cause != true != "either")
        missed = sum(s for (said, true), s in self.pairs.items() if true == cause != said)
        return 2 * right / (2 * right + over + missed) if right + over + missed else None

    @property
    def right_share(self) -> float:
        """Share of the judgements that were right."""
        return self.judged_right / self.judged

    @property
    def false_share(self) -> float:
        """Share of the quiet runs' time that was said to be held."""
        return self.falsely_s / self.quiet_s if self.quiet_s else 0.0

    def lines(self, title: str) -> list[str]:
        """The figures as text."""
        there = {true for _, true in self.pairs if self.pairs[_, true] > 0}
        shown = [f"{c} {f1:.3f}" for c in CAUSES if c in there and (f1 := self.f1(c)) is not None]
        # Of a cause that never was there is no F1: only how long it was said all the same.
        said = {
            c: sum(s for (cause, _), s in self.pairs.items() if cause == c) for c in CAUSES if c not in there
        }
        shown += [f"{c} never there, said for {seconds:.0f} s" for c, seconds in said.items() if seconds > 0]
        out = [f"{title}: {self.runs} runs, F1 by time: {', '.join(shown)}"]
        if self.judged:
            out.append(f"{title}: judgement right in {self.judged_right} of {self.judged}")
        out.append(f"{title}: falsely held {100 * self.false_share:.2f} % of quiet runs")
        return out


@dataclass
class Stretches:
    """Of every cause that held noticeably in a run: whether it was named, from when, and at what cost; and how many runs
    that nothing held were said to be."""

    asked: int = 0
    named: int = 0
    onset: int = 0
    cost: int = 0
    quiet: int = 0
    falsely: int = 0

    def add(
        self, reading: Reading, time_s: np.ndarray, truth: np.ndarray, clock: np.ndarray, free: np.ndarray
    ) -> bool:
        """Count one run; all of shape (n,), clocks in MHz.

        Returns:
            Whether all of it was right.
        """
        lasts = np.minimum(np.diff(time_s, append=time_s[-1]), LONGEST_STEP_S)
        load_s = sum(p.duration_s for p in reading.phases if p.name == "load") or 1.0
        interval_s = float(np.median(np.diff(time_s)))
        right = True
        for cause in sorted(set(truth) - {"none", "either"}):
            where, mine = truth == cause, [h for h in reading.held if h.by == cause]
            lasted = float(lasts[where].sum())
            if lasted < NOTICED * load_s:
                continue
            said = np.zeros(len(truth), dtype=bool)
            for h in mine:
                said |= (time_s >= h.start_s) & (time_s <= h.end_s)
            wrongly = float(lasts[said & ~where & (truth != "either")].sum())
            first = int(np.flatnonzero(where)[0])
            begun = first
            while begun > 0 and truth[begun - 1] == "either":
                begun -= 1
            late = ONSET_S + interval_s
            named = float(lasts[said & where].sum()) > 0.9 * lasted and wrongly < 0.1 * lasted
            onset = bool(mine) and time_s[begun] - late <= mine[0].start_s <= time_s[first] + late
            true_cost = 100.0 * (1.0 - clock[where].mean() / free[where].mean())
            # What a log never showed of the free clock cannot be known any better from it.
            allowed = max(COST_POINTS, COST_SHARE * true_cost) + 100.0 * (1.0 - clock.max() / free.max())
            whole = sum(h.end_s - h.start_s for h in mine) or 1.0
            found = sum((h.clock_loss_pct or 0.0) * (h.end_s - h.start_s) for h in mine) / whole
            cost = bool(mine) and abs(found - true_cost) <= allowed
            self.asked, self.named, self.onset, self.cost = (
                self.asked + 1, self.named + named, self.onset + onset, self.cost + cost,
            )  # fmt: skip
            right &= named and onset and cost
        if bool((truth == "none").all()) and reading.judgement != "stopped":
            self.quiet += 1
            self.falsely += bool(reading.held)
            right &= not reading.held
        return right

    def join(self, other: Stretches) -> None:
        """Count what another has counted, too."""
        for name in ("asked", "named", "onset", "cost", "quiet", "falsely"):
            setattr(self, name, getattr(self, name) + getattr(other, name))

    def line(self, title: str) -> str:
        """The figures as text."""
        n = max(1, self.asked)
        return (
            f"{title}: of {self.asked} held stretches the cause right {self.named / n:.3f}, the onset {self.onset / n:.3f}, "
            f"the cost {self.cost / n:.3f}; falsely held {self.falsely} of {self.quiet} quiet runs"
        )
