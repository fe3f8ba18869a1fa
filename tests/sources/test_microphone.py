"""A microphone by a stream of WAV: what it tells, and what becomes of it when the stream hangs, lies or leaves."""

from __future__ import annotations

import contextlib
import math
import socket
import threading
import time
import unittest
from collections.abc import Callable

import numpy as np

from samovar.bench.clock import MonotonicClock
from samovar.core.instrument import instruments_of
from samovar.core.recording import Array
from samovar.core.units import Unreadable
from samovar.simulator.instruments.microphone import RATE_HZ, SimulatedMicrophone, wav_header
from samovar.simulator.sound import REFERENCE_PA
from samovar.sources.microphone.source import Microphone

TONE_DB = 60.0
BAND_1K = 19
"""Its place among the channels: three levels, and the bands from 25 Hz on."""


def tone() -> Callable[[int], Array]:
    """1 kHz at 60 dB, without end."""
    at = [0]

    def block(count: int) -> Array:
        t = (at[0] + np.arange(count)) / RATE_HZ
        at[0] += count
        return REFERENCE_PA * 10 ** (TONE_DB / 20) * math.sqrt(2) * np.sin(2 * np.pi * 1000 * t)

    return block


def until(true: Callable[[], bool], seconds: float = 12.0) -> bool:
    end = time.monotonic() + seconds
    while not true() and time.monotonic() < end:
        time.sleep(0.05)
    return true()


class MicrophoneTest(unittest.TestCase):
    def microphone(self, address: str) -> Microphone:
        (described,) = instruments_of({"instrument": [{"name": "mic", "address": address}]})
        found = Microphone(described, MonotonicClock())
        self.addCleanup(found.close)
        return found

    def heard(self, microphone: Microphone) -> list[float]:
        values: list[float] = []

        def came() -> bool:
            values[:] = microphone.sample()
            # The first half second F is still rising, and no second has ended yet.
            return microphone.heard_s > 2.5 and math.isfinite(values[0] + values[BAND_1K])

        self.assertTrue(until(came), microphone.trouble)
        return values

    def test_a_tone_of_known_level_has_that_level_in_its_band(self) -> None:
        with SimulatedMicrophone(sound=tone()) as stream:
            microphone = self.microphone(stream.address)
            values = self.heard(microphone)
            names = [c.name for c in microphone.channels]
            self.assertEqual(len(names), 33)
            self.assertEqual({c.unit for c in microphone.channels}, {"dBA", "dB"})
            level, band = values[0], values[names.index("mic 1000 Hz")]
            self.assertAlmostEqual(level, TONE_DB, delta=0.1)
            self.assertAlmostEqual(band, TONE_DB, delta=0.2)
            last = microphone.last(1.0)
            assert last is not None
            self.assertEqual(len(last), RATE_HZ)
            self.assertIsNone(microphone.last(45.0))

    def test_without_a_calibration_levels_are_over_full_scale(self) -> None:
        with SimulatedMicrophone(sound=tone()) as stream:
            microphone = self.microphone(stream.address.partition("?")[0])
            level = self.heard(microphone)[0]
            self.assertAlmostEqual(level, TONE_DB - 100.0, delta=0.1)
            self.assertEqual({c.unit for c in microphone.channels}, {"dBFS"})

    def test_digital_silence_has_no_level(self) -> None:
        with SimulatedMicrophone(sound=np.zeros) as stream:
            microphone = self.microphone(stream.address)
            self.assertTrue(until(lambda: microphone.heard_s > 1.0))
            self.assertTrue(all(map(math.isnan, microphone.sample())))
            self.assertIn("silence", str(microphone.probed(1.0)[0].reason))

    def test_one_that_hangs_and_one_that_leaves_is_a_gap_and_comes_back(self) -> None:
        with SimulatedMicrophone(sound=tone()) as stream:
            microphone = self.microphone(stream.address)
            self.heard(microphone)
            stream.hangs.set()
            self.assertTrue(until(lambda: math.isnan(microphone.sample()[0])))
            self.assertTrue(until(lambda: "no sound" in microphone.trouble))
            stream.hangs.clear()
            self.assertTrue(until(lambda: math.isfinite(microphone.sample()[0])))
            port = stream.port
            stream.close()
            self.assertTrue(until(lambda: math.isnan(microphone.sample()[0])))
        self.assertIn(f"127.0.0.1:{port}", microphone.trouble)

    def test_what_is_no_sound_is_said_in_one_line(self) -> None:
        for said in (
            b"HTTP/1.1 200 OK\r\n\r\n",
            b"",
            wav_header(RATE_HZ)[:30],
            wav_header(200),
            b"RIFF" * 40,
        ):
            with socket.create_server(("127.0.0.1", 0)) as server:

                def answer(server: socket.socket = server, said: bytes = said) -> None:
                    with contextlib.suppress(OSError):
                        while True:
                            connection, _ = server.accept()
                            with connection:
                                connection.sendall(said)

                threading.Thread(target=answer, daemon=True).start()
                microphone = self.microphone(f"microphone+tcp://127.0.0.1:{server.getsockname()[1]}")
                (one, *_) = microphone.probed(2.0)
                self.assertEqual(one.status, "unreadable")
                self.assertIn("no stream of WAV", str(one.reason))
                microphone.close()

    def test_an_address_that_makes_no_sense_is_refused(self) -> None:
        for address in (
            "microphone:?full_scale=1000", "microphone:?full_scale=x", "microphone:?rate=7", "microphone+tcp:name",
            "microphone+tcp://h?rate=48000", "microphone:?keep=2",
        ):  # fmt: skip
            with self.assertRaises(Unreadable, msg=address):
                instruments_of({"instrument": [{"name": "mic", "address": address}]})
        instruments_of(
            {"instrument": [{"name": "mic", "address": "microphone:USB audio?full_scale=112.4&rate=44100"}]}
        )
