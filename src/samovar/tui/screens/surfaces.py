"""The surfaces of a run: plans drawn to scale, temperature pictures over them, and what is known of every spot."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical, VerticalScroll
from textual.screen import ModalScreen

from samovar.core.surfaces.plan import AREA, PART, SPOT, Item, Plan, rectangle, with_item, without
from samovar.core.units import Unreadable
from samovar.entering import circumstances_of
from samovar.exchange.problems import InputError
from samovar.tui.aside import aside
from samovar.tui.asking import Asking
from samovar.tui.hand_sheets import ask_value
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.surface_changes import SurfaceChanges
from samovar.tui.surface_data import runs_beside, surface_data
from samovar.tui.surface_lines import PLAN_EXAMPLE, typed_item, typed_plan, typed_watts
from samovar.tui.surface_shown import Shown, beside_of, line_of, title_of, view_of
from samovar.tui.theme import palette_of
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.surface_list import list_text
from samovar.tui.widgets.surface_map import SurfaceMap
from samovar.tui.writing import WRITES

if TYPE_CHECKING:
    from samovar.tui.screens.place import Place

FOOT = "Esc back  n plan  s spot  a area  p part  i picture  b by hand  d less  w watts  v next  tab choose  del take off  u undo  e export  ? manual"
FOOT_NARROW = (
    "Esc  n plan  s spot  a area  p part  i picture  b hand  d less  w watts  v next  del  u undo  e export"
)
LONG_STEP = 8


class SurfacesScreen(Asking, ModalScreen[None]):
    """The whole window: title, drawing, list, keys."""

    CSS = """
    SurfacesScreen { background: $background; }
    SurfacesScreen > Vertical { height: 1fr; }
    SurfacesScreen #surface-title, SurfacesScreen #surface-line { height: 1; padding: 0 1; }
    SurfacesScreen #surface-body { height: 1fr; }
    SurfacesScreen SurfaceMap { margin: 0 1; }
    SurfacesScreen #surface-side { width: 44; height: 1fr; border-left: solid $line; padding: 0 1; }
    SurfacesScreen #surface-foot { height: 1; color: $soft; background: $raised; padding: 0 1; }
    """
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding(
            "escape,q", "leave", "Back", tooltip="a corner that was set is taken back; else back to the run"
        ),
        Binding("n", "plan", "Plan", tooltip="draw a plan of this rig: a board, a case, a face of it"),
        Binding("s", "spot", "Spot", tooltip="a spot at the cursor"),
        Binding("a", "area", "Area", tooltip="an area: its first corner, then the one across"),
        Binding(
            "p", "part", "Part", tooltip="a part, for orientation: its first corner, then the one across"
        ),
        Binding("i", "picture", "Picture", tooltip="bring in a temperature picture of this face"),
        Binding("b", "hand", "By hand", tooltip="a reading at the chosen spot"),
        Binding("d", "less", "Less", tooltip="what another run's picture shows less; again: alone"),
        Binding("w", "watts", "Watts", tooltip="how warm it would be at another heat"),
        Binding("v", "next", "Next", tooltip="the next picture, the plan alone, the next plan"),
        Binding("tab", "choose(1)", "Choose", tooltip="the next spot or area"),
        Binding("shift+tab", "choose(-1)", "", show=False),
        Binding(
            "delete,x", "take_off", "Take off", tooltip="take the chosen thing, the picture or the plan away"
        ),
        Binding("u", "undo", "Undo", tooltip="undo the last change"),
        Binding("question_mark", "manual", "Manual", tooltip="the manual's page on surfaces"),
        Binding("e", "export", "Export", tooltip="write the drawing as SVG and PDF"),
        *(
            Binding(f"{shift}{key}", f"move({x * far}, {y * far})", "", show=False)
            for key, x, y in (("left", -1, 0), ("right", 1, 0), ("up", 0, -1), ("down", 0, 1))
            for shift, far in (("", 1), ("shift+", LONG_STEP))
        ),
    ]

    def __init__(self, place: Place, number: int) -> None:
        super().__init__()
        self._place, self._number = place, number
        self.shown = Shown()
        self._changes = SurfaceChanges(place.session.archive)

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Nothing that writes is offered to whoever may only read."""
        return not (self._place.session.guest and action in WRITES["surfaces"])

    def compose(self) -> ComposeResult:
        """Title, drawing with its list, keys."""
        with Vertical():
            yield Static(id="surface-title")
            yield Static(id="surface-line")
            with Horizontal(id="surface-body"):
                yield SurfaceMap()
                with VerticalScroll(id="surface-side", can_focus=False):
                    yield Static(id="surface-list")
            yield Static(id="surface-foot")

    def on_resize(self) -> None:
        """A narrow window has room for shorter words."""
        self.query_one("#surface-foot", Static).update(
            FOOT if self.app.size.width >= len(FOOT) + 2 else FOOT_NARROW
        )

    def on_mount(self) -> None:
        """Show what there is."""
        self.soon(self._begin)

    def _begin(self) -> None:
        self._load()
        self.action_choose(0)

    def _load(self, **at: Any) -> None:
        data = aside(surface_data, self._place.session.archive, self._number)
        self._show(data=data, **at)

    def _show(self, **now: Any) -> None:
        """Show this, with what is otherwise `now`."""
        shown = replace(self.shown, **now)
        if shown.chosen not in shown.names:
            shown = replace(shown, chosen=shown.names[0] if shown.names else "")
        self.shown = shown
        if not self.query("#surface-title"):  # It was left before the archive answered.
            return
        palette, told = palette_of(self.app.theme), shown.told
        line = Text(line_of(shown), palette.soft, no_wrap=True, overflow="ellipsis")
        self.query_one("#surface-title", Static).update(title_of(shown, palette))
        self.query_one("#surface-line", Static).update(line)
        beside = beside_of(shown, told)
        self.query_one(SurfaceMap).show(view_of(shown, told, beside))
        self.query_one("#surface-list", Static).update(list_text(told, shown.chosen, beside, palette))

    @property
    def _step_mm(self) -> float:
        return self.query_one(SurfaceMap).step_mm

    def action_move(self, x: int, y: int) -> None:
        """Move the cursor by cells."""
        self._go(self.shown.cursor[0] + x * self._step_mm, self.shown.cursor[1] + y * 2.0 * self._step_mm)

    def on_surface_map_picked(self, message: SurfaceMap.Picked) -> None:
        """A click moves the cursor, and chooses what is there."""
        self._go(message.x_mm, message.y_mm)

    def _go(self, x_mm: float, y_mm: float) -> None:
        plan = self.shown.plan
        if plan is None:
            return
        cursor = min(max(0.0, x_mm), plan.width_mm), min(max(0.0, y_mm), plan.height_mm)
        here = replace(self.shown, cursor=cursor).here(self._step_mm)
        chosen = here.name if here is not None and here.is_measured else self.shown.chosen
        self._show(cursor=cursor, chosen=chosen)

    def action_choose(self, by: int) -> None:
        """The next spot or area, and the cursor to it."""
        names, plan = self.shown.names, self.shown.plan
        if plan is None or not names:
            return
        name = names[(names.index(self.shown.chosen) + by) % len(names)]
        item = plan.item(name)
        self._show(chosen=name, cursor=item.middle if item is not None else self.shown.cursor)

    def action_next(self) -> None:
        """The next picture, then the plan alone, then the next plan."""
        shown = self.shown
        if shown.data is None or shown.plan is None:
            return
        if shown.kept is None:
            self._show(
                plan_at=(shown.plan_at + 1) % len(shown.data.plans), picture_at=0, corner=None, less=None
            )
        else:
            more = (shown.picture_at or 0) + 1
            self._show(picture_at=more if more < len(shown.pictures) else None, less=None)

    @work
    async def action_plan(self) -> None:
        """Draw a further plan."""
        data = self.shown.data
        if data is None:
            return
        plan = await self._asked(
            "What is drawn, and how large? Name, width and height in mm.", PLAN_EXAMPLE, typed_plan
        )
        if plan is None:
            return
        if any(one.name == plan.name for one in data.plans):
            self.notify(f"There is a plan {plan.name} already: choose another name.", severity="error")
            return
        self._changes.new_plan(data, plan)
        self._load(
            plan_at=len(data.plans),
            cursor=(0.5 * plan.width_mm, 0.5 * plan.height_mm),
            corner=None,
            less=None,
        )

    async def _asked(self, question: str, example: str, reads: Callable[[str], Any]) -> Any:
        """A line that is asked for until it can be read; None where it was left."""
        typed: str | None = ""
        while True:
            typed = await self.app.push_screen_wait(Ask(question, typed or "", hint=example))
            if not typed:
                return None
            try:
                return reads(typed)
            except (Unreadable, InputError) as problem:
                self.notify(str(problem), severity="error", timeout=12)

    @work
    async def action_spot(self) -> None:
        """A spot at the cursor."""
        await self._add(SPOT, *self.shown.cursor, 0.0, 0.0)

    @work
    async def action_area(self) -> None:
        """An area between the first corner and the cursor."""
        await self._box(AREA)

    @work
    async def action_part(self) -> None:
        """A part between the first corner and the cursor."""
        await self._box(PART)

    async def _box(self, kind: str) -> None:
        shown = self.shown
        if shown.plan is None or shown.corner is None:
            self._show(corner=shown.cursor if shown.plan is not None else None)
            return
        x, y, width, height = rectangle(shown.corner, shown.cursor)
        self._show(corner=None)
        if width and height:
            await self._add(kind, x, y, width, height)
        else:
            self.notify("The two corners lie on one line: set them apart.", severity="warning")

    async def _add(self, kind: str, x: float, y: float, width: float, height: float) -> None:
        data, plan = self.shown.data, self.shown.plan
        if data is None or plan is None:
            self.notify("First a plan: n draws one.", severity="warning")
            return

        def reads(line: str) -> Plan:
            name, made_of = typed_item(line)
            at_x, at_y, wide, high = (round(v, 1) for v in (x, y, width, height))
            return with_item(plan, Item(name, kind, at_x, at_y, wide, high, made_of))

        drawn = await self._asked(
            f"The name of this {kind}, and what its surface is of (board unless you say so).",
            "vrm back, black tape",
            reads,
        )
        if drawn is not None:
            name = drawn.items[-1].name
            self._changes.redraw(data, drawn, plan, f"{kind} {name}")
            self._load(chosen=name)

    @work
    async def action_picture(self) -> None:
        """Bring a temperature picture of this face in."""
        data, plan = self.shown.data, self.shown.plan
        if data is None or plan is None:
            self.notify("First a plan of what it shows: n draws one.", severity="warning")
            return
        from samovar.exchange.temperature_picture import EXAMPLE, named_picture, read_picture

        room_c = data.room.value if data.room is not None else None
        picture = await self._asked(
            f"A picture of all of {plan.name}: CSV of degrees, or a 16-bit PNG or TIFF with scale and offset; its emissivity and "
            "what it mirrored where they are not 0.95 and the room.",
            EXAMPLE, lambda line: aside(read_picture, named_picture(line), room_c),
        )  # fmt: skip
        if picture is None:
            return
        count = self._changes.bring(data, plan, picture)
        self._load(picture_at=len(data.pictures_on(plan)), less=None)
        rows, columns = picture.celsius.shape
        named = f"; {count} readings kept, the hottest of each" if count else ""
        self.notify(f"{picture.name}: {columns} x {rows} pixels{named}.")

    @work
    async def action_hand(self) -> None:
        """A reading at the chosen spot."""
        data, chosen = self.shown.data, self.shown.chosen
        if data is None or not chosen:
            self.notify("First a spot to read at: s sets one at the cursor.", severity="warning")
            return
        options = [("surface", "a spot thermometer, °C"), ("contact", "a contact probe, °C")]
        kind = await self.app.push_screen_wait(Choose(f"Read at {chosen} with what?", options))
        if kind is None:
            return
        there = aside(circumstances_of, self._place.session.archive, data.run)
        reading = await ask_value(self._place, kind, there, more=f" At {chosen}.")
        if reading is not None:
            self._changes.read(data, replace(reading, place=chosen))
            self._load()

    @work
    async def action_less(self) -> None:
        """What another run's picture of this face shows less."""
        shown = self.shown
        if shown.less is not None:
            self._show(less=None)
            return
        others = []
        if shown.data is not None and shown.plan is not None and shown.kept is not None:
            others = aside(runs_beside, self._place.session.archive, shown.data, shown.plan)
        if not others:
            self.notify(
                "A difference needs a picture here, and one of this face in another run.", severity="warning"
            )
            return
        options = [(run.id, f"{run.load}, pass {run.pass_number}") for run, _ in others]
        chosen = await self.app.push_screen_wait(Choose("Less which run's picture?", options))
        self._show(less=next(((run.id, kept) for run, kept in others if run.id == chosen), None))

    @work
    async def action_watts(self) -> None:
        """How warm it would be at another heat."""
        data = self.shown.data
        if data is None or data.room is None or data.heat_w is None:
            self.notify("This needs the room and the package power, steady, of this run.", severity="warning")
            return
        question = f"At how many watts? This run had {data.heat_w.text('W')}. Escape takes it away."
        self._show(heat_w=await self._asked(question, "95", typed_watts))

    @work
    async def action_take_off(self) -> None:
        """Take something away: what is at the cursor, the picture, the plan."""
        data, plan, kept = self.shown.data, self.shown.plan, self.shown.kept
        if data is None or plan is None:
            return
        here = self.shown.here(self._step_mm)
        options = [(f"{here.kind} {here.name}", "at the cursor")] if here is not None else []
        options += [(f"picture {kept.picture.name}", "its readings stay")] if kept is not None else []
        options += [(f"plan {plan.name}", "with all that is drawn on it")]
        what = await self.app.push_screen_wait(Choose("Take what away?", options))
        if what is None:
            return
        if here is not None and what == options[0][0]:
            self._changes.redraw(data, without(plan, here), plan, what)
        elif kept is not None and what == f"picture {kept.picture.name}":
            self._changes.drop_picture(data, kept)
        else:
            self._changes.drop_plan(data, plan)
        self._load(less=None)

    def action_undo(self) -> None:
        """Undo the last change."""
        words = self._changes.undo()
        if words is None:
            self.notify("Nothing was changed here yet.", severity="warning")
            return
        self._load()
        self.notify(f"Undone: {words}.")

    @work
    async def action_export(self) -> None:
        """Write the drawing as SVG and PDF."""
        data, plan = self.shown.data, self.shown.plan
        if data is None or plan is None:
            self.notify("There is nothing to draw yet: n draws a plan.", severity="warning")
            return
        question = "Write the drawing to which file? The PDF goes beside it."
        typed = await self.app.push_screen_wait(Ask(question, f"{data.run.id}-surfaces.svg"))
        if not typed:
            return
        from samovar.publish.surface_figures import write_one

        try:
            written = aside(
                write_one, Path(typed).expanduser(), data.run.id, plan, self.shown.kept, self.shown.told
            )
        except InputError as problem:
            self.notify(str(problem), severity="error", timeout=12)
            return
        self.notify(f"Written: {' and '.join(map(str, written))}")

    def action_manual(self) -> None:
        """The manual's page on surfaces."""
        from samovar.tui.screens.manual import ManualScreen

        self.app.push_screen(ManualScreen("surfaces"))

    def action_leave(self) -> None:
        """A corner that was set is taken back; else back to the run."""
        if self.shown.corner is not None:
            self._show(corner=None)
        else:
            self.dismiss(None)
