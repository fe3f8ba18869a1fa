"""A form: one line a field, what was typed read at once, kept only when all of it can be read."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar

from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical
from textual.screen import ModalScreen
from textual.widget import Widget
from textual.widgets import Input

from samovar.core.fields import Field, read_field, value_shown, value_typed
from samovar.core.units import DIMENSIONS, Unreadable
from samovar.tui.asking import Asking
from samovar.tui.sheets.choice_line import ChoiceLine, PickList
from samovar.tui.widgets.plain import Static

WIDE_EXAMPLE = 26
"""A field whose example is longer gets a longer line to write on."""
NONE = "–"
"""A choice that is left open."""


@dataclass(frozen=True)
class Line:
    """One line of a form. A field whose `of` is `pick` has `options` of which any number is chosen, in order;
    `read` replaces the field's own reading."""

    field: Field
    value: Any = None
    options: Sequence[tuple[str, str]] = ()
    read: Callable[[str], Any] | None = None
    note: str = ""


@dataclass(frozen=True)
class FormText:
    """What stands around the lines."""

    title: str
    intro: str = ""
    lines: Sequence[Line] = field(default_factory=tuple)


class FormSheet(Asking, ModalScreen[dict[str, Any] | None]):
    """The answer holds the values by the fields' keys, those left empty absent; None where it was left.

    `check` may refuse the values as a whole with a line that says why.
    """

    CSS = """
    FormSheet { align: center middle; background: $background 60%; }
    FormSheet > Vertical { width: 112; max-width: 96%; height: auto; max-height: 94%; background: $raised;
        border: round $primary; padding: 0 2; }
    FormSheet #form-title { color: $primary; text-style: bold; height: 1; }
    FormSheet #form-intro { color: $soft; height: auto; max-height: 3; }
    FormSheet #form-lines { height: auto; overflow-y: auto; scrollbar-size-vertical: 1; }
    FormSheet .form-line { height: 1; }
    FormSheet .form-line.-tall { height: auto; }
    FormSheet .form-label { width: 34; color: $foreground; padding-right: 1; text-wrap: nowrap; text-overflow: ellipsis; }
    FormSheet .form-section { color: $primary; height: 1; margin-top: 1; }
    FormSheet Input { width: 40; height: 1; border: none; padding: 0 1; background: $background; }
    FormSheet Input.-wide { width: 72; }
    FormSheet Input:focus { border: none; background: $line; }
    FormSheet .form-read { width: 1fr; color: $soft; padding-left: 1; text-wrap: nowrap; text-overflow: ellipsis; }
    FormSheet .form-read.-wrong { color: $error; text-wrap: wrap; height: auto; }
    FormSheet .form-line.-wrong { height: auto; }
    FormSheet #form-wrong { color: $error; height: auto; }
    FormSheet #form-foot { color: $soft; height: 1; margin-top: 1; }
    FormSheet.-narrow .form-label { width: 24; }
    FormSheet.-narrow Input { width: 32; }
    FormSheet.-narrow Input.-wide { width: 60; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("ctrl+s", "keep", "Keep", priority=True, tooltip="keep what is written"),
        Binding("escape", "leave", "Leave", tooltip="leave; twice where something was changed"),
        # All with priority: the line moves before the next key is handed out, however fast one types.
        Binding(
            "enter", "go_on", "On", show=False, priority=True, tooltip="to the next line; on the last, keep"
        ),
        Binding("tab", "step(1)", "On", show=False, priority=True, tooltip="to the next line"),
        Binding("shift+tab", "step(-1)", "Back", show=False, priority=True, tooltip="to the line before"),
        Binding("pagedown", "step(8)", "On", show=False, priority=True, tooltip="eight lines on"),
        Binding("pageup", "step(-8)", "Back", show=False, priority=True, tooltip="eight lines back"),
        Binding(
            "down", "move(1)", "Next", show=False, priority=True, tooltip="to the next line, or within a list"
        ),
        Binding("up", "move(-1)", "Before", show=False, priority=True, tooltip="to the line before"),
    ]

    def __init__(
        self, text: FormText, check: Callable[[Mapping[str, Any]], str | None] | None = None
    ) -> None:
        super().__init__()
        self._text = text
        self._check = check
        self._entries: dict[str, Widget] = {}
        self._warned = False
        self._at: int | None = None

    def compose(self) -> ComposeResult:
        """Title, lines by section, keys."""
        with Vertical():
            yield Static(self._text.title, id="form-title", markup=False)
            if self._text.intro:
                yield Static(self._text.intro, id="form-intro", markup=False)
            with Vertical(id="form-lines"):
                section = ""
                for line in self._text.lines:
                    if line.field.section and line.field.section != section:
                        section = line.field.section
                        yield Static(section, classes="form-section")
                    yield self._row(line)
            yield Static("", id="form-wrong", markup=False)
            yield Static("Enter next line   Ctrl+S keep   Esc leave", id="form-foot")

    def _row(self, line: Line) -> Horizontal:
        entry = self._entry(line)
        self._entries[line.field.key] = entry
        star = " *" if line.field.needed else ""
        tall = " -tall" if line.field.of == "pick" else ""
        row = Horizontal(
            Static(f"{line.field.label}{star}", classes="form-label", markup=False),
            entry,
            Static("", classes="form-read", markup=False),
            classes=f"form-line{tall}",
        )
        return row

    @staticmethod
    def _entry(line: Line) -> Widget:
        if line.field.of == "pick":
            return PickList(line.options, line.value or ())
        if line.field.of in ("choice", "yes-no"):
            choices = ("yes", "no") if line.field.of == "yes-no" else line.field.choices
            open_choice = () if line.field.needed else (NONE,)
            return ChoiceLine((*open_choice, *choices), value_typed(line.field, line.value) or NONE)
        typed = value_typed(line.field, line.value) if not isinstance(line.value, str) else line.value
        entry = Input(typed, placeholder=line.field.hint, select_on_focus=False)
        entry.set_class(
            line.field.of in ("text", "words") and len(line.field.example) > WIDE_EXAMPLE, "-wide"
        )
        return entry

    def on_mount(self) -> None:
        """Begin at the first line that is needed and empty, else at the first."""
        self.set_class(self.app.size.width < 120, "-narrow")
        # Title, keys and what is wrong stay in sight, however many lines there are.
        self.query_one("#form-lines").styles.max_height = max(8, round(0.94 * self.app.size.height) - 9)
        for line in self._text.lines:
            self._show_read(line)
        needed = [x.field.key for x in self._text.lines if x.field.needed]
        first = next((k for k in needed if not self._typed(k)), next(iter(self._entries)))
        # Whoever types ahead may be further on already.
        if self._at is None:
            self._at = list(self._entries).index(first)
        self.set_focus(list(self._entries.values())[self._at])
        self._before = {key: self._typed(key) for key in self._entries}

    def _line(self, key: str) -> Line:
        return next(x for x in self._text.lines if x.field.key == key)

    def _key_of(self, entry: Widget) -> str | None:
        return next((k for k, e in self._entries.items() if e is entry), None)

    def _typed(self, key: str) -> Any:
        entry = self._entries[key]
        if isinstance(entry, Input):
            return entry.value
        return entry.value if isinstance(entry, ChoiceLine | PickList) else ""

    def _value(self, line: Line) -> Any:
        typed = self._typed(line.field.key)
        if isinstance(typed, tuple):
            if line.field.needed and not typed:
                raise Unreadable("choose at least one with the space bar")
            return list(typed)
        if typed == NONE:
            typed = ""
        if line.read is not None and typed.strip():
            return line.read(typed)
        return read_field(line.field, typed)

    def _show_read(self, line: Line, fully: bool = False) -> bool:
        """What the line reads as, beside it; False where it cannot be read."""
        entry = self._entries[line.field.key]
        row = entry.parent
        if not isinstance(row, Horizontal):
            return True
        read = row.query_one(".form-read", Static)
        wrong = ""
        shown = line.note
        try:
            value = self._value(line)
            if value is not None and (line.field.of in DIMENSIONS or line.field.of == "range"):
                shown = f"= {value_shown(line.field, value)}"
        except Unreadable as problem:
            # A needed line that nobody came to yet is no mistake.
            wrong = str(problem) if fully or self._typed(line.field.key) else ""
            if not wrong:
                shown = "needed"
        read.update(wrong or shown)
        read.set_class(bool(wrong), "-wrong")
        row.set_class(bool(wrong), "-wrong")
        return not wrong

    def on_input_changed(self, message: Input.Changed) -> None:
        """Read what was typed at once."""
        key = self._key_of(message.input)
        if key is not None:
            self._warned = False
            self._show_read(self._line(key))

    def action_go_on(self) -> None:
        """To the next line; on the last one keep."""
        if self._at == len(self._entries) - 1:
            self.action_keep()
        else:
            self.action_step(1)

    def action_move(self, by: int) -> None:
        """Within a list as far as it goes, else to another line."""
        here = list(self._entries.values())[self._at or 0]
        if not (isinstance(here, PickList) and here.move(by)):
            self.action_step(by)

    def action_step(self, by: int) -> None:
        """To another line. Which one it is, is kept here: the focus may lag behind while the form is laid out."""
        entries = list(self._entries.values())
        here = self._at if self._at is not None else 0
        self._at = max(0, min(len(entries) - 1, here + by))
        self.set_focus(entries[self._at])

    def on_click(self) -> None:
        """The mouse may have gone to another line."""
        entries = list(self._entries.values())
        if self.focused in entries:
            self._at = entries.index(self.focused)

    def action_keep(self) -> None:
        """Keep it all, or show what is wrong: once the line has taken in whatever was typed before this key."""
        # This key goes before those that still wait for the line: what they say must not be lost.
        list(self._entries.values())[self._at or 0].call_later(self.soon, self._keep)

    def _keep(self) -> None:
        values: dict[str, Any] = {}
        wrong: list[Line] = []
        for line in self._text.lines:
            if not self._show_read(line, fully=True):
                wrong.append(line)
                continue
            value = self._value(line)
            if value is not None:
                values[line.field.key] = value
        if wrong:
            self._at = list(self._entries).index(wrong[0].field.key)
            self.set_focus(self._entries[wrong[0].field.key])
            self.query_one("#form-wrong", Static).update(
                f"{wrong[0].field.label}: see the line; nothing is kept yet."
            )
            return
        refused = self._check(values) if self._check else None
        if refused:
            self.query_one("#form-wrong", Static).update(refused)
            return
        self.dismiss(values)

    def action_leave(self) -> None:
        """Leave; what was changed is asked about once."""
        if not self._warned and any(self._typed(k) != v for k, v in self._before.items()):
            self._warned = True
            self.query_one("#form-wrong", Static).update(
                "Not kept yet: Ctrl+S keeps it, Esc again leaves it."
            )
            return
        self.dismiss(None)
