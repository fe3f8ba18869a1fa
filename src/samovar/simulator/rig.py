"""The simulated rig in motion: five heat stages, firmware, fan, and the truth about what binds.

The network of thermal resistances and capacities is stepped explicitly at 0.05 s, well under its
fastest time constant. One method holds the whole inner loop in local names, voltage and leakage
written out in it, since it runs half a million times while the demo's archive is made.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from samovar.simulator.chip import clock_for, voltage
from samovar.simulator.drive import Drive
from samovar.simulator.graphics import Graphics
from samovar.simulator.spec import LoadSpec, SimulatedSetup, together

STEP_S = 0.05
LEAST_BUSY = 0.3
"""A processor that is busier than this wants its part of a budget that it shares."""
DIE_J_PER_K = 6.0
SPREADER_J_PER_K = 55.0
DIE_TO_SPREADER = 0.16
VRM_J_PER_K = 22.0
GHZ_PER_KELVIN_S = 0.10
DRIVE_STEPS = 20
"""A second of steps, and a multiple of those between two looks of the fan: the drive is slow beside the chip."""
BINDINGS = ("none", "power", "thermal", "shared", "firmware")


@dataclass(frozen=True, slots=True)
class Truth:
    """What really happened since the last look: the binding limit that held longest, the mean clock
    (GHz), and the natural clock of the load (GHz)."""

    binding: str
    clock_ghz: float
    natural_ghz: float
    busy: bool


class SimulatedRig:
    """One rig with one setup fitted. `advance` moves it on; the attributes are its state now.

    Temperatures °C, power W, clocks GHz, energy J, work in units, time s since it was switched on.
    """

    def __init__(self, setup: SimulatedSetup) -> None:
        self.setup = setup
        self.time_s = 0.0
        self.load: LoadSpec | None = None
        self._on: list[LoadSpec] = []
        self.load_since_s = 0.0
        room = setup.room_c
        self.room_c = room
        # Switched on for long and idle: start near the idle equilibrium, so that calm comes soon.
        idle_w = setup.chip.uncore_w + 4.0
        self.case_c = room + setup.case.resistance_k_per_w * (idle_w + setup.board_w)
        self.rpm = setup.fan.target(room + 12.0)
        self.cooler_c = self.case_c + idle_w * setup.cooler.resistance(self.rpm)
        self.spreader_c = self.cooler_c + idle_w * setup.cooler.paste_k_per_w
        self.die_c = self.spreader_c + idle_w * DIE_TO_SPREADER
        self.vrm_c = self.case_c + setup.vrm_loss * idle_w * setup.vrm_k_per_w + 3.0
        self.fan_sense_c = self.die_c
        self.fan_target_at_c = self.die_c
        self.power_w = idle_w
        self.power_average_w = idle_w
        self.clock_ghz = setup.chip.idle_ghz
        self.gpu_power_w = 0.0
        self._plain_gpu_j = 0.0
        self.energy_j = 0.0
        self.drive = Drive(setup.drive)
        graphics = setup.graphics
        self.graphics = (
            None
            if graphics is None
            else Graphics(graphics, self.spreader_c if graphics.inside else self.cooler_c)
        )
        self.work_units = 0.0
        self.busy_core_s = 0.0
        self.throttle_s = 0.0
        self._cap_thermal = setup.chip.boost_ghz + 0.1
        self._cap_soft = setup.chip.boost_ghz + 0.1
        self._bound = dict.fromkeys(BINDINGS, 0)
        self._clock_sum = 0.0
        self._steps = 0
        self._busy_steps = 0

    def start(self, load: LoadSpec) -> None:
        """Put this load on, and no other, from this moment."""
        self._on, self.load = [load], load
        self.load_since_s = self.time_s

    def join(self, load: LoadSpec) -> None:
        """Put a load on beside those that are."""
        if not self._on:
            self.start(load)
            return
        self._on.append(load)
        self.load = together(self._on, self.setup.chip.cores)

    def leave(self, load: LoadSpec) -> None:
        """Take one load off; the others stay."""
        if load in self._on:
            self._on.remove(load)
        self.load = together(self._on, self.setup.chip.cores) if self._on else None

    def stop(self) -> None:
        """Take every load off."""
        self._on, self.load = [], None

    def fix_fans(self, share: float) -> None:
        """Hold the cooler's fan at a share of its full speed."""
        fan = self.setup.fan
        rpm = share * fan.top_rpm
        held = replace(fan, curve=((0.0, rpm), (1000.0, rpm)), most_rpm=fan.top_rpm)
        self.setup = replace(self.setup, fan=held)
        self.fan_target_at_c = self.fan_sense_c

    @property
    def gpu_energy_j(self) -> float:
        """What the graphics side has drawn, J."""
        return self.graphics.energy_j if self.graphics is not None else self._plain_gpu_j

    def work(self, domain: str) -> float:
        """What a part has done: the processor, the graphics side or the drive, by its domain."""
        if domain == "storage":
            return self.drive.work_units
        if domain == "gpu":
            return self.graphics.work_units if self.graphics is not None else 0.0
        return self.work_units

    def noise_dba(self) -> float:
        """Fan noise at 1 m, dBA: the cooler's and the case's fans added as energies."""
        fan, case = self.setup.fan, self.setup.case
        total = 10.0 ** (case.fan_noise_dba / 10.0)
        if self.rpm > 50.0:
            level = fan.noise_dba + 50.0 * math.log10(self.rpm / fan.noise_rpm)
            total += 10.0 ** (level / 10.0)
        return 10.0 * math.log10(total)

    def core_voltage(self) -> float:
        """The core voltage now, V."""
        return voltage(self.clock_ghz)

    def natural_ghz(self) -> float:
        """The clock the present load would reach with nothing in its way."""
        return self.setup.chip.natural_ghz(self.load.threads) if self.load else self.setup.chip.idle_ghz

    def truth(self) -> Truth:
        """What was the case since the last call."""
        binding = max(BINDINGS, key=lambda b: self._bound[b])
        steps = max(1, self._steps)
        result = Truth(
            binding if self._busy_steps > steps // 2 else "none",
            self._clock_sum / steps if self._steps else self.clock_ghz,
            self.natural_ghz(),
            self._busy_steps > steps // 2,
        )
        self._bound = dict.fromkeys(BINDINGS, 0)
        self._clock_sum = 0.0
        self._steps = self._busy_steps = 0
        return result

    def advance_to(self, moment_s: float) -> None:
        """Move on to a moment, in steps of 0.05 s."""
        steps = max(0, round((moment_s - self.time_s) / STEP_S))
        while steps > 0:
            some = min(steps, DRIVE_STEPS)
            self._advance(some)
            self.drive.live(self.load.drive if self.load is not None else "", some * STEP_S, self.case_c)
            steps -= some

    def _advance(self, steps: int) -> None:
        setup, chip, cooler, fan = self.setup, self.setup.chip, self.setup.cooler, self.setup.fan
        dt, load = STEP_S, self.load
        die, spreader, block, case, vrm = self.die_c, self.spreader_c, self.cooler_c, self.case_c, self.vrm_c
        rpm, average, clock = self.rpm, self.power_average_w, self.clock_ghz
        cap_thermal, cap_soft = self._cap_thermal, self._cap_soft
        power, time_s, energy, work = self.power_w, self.time_s, self.energy_j, self.work_units
        bound, clock_sum, busy_steps = self._bound, 0.0, 0
        ceiling = chip.boost_ghz + 0.1
        natural = chip.natural_ghz(load.threads) if load else chip.idle_ghz
        threads = min(load.threads, chip.cores) if load else 0
        idle_leak = chip.leakage_w * voltage(chip.idle_ghz) ** 2
        vrm_loss, vrm_k_per_w, board_w = setup.vrm_loss, setup.vrm_k_per_w, setup.board_w
        exp, drift = math.exp, setup.room_drift_k_per_h / 3600.0
        to_air = 1.0 / cooler.resistance(rpm)
        through = 1.0 / cooler.paste_k_per_w
        gpu = 0.0
        graphics, shared = self.graphics, chip.shared_budget_w
        beside = graphics is not None and not graphics.spec.inside
        for number in range(steps):
            time_s += dt
            flow = to_block = 0.0
            busy = (
                load is not None
                and ((time_s - self.load_since_s) % load.period_s) < load.duty * load.period_s
            )
            if busy and load is not None:
                share = load.activity * threads / chip.cores
                v = 0.62 + 0.09 * clock + 0.011 * clock * clock
                leak = chip.leakage_w * v * v * exp((die - 50.0) / 45.0)
                gpu = load.gpu_w if time_s - self.load_since_s >= load.gpu_from_s else 0.0
                if graphics is not None:
                    wants = load.activity * threads * load.duty > LEAST_BUSY * chip.cores
                    flow = graphics.step(
                        gpu, shared, wants, block if beside else spreader, dt, load.gpu_work_per_mhz
                    )
                    gpu = graphics.power_w
                budget = chip.sustained_w + 8.0 * (chip.sustained_w - average)
                if budget > chip.burst_w:
                    budget = chip.burst_w
                why = "power"
                if chip.shared_budget_w is not None and gpu > 0 and chip.shared_budget_w - gpu < budget:
                    budget, why = chip.shared_budget_w - gpu, "shared"
                limit_power = clock_for(max(0.1, (budget - leak - chip.uncore_w)) / (chip.dynamic_w * share))
                error = chip.limit_c - 0.4 - die
                cap_thermal += GHZ_PER_KELVIN_S * error * dt
                if cap_thermal > ceiling:
                    cap_thermal = ceiling
                elif cap_thermal < chip.idle_ghz:
                    cap_thermal = chip.idle_ghz
                target, binding = natural, "none"
                if limit_power < target:
                    target, binding = limit_power, why
                if chip.soft_limit_c is not None:
                    soft = chip.soft_limit_c - die
                    cap_soft = min(ceiling, max(chip.idle_ghz, cap_soft + 0.4 * GHZ_PER_KELVIN_S * soft * dt))
                    if cap_soft < target:
                        target, binding = cap_soft, "firmware"
                if cap_thermal < target:
                    target, binding = cap_thermal, "thermal"
                    self.throttle_s += dt
                clock += (target - clock) * 0.5
                v = 0.62 + 0.09 * clock + 0.011 * clock * clock
                power = chip.dynamic_w * share * v * v * clock + leak + chip.uncore_w
                work += load.work_per_ghz * threads * clock * dt
                self.busy_core_s += threads * dt
                bound[binding] += 1
                busy_steps += 1
            else:
                gpu = 0.0
                if graphics is not None:
                    flow = graphics.step(0.0, shared, False, block if beside else spreader, dt)
                clock += (chip.idle_ghz - clock) * 0.3
                power = 0.7 * chip.uncore_w + idle_leak * exp((die - 50.0) / 45.0) + 1.0
                cap_thermal = min(ceiling, cap_thermal + 0.3 * dt)
                cap_soft = min(ceiling, cap_soft + 0.1 * dt)
            clock_sum += clock
            average += (power - average) * dt / chip.burst_s
            energy += power * dt
            if graphics is None:
                self._plain_gpu_j += gpu * dt
                flow = gpu
            if beside:
                flow, to_block = 0.0, flow
            up = (die - spreader) / DIE_TO_SPREADER
            across = (spreader - block) * through
            out = (block - case) * to_air
            loss = vrm_loss * power
            vrm_out = (vrm - case) / vrm_k_per_w
            room = setup.room_c + drift * time_s
            die += (power - up) * dt / DIE_J_PER_K
            spreader += (up + flow - across) * dt / SPREADER_J_PER_K
            block += (across + to_block - out) * dt / cooler.capacity_j_per_k
            vrm += (loss - vrm_out) * dt / VRM_J_PER_K
            case += (out + vrm_out + board_w - (case - room) / setup.case.resistance_k_per_w) * (
                dt / setup.case.capacity_j_per_k
            )
            self.fan_sense_c += (die - self.fan_sense_c) * dt / fan.lag_s
            if number % 4 == 0:
                if abs(self.fan_sense_c - self.fan_target_at_c) > fan.hysteresis_k:
                    side = fan.hysteresis_k if self.fan_sense_c > self.fan_target_at_c else -fan.hysteresis_k
                    self.fan_target_at_c = self.fan_sense_c - side
                rpm += (fan.target(self.fan_target_at_c) - rpm) * 4 * dt / fan.spin_s
                to_air = 1.0 / cooler.resistance(rpm)
        self.die_c, self.spreader_c, self.cooler_c, self.case_c, self.vrm_c = die, spreader, block, case, vrm
        self.rpm, self.power_average_w, self.clock_ghz, self.power_w = rpm, average, clock, power
        self._cap_thermal, self._cap_soft, self.gpu_power_w = cap_thermal, cap_soft, gpu
        # A sum of steps drifts off the grid by rounding: put it back.
        self.time_s, self.energy_j, self.work_units = round(time_s, 4), energy, work
        self.room_c = setup.room_c + setup.room_drift_k_per_h * time_s / 3600.0
        self._clock_sum += clock_sum
        self._steps += steps
        self._busy_steps += busy_steps
