"""Samples out, with units in the titles: CSV or Parquet, and the facts beside them as TOML."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from samovar.core.exclusions import Exclusion
from samovar.core.facts import Facts
from samovar.core.recording import Recording
from samovar.exchange.problems import InputError
from samovar.exchange.titles import channel_named
from samovar.exchange.toml_files import RunNotes, facts_text

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
) -> None:
    """Write a recording; a file that stands there is replaced only once the new one is whole.

    Args:
        recording: what to write; its channels' titles carry their units.
        path: ends in .csv or .parquet.
        facts: written beside it as FACTS.toml, where there are any.
        window_s, left_out: what a person set by hand, written there too, so that the file reads as the run does.

    Raises:
        InputError: another ending, or the place cannot be written.
    """
    import polars

    ending = path.suffix.lower()
    if ending not in FORMATS:
        raise InputError(f"{path}: an export is a .csv or a .parquet file; change the ending")
    data = {"Time (s)": recording.time_s}
    for channel, row in zip(recording.channels, recording.values, strict=True):
        data[channel.title] = row
    frame = polars.DataFrame(data).fill_nan(None)
    part = path.with_name(f".{path.name}.part")
    try:
        if ending == ".csv":
            frame.write_csv(part)
        else:
            frame.write_parquet(part)
        part.replace(path)
        roles = _untold_roles(recording)
        notes = RunNotes(recording.stopped_early, recording.marks, roles, window_s, tuple(left_out))
        text = facts_text(facts or Facts(), notes)
        if text:
            facts_beside(path).write_text(text, encoding="utf-8")
    except OSError as problem:
        part.unlink(missing_ok=True)
        raise InputError(
            f"{path}: {(problem.strerror or 'cannot be written').lower()}; name a place that can be written"
        ) from problem


def _untold_roles(recording: Recording) -> dict[str, str]:
    """Roles that a column's title alone would not give again, such as those confirmed for a rig."""
    return {c.name: c.role for c in recording.channels if channel_named(c.name, c.quantity).role != c.role}
