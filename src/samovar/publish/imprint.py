"""How an archive's publications are written: kept once for all of them, as author and licence are."""

from __future__ import annotations

from samovar.archive.archive import Archive
from samovar.exchange.problems import InputError
from samovar.publish.form import COMMA, IMPERIAL, METRIC, POINT, Form
from samovar.publish.language import ENGLISH, languages

LANGUAGE, DECIMALS, UNITS = "language", "decimals", "units"
WITH_COMMA = ("de",)
"""Languages that write a comma where English writes a point, unless told otherwise."""


def form_of(archive: Archive) -> Form:
    """The form that was chosen; English, metric, with decimal points, where none was."""
    kept = archive.editions
    code = kept.imprint(LANGUAGE) or ENGLISH
    code = code if code in languages() else ENGLISH
    decimals = kept.imprint(DECIMALS) or (COMMA if code in WITH_COMMA else POINT)
    return Form(code, decimals, kept.imprint(UNITS) or METRIC)


def choose_form(
    archive: Archive, code: str | None = None, decimals: str | None = None, units: str | None = None
) -> None:
    """Choose the form; None leaves a part of it as it is.

    Raises:
        InputError: there is no such language, sign or system of units.
    """
    offered = {
        LANGUAGE: (code, tuple(languages())),
        DECIMALS: (decimals, (POINT, COMMA)),
        UNITS: (units, (METRIC, IMPERIAL)),
    }
    for key, (value, known) in offered.items():
        if value is not None and value not in known:
            raise InputError(f"{key} {value}: not one of {', '.join(known)}; choose one of them")
    for key, (value, _) in offered.items():
        if value is not None:
            archive.editions.set_imprint(key, value)
