"""A guard that looks through a followed log, or an instrument, is marked as only as quick as that."""

from __future__ import annotations

import unittest
from types import SimpleNamespace

from samovar.core.instrument import Instrument, InstrumentChannel
from samovar.core.quantity import Channel
from samovar.recording.under_guard import guard_is_slow

LOG = SimpleNamespace(instrument=Instrument("their log", "follow:///home/bench/growing.csv"))
METER = SimpleNamespace(
    instrument=Instrument(
        "probe", "scpi+tcp://192.0.2.7:5025", (InstrumentChannel("Die", "temperature", ask="T?"),), every=2.0
    )
)


class SlowGuardTest(unittest.TestCase):
    def test_by_where_the_die_comes_from(self) -> None:
        far = Channel("CPU die", "temperature", "°C", "die", "cpu", "their log:CPU die")
        probe = Channel("Die", "temperature", "°C", "die", "cpu", "probe:Die")
        own = Channel("Tdie", "temperature", "°C", "die", "cpu", "hwmon:a:b:temp1")
        self.assertIn("as its log is written (their log)", guard_is_slow([far], [LOG, METER]))
        self.assertIn("every 2 s (probe)", guard_is_slow([probe], [LOG, METER]))
        self.assertEqual(guard_is_slow([far, own], [LOG]), "")
        self.assertEqual(guard_is_slow([own], []), "")
