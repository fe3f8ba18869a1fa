"""A microphone beside a simulated rig, which is none: a stream of WAV on the loopback, as fast as a real one's."""

from __future__ import annotations

import socket
import struct
import time
from collections.abc import Callable

from samovar.core.recording import Array
from samovar.simulator.instruments.server import StandIn
from samovar.simulator.rig import SimulatedRig
from samovar.simulator.sound import RATE_HZ, Ear, over_full_scale

BLOCK = 2400
FULL_SCALE_DB = 100.0
"""The level of a sine that fills its scale."""
STANDS_AFTER = 30
"""Blocks, of a twentieth of a second: a rig whose time has stood still for so long is off."""
ENDLESS = 0xFFFFFFFF


class SimulatedMicrophone(StandIn):
    """It hears the rig from 1 m away.

    Args:
        rig: gives the rig as it is now.
        sound: or what it hears instead, block by block: samples in Pa, shape (n,), for so many asked.
    """

    scheme = "microphone+tcp"

    def __init__(
        self, rig: Callable[[], SimulatedRig] | None = None, sound: Callable[[int], Array] | None = None
    ) -> None:
        self._rig, self._sound = rig, sound
        super().__init__()

    @property
    def address(self) -> str:
        """Where it is reached, and what its full scale is."""
        return f"{super().address}?full_scale={FULL_SCALE_DB:g}"

    def serve(self, connection: socket.socket) -> None:
        """Send sound at the pace at which it sounds, for as long as somebody listens."""
        connection.sendall(wav_header(RATE_HZ))
        ear = Ear(self._rig(), speaks=True) if self._rig is not None else None
        began, sent = time.monotonic(), 0
        lived_s, stood = -1.0, 0
        while not self.ended.is_set():
            self.wait_while_hanging()
            if ear is not None and self._rig is not None:
                # Another setup may have been fitted.
                rig = ear.rig = self._rig()
                # A simulated rig lives while it is recorded; in between it is as good as switched off.
                lived_s, stood = (rig.time_s, 0) if rig.time_s != lived_s else (lived_s, stood + 1)
                block = ear.block(BLOCK, silent=stood > STANDS_AFTER)
            else:
                assert self._sound is not None
                block = self._sound(BLOCK)
            connection.sendall(as_samples(block))
            sent += BLOCK
            time.sleep(max(0.0, began + sent / RATE_HZ - time.monotonic()))


def wav_header(rate_hz: int) -> bytes:
    """The header of a WAV stream of one channel of 32-bit integers that has no end."""
    form = struct.pack("<HHIIHH", 1, 1, rate_hz, 4 * rate_hz, 4, 32)
    return (
        b"RIFF"
        + struct.pack("<I", ENDLESS)
        + b"WAVEfmt "
        + struct.pack("<I", 16)
        + form
        + b"data"
        + struct.pack("<I", ENDLESS)
    )


def as_samples(pascals: Array) -> bytes:
    """Sound, Pa, shape (n,), as such a stream has it."""
    scaled = over_full_scale(pascals, FULL_SCALE_DB).clip(-1.0, 1.0 - 2.0**-31)
    return bytes((scaled * 2.0**31).astype("<i4").tobytes())
