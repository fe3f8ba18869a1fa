"""Samples out, with units in the titles: CSV or Parquet, and the facts beside them as TOML."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from samovar.core.by_hand.reading import HandReading
from samovar.core.exclusions import Exclusion
from samovar.core.facts import Facts
from samovar.core.recording import Recording
from samovar.exchange.problems import InputError
from samovar.exchange.titles import channel_named, defused
from samovar.exchange.toml_files import RunNotes, facts_text
from samovar.exchange.whole_file import whole_file, write_whole

FORMATS = (".csv", ".parquet")


def facts_beside(path: Path) -> Path:
    """Where an export's facts lie: `run.csv` has `run.facts.toml`."""
    return path.with_suffix(".facts.toml")


def export_recording(
    recording: Recording,
    path: Path,
    facts: Facts | None = None,
    window_s: tuple[float, float] | None = None,
    left_out: Sequence[Exclusion] = (),
    by_hand: Sequence[HandReading] = (),
    reference_clock_mhz: float | None = None,
) -> None:
    """Write a recording; a file that stands there is replaced only once the new one is whole.

    Args:
        recording: what to write; its channels' titles carry their units.
        path: ends in .csv or .parquet.
        facts: written beside it as FACTS.toml, where there are any.
        reference_clock_mhz: the free clock of other runs that it was read with.
        window_s, left_out, by_hand: what a person set and read by hand, written there too, so that the file reads as
            the run does.

    Raises:
        InputError: another ending, or the place cannot be written.
    """
    import polars

    ending = path.suffix.lower()
    if ending not in FORMATS:
        raise InputError(f"{path}: an export is a .csv or a .parquet file; change the ending")
    data = {"Time (s)": recording.time_s}
    for channel, row in zip(recording.channels, recording.values, strict=True):
        data[defused(channel.title)] = row
    frame = polars.DataFrame(data).fill_nan(None)
    with whole_file(path) as part:
        if ending == ".csv":
            frame.write_csv(part)
        else:
            frame.write_parquet(part)
    roles = _untold_roles(recording)
    notes = RunNotes(
        recording.stopped_early,
        recording.marks,
        roles,
        window_s,
        tuple(left_out),
        tuple(by_hand),
        recording.changes,
    )
    text = facts_text(facts or Facts(), notes)
    if text:
        write_whole(facts_beside(path), text)


def _untold_roles(recording: Recording) -> dict[str, str]:
    """Roles that a column's title alone would not give again, such as those confirmed for a rig."""
    return {
        c.name: c.role for c in recording.channels if channel_named(c.name, c.quantity, c.unit).role != c.role
    }
