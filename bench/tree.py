"""A kernel-shaped tree with 64 channels for the measurements."""

from __future__ import annotations

from pathlib import Path


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
