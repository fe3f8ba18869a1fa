"""Write-up: claims with their evidence, the article beside its preview, publishing."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from functools import partial
from typing import ClassVar

from markdown_it import MarkdownIt
from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical, VerticalScroll
from textual.events import DescendantBlur, DescendantFocus
from textual.widgets import ListItem, ListView, Markdown, TextArea

from samovar.archive.claim_checks import check_claim, claim_made
from samovar.archive.deciding import proposed_conclusion
from samovar.archive.field_values import values_of
from samovar.archive.records import Claim
from samovar.archive.review_data import shown_figures
from samovar.core.claims.judged import Checked
from samovar.core.live_fields import LiveField, agreed, changed_in, marked
from samovar.core.results.figure import PRICE
from samovar.tui.aside import aside
from samovar.tui.asking import KEEPING, SHOWING
from samovar.tui.claiming import ask_claim
from samovar.tui.drafting import Drafting
from samovar.tui.keeping_article import keep_article
from samovar.tui.own_editor import edited
from samovar.tui.photographs import ask_photographs
from samovar.tui.publication_form import ask_form
from samovar.tui.publishing import ask_and_publish
from samovar.tui.review_sheets import ask_lines
from samovar.tui.screens.place import Place
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.draft_sheet import DraftSheet
from samovar.tui.widgets.claim_card import claim_text, evidence_text
from samovar.tui.widgets.plain import Static

NO_CLAIMS = "No claims yet: c makes one; c in Trace claims what a change did."
KEEP_AFTER_S = 1.0
"""The text is kept when the hands have rested for so long."""
PAUSE_S = 0.15
"""And is drawn again after so long."""


def _reader() -> MarkdownIt:
    return MarkdownIt("commonmark", {"html": False}).enable(["table", "strikethrough"]).disable(["image"])


class WriteUpPlace(Place):
    """What may be said, and the folder that says it."""

    NAME = "writeup"
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("a", "accept", "Accept", tooltip="agree to the claim's words as the findings put them now"),
        Binding(
            "c", "claim", "New claim", tooltip="claim something of the setup under the cursor against another"
        ),
        Binding("d", "drop", "Drop", tooltip="take the claim out"),
        Binding("u", "undo", "Undo", tooltip="put the last dropped claim back"),
        Binding("n", "draft", "Draft", tooltip="the draft, sentence by sentence: keep, reword, strike"),
        Binding("i", "field", "Field", show=False, tooltip="insert a number that follows the runs"),
        Binding("g", "agree", "Agree", show=False, tooltip="agree to the article's numbers as they are now"),
        Binding("e", "editor", "Editor", show=False, tooltip="write the article in $EDITOR"),
        Binding("o", "conclude", "Conclusion", tooltip="the pick, good, bad, for whom: a line each"),
        Binding("f", "photographs", "Photographs", tooltip="take in photographs, with captions and words"),
        Binding("l", "form", "Language", show=False, tooltip="the language and units of what is published"),
        Binding("t", "text", "Text", tooltip="write your own words; Escape keeps them"),
        Binding("p", "publish", "Publish", tooltip="write the review as one folder"),
        Binding("ctrl+x", "stop_publishing", "Stop", show=False, tooltip="cancel publishing"),
        Binding("escape", "claims", "Claims", show=False, tooltip="from the text back to the claims"),
    ]
    CSS = """
    #columns { height: 1fr; margin-top: 1; }
    #claims-box { width: 5fr; height: 1fr; }
    #claims, #claims:focus { height: 1fr; background: $background; background-tint: $background 0%; margin: 0 1; }
    #claims ListItem { height: auto; padding: 0 1; margin-bottom: 1; background: $background; }
    #claims ListItem .evidence { display: none; }
    #claims ListItem.-highlight .evidence { display: block; }
    #claims ListItem.-highlight { background: $raised; }
    #claims:focus ListItem.-highlight { background: $raised; border-left: thick $primary; }
    #text-box { width: 5fr; height: 1fr; border-left: solid $line; }
    #text { height: 1fr; border: none; background: $background; margin: 0; padding: 0 1; }
    #text:focus { background: $raised; border: none; }
    #preview-box { width: 5fr; height: 1fr; border-left: solid $line; }
    #preview-scroll { height: 1fr; }
    #changed { height: auto; padding: 0 1; }
    #preview { background: $background; padding: 0 1; margin: 0; }
    WriteUpPlace.-narrow #text-box { display: none; }
    WriteUpPlace.-narrow.-writing #text-box { display: block; }
    WriteUpPlace.-narrow.-writing #claims-box { display: none; }
    WriteUpPlace .head { height: 1; padding: 0 1; }
    WriteUpPlace.-empty #claims-box, WriteUpPlace.-empty #text-box, WriteUpPlace.-empty .head { display: none; }
    """

    def __init__(self) -> None:
        super().__init__()
        self._claims: list[Claim] = []
        self._checked: list[Checked] = []
        self._dropped: list[tuple[Claim, int]] = []
        self._text_of: int | None = None
        self._before = ""
        self._shown = -1

    def body(self) -> ComposeResult:
        """Claims, the article, how it reads."""
        with Horizontal(id="columns"):
            with Vertical(id="claims-box"):
                yield Static("claims", classes="head")
                yield ListView(id="claims")
            with Vertical(id="text-box"):
                yield Static("your article, in Markdown", classes="head")
                yield TextArea(
                    id="text",
                    soft_wrap=True,
                    show_line_numbers=False,
                    placeholder="n goes through the draft, t writes, i inserts a number that follows the runs",
                )
            with Vertical(id="preview-box"):
                yield Static("as it will be read", classes="head", id="preview-head")
                with VerticalScroll(id="preview-scroll", can_focus=False):
                    yield Static(id="changed")
                    yield Markdown(id="preview", parser_factory=_reader, open_links=False)

    def on_mount(self) -> None:
        """The claims have the keys first."""
        self.query_one("#claims", ListView).focus()

    def on_descendant_focus(self, event: DescendantFocus) -> None:
        """Where there is little room the article takes that of the claims while it is written."""
        self.set_class(event.widget.id == "text", "-writing")

    def on_descendant_blur(self, event: DescendantBlur) -> None:
        """And gives it back."""
        if event.widget.id == "text":
            self.remove_class("-writing")

    title_line = Place.question_line

    def fill(self) -> None:
        """Claims held against the runs as they are now."""
        session = self.session
        review, data = session.review, session.data
        self.set_class(data is None, "-empty")
        if review is None or data is None:
            self.query_one("#changed", Static).update("No review is open: choose one on the Desk (0).")
            return
        self._claims = session.archive.reviews.claims(review.id)
        self._checked = aside(lambda: [check_claim(data, c) for c in self._claims])
        self._show_claims()
        area = self.query_one("#text", TextArea)
        area.read_only = session.guest
        # What someone else wrote is shown, unless something was written here.
        untouched = area.text == self._before and self._before.rstrip() != review.verdict.rstrip()
        if self._text_of != review.id or untouched:
            self._text_of, self._before = review.id, review.verdict
            area.text = review.verdict
        self._preview()

    @work(exclusive=True, group=f"{SHOWING}: preview")
    async def _preview(self, after_s: float = 0.0) -> None:
        """The article as it reads now, or the draft where there is none; what changed since it was agreed to is set off."""
        from samovar.publish.draft.draft import standing_draft

        await asyncio.sleep(after_s)
        data = self.session.data
        if data is None:
            return
        values, article = aside(values_of, data), self.query_one("#text", TextArea).text
        head, note = "as it will be read", Text()
        if not article.strip():
            decided = self.session.archive.drafts.of(data.review.id)
            article = aside(standing_draft, data, self._checked, decided)
            head = "the draft, as it would be published"
            note.append(
                "n goes through it, sentence by sentence; until you have an article it is published.\n",
                self.palette.soft,
            )
        elif changes := len(changed_in(article, values)):
            words = "one number has" if changes == 1 else f"{changes} numbers have"
            note.append(
                f"↻ {words} changed since you agreed: old struck, new bold; g agrees.\n",
                f"bold {self.palette.caution}",
            )
        self.query_one("#preview-head", Static).update(head)
        self.query_one("#changed", Static).update(note)
        await self.query_one("#preview", Markdown).update(marked(article, values))

    @work
    async def action_draft(self) -> None:
        """Through the draft, sentence by sentence: nothing of the reviewer's is ever replaced."""
        data, area = self.session.data, self.query_one("#text", TextArea)
        if data is None:
            return
        drafting = aside(Drafting, self.session.archive, data, self._checked, area.text)
        reword = await self.app.push_screen_wait(DraftSheet(drafting, self.palette))
        area.text = drafting.article
        self._keep_text()
        self._preview()
        if reword is not None and (at := area.text.find(reword.text)) >= 0:
            area.focus()
            row = area.text.count("\n", 0, at)
            area.move_cursor((row, at - (area.text.rfind("\n", 0, at) + 1)))

    @work
    async def action_photographs(self) -> None:
        """Take in photographs, and say what they show."""
        data, area = self.session.data, self.query_one("#text", TextArea)
        if data is None:
            return
        placed = await ask_photographs(self, data.review.id)
        if placed:
            area.text = f"{area.text.rstrip()}\n\n{placed}\n"
            self._keep_text()
        self._preview()

    @work
    async def action_field(self) -> None:
        """Insert a live field: a figure, then a setup, then a load."""
        data, area = self.session.data, self.query_one("#text", TextArea)
        if data is None:
            return
        figures = [(f.key, f.label) for f in (*shown_figures(data), PRICE)]
        asked = (
            ("Which figure?", figures),
            ("Of which setup?", [(s.name, s.rig_name) for s in data.review.setups]),
            ("Under which load?", [(load, "") for load in data.review.loads if data.under(load)]),
        )
        chosen: list[str] = []
        for question, options in asked:
            answer = await self.app.push_screen_wait(Choose(question, options))
            if answer is None:
                return
            chosen.append(answer)
        field = LiveField(chosen[0], chosen[1], chosen[2])
        now = aside(values_of(data), field)
        if now is None:
            self.notify("No run tells that yet: the field says not known until one does.", severity="warning")
        area.insert(replace(field, agreed=now or "").text)
        self._keep_text()
        self._preview()

    @work
    async def action_conclude(self) -> None:
        """The conclusion, a line each; the pick and the runner-up are proposed by what is asked."""
        review, data = self.session.review, self.session.data
        if review is None or data is None:
            return
        self._keep_text()
        if await ask_lines(
            self, self.session.review or review, "conclusion", aside(proposed_conclusion, data)
        ):
            self.session.reload()
            self.refresh_all()

    def action_agree(self) -> None:
        """Agree to all numbers of the article as they are now."""
        data, area = self.session.data, self.query_one("#text", TextArea)
        if data is not None and area.text.strip():
            area.text = agreed(area.text, aside(values_of, data))
            self._keep_text()
            self._preview()

    def action_editor(self) -> None:
        """The article in the reviewer's own editor; what it leaves is the article."""
        area = self.query_one("#text", TextArea)
        written, problem = edited(self.app, area.text)
        if problem:
            self.notify(problem, severity="warning")
            return
        area.text = written
        self._keep_text()
        self._preview()

    @work(exclusive=True, group="claims")
    async def _show_claims(self) -> None:
        view, data = self.query_one("#claims", ListView), self.session.data
        if data is None:
            return
        # A claim that was just made is the one under the cursor.
        made = len(self._claims) == self._shown + 1
        at = len(self._claims) - 1 if made else view.index or 0
        await view.clear()
        items = [
            ListItem(
                Static(claim_text(self.palette, claim_made(data, c), c, k)),
                Static(evidence_text(self.palette, k), classes="evidence"),
            )
            for c, k in zip(self._claims, self._checked, strict=True)
        ]
        if not items:
            items = [ListItem(Static(Text(NO_CLAIMS, self.palette.soft)))]
        await view.extend(items)
        view.index, self._shown = min(at, len(items) - 1), len(self._claims)

    def _current(self) -> tuple[int, Claim] | None:
        index = self.query_one("#claims", ListView).index
        return (index, self._claims[index]) if index is not None and index < len(self._claims) else None

    def action_accept(self) -> None:
        """Agree to the words as they are now; a second time takes it back."""
        current = self._current()
        if current is None:
            return
        index, claim = current
        checked = self._checked[index]
        if checked.state == "open":
            self.notify("There is nothing yet to agree to.", severity="warning")
            return
        again = claim.accepted == checked.sentence
        self.session.archive.reviews.accept_claim(claim.id, None if again else checked.sentence)
        self.refresh_all()

    def action_drop(self) -> None:
        """Take the claim out; u puts it back."""
        current = self._current()
        if current is None:
            return
        index, claim = current
        self.session.archive.reviews.drop_claim(claim.id)
        self._dropped.append((claim, index + 1))
        self.notify("Claim dropped; u puts it back.")
        self.refresh_all()

    def action_undo(self) -> None:
        """The last dropped claim again."""
        if not self._dropped:
            self.notify("Nothing to undo.")
            return
        claim, position = self._dropped.pop()
        self.session.archive.reviews.restore_claim(claim, position)
        self.refresh_all()

    @work
    async def action_claim(self) -> None:
        """A new claim, by choosing."""
        data = self.session.data
        made = await ask_claim(self, data) if data is not None else None
        if made is None or data is None:
            return
        other = made.other.id if made.other else None
        self.session.archive.reviews.add_claim(
            data.review.id, made.kind.key, made.setup.id, other, made.load, made.about or None
        )
        self.refresh_all()

    def action_text(self) -> None:
        """Into the text."""
        self.query_one("#text", TextArea).focus()

    def action_claims(self) -> None:
        """Back to the claims, the text kept."""
        self._keep_text()
        self.query_one("#claims", ListView).focus()

    def _keep_text(self) -> None:
        if self._keep_quietly():
            self.notify("Your words are kept.")

    def on_screen_suspend(self) -> None:
        """Leaving keeps the text."""
        self.soon(self._keep_text)

    def on_text_area_changed(self) -> None:
        """The text is kept with the next pause of the reviewer's hands, and read again beside it."""
        self._preview(PAUSE_S)
        self.set_timer(KEEP_AFTER_S, partial(self.soon, self._keep_quietly, group=KEEPING), name="keep")

    def _keep_quietly(self) -> bool:
        """Keep the text where it is another than before."""
        area = self.query_one("#text", TextArea)
        typed = area.text
        if self._text_of is None or (kept := keep_article(self, self._text_of, typed, self._before)) is None:
            return False
        self._before = kept
        # Hands may have typed on meanwhile: nothing of that is touched, theirs is set in front.
        if kept != typed:
            area.insert(kept.removesuffix(typed), (0, 0), maintain_selection_offset=True)
        return True

    @work
    async def action_publish(self) -> None:
        """Ask where, then write in the background with progress."""
        if self.session.review is not None:
            self._keep_text()
            await ask_and_publish(self, self.session.review)

    @work
    async def action_form(self) -> None:
        """In which language and units editions are written."""
        await ask_form(self)

    def action_stop_publishing(self) -> None:
        """Cancel publishing; what is drawn stays for the next time."""
        self.workers.cancel_group(self, "publish")
