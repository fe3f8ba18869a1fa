"""A source whose channels have the roles that were confirmed for a rig."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from samovar.core.quantity import ROLES, Channel, domain_of
from samovar.sources.protocol import Source


class RoledSource:
    """Another source with some of its channels' roles replaced; samples pass through untouched."""

    def __init__(self, source: Source, roles: Mapping[str, str]) -> None:
        self._source = source
        self._channels = tuple(confirmed(c, roles) for c in source.channels)

    @property
    def name(self) -> str:
        """The name of the source itself."""
        return self._source.name

    @property
    def channels(self) -> tuple[Channel, ...]:
        """The channels with the confirmed roles."""
        return self._channels

    def sample(self) -> list[float]:
        """As the source gives them."""
        return self._source.sample()

    def close(self) -> None:
        """Close the source."""
        self._source.close()


def confirmed(channel: Channel, roles: Mapping[str, str]) -> Channel:
    """The channel with the role that was confirmed for its id, if one was."""
    role = roles.get(channel.id)
    if role is None or role == channel.role or role not in ROLES:
        return channel
    domain = domain_of(role) if role != "other" else channel.domain
    return replace(channel, role=role, domain=domain)


def with_roles(source: Source, roles: Mapping[str, str] | None) -> Source:
    """The source itself where nothing was confirmed."""
    return RoledSource(source, roles) if roles else source
