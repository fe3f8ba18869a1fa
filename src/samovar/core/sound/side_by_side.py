"""What several setups sound like, side by side, in words: which tones stand out of which, and what is no louder than the room."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.core.sound.kept import KeptSound

Named = Sequence[tuple[str, KeptSound]]
STEADY_DB = 0.7
"""A sound whose F deviates by less is steady."""
NO_LOUDER_DB = 3.0
"""Where machine and room together are less than this over the room alone, the machine is the quieter of the two (levels add as
energies: two alike are 3 dB over one)."""


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def tones_in_words(sounds: Named) -> str:
    """Which tones stand out of which setups, and out of which none does: a sentence or two. Empty without sounds."""
    told = []
    for name, sound in sounds:
        if sound.prominent:
            each = [
                f"{hz:.0f} Hz ({ratio:.0f} dB over the noise around it)" for hz, ratio in sound.prominent[:2]
            ]
            told.append(
                f"{name} has {'a tone' if len(each) == 1 else 'tones'} that stand{'s' if len(each) == 1 else ''} out at {_listed(each)}"
            )
    plain = [name for name, sound in sounds if not sound.prominent]
    if len(plain) == len(sounds) > 1:
        told.append(f"no tone stands out of any of the {len(plain)}")
    elif plain:
        told.append(f"no tone stands out of {_listed(plain)}")
    words = "; ".join(told)
    return words[:1].upper() + words[1:] + "." if words else ""


def swing_in_words(sound: KeptSound) -> str:
    """Whether it is steady, for a table: `steady`, `swells every 2.1 s`, `uneven`."""
    if sound.period_s is not None:
        return f"swells every {sound.period_s:.1f} s"
    if sound.swing_db is None:
        return "not known"
    return "steady" if sound.swing_db < STEADY_DB else "uneven"


def tones_of_one(sound: KeptSound) -> str:
    """Its prominent tones, for a table."""
    if not sound.prominent:
        return "none stands out"
    return ", ".join(f"{hz:.0f} Hz, {ratio:.0f} dB" for hz, ratio in sound.prominent[:3])
