"""What the booth's reviewer heard: each run listened to by the booth's microphone, before the load went off and with the machine
switched off, through the code that listens to any recording."""

from __future__ import annotations

from functools import lru_cache

from samovar.core.recording import Array
from samovar.core.sound.calibration import as_stated
from samovar.core.sound.heard import Heard
from samovar.core.sound.listening import Listening, listen
from samovar.exchange.sound_file import flac_of
from samovar.simulator.instruments.microphone import FULL_SCALE_DB
from samovar.simulator.sound import RATE_HZ, Moment, heard_of, over_full_scale
from samovar.simulator.spec import SimulatedSetup

LISTENED_S = 5.0
"""Its fans are steady: five seconds tell their level to a tenth of a decibel."""
NAME = "microphone"


def heard_at(moment: Moment, seed: int) -> tuple[Heard, Array]:
    """What was heard of a rig at a moment, and the samples, 1 at full scale, shape (n,)."""
    samples = _scaled(heard_of(moment, LISTENED_S, seed))
    background = _room_alone(moment.setup)
    return Heard(listen([samples], float(RATE_HZ)), as_stated(FULL_SCALE_DB), background, 1.0), samples


def clip_of(samples: Array) -> bytes:
    """A piece of it, to be kept."""
    return flac_of(samples, float(RATE_HZ))


@lru_cache(maxsize=1)
def _room_alone(setup: SimulatedSetup) -> Listening:
    return listen([_scaled(heard_of(Moment(setup, 0.0), LISTENED_S, 7, silent=True))], float(RATE_HZ))


def _scaled(pascals: Array) -> Array:
    return over_full_scale(pascals, FULL_SCALE_DB)
