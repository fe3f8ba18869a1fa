"""What was understood of a log, to be looked at and set right before it is kept."""

from __future__ import annotations

from pathlib import Path
from typing import Any, ClassVar

import numpy as np
from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.screen import ModalScreen

from samovar.bench.course_spec import clock_text
from samovar.core.quantity import ROLES, UNITS
from samovar.exchange.log_map import NONE, UNIT_CHOICES, write_map
from samovar.exchange.logs import Log, read_log
from samovar.exchange.problems import InputError
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.theme import palette_of
from samovar.tui.widgets.plain import DataTable, Static

SHOWN = 5
Answer = tuple[Log, dict[str, Any]]


class LogSheet(ModalScreen[Answer | None]):
    """The log's columns with what each was taken for; the answer is the log as it stands, and its map."""

    CSS = """
    LogSheet { align: center middle; background: $background 60%; }
    LogSheet > Vertical { width: 150; max-width: 98%; height: auto; max-height: 96%; background: $raised;
        border: round $primary; padding: 0 2; }
    LogSheet #log-title { color: $primary; text-style: bold; height: 1; }
    LogSheet #log-words { height: auto; margin-bottom: 1; }
    LogSheet DataTable { height: auto; max-height: 55vh; background: $raised; }
    LogSheet #log-warnings { height: auto; max-height: 8; margin-top: 1; }
    LogSheet #log-foot { color: $soft; height: 1; margin-top: 1; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape", "leave", "Leave", tooltip="leave without keeping the log"),
        Binding("k", "keep", "Keep", tooltip="keep the log as it is understood now"),
        Binding("t", "time", "Time", tooltip="which column holds the times"),
        Binding("w", "write", "Write map", tooltip="write what was settled as MAP.toml"),
    ]

    def __init__(self, path: Path, log: Log, column_map: dict[str, Any], remembered: bool) -> None:
        super().__init__()
        self._path, self._log, self._remembered = path, log, remembered
        self._map: dict[str, Any] = {
            "time": column_map.get("time"),
            "channels": dict(column_map.get("channels", {})),
        }

    def compose(self) -> ComposeResult:
        """Title, columns, warnings, keys."""
        with Vertical():
            yield Static(f"Bring in {self._path.name}", id="log-title", markup=False)
            yield Static(id="log-words")
            yield DataTable(cursor_type="row")
            yield Static(id="log-warnings")
            yield Static(
                "Enter set a column right   t times   w write MAP.toml   k keep   Esc leave", id="log-foot"
            )

    def on_mount(self) -> None:
        """Fill in."""
        table = self.query_one(DataTable)
        wide = self.app.size.width >= 150
        widths = (38, 11, 4, 8, 38, 24) if wide else (26, 11, 4, 8, 14, 10)
        for title, width in zip(
            ("column", "taken for", "unit", "role", "first values", ""), widths, strict=True
        ):
            table.add_column(title, width=width)
        self._fill()
        table.focus()

    def _fill(self) -> None:
        log, palette = self._log, palette_of(self.app.theme)
        recording = log.recording
        words = Text()
        rate = f"{recording.interval_s:g} s apart" if recording.interval_s else "one row"
        words.append(f"{len(recording.time_s)} rows, {clock_text(recording.duration_s)} long, {rate}; ")
        words.append(f"times from {log.time}" if log.time else "no times in it")
        if self._remembered:
            words.append("   as you settled it for the last log with these titles", palette.good)
        self.query_one("#log-words", Static).update(words)
        table = self.query_one(DataTable)
        at = table.cursor_row
        table.clear()
        row = 0
        for column in log.columns:
            if column.column is None:
                cells = [
                    Text(column.title[:40], palette.soft),
                    Text("left out", palette.caution),
                    "",
                    "",
                    Text("  ".join(column.first), palette.soft),
                    "",
                ]
            else:
                channel = column.column.channel
                values = recording.values[row][np.isfinite(recording.values[row])][:SHOWN]
                row += 1
                settled = column.title in self._map["channels"]
                doubt = "settled" if settled else "by its words" if column.doubt else ""
                name = self._log.recording.channels[row - 1]
                cells = [
                    Text(column.title[:40]),
                    Text(channel.quantity, palette.quantity.get(channel.quantity, palette.text)),
                    channel.unit,
                    name.role,
                    Text("  ".join(f"{v:g}" for v in values) or "no values", palette.soft),
                    Text(doubt, palette.good if settled else palette.caution),
                ]
            table.add_row(*cells)
        if table.row_count:
            table.move_cursor(row=min(at, table.row_count - 1))
        shown = [Text("everything in it was used", palette.soft)] if not log.warnings else []
        shown += [Text(w[:140], palette.caution) for w in log.warnings[:6]]
        if len(log.warnings) > 6:
            shown.append(Text(f"and {len(log.warnings) - 6} more", palette.caution))
        self.query_one("#log-warnings", Static).update(Text("\n").join(shown))

    def _again(self) -> None:
        """Read the log with what is settled now; the old map stays where that is no log any more."""
        try:
            self._log = read_log(self._path, self._map)
        except InputError as problem:
            self.notify(str(problem), severity="error")
            raise
        self._remembered = False
        self._fill()

    def on_data_table_row_selected(self, message: DataTable.RowSelected) -> None:
        """Enter sets the column right."""
        if message.cursor_row < len(self._log.columns):
            self._settle(self._log.columns[message.cursor_row].title)

    @work
    async def _settle(self, title: str) -> None:
        quantities = [(NONE, "leave this column out"), *((q, u or "yes or no") for q, u in UNITS.items())]
        quantity = await self.app.push_screen_wait(Choose(f"What does {title!r} measure?", quantities))
        if quantity is None:
            return
        entry: dict[str, Any] = {"quantity": quantity}
        if quantity != NONE:
            units = UNIT_CHOICES.get(quantity)
            if units is not None:
                entry["unit"] = await self.app.push_screen_wait(
                    Choose("In which unit?", [(u, "") for u in units])
                )
            role = await self.app.push_screen_wait(Choose("Of what?", [(r, "") for r in ROLES]))
            if role is None or (units is not None and entry["unit"] is None):
                return
            entry["role"] = role
        before = dict(self._map["channels"])
        self._map["channels"][title] = entry
        try:
            self._again()
        except InputError:
            self._map["channels"] = before

    @work
    async def action_time(self) -> None:
        """Another column of times."""
        titles = [(c.title, "") for c in self._log.columns]
        if self._log.time and " and " not in self._log.time:
            titles.insert(0, (self._log.time, "as now"))
        chosen = await self.app.push_screen_wait(Choose("Which column holds the times?", titles))
        if chosen is None:
            return
        before, self._map["time"] = self._map["time"], chosen
        try:
            self._again()
        except InputError:
            self._map["time"] = before

    @work
    async def action_write(self) -> None:
        """Write the map."""
        typed = await self.app.push_screen_wait(
            Ask("Write the map to which file?", str(self._path.with_suffix(".map.toml")))
        )
        if typed:
            path = Path(typed).expanduser()
            try:
                write_map(self._map, path)
            except InputError as problem:
                self.notify(str(problem), severity="error")
            else:
                self.notify(f"{path} written.")

    def action_keep(self) -> None:
        """Keep it."""
        self.dismiss((self._log, self._map))

    def action_leave(self) -> None:
        """Nothing is kept."""
        self.dismiss(None)
