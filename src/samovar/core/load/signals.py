"""The signals of one load that tell what held the clock, cleaned of spikes and smoothed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from samovar.core.despike import SPIKE_K, despiked, lone_values
from samovar.core.load.series import Mask, averaged, bridged, smooth
from samovar.core.phases import Phase
from samovar.core.recording import Array, Recording, mean_rows

SMOOTH_S = 3.0
"""Over this a signal is smoothed: longer than a logger's slip, shorter than any governor's change is reported."""
COARSE_SHARE, COARSEST_SHARE, COARSE_S, OFTEN = 0.008, 0.06, 12.0, 0.04
"""A clock told in steps between these shares, changing in so many of its samples, is averaged over the longer time: a
governor goes to and fro between two steps. Larger steps are a sawtooth's."""
BUSY_PCT = 50.0
"""A chip whose utilisation is lower for most of the time does not work at its pace."""
LIGHT_PCT = 35.0
"""A load that keeps less of the chip busy leaves its clock to the chip's own choice."""
WORKING_GPU_W, WORKING_GPU_TIMES = 10.0, 2.5
"""Without a utilisation a graphics chip works where it draws so much, and so many times its least."""
LEAST_GRID_MHZ = 25.0
"""Finer steps hide nothing of what a governor does."""
PARKED_SHARE = 0.45
"""A core whose usual clock under load is below this share of the fastest one's is parked, and no part of the load."""
FAST_SHARE = 0.88
"""The cores whose usual clock is within this share of the fastest are the ones that a base clock is stated for."""
AT_STATED_K = 2.2
"""A chip whose usual high level is within this of its stated limit is ruled by that."""
STUCK_S = 15.0
"""A lively sensor that gives one value for longer is stuck."""
PLATEAU_SHARE = 0.97
"""Over this share of its highest a clock is on its highest plateau."""
DEMAND_SHARE = 0.9
"""A utilisation under this share of its usual most is a load that eases off."""


@dataclass(frozen=True)
class LoadSignals:
    """The signals of one load, all of shape (n,), smoothed where that is said.

    Attributes:
        clock: mean clock of the cores that work, smoothed, MHz.
        fast_clock: that of the fastest group of cores, which is what base and boost are stated for, as read, MHz.
        noise_share: how much the smoothed clock still jitters, as a share of it (one standard deviation).
        clock_step: the steps in which the clock is told, as a share of it; 0 where they are fine.
        clock_grid: the steps of which every core's clock in the log is a multiple, MHz; 0 where there are none so large.
        die, power, gpu_power: smoothed, °C and W; `from_wall` where the power is the wall's, not the package's.
        gpu_inside: the package's power counts the graphics' too.
        elsewhere: further temperatures that a policy may regulate, by the channels' names, smoothed.
        throttled: the kernel's throttle flags; work: units per second.
        raw_clock, raw_die: as they were read, but for spikes: a fast sawtooth does not outlive any smoothing.
        die_seen: where the die's sensor told something, and was not stuck.
        active: where the load kept up its demand; observed: where the log has a clock at all.
        base_c, idle_w, gpu_idle_w: the medians in the idle before, °C and W; None without one.
        demand_known: the log has a utilisation, which would show the load easing off.
        light: the load leaves most of the chip idle, so that a lower clock may be its own choice.
    """

    time_s: Array
    interval_s: float
    clock: Array
    fast_clock: Array
    noise_share: float
    clock_step: float
    clock_grid: float
    die: Array | None
    power: Array | None
    from_wall: bool
    gpu_power: Array | None
    idle_w: float | None
    gpu_idle_w: float | None
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

    def seconds(self, a: int, b: int) -> float:
        """How long the samples from a to b, half open, last, s."""
        return float(self.time_s[b - 1] - self.time_s[a])

    def working(self, part: slice) -> Mask:
        """Where the load did not pause within a part, shape of the part; all of it where it never worked there."""
        active = self.active[part]
        return active if active.any() else np.ones(len(active), dtype=bool)


@dataclass(frozen=True)
class _Chip:
    """Which rows stand for the processor or the graphics chip. Indices into the recording, None where there is none;
    clocks of shape (n,) over the phase."""

    clock: Array
    fast: Array
    die: int | None
    power: int | None
    from_wall: bool
    other_power: int | None
    use: int | None
    work: int | None


def _processor(recording: Recording, part: slice) -> _Chip | None:
    """The processor; None where it idles beside a graphics chip that works: its clock then is its own business."""
    if recording.cpu_clock() is None:
        return None
    use = recording.first("load", ["package", "die", "other"], "cpu")
    if use is not None and _level(recording, part, use) < BUSY_PCT and _graphics(recording, part) is not None:
        return None
    power, wall = recording.package_power, False
    if power is None:
        power, wall = recording.first("power", ["wall"]), True
    clock, fast = working_clock(recording, part)
    other = recording.first("power", ["gpu"])
    return _Chip(
        clock, fast, recording.die, power, wall and power is not None, other, use, recording.own_work
    )


def _graphics(recording: Recording, part: slice, limit_c: float | None = None) -> _Chip | None:
    """The graphics chip, where it is under load: its memory's clock is not its own."""
    clocks = [i for i in recording.find("clock", domain="gpu") if recording.channels[i].role != "memory"]
    if not clocks:
        return None
    uses = [i for i in recording.find("load", domain="gpu") if recording.channels[i].role != "memory"]
    use, power = uses[0] if uses else None, recording.first("power", domain="gpu")
    if not _busy(recording, part, use, power):
        return None
    clock = recording.values[clocks[0]][part]
    die = _limited(recording, part, limit_c)
    return _Chip(clock, clock, die, power, False, None, use, None)


def _limited(recording: Recording, part: slice, limit_c: float | None) -> int | None:
    """The temperature that a graphics chip's limit is of: its hottest place where that stands at the stated limit and its
    die stays well under, else its die."""
    die = recording.first("temperature", ["gpu", "die", "hotspot"], "gpu")
    spot = recording.first("temperature", ["hotspot"], "gpu")
    if limit_c is None or die is None or spot is None:
        return die
    at_limit = [limit_c - _level(recording, part, index) <= AT_STATED_K for index in (die, spot)]
    return spot if at_limit == [False, True] else die


def _busy(recording: Recording, part: slice, use: int | None, power: int | None) -> bool:
    """Whether a chip works in this phase: by its utilisation, else by a power well above its least."""
    if use is not None:
        return _level(recording, part, use) >= BUSY_PCT
    if power is None:
        return False
    whole = recording.values[power][np.isfinite(recording.values[power])]
    enough = max(WORKING_GPU_W, WORKING_GPU_TIMES * float(np.percentile(whole, 2)))
    return _level(recording, part, power) >= enough


def _level(recording: Recording, part: slice, index: int) -> float:
    """A channel's usual high level in a phase; nothing where it has no value there."""
    row = recording.values[index][part]
    row = row[np.isfinite(row)]
    return float(np.percentile(row, 75)) if len(row) else 0.0


def collect(
    recording: Recording,
    phase: Phase,
    before: Phase | None,
    domain: str = "cpu",
    limit_c: float | None = None,
) -> LoadSignals | None:
    """The load's signals of the processor, or of the graphics chip where `domain` is `gpu`; None where that has no
    clock to be held, or does not work. `limit_c`: the chip's stated temperature limit, where it is known."""
    part = recording.between(phase.start_s, phase.end_s)
    if part.stop - part.start < 8:
        return None
    chip = _processor(recording, part) if domain == "cpu" else _graphics(recording, part, limit_c)
    if chip is None or not np.isfinite(chip.clock).any():
        return None
    time_s = recording.time_s[part]
    interval = float(np.median(np.diff(time_s))) or 1.0
    width = round(SMOOTH_S / interval)

    def row(index: int | None) -> Array | None:
        return None if index is None else recording.values[index][part]

    def idle(index: int | None) -> float | None:
        if before is None or index is None:
            return None
        known = recording.values[index][recording.between(before.start_s, before.end_s)]
        known = known[np.isfinite(known)]
        return float(np.median(known)) if len(known) else None

    die, power, gpu = row(chip.die), row(chip.power), row(chip.other_power)
    flags = recording.find("flag", domain=domain) if domain == "gpu" else recording.find("flag")
    throttled = np.nan_to_num(recording.values[flags][:, part]).max(axis=0) if flags else None
    clock = _without_dropouts(chip.clock, "clock")
    clock_step = _step_share(clock)
    active = _active(row(chip.use), part.stop - part.start, interval)
    plain_power = None if power is None else _moving(_without_dropouts(power, "power"), time_s)

    def level(x: Array) -> Array:
        if clock_step == 0.0:
            return smooth(x, width)
        # Between two steps the mean is the level; a median would be one of the two.
        return averaged(np.where(active, x, np.nan), max(1, round(COARSE_S / interval)))

    smoothed = level(clock)
    plain_die = None if die is None else _moving(_without_impossible(die), time_s)
    return LoadSignals(
        time_s=time_s,
        interval_s=interval,
        clock=smoothed,
        fast_clock=bridged(_without_dropouts(chip.fast, "clock")),
        noise_share=_noise_share(smoothed, width),
        clock_step=clock_step,
        clock_grid=_grid_mhz(recording, part, domain),
        die=None if plain_die is None else smooth(plain_die, width),
        power=None if plain_power is None else level(plain_power),
        from_wall=chip.from_wall,
        gpu_power=None if gpu is None else smooth(gpu, width),
        idle_w=idle(chip.power),
        gpu_idle_w=idle(chip.other_power),
        elsewhere=_elsewhere(recording, part, width) if domain == "cpu" else {},
        throttled=throttled,
        work=row(chip.work),
        raw_clock=clock,
        raw_die=plain_die,
        die_seen=np.zeros(len(clock), dtype=bool) if plain_die is None else np.isfinite(plain_die),
        active=active,
        observed=np.isfinite(chip.clock),
        base_c=idle(chip.die),
        demand_known=chip.use is not None,
        light=chip.use is not None and _level(recording, part, chip.use) < LIGHT_PCT,
    )


def _step_share(clock: Array) -> float:
    """The step in which a clock is told, as a share of it; 0 where it is fine, or where too little of it is seen. A
    governor that goes to and fro between two steps shows many changes of one size, noise apart."""
    known = clock[np.isfinite(clock)]
    every = np.abs(np.diff(known)) / max(float(np.median(known)), 1.0)
    steps = every[(every > COARSE_SHARE) & (every < COARSEST_SHARE)]
    if len(steps) < max(8, OFTEN * len(known)):
        return 0.0
    middle = float(np.median(steps))
    # Noise has as many changes of half the size, and more.
    alike = int(((every > 0.8 * middle) & (every < 1.25 * middle)).sum())
    smaller = int(((every > 0.3 * middle) & (every < 0.7 * middle)).sum())
    return middle if alike > 0.5 * len(steps) and smaller < 0.3 * alike else 0.0


def _grid_mhz(recording: Recording, part: slice, domain: str) -> float:
    """The largest step of which all clocks of a domain are multiples, MHz; 0 where it is under LEAST_GRID_MHZ."""
    rows = recording.values[recording.find("clock", domain=domain)][:, part]
    known = rows[np.isfinite(rows)]
    whole = np.unique(np.round(known))
    if len(whole) == 0 or float(np.abs(known - np.round(known)).max()) > 0.01:
        return 0.0
    grid = float(np.gcd.reduce(whole.astype(np.int64)))
    return grid if grid >= LEAST_GRID_MHZ else 0.0


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
    # What counts is how much it jitters where it is free; a governor that is at work makes its own.
    top = known[known > PLATEAU_SHARE * known.max()]
    known = top if len(top) > 12 * lag else known
    if len(known) <= 2 * lag:
        return 0.0
    # The median of a normal deviate's size, times the root of two for a difference of two: 1 / (0.6745 · 1.414).
    return 1.05 * float(np.median(np.abs(known[lag:] - known[:-lag]))) / max(float(known.mean()), 1.0)


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
    if use is not None and np.isfinite(use).any():
        active = np.isfinite(use) & ~(use < DEMAND_SHARE * np.percentile(use[np.isfinite(use)], 90))
    edge = max(1, round(1.0 / interval))
    shrunk = active.copy()
    for k in range(1, edge + 1):
        shrunk[k:] &= active[:-k]
        shrunk[:-k] &= active[k:]
    shrunk[:edge] = shrunk[-edge:] = False
    return shrunk
