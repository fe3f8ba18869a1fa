"""The kinds of claims: how each is put, and what has to be chosen to make one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

OTHER, FIGURE, DEMAND, WATTS, PRODUCT, RATING = "other", "figure", "demand", "watts", "product", "rating"
"""What a claim may need beside a setup and a load."""


@dataclass(frozen=True, slots=True)
class ClaimKind:
    """One kind.

    Attributes:
        key: its name in archives and frames.
        choice: what the reviewer picks it by.
        words: the claim as it is put, of `{setup}`, `{other}` and what else it is about.
        asks: what has to be chosen beside the setup and the load.
        figure: the figure it is about, where that is fixed.
        loaded: whether it is of a load.
    """

    key: str
    choice: str
    words: str
    asks: tuple[str, ...] = ()
    figure: str = ""
    loaded: bool = True


ABOUT = (
    "figure",
    "label",
    "line",
    "watts",
    "product",
    "rig",
    "rating",
    "value",
    "read",
    "half_width",
    "bound",
)
"""What is kept of what a claim is about; of a change its run and moments besides."""
CHANGE = "change"
"""The kind that stands on a moment of one run, and is made in Trace."""
KINDS: dict[str, ClaimKind] = {
    k.key: k
    for k in (
        ClaimKind("cooler", "keeps the die cooler than", "{setup} keeps the die cooler than {other}", (OTHER,), "rise"),
        ClaimKind("more-work", "gets more work done than", "{setup} gets more work done than {other}", (OTHER,), "work"),
        ClaimKind("quieter", "is quieter than", "{setup} is quieter than {other}", (OTHER,), "noise"),
        ClaimKind("ahead", "is ahead of another, in a figure you choose", "{setup} is ahead of {other} in {label}", (OTHER, FIGURE)),
        ClaimKind("level", "is as good as another, in a figure you choose", "{setup} and {other} are practically the same in {label}", (OTHER, FIGURE)),
        ClaimKind("reads", "reads what it reads now, in a figure you choose", "{setup}: {label} {value}", (FIGURE,)),
        ClaimKind("quiet-enough", "stays under the noise asked for", "{setup} stays under the noise asked for"),
        ClaimKind("no-tone", "has no tone that stands out", "no tone stands out of {setup}"),
        ClaimKind("like-the-room", "is no louder than the room", "{setup} is no louder than the room it stands in"),
        ClaimKind("meets", "meets a demand: a figure, a price, at most or at least", "{setup} meets {line}", (DEMAND,)),
        ClaimKind("not-held", "is not pushed below its base clock", "{setup} is not pushed below its base clock"),
        ClaimKind("headroom", "could carry so many watts before its limit", "{setup} could carry {watts} W before its limit", (WATTS,)),
        ClaimKind("fits", "fits its rig", "{product} fits {rig}", (PRODUCT,), loaded=False),
        ClaimKind("rated", "does what its maker says", "{product} does what its maker says: {rating}", (PRODUCT, RATING)),
        ClaimKind(CHANGE, "a change in the run did what the cursors, or the recorder, show", "{what} changed {channel} of {setup}"),
    )
}  # fmt: skip
"""Every kind by its key, in the order they are offered."""


class _Open(dict[str, str]):
    def __missing__(self, key: str) -> str:
        return "?"


def claim_words(
    kind: str, setup: str, other: str | None, load: str, about: Mapping[str, object] | None = None
) -> str:
    """A claim as it was made, before anything was held against it."""
    one = KINDS.get(kind)
    if one is None:
        return f"{setup}: {kind}"
    told = {k: f"{v:g}" if isinstance(v, float) else str(v) for k, v in (about or {}).items()}
    words = one.words.format_map(_Open(told, setup=setup, other=other or "?"))
    return f"{words}, under {load}" if one.loaded and load else words
