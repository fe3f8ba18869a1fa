"""Unlike cores of one chip, told apart by their channels' names as the trade and the kernel's topology write them."""

from __future__ import annotations

import re
from collections.abc import Sequence

from samovar.core.quantity import Channel

_GROUPS = (
    # what stands in a name, and the group it means
    (r"\bfast core|\bp[- ]?core|\bperformance core|\bprime core|\bbig core|\bbig\b", "fast cores"),
    (r"\bmiddle core|\bmid core", "middle cores"),
    (r"\bslow core|\be[- ]?core|\befficien\w* core|\blittle core|\blittle\b", "slow cores"),
    (r"\bccd ?#?(\d+)", "CCD {}"),
)


def group_of(name: str) -> str | None:
    """The group of cores a channel's name speaks of; None where it names none."""
    for pattern, group in _GROUPS:
        found = re.search(pattern, name.lower())
        if found:
            return group.format(*found.groups())
    return None


def core_groups(channels: Sequence[Channel], quantity: str) -> dict[str, list[int]]:
    """The channels of a quantity by group of cores; empty where all cores are of one kind."""
    found: dict[str, list[int]] = {}
    for k, channel in enumerate(channels):
        group = group_of(channel.name) if channel.quantity == quantity and channel.domain == "cpu" else None
        if group is not None:
            found.setdefault(group, []).append(k)
    return found if len(found) > 1 else {}
