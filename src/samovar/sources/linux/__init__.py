"""The Linux kernel's documented interfaces: hwmon, thermal, cpufreq, powercap, throttle counters, proc/stat."""

from samovar.sources.linux.machine import LinuxSource, discover

__all__ = ["LinuxSource", "discover"]
