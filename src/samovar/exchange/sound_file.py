"""Recordings of sound: WAV and FLAC read as samples, with what is wrong with the file."""

from __future__ import annotations

import io
import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from samovar.core.recording import Array
from samovar.exchange.problems import InputError

LOWEST_HZ, HIGHEST_HZ = 8_000, 192_000
"""The rates that recorders have."""
LONGEST_S = 600.0
"""Nobody listens to a fan for longer; what comes after is said to be left."""
SAMPLES_MOST = 60_000_000
"""Half a gigabyte of samples, all channels together."""
BLOCK, PIECE = 1 << 18, 1 << 12


@dataclass(frozen=True)
class SoundFile:
    """A recording: its channels, each of shape (n,) and 1 at full scale, its rate, and what is to be said of the file."""

    channels: list[Array]
    rate_hz: float
    warnings: list[str]


def read_sound(path: Path) -> SoundFile:
    """Read a recording.

    Raises:
        InputError: no file, none that is understood, or nothing in it; what to do.
    """
    if not path.exists():
        raise InputError(f"{path}: there is no such file; check the name")
    if path.is_dir():
        raise InputError(f"{path}: this is a folder; name a recording in it")
    try:
        import soundfile
    except (ImportError, OSError):
        raise InputError(
            f"{path}: recordings need a package that is not here: install samovar[sound]"
        ) from None
    warnings: list[str] = []
    try:
        with soundfile.SoundFile(str(path)) as file:
            rate, count = file.samplerate, file.channels
            if not LOWEST_HZ <= rate <= HIGHEST_HZ:
                raise InputError(
                    f"{path}: {rate} samples a second; give a recording of {LOWEST_HZ} to {HIGHEST_HZ}"
                )
            if file.format not in ("WAV", "WAVEX", "FLAC", "RF64", "W64"):
                raise InputError(
                    f"{path}: this is {file.format}, and has lost some of the sound; give WAV or FLAC"
                )
            most = min(round(LONGEST_S * rate), SAMPLES_MOST // count)
            blocks = _blocks(file, most)
            read = sum(map(len, blocks))
            if read < min(most, file.frames):
                blocks += _last_pieces(path, read)
                read = sum(map(len, blocks))
                warnings.append(f"it is damaged after {read / rate:.1f} s: read as far as it goes")
            elif file.frames > most:
                warnings.append(f"the first {most / rate / 60.0:.0f} min of it were read")
    except InputError:
        raise
    except (RuntimeError, OSError, soundfile.LibsndfileError):
        raise InputError(f"{path}: this is no recording that can be read; give WAV or FLAC") from None
    samples = np.concatenate(blocks) if blocks else np.empty((0, count))
    missing = _cut_short(path)
    if missing:
        warnings.append(f"the file ends early, {missing} bytes of sound are missing: read as far as it goes")
    bad = np.flatnonzero(~np.isfinite(samples).all(axis=1))
    if len(bad):
        warnings.append(
            f"{len(bad)} samples are no numbers, the first at {bad[0] / rate:.2f} s: read as far as that"
        )
        samples = samples[: bad[0]]
    if len(samples) == 0:
        raise InputError(f"{path}: there are no samples in it; record it again")
    return SoundFile([np.ascontiguousarray(samples[:, k]) for k in range(count)], float(rate), warnings)


def flac_of(samples: Array, rate_hz: float, bits: int = 24) -> bytes:
    """Samples, 1 at full scale, shape (n,), as FLAC of 24 bits, or of 16, which do where they fill the scale. Raises InputError: the package for it is not here."""
    try:
        import soundfile
    except (ImportError, OSError):
        raise InputError("keeping sound needs a package that is not here: install samovar[sound]") from None
    file = io.BytesIO()
    soundfile.write(file, samples, round(rate_hz), format="FLAC", subtype=f"PCM_{bits}")
    return file.getvalue()


def sound_of_flac(data: bytes) -> tuple[Array, float]:
    """The samples of a piece that `flac_of` wrote, shape (n,), and their rate. Raises InputError."""
    try:
        import soundfile

        samples, rate = soundfile.read(io.BytesIO(data), dtype="float64", always_2d=True)
    except (ImportError, OSError, RuntimeError):
        raise InputError("a piece of sound cannot be read: install samovar[sound], or take it back") from None
    return np.asarray(samples[:, 0]), float(rate)


def _blocks(file: Any, most: int, size: int = BLOCK) -> list[Array]:
    """What can be read of an open file, up to so many samples, in blocks of shape (n, channels)."""
    blocks: list[Array] = []
    while most > 0:
        try:
            block = file.read(min(size, most), dtype="float64", always_2d=True)
        except RuntimeError:
            break
        if len(block) == 0:
            break
        blocks.append(block)
        most -= len(block)
    return blocks


def _last_pieces(path: Path, read: int) -> list[Array]:
    """What lies before the damage in a block that could not be read whole."""
    import soundfile

    try:
        with soundfile.SoundFile(str(path)) as file:
            file.seek(read)
            return _blocks(file, BLOCK, PIECE)
    except (RuntimeError, OSError):
        return []


def _cut_short(path: Path) -> int:
    """How many bytes of sound a WAV file's header speaks of that are not there."""
    size = path.stat().st_size
    with path.open("rb") as file:
        head = file.read(12)
        if head[:4] != b"RIFF" or head[8:] != b"WAVE":
            return 0
        at = 12
        while at + 8 <= size:
            file.seek(at)
            name, length = struct.unpack("<4sI", file.read(8))
            if name == b"data":
                # What streams do not know yet is written as the most there can be.
                return 0 if length >= 0xFFFFFFF0 else max(0, at + 8 + length - size)
            at += 8 + length + length % 2
    return 0
