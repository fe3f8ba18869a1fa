"""`samovar compare`: a review's setups held against each other."""

from __future__ import annotations

from typing import Annotated

import typer

from samovar.cli.options import ArchiveOption, JsonOption, print_json


def compare(
    name: Annotated[str, typer.Argument(metavar="REVIEW", help="The review's name or short name.")],
    load: Annotated[
        str | None,
        typer.Option("--load", help="Under which load; the review's last with runs where not named."),
    ] = None,
    by: Annotated[
        str | None,
        typer.Option(
            "--by",
            metavar="FIGURE",
            help="rise, power, clock, work, resistance, peak, noise, settle, score, time, price, or STATISTIC:QUANTITY[:PART]; "
            "what the review is about where not named.",
        ),
    ] = None,
    at_noise: Annotated[
        float | None, typer.Option("--at-noise", metavar="DBA", help="At equal noise: at this level.")
    ] = None,
    at_heat: Annotated[
        float | None, typer.Option("--at-heat", metavar="W", help="At equal heat: the rise at so many watts.")
    ] = None,
    against: Annotated[
        str | None,
        typer.Option("--against", metavar="SETUP", help="Against this setup, not the rig's reference."),
    ] = None,
    rig: Annotated[str | None, typer.Option("--rig", help="Of several rigs this one alone.")] = None,
    archive: ArchiveOption = None,
    as_json: JsonOption = False,
) -> None:
    """Hold a review's setups against each other: a ladder, what is shown to differ, what is level, and whether it is
    like for like.

    Example: samovar compare voice-booth --load "worst case" --by rise
    Again: samovar compare voice-booth --at-noise 26
    """
    import math

    from samovar.comparing import compared_rigs, compared_rows, compared_text, figure_named
    from samovar.core.compare.terms import Terms
    from samovar.exchange.problems import InputError
    from samovar.lookup import open_archive, review_of

    if at_noise is not None and at_heat is not None:
        raise InputError("command line: --at-noise and --at-heat are two terms; name one of them")
    for option, value, low, high in (
        ("--at-noise", at_noise, 0.0, 120.0),
        ("--at-heat", at_heat, 0.1, 5000.0),
    ):
        if value is not None and not (math.isfinite(value) and low <= value <= high):
            raise InputError(f"{option} {value:g}: not between {low:g} and {high:g}; choose one that is")
    with open_archive(archive) as opened:
        review = review_of(opened, name, name)
        terms = Terms(at_noise, at_heat)
        figure = figure_named(by) if by else None
        data, found = compared_rigs(opened, review, load, figure, terms, against, rig)
    if as_json:
        print_json(compared_rows(data, found, len(found) == 1))
    else:
        print(compared_text(data, found))
