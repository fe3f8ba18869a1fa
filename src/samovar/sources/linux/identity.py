"""What a Linux machine tells of itself: processor, budgets, limits, parts, system; only what the kernel says.

From proc/cpuinfo and proc/meminfo, cpufreq, powercap's constraints (power/powercap), hwmon's critical
temperatures, class/dmi and etc/os-release.
"""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from samovar.core.roles import role_of_temperature
from samovar.sources.linux.files import text_of

_NOT_A_NAME = re.compile(
    r"to be filled|default string|system (product|manufacturer)|o\.e\.m\.|not specified", re.I
)
_DISK = re.compile(r"(nvme\d+n\d+|sd[a-z]+|mmcblk\d+)$")


def _number(path: Path, per: float, least: float, most: float) -> float | None:
    text = text_of(path)
    try:
        value = float(text or "") / per
    except ValueError:
        return None
    return value if least <= value <= most else None


def known_facts(sysroot: Path) -> dict[str, Any]:
    """Values by the keys of `core.rig.RIG_FIELDS`; a key that the kernel says nothing of is absent."""
    sys, proc = sysroot / "sys", sysroot / "proc"
    found: dict[str, Any] = {}
    found.update(_processor(sys, proc))
    found.update(_budgets(sys))
    found["cpu.temperature_limit_c"] = _limit(sys)
    found["board"] = _dmi(sys, "board_vendor", "board_name")
    found["firmware"] = _dmi(sys, "bios_version")
    found["memory"] = _memory(proc)
    found["storage"] = _storage(sys)
    found["system"] = _system(sysroot, proc)
    policy = sys / "devices/system/cpu/cpufreq/policy0"
    plan = text_of(policy / "energy_performance_preference") or text_of(policy / "scaling_governor")
    found["power_plan"] = plan or None
    return {k: v for k, v in found.items() if v is not None}


def _processor(sys: Path, proc: Path) -> dict[str, Any]:
    text = text_of(proc / "cpuinfo") or ""
    names = re.findall(r"^(?:model name|Model|Hardware)\s*:\s*(.+)$", text, re.M)
    cores = {
        (text_of(cpu / "topology/physical_package_id") or "0", text_of(cpu / "topology/core_id") or cpu.name)
        for cpu in (sys / "devices/system/cpu").glob("cpu[0-9]*")
    }
    policies = sorted((sys / "devices/system/cpu/cpufreq").glob("policy*"))
    # Unlike groups of cores: the fastest group's clocks are the ones a data sheet gives first.
    boosts = [v for p in policies if (v := _number(p / "cpuinfo_max_freq", 1e3, 100, 2e4)) is not None]
    bases = [v for p in policies if (v := _number(p / "base_frequency", 1e3, 100, 2e4)) is not None]
    return {
        "cpu.name": " ".join(names[0].split()) if names else None,
        "cpu.cores": len(cores) or None,
        "cpu.boost_clock_mhz": max(boosts, default=None),
        "cpu.base_clock_mhz": max(bases, default=None),
    }


def _budgets(sys: Path) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for zone in sorted((sys / "class/powercap").glob("*:[0-9]*")):
        if zone.name.count(":") != 1 or not (text_of(zone / "name") or "").startswith("package"):
            continue
        for number in range(4):
            name = text_of(zone / f"constraint_{number}_name")
            watts = _number(zone / f"constraint_{number}_power_limit_uw", 1e6, 0.5, 5e3)
            if name == "long_term" and watts:
                found.setdefault("cpu.sustained_power_w", watts)
                window = _number(zone / f"constraint_{number}_time_window_us", 1e6, 0.001, 1e4)
                if window is not None:
                    found.setdefault("cpu.burst_time_s", round(window, 3))
            elif name == "short_term" and watts:
                found.setdefault("cpu.burst_power_w", watts)
    return found


def _limit(sys: Path) -> float | None:
    """The lowest critical temperature that the die's own sensors carry."""
    limits = []
    for chip in (sys / "class/hwmon").glob("hwmon*"):
        driver = text_of(chip / "name") or ""
        for entry in chip.glob("temp*_input"):
            label = text_of(entry.with_name(entry.name.replace("_input", "_label"))) or ""
            if role_of_temperature(driver, label)[0] != "die":
                continue
            limit = _number(entry.with_name(entry.name.replace("_input", "_crit")), 1e3, 40, 130)
            if limit is not None:
                limits.append(limit)
    return min(limits, default=None)


def _dmi(sys: Path, *names: str) -> str | None:
    parts = [text_of(sys / "class/dmi/id" / name) or "" for name in names]
    words = [p for p in parts if p and not _NOT_A_NAME.search(p)]
    return " ".join(words) or None


def _memory(proc: Path) -> str | None:
    found = re.search(r"^MemTotal:\s*(\d+) kB", text_of(proc / "meminfo") or "", re.M)
    if not found:
        return None
    # The kernel keeps some for itself: what is installed is the next whole gibibyte or so.
    return f"{int(found[1]) / (1 << 20):.0f} GiB"


def _storage(sys: Path) -> str | None:
    models = [
        model
        for disk in sorted((sys / "block").glob("*"))
        if _DISK.match(disk.name) and (model := text_of(disk / "device/model"))
    ]
    return ", ".join(dict.fromkeys(" ".join(m.split()) for m in models)) or None


def _system(sysroot: Path, proc: Path) -> str | None:
    named = re.search(r'^PRETTY_NAME="?([^"\n]+)"?', text_of(sysroot / "etc/os-release") or "", re.M)
    kernel = text_of(proc / "sys/kernel/osrelease")
    words = [named[1] if named else "", f"Linux {kernel}" if kernel else ""]
    return ", ".join(w for w in words if w) or None
