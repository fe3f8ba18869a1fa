"""OpenMetrics: what another program shows of itself over HTTP, in the text of that standard or its older form."""

from __future__ import annotations

import contextlib
import math
import time
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from samovar.core.instrument import Instrument, InstrumentChannel
from samovar.core.shown_text import visible
from samovar.sources.instruments.said import Nothing, Said, Silent, Tell, finite

PATIENCE_S = 2.0
BODY_MOST = 32 * 2**20
ACCEPT = "application/openmetrics-text; version=1.0.0, text/plain; version=0.0.4; q=0.5"
SHOWN_MOST = 5
COUNTED = {"_joules_total": ("W", 1.0), "_bytes_total": ("B/s", 1.0), "_seconds_total": ("%", 100.0)}
"""Counters in base units: the unit of their rate, and how many of it one a second is."""


RATE_WITHIN = 0.05
"""A rate is told once the two moments it is taken between are known within this share of the time between them."""


@dataclass(frozen=True, slots=True)
class _Moment:
    """When a page was as it is: somewhere between the question and the answer, seconds."""

    at_s: float
    half_s: float


@dataclass(frozen=True, slots=True)
class Selector:
    """A series by its name, and labels that it has at least."""

    name: str
    labels: frozenset[tuple[str, str]]

    def fits(self, sample: Any) -> bool:
        """Whether a series is meant."""
        return sample.name == self.name and self.labels <= frozenset(sample.labels.items())


def selector_of(text: str) -> Selector:
    """A selector out of its text. Raises ValueError."""
    from prometheus_client.parser import text_string_to_metric_families

    samples = [s for family in text_string_to_metric_families(f"{text} 0\n") for s in family.samples]
    if len(samples) != 1:
        raise ValueError(f"{text!r} selects no series")
    return Selector(samples[0].name, frozenset(samples[0].labels.items()))


def series_of(text: str, kind: str) -> list[Any]:
    """The series in a text, by its kind of content. Raises ValueError."""
    from prometheus_client.openmetrics.parser import text_string_to_metric_families as strict
    from prometheus_client.parser import text_string_to_metric_families as older

    if "openmetrics" in kind:
        # Not everyone who names the standard keeps to it.
        with contextlib.suppress(Exception):
            return [sample for family in strict(text) for sample in family.samples]
    try:
        return [sample for family in older(text) for sample in family.samples]
    except Exception as problem:
        raise ValueError(str(problem)) from problem


class OpenMetricsWire:
    """What is shown at an address, asked for again and again. Raises Silent, OSError."""

    def __init__(self, instrument: Instrument) -> None:
        import httpx

        parts = instrument.parts
        scheme = parts.scheme.partition("+")[2]
        self._address = parts._replace(scheme=scheme, netloc=parts.netloc.rpartition("@")[2]).geturl()
        login = (parts.username or "", parts.password or "") if parts.username is not None else None
        self._client = httpx.Client(
            timeout=PATIENCE_S, auth=login, headers={"Accept": ACCEPT}, follow_redirects=False
        )
        self._selectors = [selector_of(one.metric or "") for one in instrument.channel]
        self._scales = [_scale_of(one) for one in instrument.channel]
        self._last: dict[int, tuple[_Moment, float]] = {}

    def read(self, tell: Tell) -> None:
        """Every series that is selected."""
        asked = time.monotonic()
        samples = self.series()
        came = time.monotonic()
        for index, selector in enumerate(self._selectors):
            found = self._said(index, selector, samples, _Moment(0.5 * (asked + came), 0.5 * (came - asked)))
            if found is not None:
                tell(index, found)

    def series(self) -> list[Any]:
        """All that is shown now. Raises Silent."""
        import httpx

        body, until = b"", time.monotonic() + PATIENCE_S
        try:
            with self._client.stream("GET", self._address) as response:
                if response.status_code != 200:
                    raise Silent(f"it answers with status {response.status_code}")
                for part in response.iter_bytes():
                    body += part
                    if len(body) > BODY_MOST:
                        raise Silent("what it shows has no end")
                    if time.monotonic() > until:
                        raise Silent(f"its answer is not whole after {PATIENCE_S:g} s")
                kind = response.headers.get("content-type", "")
        except httpx.TimeoutException:
            raise Silent(f"no answer in {PATIENCE_S:g} s") from None
        except httpx.HTTPError as problem:
            raise Silent(f"it cannot be reached ({type(problem).__name__})") from None
        try:
            return series_of(body.decode("utf-8", "replace"), kind)
        except ValueError as problem:
            raise Silent(f"what it shows is not understood: {visible(str(problem), 60)}") from None

    def _said(self, index: int, selector: Selector, samples: Iterable[Any], now: _Moment) -> Said | None:
        found = [sample for sample in samples if selector.fits(sample)]
        if not found:
            return Nothing(f"it shows no {selector.name} with these labels")
        if len(found) > 1:
            some = ", ".join(shown(one) for one in found[:SHOWN_MOST])
            more = "" if len(found) <= SHOWN_MOST else f" and {len(found) - SHOWN_MOST} more"
            return Nothing(f"{len(found)} series fit: {some}{more}; name labels of one")
        value = float(found[0].value)
        if not selector.name.endswith("_total"):
            return finite(value) if math.isfinite(value) else Nothing(f"it says {value}", True)
        last = self._last.get(index)
        if last is not None and value >= last[1]:
            passed_s = now.at_s - last[0].at_s
            if now.half_s + last[0].half_s > RATE_WITHIN * passed_s:
                # An answer that was long on its way tells no rate with one just before it: a later one will.
                return None
            self._last[index] = (now, value)
            return self._scales[index] * (value - last[1]) / passed_s
        self._last[index] = (now, value)
        # Where it is less than before, its program began anew.
        return None if last is None else Nothing("its counter began anew")

    def close(self) -> None:
        """Close the connection."""
        self._client.close()


def _scale_of(one: InstrumentChannel) -> float:
    """What makes of a counter's rate a second a value in the unit that the channel is written in."""
    name = (one.metric or "").partition("{")[0]
    unit, many = next((u for ending, u in COUNTED.items() if name.endswith(ending)), ("", 1.0))
    if not unit:
        return 1.0
    try:
        kept, factor, _ = replace(one, unit=unit).conversion
    except ValueError:
        return 1.0
    own, own_factor, _ = one.conversion
    return many * factor / own_factor if kept == own else 1.0


def shown(sample: Any) -> str:
    """A series as a selector would name it."""
    labels = ",".join(f'{key}="{value}"' for key, value in sorted(sample.labels.items()))
    return f"{sample.name}{{{labels}}}" if labels else str(sample.name)
