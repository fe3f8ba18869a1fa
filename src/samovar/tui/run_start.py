"""Starting a run on the Bench, with what a person has to decide before: leave for a stranger's command, no guard."""

from __future__ import annotations

from collections.abc import Callable

from samovar.archive.records import Setup
from samovar.bench.course_spec import CourseSpec
from samovar.bench.loads.catalogue import OwnLoad, commands_of
from samovar.bench.loads.protocol import LoadError
from samovar.bench.machine import Machine
from samovar.core.same_machine import unlike_machine
from samovar.recording.live import LiveRun
from samovar.recording.under_guard import Unguardable
from samovar.sources.protocol import Source, close_all
from samovar.tui.aside import aside, behind
from samovar.tui.listening import give_ears
from samovar.tui.screens.place import Place
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.leave import Leave

OTHER_RIG, ALL_THE_SAME = "do not record: another machine", "record it all the same"
UNGUARDED, DO_NOT = "record it unguarded", "do not record"


def start_run(
    place: Place,
    setup: Setup | None,
    load: str,
    begun: Callable[[LiveRun], None],
    unguarded: bool = False,
    same: bool = False,
) -> None:
    """Record a cell, or a load in the inbox; `begun` takes the run that is to be started. Where a person has to decide
    something first, a sheet asks, and the run begins after the answer, or not. `same`: that the machine is the setup's rig is
    settled."""
    session = place.session
    rig = setup.rig if setup is not None else None
    try:
        # Another machine has to be reached first.
        machine = aside(session.equipment.machine, rig)
    except LoadError as problem:
        place.notify(str(problem), severity="error", title="The rig cannot be measured", timeout=12)
        return
    unlike = [] if same else aside(unlike_rig, machine, setup)
    if unlike:
        place.run_worker(
            _ask_rig(place, setup, unlike, lambda: start_run(place, setup, load, begun, unguarded, same=True))
        )
        return
    spec = session.spec(setup, load)
    waiting = waiting_for_leave(session.archive.plans.own_loads(), spec)
    if waiting:
        place.run_worker(
            _ask_leave(place, waiting, lambda: start_run(place, setup, load, begun, unguarded, same))
        )
        return
    beside: list[Source] = []
    try:
        # All sensors are looked at before a run begins: that may take a while.
        beside = aside(session.equipment.open_beside, rig)
        live = aside(
            LiveRun,
            behind(session.archive),
            machine,
            spec,
            review=session.review if setup else None,
            setup=setup,
            attended=True,
            typed=True,
            unguarded=unguarded,
            beside=beside,
        )
    except Unguardable as problem:
        close_all(beside)
        place.run_worker(
            _ask_unguarded(
                place, str(problem), lambda: start_run(place, setup, load, begun, unguarded=True, same=same)
            )
        )
        return
    except LoadError as problem:
        close_all(beside)
        place.notify(str(problem), severity="error", title="The load cannot be put on")
        return
    give_ears(place, live, beside)
    begun(live)


def unlike_rig(machine: Machine, setup: Setup | None) -> list[str]:
    """In what the machine that is plugged in differs from a setup's rig, in words; empty where it does not, or nobody knows."""
    if setup is None or setup.rig is None:
        return []
    if machine.fit(setup.name, [p.name for p in setup.products], setup.changes):
        return []
    return unlike_machine(machine.known_facts(), setup.rig.values())


def waiting_for_leave(own: dict[str, OwnLoad], spec: CourseSpec) -> list[OwnLoad]:
    """The commands of a course that came with a document, and that nobody has agreed to yet."""
    names = dict.fromkeys(part.load or spec.load for part in spec.plan)
    return [c for n in names if n in own for c in commands_of(own[n], own) if c.waits_for_leave]


async def leave_for(place: Place, waiting: list[OwnLoad]) -> bool:
    """Whether a person has read and allowed each of these commands."""
    for one in waiting:
        if not await place.app.push_screen_wait(Leave(one)):
            place.notify(f"{one.name} does not run: nobody has agreed to its command.", severity="warning")
            return False
        place.session.archive.plans.allow(one.name)
    return True


async def _ask_leave(place: Place, waiting: list[OwnLoad], go_on: Callable[[], None]) -> None:
    if await leave_for(place, waiting):
        go_on()


async def _ask_rig(place: Place, setup: Setup | None, unlike: list[str], go_on: Callable[[], None]) -> None:
    rig = setup.rig_name if setup is not None else ""
    options = [
        (OTHER_RIG, "its runs would stand beside another machine's; enter this one on the Shelf (1)"),
        (ALL_THE_SAME, f"it is {rig}, and its facts were entered wrongly, or are told wrongly"),
    ]
    question = f"This is not {rig}: {'; '.join(unlike)}."
    if await place.app.push_screen_wait(Choose(question, options)) == ALL_THE_SAME:
        go_on()


async def _ask_unguarded(place: Place, problem: str, go_on: Callable[[], None]) -> None:
    options = [
        (DO_NOT, "confirm the die's sensor in the rig"),
        (UNGUARDED, "the run is marked so, everywhere"),
    ]
    question = problem.partition(", or run it")[0] + "."
    if await place.app.push_screen_wait(Choose(question, options)) == UNGUARDED:
        go_on()
