"""Exchange rates on the Shelf: typed in with their day, used for nothing but what they say."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any, ClassVar

from rich.text import Text

from samovar.core.fields import Field
from samovar.core.money import Rate, read_rate
from samovar.tui.sheets.form import Line
from samovar.tui.shelf.view import ShelfView


class RatesView(ShelfView):
    """Rates, the newest first."""

    NAME: ClassVar[str] = "rates"
    ONE: ClassVar[str] = "exchange rate"
    COLUMNS: ClassVar[Sequence[str]] = ("rate", "day")
    EMPTY: ClassVar[str] = (
        "No exchange rate yet.\n\nPrices in different currencies are compared only by a rate that you type in with its day:\n"
        "press a, then write 1 EUR = 11.45 NOK."
    )

    def _rates(self) -> dict[int, Rate]:
        return dict(self.session.archive.shelf.rates())

    def count(self) -> int:
        """How many there are."""
        return len(self._rates())

    def rows(self) -> list[tuple[int, Sequence[str | Text]]]:
        """The rate and its day."""
        if self.state != "kept":
            return []
        return [
            (key, (Text(_words(r), f"bold {self.palette.text}"), r.day)) for key, r in self._rates().items()
        ]

    def detail(self, key: int) -> Text:
        """The rate either way round."""
        rate = self._rates()[key]
        text = self.heading(_words(rate), f"as of {rate.day}")
        self.pair(text, "the other way", f"1 {rate.into} = {1.0 / rate.value:.5g} {rate.currency}")
        text.append(
            "\nThe latest rate between two currencies is the one that is used, and its day is shown.\n",
            self.palette.soft,
        )
        return text

    async def add(self) -> int | None:
        """One line."""
        today = date.today().isoformat()
        line = Line(
            Field("rate", "rate", example="1 EUR = 11.45 NOK 2026-03-02", needed=True),
            read=lambda typed: read_rate(typed, today),
        )
        answer: dict[str, Any] | None = await self.ask(
            "An exchange rate", [line], f"Without a day it is today's, {today}."
        )
        if answer is None:
            return None
        key = self.session.archive.shelf.add_rate(answer["rate"])
        self.session.remember("rate added", lambda: self.session.archive.shelf.drop_rate(key))
        return key

    async def edit(self, key: int) -> None:
        """A rate of a day does not change: another is added."""
        self.place.notify("A rate of a day stays as it was: a adds another, Delete takes this one out.")

    def name_of(self, key: int) -> str:
        """The rate in words."""
        return _words(self._rates()[key])

    def put(self, key: int, state: str) -> str:
        """Take it out; there is nothing to archive in a rate."""
        rate = self._rates()[key]
        self.session.archive.shelf.drop_rate(key)
        self.session.remember(f"{_words(rate)} taken out", lambda: self.session.archive.shelf.add_rate(rate))
        return f"{_words(rate)} taken out; z undoes it."


def _words(rate: Rate) -> str:
    return f"1 {rate.currency} = {rate.value:g} {rate.into}"
