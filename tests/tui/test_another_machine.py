"""A rig that is another machine, with meters around it, in the real program: recorded, its wire cut and mended, read."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from pathlib import Path

from samovar.archive import Archive
from samovar.core.facts import Facts
from samovar.core.rig import INSTRUMENTS_FILE, REACHED_BY
from samovar.simulator.harbour import SETUPS
from samovar.simulator.instruments.modbus_logger import ModbusLogger, word
from samovar.simulator.instruments.mqtt_broker import MqttBroker
from samovar.simulator.instruments.scpi_meter import ScpiMeter
from samovar.simulator.rig import SimulatedRig
from samovar.simulator.tree import KernelTree
from tests.tui.terminal import Terminal

RELAY = Path(__file__).parent.parent / "agent" / "relay.py"
APART = ["unshare", "--net"]
"""Nothing of this machine's network can be reached from where the agent runs; what passes goes over its two pipes alone."""
COURSE = {
    "idle_least_s": 3.0, "idle_most_s": 3.0, "load_s": 18.0,
    "cool_down_most_s": 6.0, "readings": [],
}  # fmt: skip


@unittest.skipUnless(shutil.which("tmux"), "no tmux here: apt-get install tmux")
class AnotherMachineTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.tree = self.folder / "machine"
        self.tree.mkdir()
        self.rig = SimulatedRig(SETUPS["Loam P"])
        self.ended = threading.Event()
        files = KernelTree(self.tree, self.rig)
        living = threading.Thread(target=self.live, args=(files,), daemon=True)
        living.start()
        self.addCleanup(living.join)
        self.addCleanup(self.ended.set)

    def live(self, files: KernelTree) -> None:
        began = time.monotonic()
        while not self.ended.wait(0.1):
            self.rig.advance_to(time.monotonic() - began)
            files.write()
        files.close()

    def around(self) -> Path:
        """The meters around it, and the file that describes them."""
        meter = ScpiMeter({"MEAS:POW?": lambda: f"{self.rig.power_w / 0.9:.3E}"})
        logger = ModbusLogger(lambda _function: {0: word(self.rig.vrm_c)})
        room = MqttBroker(probe=("bench/room", lambda: '{"t": "22.4"}'), every_s=0.5)
        for one in (meter, logger, room):
            self.addCleanup(one.close)
        path = self.folder / "bench.toml"
        path.write_text(
            f'[[instrument]]\nname = "wall meter"\naddress = "{meter.address}"\n[[instrument.channel]]\n'
            'name = "Wall power"\nquantity = "power"\nunit = "W"\nrole = "wall"\nask = "MEAS:POW?"\n'
            f'[[instrument]]\nname = "thermocouples"\naddress = "{logger.address}?device=1"\n[[instrument.channel]]\n'
            'name = "Regulator back"\nquantity = "temperature"\nunit = "°C"\nrole = "surface"\nregister = "input:0"\n'
            'scale = 0.1\n'
            f'[[instrument]]\nname = "room"\naddress = "{room.address}"\n[[instrument.channel]]\nname = "Room corner"\n'
            'quantity = "temperature"\nunit = "°C"\ntopic = "bench/room"\nfield = "t"\n',
            encoding="utf-8",
        )  # fmt: skip
        return path

    def framed(self) -> Path:
        """An archive with one cell, on a rig that a wire reaches."""
        command = [sys.executable, RELAY, self.folder / "pids", self.folder / "down"]
        if shutil.which(APART[0]) and not subprocess.run([*APART, "true"], capture_output=True).returncode:
            command += APART
        command += [sys.executable, "-m", "samovar", "agent", "--sysroot", self.tree]
        path = self.folder / "a.sqlite"
        with Archive(path) as archive:
            archive.plans.add_course("Short", COURSE)
            details = {REACHED_BY: " ".join(map(str, command)), INSTRUMENTS_FILE: str(self.around())}
            rig = archive.shelf.add_rig("Pebble on the bench", Facts(), details)
            key = archive.reviews.add_review(
                "Far", "Is it quiet?", ["compression"], passes_wanted=1, courses={"compression": "Short"}
            )
            archive.reviews.add_setup(key, "As it came", rig, reference=True)
            archive.reviews.add_setup(key, "On feet", rig, changes={"surroundings": "on feet"})
        return path

    def test_it_is_recorded_with_its_wire_cut_and_mended_read_compared_and_published(self) -> None:
        archive = self.framed()
        terminal = Terminal(
            sys.executable, "-m", "samovar", "--archive", str(archive), size=(160, 50), folder=self.folder
        )
        self.addCleanup(terminal.close)
        terminal.until("Is it quiet")
        terminal.keys("3")
        screen = terminal.until(r"answers within \d+ ms, its clock is known within \d+ ms")
        screen = terminal.until("Room corner")
        for words in ("Tdie", "Wall power", "Regulator back"):
            self.assertIn(words, screen)
        terminal.keys("r")
        terminal.until("● recording")
        terminal.until("load on", 60.0)
        time.sleep(3.0)
        os.kill(int((self.folder / "pids").read_text().split()[0]), signal.SIGKILL)
        terminal.until("r0001 is sealed", 90.0)
        terminal.keys("Enter")
        terminal.until("r0001 ▸ Far")
        terminal.until("Wall power")
        terminal.keys("3", "r")
        terminal.until("On feet.*●|● recording")
        terminal.until("r0002 is sealed", 90.0)
        terminal.keys("5")
        screen = terminal.until("like for like")
        for words in ("As it came", "On feet"):
            self.assertIn(words, screen)
        terminal.keys("6")
        terminal.until("the draft, as it would be published")
        terminal.keys("p")
        terminal.until("Under whose name")
        terminal.type("Ada")
        terminal.keys("Enter")
        terminal.until("licence")
        terminal.keys("Enter")
        terminal.until("Publish into which folder")
        terminal.keys("Enter")
        terminal.until("Published", 300)
        terminal.keys("q")
        terminal.until("ended with 0")
        with Archive(archive) as opened:
            run = opened.runs.run("r0001")
            assert run is not None
            self.assertEqual(run.state, "sealed")
            recording = opened.runs.recording(1)
            said = [mark.text for mark in recording.marks]
            for words in (" gone", "counts as ended", "answers again"):
                self.assertTrue(any(words in text for text in said), (words, said))
            names = [c.name for c in recording.channels]
            for name in ("Tdie", "Wall power", "Regulator back", "Room corner", "Samovar itself"):
                self.assertIn(name, names)
            known = {n: v[~(v != v)] for n, v in zip(names, recording.values, strict=True)}
            self.assertEqual(set(known["Room corner"]), {22.4})
            self.assertGreater(len(known["Wall power"]), 0.9 * len(recording.time_s))
        page = (self.folder / "far" / "index.html").read_text(encoding="utf-8")
        for words in ("As it came", "On feet"):
            self.assertIn(words, page)
        self.assertIn("Wall power", (self.folder / "far" / "results.csv").read_text(encoding="utf-8"))
        self.assertIn("r0001:", self.called(archive, "read", "r0001"))
        # The same by the command line.
        compared = self.called(archive, "compare", "far", "--by", "steady:power:wall")
        for words in ("As it came", "On feet"):
            self.assertIn(words, compared)
        self.called(archive, "publish", "far", "--to", str(self.folder / "by command"))
        published = (self.folder / "by command" / "results.csv").read_text(encoding="utf-8")
        self.assertIn("Regulator back", published)

    def called(self, archive: Path, *arguments: str) -> str:
        """What a call of the command line answers on standard output."""
        done = subprocess.run(
            [sys.executable, "-m", "samovar", *arguments, "--archive", str(archive)], capture_output=True, text=True
        )  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout


if __name__ == "__main__":
    unittest.main()
