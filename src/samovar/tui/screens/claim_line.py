"""A claim typed as a sentence: `Osprey 161 keeps the die cooler than Plain 65, heavy work`."""

from __future__ import annotations

from samovar.archive.records import Review, Setup
from samovar.core.claims import KINDS
from samovar.exchange.problems import InputError

_NEEDS_OTHER = ("cooler", "more-work", "quieter")
_WORDS = {
    "cooler": ("cooler",),
    "more-work": ("more work", "faster"),
    "quieter": ("quieter",),
    "quiet-enough": ("quiet enough", "under the noise", "stays under"),
    "not-held": ("not pushed", "not held", "does not throttle"),
}


def parse_claim(text: str, review: Review) -> tuple[str, Setup, Setup | None, str]:
    """Kind, setup, the other setup where the kind needs one, and load (the review's last where none is named).

    Raises:
        InputError: what is missing, and an example.
    """
    low = text.lower()
    example = (
        f"such as: {review.setups[0].name} {KINDS['cooler']} {review.setups[-1].name}"
        if review.setups
        else ""
    )
    kind = next((k for k, words in _WORDS.items() if any(w in low for w in words)), None)
    if kind is None:
        raise InputError(f"claim: it says none of the things that can be checked; write {example}")
    # Longer names first, so that one setup's name inside another's does not win.
    named: list[tuple[int, Setup]] = []
    rest = low
    for setup in sorted(review.setups, key=lambda s: -len(s.name)):
        at = rest.find(setup.name.lower())
        if at >= 0:
            named.append((at, setup))
            rest = rest.replace(setup.name.lower(), "\0" * len(setup.name), 1)
    named.sort(key=lambda pair: pair[0])
    wanted = 2 if kind in _NEEDS_OTHER else 1
    if len(named) < wanted:
        names = ", ".join(s.name for s in review.setups)
        raise InputError(f"claim: it needs {wanted} of the setups by name ({names}); write {example}")
    load = next((x for x in review.loads if x.lower() in rest), review.loads[-1])
    return kind, named[0][1], named[1][1] if wanted == 2 else None, load
