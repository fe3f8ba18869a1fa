"""What a sensor measures, proposed from its driver's name and its label, or from a log's column title."""

from __future__ import annotations

import re

from samovar.core.quantity import domain_of

GRAPHICS = r"gpu|graphics|\bgt\b|\bigfx\b|\bgfx\b|\brender\b"
"""Words that name the graphics side, a processor's own included."""

_RULES: tuple[tuple[str, str, str | None], ...] = (
    # pattern over "driver label", role, domain (None: as the role says)
    (r"\bnvme\b|\bdrivetemp\b|composite|\bssd\b|\bhdd\b|\bdrive\b|\bdisk\b|laufwerk|festplatte", "storage", None),
    (r"room|ambient|inlet|intake|air in", "inlet", None),
    (r"coolant|water|liquid", "coolant", None),
    (r"\b(amdgpu|nouveau|radeon|xe|i915|gpu)\b.*(junction|hotspot|hot spot)", "hotspot", "gpu"),
    (r"\b(amdgpu|nouveau|radeon|xe|i915|gpu)\b.*\bmem\b", "memory", "gpu"),
    (r"\bmemory junction\b|\bgpu memory\b|\bvram\b", "memory", "gpu"),
    (r"\b(amdgpu|nouveau|radeon|xe|i915)\b|\bi?gpu\b|\bedge\b|\bgt\b|\bgraphics\b|\bi?gfx\b", "gpu", "gpu"),
    (r"\bvrm\b|\bmos\b|mosfet|regulator|\bvr\b", "vrm", None),
    (r"dimm|\bspd|jc42|memory|\bram\b", "memory", None),
    (r"chipset|\bpch\b|southbridge|\bsb\b", "chipset", None),
    (r"\b(?:[pe][- ]?)?core ?#? ?\d+|\bcpu ?#?\d+ core|\bcore (?:max|min|average|avg)\b", "core", "cpu"),
    (r"tdie|tctl|tccd|package|\bdie\b|\bpkg\b|processor|prozessor|\bcpu\b|x86_pkg|cpu_thermal|\bsoc\b", "die", "cpu"),
    (r"surface|skin", "surface", None),
)  # fmt: skip


def role_of_temperature(driver: str, label: str) -> tuple[str, str]:
    """Role and domain proposed for a temperature; `other`, `board` where nothing tells."""
    text = f"{driver} {label}".lower().replace("_", " ")
    for pattern, role, domain in _RULES:
        if re.search(pattern, text):
            return role, domain or domain_of(role)
    return "other", "board"


def role_of_fan(label: str) -> tuple[str, str]:
    """Role and domain of a fan: the case's fans are told from the processor's by the label."""
    text = label.lower()
    if re.search(r"case|chassis|rear|front|sys|exhaust", text):
        return "case-fan", "case"
    if re.search(GRAPHICS, text):
        return "other", "gpu"
    return "other", "cpu" if re.search(r"cpu|processor|cooler|pump", text) else "case"


def role_of_power(driver: str, label: str) -> tuple[str, str]:
    """Role and domain of a power."""
    text = f"{driver} {label}".lower().replace("_", " ")
    if re.search(rf"{GRAPHICS}|nouveau|radeon|uncore", text):
        return "gpu", "gpu"
    if re.search(r"dram|memory|dimm", text):
        return "memory", "memory"
    if re.search(
        r"package|\bpkg\b|\bsocket|ppt|^\s*(cpu|processor|prozessor)[\s-]*(total |core \+ soc |)(power|leistung|watts?|draw)?\s*$",
        text,
    ):
        return "package", "cpu"
    if re.search(r"\bcore\b", text):
        return "core", "cpu"
    if re.search(r"wall|psys|supply|adapter", text):
        return "wall", "case"
    return "other", "board"


def role_of_work(label: str, unit: str) -> tuple[str, str]:
    """Role and domain of what is done: a drive's rates, a graphics chip's frames, else the load's own work."""
    text = label.lower().replace("_", " ")
    if re.search(
        r"network|\bnet\b|ethernet|\blan\b|wi-?fi|upload|download|\b[ud]l\b|\b(?:rx|tx)\b|pcie|\busb\b", text
    ):
        return "other", "board"
    if re.search(r"\bram\b|dram|memory", text):
        return "memory", "memory"
    if unit in ("MB/s", "IOPS"):
        return "storage", "storage"
    if unit == "fps" or re.search(r"frame", text):
        return "gpu", "gpu"
    return "other", "cpu"
