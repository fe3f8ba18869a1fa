"""Instruments set up on the Shelf from what they say, seen on the Desk, taken away and brought back."""

from __future__ import annotations

import stat
from pathlib import Path
from unittest.mock import patch

from textual.pilot import Pilot
from textual.widgets import OptionList

from samovar.exchange.instrument_file import read_instruments
from samovar.simulator.instruments.mqtt_broker import MqttBroker
from samovar.simulator.instruments.scpi_meter import ScpiMeter
from samovar.tui.app import SamovarApp
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.form import FormSheet
from tests.tui.driving import Driven, choose, screen_text, text_of, until


class MetersTest(Driven):
    async def add(self, app: SamovarApp, pilot: Pilot[None], address: str, reading: str) -> None:
        await pilot.press("m")
        await choose(app, pilot, "add one")
        await until(pilot, lambda: isinstance(app.screen, Ask))
        await pilot.press(*address, "enter")
        await choose(app, pilot, reading)
        await until(pilot, lambda: isinstance(app.screen, FormSheet))
        await pilot.press("ctrl+s")
        await until(pilot, lambda: isinstance(app.screen, Choose))
        await choose(app, pilot, "that is all")
        await until(pilot, lambda: app.screen is app.place("shelf"))

    def test_an_address_is_enough(self) -> None:
        meter = ScpiMeter({"MEAS:POW?": lambda: "104.5"}, "HARBOUR,SOCKET METER,7,1")
        broker = MqttBroker(
            probe=("bench/room", lambda: '{"air": {"temperature": "22.4", "ok": true}}'), every_s=0.3
        )
        self.addCleanup(meter.close)
        self.addCleanup(broker.close)

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("1", "g")
            await until(pilot, lambda: "instruments" in text_of(app, "#detail"))
            await self.add(app, pilot, meter.address, "MEAS:POW?")
            await self.add(app, pilot, broker.address, "bench/room")
            await until(pilot, lambda: "socket meter" in text_of(app, "#detail"))
            (path,) = (self.folder / "data").rglob("*.toml")
            self.assertEqual(stat.S_IMODE(path.stat().st_mode), 0o600)
            wall, room = read_instruments(path)
            self.assertEqual(
                (wall.name, wall.channel[0].ask, wall.channel[0].role), ("socket meter", "MEAS:POW?", "wall")
            )
            self.assertEqual(
                (room.channel[0].topic, room.channel[0].field), ("bench/room", "air.temperature")
            )
            await pilot.press("0", "u")
            await until(pilot, lambda: "104.5 W" in screen_text(app) and "22.4 °C" in screen_text(app))
            await pilot.press("1", "m")
            await until(pilot, lambda: bool(app.screen.query(OptionList)))
            await choose(app, pilot, "socket meter")
            await choose(app, pilot, "take it away")
            await until(pilot, lambda: "socket meter" not in text_of(app, "#detail"))
            self.assertEqual([one.name for one in read_instruments(path)], [room.name])
            await pilot.press("z")
            await until(pilot, lambda: "socket meter" in text_of(app, "#detail"))

        with patch("samovar.tui.shelf.meters.user_data_path", return_value=Path(self.folder / "data")):
            self.drive(steps)

    def test_where_nothing_is_that_is_said(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("1", "g", "m")
            await choose(app, pilot, "add one")
            await until(pilot, lambda: isinstance(app.screen, Ask))
            await pilot.press(*"scpi+tcp://127.0.0.1:1", "enter")
            await until(pilot, lambda: any("cannot be reached" in str(n.message) for n in app._notifications))

        self.drive(steps)
