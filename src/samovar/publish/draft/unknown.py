"""The last paragraph of a draft: what was not measured, not repeated, not settled."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.archive.rig_comparison import setups_on
from samovar.core.claims.judged import Checked
from samovar.publish.draft.sentence import UNKNOWN, Sentence, Telling

MOST_LISTED = 5
"""More cells than this are counted, not named."""
UNSETTLED = ("weak", "open")
"""States of claims that the runs do not settle."""


def unknown(telling: Telling, checked: Sequence[Checked]) -> list[Sentence]:
    """What the review leaves open."""
    data, say = telling.data, telling.texts.say
    missing = [
        (s.name, load)
        for s in data.review.setups
        for load in data.review.loads
        if not data.cell(s, load).passes
    ]
    out = []
    unsettled = [telling.texts.words(c.sentence) for c in checked if c.state in UNSETTLED]
    if unsettled:
        out.append(Sentence(UNKNOWN, "not settled", say("not-settled", sentences=" ".join(unsettled))))
    if len(missing) > MOST_LISTED:
        hard = [say("cell", name=name, load=load) for name, load in missing if load == telling.load]
        among = telling.texts.listed(hard) if hard else None
        total = len(data.review.setups) * len(data.review.loads)
        out.append(
            Sentence(UNKNOWN, "not measured", say("not-measured-of", n=len(missing), all=total, among=among))
        )
    elif missing:
        cells = telling.texts.listed([say("cell", name=name, load=load) for name, load in missing])
        out.append(Sentence(UNKNOWN, "not measured", say("not-measured", cells=cells)))
    passes = {s.name: data.cell(s, telling.load).passes for s in setups_on(data.review, telling.rig)}
    once = [name for name, n in passes.items() if n == 1]
    if once and max(passes.values()) > 1:
        out.append(Sentence(UNKNOWN, "single passes", say("single-passes", names=telling.texts.listed(once))))
    elif len(once) > 1:
        out.append(Sentence(UNKNOWN, "no scatter", say("no-scatter", load=telling.load)))
    return out
