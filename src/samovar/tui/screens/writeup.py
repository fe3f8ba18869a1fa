"""Write-up: claims with their evidence, the text, the figures, publishing."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical, VerticalScroll
from textual.widgets import ListItem, ListView, TextArea

from samovar.archive.deciding import proposed_conclusion
from samovar.archive.field_values import values_of
from samovar.archive.records import Claim
from samovar.archive.review_data import shown_figures
from samovar.core.claims import CHANGE, KINDS, Checked
from samovar.core.live_fields import LiveField, agreed
from samovar.core.results.figure import PRICE
from samovar.exchange.problems import InputError
from samovar.tui.article_preview import preview_text
from samovar.tui.imprint import ask_imprint
from samovar.tui.own_editor import edited
from samovar.tui.review_sheets import ask_lines
from samovar.tui.screens.place import Place
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.widgets.claim_card import claim_text
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.publication_words import publication_text

INTO, ELSEWHERE = "publish beside them", "leave it"


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
        Binding(
            "n",
            "draft_in",
            "Draft in",
            tooltip="take the draft into your article, its numbers as live fields",
        ),
        Binding(
            "i",
            "field",
            "Field",
            show=False,
            tooltip="insert a number that follows the runs: figure, setup, load",
        ),
        Binding("g", "agree", "Agree", show=False, tooltip="agree to the article's numbers as they are now"),
        Binding("e", "editor", "Editor", show=False, tooltip="write the article in $EDITOR"),
        Binding("o", "conclude", "Conclusion", tooltip="the pick, good, bad, for whom: a line each"),
        Binding("t", "text", "Text", tooltip="write your own words; Escape keeps them"),
        Binding("p", "publish", "Publish", tooltip="write the review as one folder"),
        Binding("escape", "claims", "Claims", show=False, tooltip="from the text back to the claims"),
    ]
    CSS = """
    #columns { height: 1fr; margin-top: 1; }
    #claims-box { width: 5fr; height: 1fr; }
    #claims, #claims:focus { height: 1fr; background: $background; background-tint: $background 0%; margin: 0 1; }
    #claims ListItem { height: auto; padding: 0 1; margin-bottom: 1; background: $background; }
    #claims ListItem.-highlight { background: $raised; }
    #claims:focus ListItem.-highlight { background: $raised; border-left: thick $primary; }
    #text-box { width: 4fr; height: 1fr; border-left: solid $line; }
    #draft { height: auto; max-height: 50%; padding: 0 1; }
    #text { height: 1fr; border: none; background: $background; margin: 0; padding: 0 1; }
    #text:focus { background: $raised; border: none; }
    #figures-box { width: 3fr; height: 1fr; border-left: solid $line; padding: 0 1; }
    WriteUpPlace.-narrow #figures-box { display: none; }
    WriteUpPlace .head { height: 1; padding: 0 1; }
    """

    def __init__(self) -> None:
        super().__init__()
        self._claims: list[Claim] = []
        self._checked: list[Checked] = []
        self._dropped: list[tuple[Claim, int]] = []
        self._text_of: int | None = None
        self._draft: list[str] = []

    def body(self) -> ComposeResult:
        """Claims, text, figures."""
        with Horizontal(id="columns"):
            with Vertical(id="claims-box"):
                yield Static("claims", classes="head")
                yield ListView(id="claims")
            with Vertical(id="text-box"):
                yield Static("as it will be read", classes="head")
                yield VerticalScroll(Static(id="draft-text"), id="draft", can_focus=False)
                yield Static("your article, in Markdown", classes="head")
                yield TextArea(
                    id="text",
                    soft_wrap=True,
                    show_line_numbers=False,
                    placeholder="t writes, n takes the draft in, i inserts a number that follows the runs",
                )
            with VerticalScroll(id="figures-box", can_focus=False):
                yield Static(id="figures")

    def on_mount(self) -> None:
        """The claims have the keys first."""
        self.query_one("#claims", ListView).focus()

    def title_line(self) -> Text:
        """The question that is answered."""
        return self.question_line()

    def fill(self) -> None:
        """Claims held against the runs as they are now."""
        from samovar.publish.verdict import draft_verdict

        session = self.session
        review, data = session.review, session.data
        if review is None or data is None:
            self.query_one("#draft-text", Static).update("No review is open: choose one on the Desk (0).")
            return
        self._claims = session.archive.reviews.claims(review.id)
        self._checked = [data.check(c) for c in self._claims]
        self._show_claims()
        self._draft = draft_verdict(data, self._checked)
        area = self.query_one("#text", TextArea)
        if self._text_of != review.id:
            self._text_of = review.id
            area.text = review.verdict
        self._preview()
        self.query_one("#figures", Static).update(publication_text(self.palette, data))

    def _preview(self) -> None:
        data = self.session.data
        if data is not None:
            article = self.query_one("#text", TextArea).text
            shown = preview_text(self.palette, article, self._draft, values_of(data))
            self.query_one("#draft-text", Static).update(shown)

    def action_draft_in(self) -> None:
        """The draft into the article, behind what stands there: nothing of the reviewer's is ever replaced."""
        from samovar.publish.verdict import draft_article

        data, area = self.session.data, self.query_one("#text", TextArea)
        if data is None:
            return
        before = f"{area.text.rstrip()}\n\n" if area.text.strip() else ""
        area.text = before + draft_article(data, self._checked)
        self._keep_text()
        self._preview()
        area.focus()

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
        now = values_of(data)(field)
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
        if await ask_lines(self, self.session.review or review, "conclusion", proposed_conclusion(data)):
            self.session.reload()
            self.refresh_all()

    def action_agree(self) -> None:
        """Agree to all numbers of the article as they are now."""
        data, area = self.session.data, self.query_one("#text", TextArea)
        if data is not None and area.text.strip():
            area.text = agreed(area.text, values_of(data))
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
        view = self.query_one("#claims", ListView)
        at = view.index or 0
        await view.clear()
        items = [
            ListItem(Static(claim_text(self.palette, self.session.review, c, k)))
            for c, k in zip(self._claims, self._checked, strict=True)
        ]
        if not items:
            items = [
                ListItem(
                    Static(
                        Text(
                            "No claims yet: c makes one; c in Trace claims what a change did.",
                            self.palette.soft,
                        )
                    )
                )
            ]
        await view.extend(items)
        view.index = min(at, len(items) - 1)

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
        """A new claim in one line: a kind, a setup, the other setup, a load."""
        from samovar.tui.screens.claim_line import parse_claim

        review = self.session.review
        if review is None:
            return
        example = (
            f"{review.setups[0].name} {KINDS['cooler']} {review.setups[-1].name}"
            if len(review.setups) > 1
            else ""
        )
        question = (
            "Claim what? Name a setup, what it does, the other setup, and the load if it is not "
            f"{review.loads[-1]}.\n\nIt can: {'; '.join(words for kind, words in KINDS.items() if kind != CHANGE)}."
        )
        typed = await self.app.push_screen_wait(Ask(question, hint=example))
        if not typed:
            return
        try:
            kind, setup, other, load = parse_claim(typed, review)
        except InputError as problem:
            self.notify(str(problem), severity="error", timeout=10)
            return
        self.session.archive.reviews.add_claim(review.id, kind, setup.id, other.id if other else None, load)
        self.refresh_all()

    def action_text(self) -> None:
        """Into the text."""
        self.query_one("#text", TextArea).focus()

    def action_claims(self) -> None:
        """Back to the claims, the text kept."""
        self._keep_text()
        self.query_one("#claims", ListView).focus()

    def _keep_text(self) -> None:
        review = self.session.review
        text = self.query_one("#text", TextArea).text
        if review is not None and text != review.verdict:
            self.session.archive.reviews.set_verdict(review.id, text)
            self.session.review = self.session.archive.reviews.review(review.id)
            if self.session.data is not None and self.session.review is not None:
                self.session.data.review = self.session.review
            self.notify("Your words are kept.")

    def on_screen_suspend(self) -> None:
        """Leaving keeps the text."""
        self._keep_text()

    def on_text_area_changed(self) -> None:
        """The text is kept with the next pause of the reviewer's hands, and read again beside it."""
        self._preview()
        self.set_timer(1.0, self._keep_quietly, name="keep")

    def _keep_quietly(self) -> None:
        review = self.session.review
        if review is not None and self._text_of == review.id:
            text = self.query_one("#text", TextArea).text
            if text != review.verdict:
                self.session.archive.reviews.set_verdict(review.id, text)
                self.session.review = self.session.archive.reviews.review(review.id)

    @work
    async def action_publish(self) -> None:
        """Ask where, then write in the background with progress."""
        review = self.session.review
        if review is None:
            return
        self._keep_text()
        if not await ask_imprint(self):
            return
        typed = await self.app.push_screen_wait(
            Ask("Publish into which folder?", str(Path.cwd() / review.slug))
        )
        if typed:
            self._publish(Path(typed).expanduser())

    @work(thread=True, exclusive=True, group="publish")
    def _publish(self, folder: Path, into: bool = False) -> None:
        from textual.worker import get_current_worker

        from samovar.publish.folder import HoldsOthers
        from samovar.publish.review import Cancelled, publish_review

        review = self.session.review
        assert review is not None
        worker = get_current_worker()

        def progress(done: int, total: int) -> None:
            if worker.is_cancelled:
                raise Cancelled
            bar = "━" * round(24 * done / total)
            self.tell(self._say, f"publishing {bar:<24} {done} of {total}")

        try:
            written = publish_review(self.session.archive, review, folder, progress, into)
        except HoldsOthers as problem:
            self.tell(self._ask_into, folder, str(problem))
            return
        except InputError as problem:
            self.tell(self.notify, str(problem), severity="error", timeout=12)
            return
        except Cancelled:
            return
        self.tell(self._published, folder, len(written))

    @work
    async def _ask_into(self, folder: Path, problem: str) -> None:
        """The folder holds other things: publish beside them, or elsewhere."""
        options = [(ELSEWHERE, "nothing is written"), (INTO, "what stands there stays, or is moved aside")]
        question = problem.partition(";")[0] + "."
        if await self.app.push_screen_wait(Choose(question, options)) == INTO:
            self._publish(folder, into=True)

    def _say(self, words: str) -> None:
        text = self.title_line()
        text.append(f"   {words}", f"bold {self.palette.brass}")
        self.query_one("#title", Static).update(text)

    def _published(self, folder: Path, files: int) -> None:
        self.query_one("#title", Static).update(self.title_line())
        self.notify(f"{files} files written. Open {folder / 'index.html'}", title="Published", timeout=15)
