"""Recordings, channels, roles, spikes and overlays: the small parts that all else stands on."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.despike import despiked, spikes
from samovar.core.entered import checked, plain
from samovar.core.facts import Facts
from samovar.core.marks import Mark
from samovar.core.overlay import Curve, overlay
from samovar.core.quantity import DOMAINS, ROLES, UNITS, Channel, domain_of
from samovar.core.reading import read
from samovar.core.recording import Gap, Recording
from samovar.core.roles import role_of_fan, role_of_power, role_of_temperature
from samovar.core.units import Unreadable
from tests.recordings import DIE, FACTS, GPU, POWER, simple_run


class RecordingTest(unittest.TestCase):
    def test_shapes_must_fit(self) -> None:
        with self.assertRaises(ValueError):
            Recording((DIE,), np.arange(3.0), np.zeros((2, 3)))

    def test_gaps_are_found_from_the_times(self) -> None:
        time_s = np.concatenate([np.arange(0.0, 100.0), np.arange(112.0, 150.0)])
        recording = Recording((DIE,), time_s, np.full((1, len(time_s)), 40.0))
        self.assertEqual(recording.gaps(), [Gap(99.0, 112.0)])
        self.assertEqual(recording.interval_s, 1.0)

    def test_the_die_is_its_own_sensor_else_the_hottest_core(self) -> None:
        cores = [Channel(f"Core {k}", "temperature", "°C", "core", "cpu") for k in range(3)]
        values = np.array([[50.0] * 5, [61.0] * 5, [55.0] * 5])
        self.assertEqual(Recording(tuple(cores), np.arange(5.0), values).die, 1)
        whole = Recording((*cores, DIE), np.arange(5.0), np.vstack([values, [[45.0] * 5]]))
        self.assertEqual(whole.die, 3)

    def test_a_channel_without_a_value_is_not_found(self) -> None:
        recording = Recording((DIE, POWER), np.arange(3.0), np.array([[1.0] * 3, [np.nan] * 3]))
        self.assertIsNone(recording.package_power)
        self.assertEqual(recording.find("temperature"), [0])

    def test_the_clock_is_the_mean_of_the_cores_that_answer(self) -> None:
        cores = tuple(Channel(f"Core {k}", "clock", "MHz", "core", "cpu") for k in range(2))
        recording = Recording(
            cores, np.arange(3.0), np.array([[4000.0, np.nan, np.nan], [3000.0, 3000.0, np.nan]])
        )
        clock = recording.cpu_clock()
        assert clock is not None
        np.testing.assert_array_equal(clock, [3500.0, 3000.0, np.nan])

    @given(st.floats(-100, 2000))
    def test_index_at_is_the_nearest_sample(self, moment: float) -> None:
        recording = simple_run(30)
        found = abs(recording.time_s[recording.index_at(moment)] - moment)
        self.assertAlmostEqual(float(found), float(np.abs(recording.time_s - moment).min()))

    def test_one_sample_in_so_many_keeps_slow_channels_and_flags(self) -> None:
        time_s = np.arange(0.0, 23.0)
        slow = np.where(time_s % 5 == 3, time_s, np.nan)
        flag = (time_s == 7).astype(float)
        thin = Recording((DIE, POWER, FLAG), time_s, np.array([time_s, slow, flag])).every(5)
        self.assertEqual(thin.time_s.tolist(), [0.0, 5.0, 10.0, 15.0])
        self.assertEqual(thin.values.tolist(), [[0, 5, 10, 15], [3, 8, 13, 18], [0, 1, 0, 0]])

    def test_a_very_long_log_is_held_as_a_short_one_is(self) -> None:
        short = simple_run(1200)
        part = np.repeat(np.arange(len(short.time_s)), 100)
        time_s = np.arange(len(part)) * 0.01
        held = [
            read(r, FACTS).held[0] for r in (short, Recording(short.channels, time_s, short.values[:, part]))
        ]
        self.assertEqual(held[0].by, held[1].by)
        self.assertAlmostEqual(held[0].start_s, held[1].start_s, delta=2.0)
        self.assertAlmostEqual(held[0].clock_loss_pct or 0.0, held[1].clock_loss_pct or 0.0, delta=0.3)


FLAG = Channel("Throttled", "flag", "", "package", "cpu")


class ChannelTest(unittest.TestCase):
    def test_only_known_words(self) -> None:
        for wrong in (
            ("heat", "°C", "die", "cpu"),
            ("temperature", "°C", "heart", "cpu"),
            ("temperature", "°C", "die", "moon"),
        ):
            with self.assertRaises(ValueError):
                Channel("x", *wrong)

    def test_every_role_has_a_domain(self) -> None:
        self.assertTrue(all(domain_of(role) in DOMAINS for role in ROLES))

    def test_titles_carry_units(self) -> None:
        self.assertEqual(DIE.title, "CPU die (°C)")
        self.assertEqual(Channel("Throttling", "flag", UNITS["flag"]).title, "Throttling")

    def test_what_hides_in_labels_and_marks_is_shown(self) -> None:
        self.assertEqual(Channel("VRM\nMOS\x1b[2J", "temperature", "°C").name, "VRM MOS\\x1b[2J")
        self.assertEqual(Mark(1.0, "fan\u202e off\r\n").text, "fan\\x202e off ")

    def test_roles_are_proposed_from_driver_and_label(self) -> None:
        cases = {
            ("nvme", "Composite"): "storage", ("x", "Tdie"): "die", ("x", "Package id 0"): "die", ("x", "Core 3"): "core",
            ("amdgpu", "junction"): "hotspot", ("amdgpu", "edge"): "gpu", ("x", "VRM MOS"): "vrm", ("x", "DIMM A1"): "memory",
            ("x", "PCH"): "chipset", ("x", "Coolant out"): "coolant", ("x", "Ambient"): "inlet", ("cpu_thermal", ""): "die",
            ("x", "Aux 3"): "other",
        }  # fmt: skip
        for (driver, label), role in cases.items():
            with self.subTest(label=label):
                self.assertEqual(role_of_temperature(driver, label)[0], role)
        self.assertEqual(role_of_fan("Chassis fan 2"), ("case-fan", "case"))
        self.assertEqual(role_of_fan("CPU fan"), ("other", "cpu"))
        self.assertEqual(role_of_power("", "package-0"), ("package", "cpu"))
        self.assertEqual(role_of_power("", "uncore"), ("gpu", "gpu"))
        self.assertEqual(role_of_power("", "dram"), ("memory", "memory"))


class SpikeTest(unittest.TestCase):
    def test_a_lone_sample_is_a_spike_a_step_is_not(self) -> None:
        x = np.full(60, 70.0)
        x[20] = 127.0
        x[40:] = 90.0
        self.assertEqual(np.flatnonzero(spikes(x, 4.0)).tolist(), [20])

    def test_two_wrong_samples_running_are_spikes_too(self) -> None:
        x = np.full(60, 70.0)
        x[30:32] = 5.0
        self.assertEqual(np.flatnonzero(spikes(x, 4.0)).tolist(), [30, 31])

    def test_noise_and_ramps_are_left_alone(self) -> None:
        rng = np.random.default_rng(1)
        ramp = np.linspace(30.0, 90.0, 600) + rng.normal(0.0, 0.5, 600)
        self.assertFalse(spikes(ramp, 4.0).any())
        self.assertEqual(int(np.isnan(despiked(ramp, 4.0)).sum()), 0)

    @settings(max_examples=50, deadline=None)
    @given(st.lists(st.floats(-200, 300) | st.just(float("nan")), max_size=60))
    def test_nothing_is_ever_made_up(self, values: list[float]) -> None:
        x = np.array(values, dtype=float)
        out = despiked(x, 4.0)
        kept = np.isfinite(out)
        np.testing.assert_array_equal(out[kept], x[kept])


class OverlayTest(unittest.TestCase):
    def test_zero_is_the_start_of_the_load(self) -> None:
        run = simple_run(300, idle_s=150)
        found = overlay([Curve("A", run, read(run, FACTS))])
        before, after = found.values[0, found.time_s < -2], found.values[0, found.time_s > 5]
        self.assertLess(float(np.nanmax(before)), 7.0)
        self.assertGreater(float(np.nanmin(after[np.isfinite(after)])), 15.0)
        self.assertTrue(np.isnan(found.values[0, found.time_s > 300]).all())


class FactsTest(unittest.TestCase):
    def test_round_trip_and_newer_keys(self) -> None:
        self.assertEqual(checked(Facts, plain(FACTS)), FACTS)
        self.assertEqual(checked(Facts, {}), Facts())
        with self.assertRaisesRegex(Unreadable, "cpu.colour: is not understood"):
            checked(Facts, {"cpu": {"cores": 8, "colour": "blue"}})
        self.assertEqual(GPU.domain, "gpu")


if __name__ == "__main__":
    unittest.main()
