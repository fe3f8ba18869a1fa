"""The manual in the program: its pages at the left, the text of one at the right."""

from __future__ import annotations

from typing import ClassVar

from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll
from textual.screen import ModalScreen
from textual.widgets import Markdown, OptionList
from textual.widgets.option_list import Option

from samovar.tui.manual_pages import ManualPage, manual
from samovar.tui.widgets.plain import Static

NO_MANUAL = "The manual is not here: it lies in docs/ of a checkout, and comes with an installed Samovar."


class ManualScreen(ModalScreen[None]):
    """A sheet over the place it was opened from.

    Args:
        name: the page that is shown first.
    """

    CSS = """
    ManualScreen { align: center middle; background: $background 60%; }
    #manual { width: 94%; height: 94%; background: $raised; border: round $primary; padding: 0 1; }
    #manual-pages { width: 34; height: 1fr; background: $raised; border: none; border-right: solid $line; padding: 1 1 0 0; }
    #manual-body { height: 1fr; padding: 0 1; }
    #manual-text { background: $raised; padding: 0 1; }
    #manual-text MarkdownH1 { content-align: left middle; color: $primary; background: $raised; border: none; }
    #manual-text MarkdownH2 { color: $primary; text-style: bold; }
    #manual-text MarkdownTable { width: 1fr; }
    #manual-foot { height: 1; color: $soft; dock: bottom; padding: 0 1; }
    ManualScreen.-narrow #manual-pages { width: 22; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape,question_mark,q", "dismiss", "Close", tooltip="close the manual"),
        Binding("tab", "other", "Pages or text", show=False, tooltip="to the pages, or to the text"),
    ]

    def __init__(self, name: str) -> None:
        super().__init__()
        self._pages: list[ManualPage] = manual()
        self._first = name

    def compose(self) -> ComposeResult:
        """The pages' titles, and the text."""
        with Horizontal(id="manual"):
            if not self._pages:
                yield Static(NO_MANUAL)
                return
            yield OptionList(*(Option(page.title, id=page.name) for page in self._pages), id="manual-pages")
            with VerticalScroll(id="manual-body"):
                yield Markdown(id="manual-text", open_links=False)
        yield Static("↑↓ another page   tab to the text and back   Esc closes", id="manual-foot")

    def on_mount(self) -> None:
        """Show the page it was opened at."""
        self.set_class(self.app.size.width < 110, "-narrow")
        if self._pages:
            pages = self.query_one("#manual-pages", OptionList)
            names = [page.name for page in self._pages]
            pages.highlighted = names.index(self._first) if self._first in names else 0
            pages.focus()

    async def on_option_list_option_highlighted(self, message: OptionList.OptionHighlighted) -> None:
        """The text follows the cursor."""
        await self._show(str(message.option_id))

    async def on_markdown_link_clicked(self, message: Markdown.LinkClicked) -> None:
        """A link to another page leads to it."""
        name = message.href.partition("#")[0].removesuffix(".md")
        places = [page.name for page in self._pages]
        if name in places:
            self.query_one("#manual-pages", OptionList).highlighted = places.index(name)

    async def _show(self, name: str) -> None:
        page = next((one for one in self._pages if one.name == name), None)
        if page is not None:
            await self.query_one("#manual-text", Markdown).update(page.text)
            self.query_one("#manual-body", VerticalScroll).scroll_home(animate=False)

    def action_other(self) -> None:
        """To the pages, or to the text."""
        pages, body = self.query_one("#manual-pages"), self.query_one("#manual-body")
        (body if pages.has_focus else pages).focus()
