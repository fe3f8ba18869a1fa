"""`samovar elsewhere`: figures that others published, taken into a review from a table."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from samovar.cli.options import ArchiveOption


def elsewhere(
    name: Annotated[str, typer.Argument(metavar="REVIEW", help="The review's name or short name.")],
    table: Annotated[
        Path | None, typer.Argument(metavar="FILE", help="A CSV file; without one they are listed.")
    ] = None,
    archive: ArchiveOption = None,
) -> None:
    """Take figures that others published into a review, or list them. They stand on its ladders marked, and take no part in
    the statistics.

    The first line of FILE names its columns: figure, value, unit, name, source, day, and where they are known load and known
    (what else is known: heat, room). A name that begins with "norm of" is the norm of a class, drawn through all bars.
    All rows are taken, or none; what stands in the review already stays.

    Example: samovar elsewhere voice-booth rivals.csv
    """
    from dataclasses import replace

    from samovar.core.elsewhere import read_elsewhere
    from samovar.exchange.elsewhere_table import elsewhere_lines
    from samovar.lookup import open_archive, review_of

    with open_archive(archive) as opened:
        review = review_of(opened, name, name)
        if table is not None:
            lines = dict.fromkeys([*review.elsewhere, *elsewhere_lines(table)])
            opened.reviews.save_review(replace(review, elsewhere=tuple(lines)))
            taken = len(lines) - len(review.elsewhere)
            print(f"{review.name}: {taken} taken from {table}; {len(lines)} in all.")
            return
        for line in review.elsewhere:
            one = read_elsewhere(line)
            print(f"{one.name}: {one.figure.label} {one.figure.text(one.value)} ({one.source}, {one.day})")
        if not review.elsewhere:
            print(f"{review.name} has no figures from elsewhere: name a CSV file, or press E in Versus.")
