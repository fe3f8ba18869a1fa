"""Graphics chips and other parts with a clock of their own, by the files their drivers document: how busy they are, and
how fast they run (gpu/amdgpu/thermal, ABI/testing/sysfs-driver-intel-i915, ABI/testing/sysfs-class-devfreq)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from samovar.core.quantity import Channel, domain_of
from samovar.sources.linux.files import Reader, ScaledReader, entries, text_of
from samovar.sources.linux.hwmon import device_of

_CARD = re.compile(r"card\d+$")
_MHZ, _HZ = 1.0, 1e6
_FILES = (
    ("device/gpu_busy_percent", "Graphics busy", "load", "%", "gpu"),
    ("device/mem_busy_percent", "Graphics memory busy", "load", "%", "memory"),
    ("gt_act_freq_mhz", "Graphics clock", "clock", "MHz", "gpu"),
    ("gt/gt0/rps_act_freq_mhz", "Graphics clock", "clock", "MHz", "gpu"),
    ("device/tile0/gt0/freq0/act_freq", "Graphics clock", "clock", "MHz", "gpu"),
)
"""Below a card's folder: what it is called, its quantity, unit and role. The first that is there of each name counts."""
_ROLES = ((re.compile(r"gpu|mali|gfx|3d"), "gpu"), (re.compile(r"dmc|ddr|dram|mem|emc"), "memory"))


def find_graphics(sys: Path) -> Iterator[Reader]:
    """How busy each graphics chip is, and its clock."""
    cards = [p for p in entries(sys / "class/drm") if _CARD.match(p.name)]
    for home in sorted(cards, key=lambda p: (device_of(p, {}), p.name)):
        device = device_of(home, {})
        said: set[str] = set()
        for path, name, quantity, unit, role in _FILES:
            if name in said or not (home / path).exists():
                continue
            said.add(name)
            key = path.rpartition("/")[2]
            label = name if len(cards) == 1 else f"{name} {device}"
            yield ScaledReader(
                Channel(label, quantity, unit, role, "gpu", f"drm:{device}:{key}"), home / path, _MHZ
            )


def find_devices_with_clocks(sys: Path) -> Iterator[Reader]:
    """The clock of every device whose frequency the kernel scales."""
    for home in sorted(entries(sys / "class/devfreq")):
        if not (home / "cur_freq").exists():
            continue
        words = f"{home.name} {text_of(home / 'name') or ''}".lower()
        role = next((role for pattern, role in _ROLES if pattern.search(words)), "other")
        channel = Channel(f"{home.name} clock", "clock", "MHz", role, domain_of(role), f"devfreq:{home.name}")
        yield ScaledReader(channel, home / "cur_freq", _HZ)
