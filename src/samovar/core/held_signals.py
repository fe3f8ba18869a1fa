"""The signals of one load that tell what held the clock, cleaned of spikes and smoothed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from samovar.core.despike import SPIKE_K, despiked, lone_values
from samovar.core.phases import Phase
from samovar.core.recording import Array, Recording, mean_rows

Mask = NDArray[np.bool_]
BUSY_PCT = 50.0
LIGHT_PCT = 35.0
PARKED_SHARE = 0.45
"""A core whose usual clock under load is below this share of the fastest one's is parked, and no part of the load."""
FAST_SHARE = 0.88
"""The cores whose usual clock is within this share of the fastest are the ones that a base clock is stated for."""
STUCK_S = 15.0
STEP_WINDOW_S = 8.0
STEP_SHARE = 0.02
STEEPEST = 4.0
SHORTEST_KIND_S = 12.0
LASTS_S = (12.0, 40.0)


@dataclass(frozen=True)
class LoadSignals:
    """The signals of one load, all of shape (n,), smoothed where that is said.

    Attributes:
        clock: mean clock of the cores that work, smoothed, MHz.
        fast_clock: that of the fastest group of cores, which is what base and boost are stated for, as read, MHz.
        noise_share: how much the smoothed clock still jitters, as a share of it (one standard deviation).
        die, power, gpu_power: smoothed, °C and W; `from_wall` where the power is the wall's, not the package's.
        elsewhere: further temperatures that a policy may regulate, by the channels' names, smoothed.
        throttled: the kernel's throttle flags; work: units per second.
        raw_clock, raw_die: as they were read, but for spikes: a fast sawtooth does not outlive any smoothing.
        die_seen: where the die's sensor told something, and was not stuck.
        active: where the load kept up its demand; observed: where the log has a clock at all.
        base_c: the die's median in the idle before; None without one.
        demand_known: the log has a utilisation, which would show the load easing off.
        light: the load leaves most of the chip idle, so that a lower clock may be its own choice.
    """

    time_s: Array
    interval_s: float
    clock: Array
    fast_clock: Array
    noise_share: float
    die: Array | None
    power: Array | None
    from_wall: bool
    gpu_power: Array | None
    elsewhere: dict[str, Array]
    throttled: Array | None
    work: Array | None
    raw_clock: Array
    raw_die: Array | None
    die_seen: Mask
    active: Mask
    observed: Mask
    base_c: float | None
    demand_known: bool
    light: bool

    def samples(self, seconds: float) -> int:
        """How many samples a time is, at least one."""
        return max(1, round(seconds / self.interval_s))

    def working(self, part: slice) -> Mask:
        """Where the load did not pause within a part, shape of the part; all of it where it never worked there."""
        active = self.active[part]
        return active if active.any() else np.ones(len(active), dtype=bool)


def smooth(x: Array, width: int) -> Array:
    """Running median over `width` samples, missing values bridged."""
    from scipy.ndimage import median_filter

    filled = bridged(x)
    return np.asarray(median_filter(filled, size=max(1, width | 1), mode="nearest"))


def averaged(x: Array, width: int) -> Array:
    """Running mean over `width` samples, missing values bridged."""
    from scipy.ndimage import uniform_filter1d

    return np.asarray(uniform_filter1d(bridged(x), size=max(1, width | 1), mode="nearest"))


def bridged(x: Array) -> Array:
    """x with straight lines over its missing values; as it is where nothing is known."""
    good = np.isfinite(x)
    if good.all() or not good.any():
        return x
    index = np.arange(len(x))
    return np.interp(index, index[good], x[good])


def rolling(x: Array, width: int, kind: str) -> Array:
    """Running maximum (`max`) or minimum over `width` samples."""
    from scipy import ndimage

    function = ndimage.maximum_filter1d if kind == "max" else ndimage.minimum_filter1d
    return np.asarray(function(x, size=max(1, width | 1), mode="nearest"))


@dataclass(frozen=True)
class _Part:
    """Which rows stand for a chip: the processor or the graphics chip. Indices into the recording, None where there is
    none; clocks of shape (n,) over the phase."""

    clock: Array
    fast: Array
    die: int | None
    power: int | None
    from_wall: bool
    other_power: int | None
    use: int | None
    work: int | None


def _processor(recording: Recording, part: slice) -> _Part | None:
    """The processor; None where it idles beside a graphics chip that works: its clock then is its own business."""
    if recording.cpu_clock() is None:
        return None
    use = recording.first("load", ["package", "die", "other"], "cpu")
    if use is not None and _level(recording, part, use) < BUSY_PCT and _graphics(recording, part) is not None:
        return None
    power, wall = recording.package_power, False
    if power is None:
        power, wall = recording.first("power", ["wall"]), True
    return _Part(
        *working_clock(recording, part),
        recording.die,
        power,
        wall and power is not None,
        recording.first("power", ["gpu"]),
        use,
        recording.own_work,
    )


def _graphics(recording: Recording, part: slice) -> _Part | None:
    """The graphics chip, where it is under load: its memory's clock is not its own."""
    clocks = [i for i in recording.find("clock", domain="gpu") if recording.channels[i].role != "memory"]
    if not clocks:
        return None
    use, power = recording.first("load", domain="gpu"), recording.first("power", domain="gpu")
    if not _busy(recording, part, use, power):
        return None
    clock = recording.values[clocks[0]][part]
    die = recording.first("temperature", ["gpu", "die", "hotspot"], "gpu")
    return _Part(clock, clock, die, power, False, None, use, None)


def _busy(recording: Recording, part: slice, use: int | None, power: int | None) -> bool:
    """Whether a chip works in this phase: by its utilisation, else by a power well above its least."""
    if use is not None:
        return _level(recording, part, use) >= BUSY_PCT
    if power is None:
        return False
    whole = recording.values[power][np.isfinite(recording.values[power])]
    return _level(recording, part, power) >= max(10.0, 2.5 * float(np.percentile(whole, 2)))


def _level(recording: Recording, part: slice, index: int) -> float:
    """A channel's usual high level in a phase; nothing where it has no value there."""
    row = recording.values[index][part]
    row = row[np.isfinite(row)]
    return float(np.percentile(row, 75)) if len(row) else 0.0


def collect(
    recording: Recording, phase: Phase, before: Phase | None, domain: str = "cpu"
) -> LoadSignals | None:
    """The load's signals of the processor, or of the graphics chip where `domain` is `gpu`; None where that has no
    clock to be held, or does not work."""
    part = recording.between(phase.start_s, phase.end_s)
    if part.stop - part.start < 8:
        return None
    chip = _processor(recording, part) if domain == "cpu" else _graphics(recording, part)
    if chip is None or not np.isfinite(chip.clock).any():
        return None
    time_s = recording.time_s[part]
    interval = float(np.median(np.diff(time_s))) or 1.0
    three_s = round(3.0 / interval)

    def row(index: int | None) -> Array | None:
        return None if index is None else recording.values[index][part]

    die, power, gpu = row(chip.die), row(chip.power), row(chip.other_power)
    flags = recording.find("flag", domain=domain) if domain == "gpu" else recording.find("flag")
    throttled = None
    if flags:
        throttled = np.nan_to_num(recording.values[flags][:, part]).max(axis=0)
    base_c = None
    if before is not None and chip.die is not None:
        idle = recording.values[chip.die][recording.between(before.start_s, before.end_s)]
        idle = idle[np.isfinite(idle)]
        base_c = float(np.median(idle)) if len(idle) else None
    seen = np.isfinite(chip.clock)
    clock = _without_dropouts(chip.clock, "clock")
    smoothed = smooth(clock, three_s)
    plain_die = None if die is None else _moving(_without_impossible(die), time_s)
    return LoadSignals(
        time_s,
        interval,
        smoothed,
        bridged(_without_dropouts(chip.fast, "clock")),
        _noise_share(smoothed, three_s),
        None if plain_die is None else smooth(plain_die, three_s),
        None if power is None else smooth(_moving(_without_dropouts(power, "power"), time_s), three_s),
        chip.from_wall,
        None if gpu is None else smooth(gpu, three_s),
        _elsewhere(recording, part, three_s) if domain == "cpu" else {},
        throttled,
        row(chip.work),
        clock,
        plain_die,
        np.zeros(len(clock), dtype=bool) if plain_die is None else np.isfinite(plain_die),
        _active(row(chip.use), part.stop - part.start, interval),
        seen,
        base_c,
        chip.use is not None,
        chip.use is not None and _level(recording, part, chip.use) < LIGHT_PCT,
    )


def working_clock(recording: Recording, part: slice) -> tuple[Array, Array]:
    """Mean clock of the cores that take part in the load, and of the fastest group among them, MHz, for the samples of
    `part`. The recording must have a clock."""
    whole = recording.cpu_clock()
    assert whole is not None
    cores = recording.find("clock", ["core"], "cpu")
    if len(cores) < 2:
        return whole[part], whole[part]
    rows = recording.values[cores][:, part]
    step = max(1, rows.shape[1] // 2000)
    with np.errstate(all="ignore"):
        usual = np.array(
            [np.median(r[np.isfinite(r)]) if np.isfinite(r).any() else 0.0 for r in rows[:, ::step]]
        )
    top = float(usual.max())
    if top <= 0:
        return whole[part], whole[part]
    working, fast = usual > PARKED_SHARE * top, usual >= FAST_SHARE * top
    mean = mean_rows(rows[working]) if not working.all() else whole[part]
    return mean, mean_rows(rows[fast]) if not (fast == working).all() else mean


def _without_dropouts(x: Array, quantity: str) -> Array:
    """x without single samples that no chip can have."""
    return np.where(lone_values(x, quantity), np.nan, x)


def _without_impossible(die: Array) -> Array:
    """A die's temperature without single samples that it cannot have had: far off all others, or off both neighbours
    by more than a die moves from one sample to the next and back. The teeth of a sawtooth stay."""
    finite = die[np.isfinite(die)]
    if len(finite) == 0:
        return die
    low, high = np.percentile(finite, [2, 98])
    near = np.where((die < low - 15.0) | (die > high + 8.0), np.nan, die)
    return despiked(near, max(SPIKE_K, 0.6 * float(high - low)))


def _moving(x: Array, time_s: Array) -> Array:
    """x without the stretches in which its sensor was stuck: the same value to the last digit for longer than it
    ever keeps one, while before and after it changed from sample to sample. A coarse sensor often repeats itself."""
    changes = np.flatnonzero(np.diff(x) != 0)
    if len(changes) < 20:
        return x
    edges = np.concatenate([[0], changes + 1, [len(x)]])
    lengths = np.diff(edges)
    # Its noise is finer than its digits, or it repeats itself: then nothing can be told from a repetition.
    lively = float(lengths[lengths <= 3].sum())
    out = x
    for k in np.flatnonzero(lengths > 12):
        a, b = int(edges[k]), int(edges[k + 1])
        if lengths[k] > 0.3 * len(x) or lively < 0.9 * (len(x) - lengths[k]):
            continue
        if time_s[b - 1] - time_s[a] >= STUCK_S and np.isfinite(x[a]):
            out = out.copy() if out is x else out
            out[a + 1 : b] = np.nan
    return out


def _noise_share(clock: Array, width: int) -> float:
    """How much a smoothed clock still jitters, as a share of its mean: from its differences over the smoothing's
    width, the greater half of which may be real changes."""
    lag = max(1, width)
    known = clock[np.isfinite(clock)]
    if len(known) <= 2 * lag:
        return 0.0
    steps = np.abs(known[lag:] - known[:-lag])
    return 1.05 * float(np.percentile(steps, 50)) / max(float(known.mean()), 1.0)


def _elsewhere(recording: Recording, part: slice, width: int) -> dict[str, Array]:
    """Temperatures a policy may regulate, apart from the die: surfaces, regulators, memory, storage, the board."""
    found = recording.find("temperature", ["surface", "vrm", "chipset", "memory", "storage", "other"])
    return {
        recording.channels[i].name: smooth(despiked(recording.values[i][part]), width)
        for i in found[:12]
        if np.isfinite(recording.values[i][part]).sum() > 0.5 * (part.stop - part.start)
    }


def _active(use: Array | None, n: int, interval: float) -> Mask:
    """Where the load kept up its demand: utilisation near its usual level, the edges left out. Shape (n,)."""
    active = np.ones(n, dtype=bool)
    if use is not None:
        finite = use[np.isfinite(use)]
        if len(finite):
            active = ~(use < 0.9 * np.percentile(finite, 90))
            active &= np.isfinite(use)
    edge = max(1, round(1.0 / interval))
    shrunk = active.copy()
    for k in range(1, edge + 1):
        shrunk[k:] &= active[:-k]
        shrunk[:-k] &= active[k:]
    shrunk[:edge] = False
    shrunk[-edge:] = False
    return shrunk


def _lasts(load: LoadSignals, at: int, reach: int) -> bool:
    """Whether a change of the load at `at` is still one a while before and after it: where a limit is run into, or an
    overshoot made good, clock and power part ways for a moment only."""
    assert load.power is not None
    for seconds in LASTS_S:
        long = load.samples(seconds)
        before, after = (
            slice(max(0, at - reach - long), max(1, at - reach)),
            slice(at + reach, at + reach + long),
        )
        if min(int(load.active[before].sum()), int(load.active[after].sum())) < 2:
            continue
        clock, power = (
            np.log(max(float(np.median(row[after][load.active[after]])), 0.01))
            - np.log(max(float(np.median(row[before][load.active[before]])), 0.01))
            for row in (load.clock, load.power)
        )
        if clock * power > 0 and abs(power) <= STEEPEST * abs(clock) + 0.15:
            return False
    return True


def kinds_of_load(load: LoadSignals) -> list[slice]:
    """Stretches of one kind of load each, in order, touching.

    Where the clock steps down while the power steps up, or the other way round, the load itself has become another
    one: a limit takes power away with the clock. So it has where the power steps by far more than a chip's does with
    its clock (at most about its fourth power, the voltage going along): threads have come or gone. Without a power
    there is no telling, and all is one.
    """
    n = len(load.clock)
    if load.power is None:
        return [slice(0, n)]
    width = load.samples(STEP_WINDOW_S)
    clock, power = averaged(load.clock, width), averaged(load.power, width)
    reach = width // 2 + load.samples(2.0)
    if n <= 2 * reach + 2:
        return [slice(0, n)]
    clock_step = np.zeros(n)
    power_step = np.zeros(n)
    clock_step[reach:-reach] = np.log(
        np.maximum(clock[2 * reach :], 1.0) / np.maximum(clock[: -2 * reach], 1.0)
    )
    power_step[reach:-reach] = np.log(
        np.maximum(power[2 * reach :], 0.01) / np.maximum(power[: -2 * reach], 0.01)
    )
    against = (
        (clock_step * power_step < 0) & (np.abs(clock_step) > STEP_SHARE) & (np.abs(power_step) > STEP_SHARE)
    )
    along = (clock_step * power_step > 0) & (np.abs(clock_step) > STEP_SHARE)
    against |= along & (np.abs(power_step) > STEEPEST * np.abs(clock_step) + 0.15)
    against &= load.active
    # What lies within a window of the load's beginning is the way up, not a change of the load.
    against[: 2 * reach] = False
    strength = np.where(against, np.minimum(np.abs(clock_step), np.abs(power_step)), 0.0)
    edges = [0]
    while strength.max(initial=0.0) > 0.0:
        at = int(strength.argmax())
        if _lasts(load, at, reach):
            edges.append(at)
        strength[max(0, at - 2 * reach) : at + 2 * reach] = 0.0
    edges = sorted(edges)
    kept = [edges[0]]
    for edge in edges[1:]:
        if load.time_s[edge] - load.time_s[kept[-1]] >= SHORTEST_KIND_S:
            kept.append(edge)
    return [slice(a, b) for a, b in zip(kept, [*kept[1:], n], strict=True)]
