"""A kernel-shaped tree with 64 channels for the measurements, and a recording of such a one."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from samovar.core.quantity import Channel
from samovar.core.recording import Recording


def wide_tree(root: Path, channels: int = 64) -> None:
    """A die, a package's clocks and many temperatures: `channels` in all, with proc/stat among them."""
    home = root / "sys/devices/wide/hwmon/hwmon0"
    home.mkdir(parents=True)
    (home / "name").write_text("halden\n")
    (home / "temp1_label").write_text("Tdie\n")
    for number in range(1, channels - 16):
        (home / f"temp{number}_input").write_text(f"{40000 + 125 * number}\n")
    (root / "sys/class/hwmon").mkdir(parents=True)
    (root / "sys/class/hwmon/hwmon0").symlink_to(home)
    for core in range(16):
        folder = root / f"sys/devices/system/cpu/cpu{core}/cpufreq"
        folder.mkdir(parents=True)
        (folder / "scaling_cur_freq").write_text(f"{3_800_000 + core}\n")
    (root / "proc").mkdir()
    (root / "proc/stat").write_text("cpu  100 0 0 900 0 0 0 0 0 0\n")


def wide_recording(duration_s: float, rate_hz: float) -> Recording:
    """A run of that tree's 64 channels: idle, a burst, a power budget and a cool-down, as a sensor shows them."""
    rng = np.random.default_rng(1)
    n = round(duration_s * rate_hz)
    time_s = np.arange(n) / rate_hz
    busy = (time_s > 300.0) & (time_s < duration_s - 600.0)
    since = np.clip(time_s - 300.0, 0.0, None)
    power = np.where(busy, np.where(since < 28.0, 140.0, 95.0), 10.0)
    rise = np.where(busy, 0.5 * power * (1.0 - np.exp(-since / 90.0)), 5.0)
    clock = np.where(busy, np.where(since < 28.0, 4600.0, 4000.0), 800.0)
    channels = [
        Channel("Tdie", "temperature", "°C", "die", "cpu"),
        Channel("Package power", "power", "W", "package", "cpu"),
        Channel("Utilisation", "load", "%", "package", "cpu"),
    ]
    rows = [22.5 + rise + rng.normal(0, 0.15, n), power, np.where(busy, 100.0, 1.0)]
    for core in range(16):
        channels.append(Channel(f"Core {core} clock", "clock", "MHz", "core", "cpu"))
        rows.append(clock + rng.normal(0, 5.0, n))
    for number in range(64 - len(channels)):
        channels.append(Channel(f"Board {number}", "temperature", "°C", "other", "board"))
        rows.append(40.0 + 0.2 * rise + rng.normal(0, 0.2, n))
    return Recording(tuple(channels), time_s, np.round(np.array(rows) * 8.0) / 8.0)
