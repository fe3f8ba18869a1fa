"""The ways of making a single figure of a series: what each is called, and what it changes of its quantity."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Statistic:
    """One way of making a single figure of a series. `unit`: of the figure, where it is not the quantity's own;
    `better`: likewise; `relative`: likewise, whether a practical difference is a share of it."""

    key: str
    words: str
    unit: str | None = None
    better: str | None = None
    relative: bool | None = None


STATISTICS: dict[str, Statistic] = {
    s.key: s
    for s in (
        Statistic("steady", "steady"),
        Statistic("rise", "over the room", "K"),
        Statistic("peak", "peak"),
        Statistic("least", "least"),
        Statistic("idle", "idle"),
        Statistic("mean", "mean"),
        Statistic("burst", "burst"),
        Statistic("hot", "hot"),
        Statistic("gave_way", "gave way at,", better="more"),
        Statistic("at", "read"),
        Statistic("at_clock", "at one clock,"),
        Statistic("spread", "spread of", better="less", relative=True),
        Statistic("droop", "droop of", better="less"),
        Statistic("total", "total"),
        Statistic("held_share", "share held,", "%", "less", False),
        Statistic("resistance", "resistance of", "K/W", "less", True),
        Statistic("settle", "time to settle of", "min", "less", True),
        Statistic("level", "level of"),
        Statistic("rated", "tone-rated"),
        Statistic("score", ""),
        Statistic("time", ""),
        Statistic("price", ""),
    )
}
"""Every statistic by its key."""
