"""Where sound comes from while it sounds: this machine's inputs by PortAudio, or a stream of WAV over the network.

Each gives its samples, 1 at full scale, to whoever it was opened for, from a thread of its own, and ends when it is closed.
"""

from __future__ import annotations

import contextlib
import io
import queue
import socket
import struct
import threading
from collections.abc import Callable
from typing import Protocol
from urllib.parse import unquote

import numpy as np

from samovar.core.instrument import OPTIONS, Instrument
from samovar.core.recording import Array

Taken = Callable[[Array], None]
USUAL_HZ = 48_000
LOWEST_HZ, HIGHEST_HZ, _ = OPTIONS["rate"]
CONNECTS_WITHIN_S, SILENT_AFTER_S = 3.0, 3.0
HEADER_MOST = 1 << 16
"""What stands before the samples of a stream is short."""
BLOCK_S = 0.05
BLOCKS_WAITING = 200
"""Ten seconds of blocks: who is further behind has lost some."""


class NoSound(Exception):
    """There is no sound to be had; the text says why and what to do."""


class Stream(Protocol):
    """Sound that is coming in."""

    rate_hz: float

    def serve(self, taken: Taken, closing: threading.Event) -> None:
        """Hand on every block of samples, shape (n,), until `closing` is set. Raises NoSound, OSError."""
        ...

    def close(self) -> None:
        """Let go of it."""
        ...


def open_stream(instrument: Instrument) -> Stream:
    """The sound at an instrument's address. Raises NoSound, OSError, ImportError."""
    if instrument.parts.hostname:
        return NetworkStream(
            instrument.parts.hostname, instrument.parts.port or instrument.protocol.port or 0
        )
    return InputStream(unquote(instrument.parts.path), int(instrument.options.get("rate", USUAL_HZ)))


class InputStream:
    """An input of this machine, by PortAudio.

    Args:
        device: a part of its name; the system's usual input where empty.
        rate_hz: what is asked of it.

    Raises:
        NoSound: no such input, or it does not do that.
        ImportError: the package is not here.
    """

    def __init__(self, device: str, rate_hz: int) -> None:
        try:
            import sounddevice
        except OSError as problem:
            # The package is here, the library that it speaks to is not.
            raise ImportError(str(problem)) from None
        self.rate_hz = float(rate_hz)
        self._blocks: queue.Queue[Array] = queue.Queue(BLOCKS_WAITING)
        self._unusable = sounddevice.PortAudioError
        try:
            self._input = sounddevice.InputStream(
                samplerate=rate_hz, blocksize=round(BLOCK_S * rate_hz), device=device or None, channels=1,
                dtype="float32", callback=self._came,
            )  # fmt: skip
        except (sounddevice.PortAudioError, ValueError) as problem:
            name = device or "the usual input"
            raise NoSound(f"{name} cannot be listened to: {str(problem).splitlines()[0]}") from None

    def _came(self, block: np.ndarray, _frames: int, _time: object, _status: object) -> None:
        # On PortAudio's own thread: nothing here may wait.
        with contextlib.suppress(queue.Full):
            self._blocks.put_nowait(block[:, 0].astype(float))

    def serve(self, taken: Taken, closing: threading.Event) -> None:
        """See Stream."""
        try:
            self._input.start()
        except self._unusable as problem:
            raise NoSound(f"it does not start: {str(problem).splitlines()[0]}") from None
        while not closing.is_set():
            try:
                taken(self._blocks.get(timeout=SILENT_AFTER_S))
            except queue.Empty:
                raise NoSound(
                    f"no sound came for {SILENT_AFTER_S:g} s; see whether it is plugged in"
                ) from None

    def close(self) -> None:
        """See Stream."""
        with contextlib.suppress(self._unusable):
            self._input.close()


_SAMPLES: dict[tuple[int, int], tuple[str, float]] = {
    (1, 16): ("<i2", 2.0**-15), (1, 32): ("<i4", 2.0**-31), (3, 32): ("<f4", 1.0),
}  # fmt: skip
"""What a stream's samples may be: by WAV's number of the format and bits, how they stand there and what makes 1 of full
scale."""
_EXTENSIBLE = 0xFFFE


class NetworkStream:
    """A WAV file without an end, as a program that records writes it to a connection. Of several channels the first is taken.

    Raises:
        NoSound: what comes is no such stream.
        OSError: nobody is there.
    """

    def __init__(self, host: str, port: int) -> None:
        self._socket = socket.create_connection((host, port), CONNECTS_WITHIN_S)
        self._socket.settimeout(SILENT_AFTER_S)
        self._file = self._socket.makefile("rb")
        try:
            self.rate_hz, self._channels, self._form, self._scale = self._header(self._file)
        except TimeoutError:
            self.close()
            raise NoSound("it says nothing; see whether it records") from None
        except NoSound:
            self.close()
            raise

    @staticmethod
    def _header(file: io.BufferedReader) -> tuple[float, int, str, float]:
        """Rate, channels, and how samples stand there, from what comes before them."""
        wrong = NoSound("this is no stream of WAV; send one of 16 or 32 bits")
        if file.read(4) != b"RIFF":
            raise wrong
        file.read(4)
        if file.read(4) != b"WAVE":
            raise wrong
        found: tuple[float, int, str, float] | None = None
        while True:
            head = file.read(8)
            if len(head) < 8:
                raise wrong
            name, length = struct.unpack("<4sI", head)
            if name == b"data":
                break
            if length > HEADER_MOST:
                raise wrong
            body = file.read(length + length % 2)
            if name == b"fmt " and len(body) >= 16:
                kind, channels, rate, _, _, bits = struct.unpack("<HHIIHH", body[:16])
                if kind == _EXTENSIBLE and len(body) >= 26:
                    (kind,) = struct.unpack("<H", body[24:26])
                form = _SAMPLES.get((kind, bits))
                if form is None or not channels or not LOWEST_HZ <= rate <= HIGHEST_HZ:
                    raise wrong
                found = (float(rate), channels, *form)
        if found is None:
            raise wrong
        return found

    def serve(self, taken: Taken, closing: threading.Event) -> None:
        """See Stream."""
        width = np.dtype(self._form).itemsize * self._channels
        block = width * round(BLOCK_S * self.rate_hz)
        while not closing.is_set():
            try:
                data = self._file.read(block)
            except TimeoutError:
                raise NoSound(f"no sound came for {SILENT_AFTER_S:g} s; see whether it records") from None
            whole = len(data) // width * width
            if not whole:
                raise NoSound("the other end left")
            samples = np.frombuffer(data[:whole], self._form)[:: self._channels].astype(float) * self._scale
            # A stream of float samples may hold anything.
            taken(np.nan_to_num(samples, nan=0.0, posinf=1.0, neginf=-1.0))

    def close(self) -> None:
        """See Stream."""
        with contextlib.suppress(OSError):
            self._socket.shutdown(socket.SHUT_RDWR)
        self._file.close()
        self._socket.close()
