"""Every ± on a page, found again from the CSV files of its package alone."""

from __future__ import annotations

import csv
import math
import re
from collections import defaultdict
from itertools import permutations
from pathlib import Path

from samovar.core.compare.advantage import advantage, size_text
from samovar.core.compare.pooling import Spread
from samovar.core.compare.rungs import Ladder, compared, joined
from samovar.core.measured import Measured
from samovar.core.phases import Phase
from samovar.core.reading import Reading, ThermalFigures
from samovar.core.results.figure import Figure, RunResult, figure_of, figures_in
from samovar.core.results.result import BY_HAND, Result
from samovar.core.results.steps import Step, StepResults

Row = dict[str, str]
MANY = 30
"""A page that prints fewer was not read right."""
MEASURED = re.compile(r"\d+(?:\.\d+)? ±\d+(?:\.\d+)?")


def rows_of(path: Path) -> list[Row]:
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def number(text: str) -> float | None:
    return float(text) if text else None


class FromTheTables:
    """A publication's runs, put together from its tables."""

    def __init__(self, folder: Path) -> None:
        self.runs = {r["run"]: r for r in rows_of(folder / "runs.csv")}
        results, hands = rows_of(folder / "results.csv"), rows_of(folder / "readings.csv")
        named = {
            (h["run"], h["kind"] if h["kind"] == "noise" else h["place"]): h["instrument"] for h in hands
        }
        self.spreads = {
            (r["rig"], r["load"], r["figure"]): Spread(float(r["variance"]), float(r["degrees_of_freedom"]))
            for r in rows_of(folder / "spreads.csv")
        }
        whole: dict[str, list[Result]] = defaultdict(list)
        stepped: dict[str, dict[str, list[Result]]] = defaultdict(lambda: defaultdict(list))
        for r in results:
            one = Result(
                r["part"] or None, r["channel"] or None, r["quantity"], r["statistic"], r["unit"], float(r["value"]),
                number(r["half_width_95"]), r["bound"] or None, r["source"], direction=r["direction"] or None,
                common_of=named.get((r["run"], r["part"] or r["quantity"]), "") if r["source"] == BY_HAND else "",
            )  # fmt: skip
            (stepped[r["run"]][r["step"]] if r["step"] else whole[r["run"]]).append(one)
        self.hands = [
            Measured(float(h["value"]), number(h["half_width_95"]), h["bound"] or None).text(h["unit"])
            for h in hands
            if h["value"]
        ]
        orders: dict[str, int] = {}
        self.results: dict[str, RunResult] = {}
        for run in sorted(self.runs.values(), key=lambda r: (r["started"], r["run"])):
            orders[run["rig"]] = orders.get(run["rig"], -1) + 1
            power = next(
                (
                    x.value
                    for x in whole[run["run"]]
                    if (x.statistic, x.quantity, x.part) == ("steady", "power", "package")
                ),
                None,
            )
            room = (
                Measured(float(run["room_c"]), number(run["room_half_width_95_k"])) if run["room_c"] else None
            )
            reading = Reading(
                0, 0.0, 1.0, [], [], (), [], [], [Phase("load", 0.0, 1.0)], None, {}, {}, [], [], [], run["judgement"] or None,
                ThermalFigures(None, None, None, power, None, None, (), None), None, room=room,
            )  # fmt: skip
            steps = [StepResults(Step(name, 0.0, 1.0), found) for name, found in stepped[run["run"]].items()]
            self.results[run["run"]] = RunResult(
                run["run"], reading, whole[run["run"]], run["state"], None, steps, orders[run["rig"]]
            )

        surfaces = rows_of(folder / "surfaces.csv") if (folder / "surfaces.csv").exists() else []
        self.surfaces = [
            ((r["plan"], r["name"]), Measured(float(r["value_c"]), number(r["half_width_95_k"])))
            for r in surfaces
            if r["statistic"] != "mean"
        ]
        self.paid: list[tuple[float, float, float]] = []
        self.setups = {r["setup"]: r for r in rows_of(folder / "setups.csv")}

    def ladders(self) -> list[tuple[Figure, Ladder]]:
        """Every ladder there is: of every figure, under every load, on every rig, against every setup."""
        cells: dict[tuple[str, str], dict[str, list[RunResult]]] = defaultdict(lambda: defaultdict(list))
        for run in self.runs.values():
            if not run["left_out"]:
                cells[run["rig"], run["load"]][run["setup"]].append(self.results[run["run"]])
        found = []
        for (rig, load), of in cells.items():
            figures = figures_in(x for runs in of.values() for r in runs for x in r.results)
            for figure in figures:
                prior = self.spreads.get((rig, load, figure.key))
                found += [(figure, compared(of, base, figure, prior=prior)) for base in of]
                if figure.key in ("rise", "work"):
                    self.for_the_price(figure, compared(of, self.reference(rig), figure, prior=prior))
        return found

    def reference(self, rig: str) -> str:
        return next(s["setup"] for s in self.setups.values() if s["rig"] == rig and s["reference"] == "true")

    def for_the_price(self, figure: Figure, ladder: Ladder) -> None:
        """What is paid for a kelvin less than the reference, and for a hundred units of work."""
        for rung in ladder.own:
            price, gap = number(self.setups[rung.name]["price"]), rung.difference
            if price is None:
                continue
            if figure.key == "work":
                self.paid.append(
                    (100.0 * price / rung.figure.value, rung.figure.half_width or 0.0, rung.figure.value)
                )
            elif gap is not None and gap.value < 0.0:
                base = number(self.setups[gap.other]["price"])
                fitted = [set(self.setups[n]["products"].split(" + ")) - {""} for n in (gap.other, rung.name)]
                extra = price - (base if base is not None and fitted[0] <= fitted[1] else 0.0)
                self.paid.append((extra / -gap.value, gap.half_width or 0.0, -gap.value))

    def rated(self, page: str) -> set[str]:
        """A maker's figures on a page, each found again from the runs of one setup with the product in it."""
        out = set()
        claims = [float(m[1]) for m in re.finditer(r"Claimed: rated \w+ ([\d.]+) ", page)]
        levels = [r.figure for figure, ladder in self.ladders() if figure.key == "noise" for r in ladder.own]
        for value in levels:
            out |= {Measured(abs(value.value - c), value.half_width).text(finest=1) for c in claims}
        loads = {(r["setup"], r["load"]) for r in self.runs.values()}
        for setup, load in loads:
            runs = [
                r for r in self.runs.values() if (r["setup"], r["load"], r["left_out"]) == (setup, load, "")
            ]
            heats = [
                Measured(float(r["headroom_w"]), number(r["headroom_half_width_95_w"]))
                for r in runs
                if r["headroom_w"]
            ]
            runs = [r for r in runs if not self.results[r["run"]].steps] or runs
            noises = [v for r in runs if (v := figure_of("noise").of(self.results[r["run"]])) is not None]
            heat, noise = joined(heats), joined(noises)
            if heat is not None and heat.half_width is not None:
                # What the meter of power may be off by, 5 %, is in it where it is held against a maker's figure.
                heat = Measured(heat.value, math.hypot(heat.half_width, 0.05 * heat.value))
            for value in (v for v in (heat, noise) if v is not None):
                out.add(value.text(finest=1))
                out |= {Measured(abs(value.value - c), value.half_width).text(finest=1) for c in claims}
        return out

    def texts(self) -> set[str]:
        """Everything with a ± that the tables say."""
        out, self.paid = set(self.hands), []
        for one in self.results.values():
            for results in (one.results, *(s.results for s in one.steps)):
                out |= {f.text(v) for f in figures_in(results) if (v := f.among(results)) is not None}
        for figure, ladder in self.ladders():
            out |= {figure.text(r.figure) for r in ladder.own}
            for a, b in permutations(ladder.own, 2):
                gaps = [ladder.difference(a.name, b.name, 0.0), a.difference]
                for gap in (g for g in gaps if g is not None):
                    out |= {
                        figure.text(gap.measured, signed=True),
                        figure.difference_text(gap.measured, signed=True),
                        figure.text(gap.measured),
                    }
                    for behind in (False, True):
                        out.add(size_text(figure, advantage(figure, gap, behind), b.figure.value))
        out |= {surface.text("°C") for _, surface in self.surfaces}
        for (here, a), (there, b) in permutations(self.surfaces, 2):
            if here == there:
                half = math.hypot(a.half_width or 0.0, b.half_width or 0.0)
                out.add(Measured(abs(a.value - b.value), half).text("K"))
        return out | {Measured(value, value * half / of).text(finest=2) for value, half, of in self.paid}


def lost_half_widths(target: Path) -> list[str]:
    """What a publication prints with a ± that its tables do not tell."""
    page = re.sub(
        r"<svg.*?</svg>|<[^>]+>", " ", (target / "index.html").read_text(encoding="utf-8"), flags=re.S
    )
    tables = FromTheTables(target)
    told = tables.texts() | tables.rated(page)
    have = {m[0] for text in told for m in MEASURED.finditer(text)}
    printed = [m[0] for m in MEASURED.finditer(page)]
    assert len(printed) > MANY, len(printed)
    return sorted({p for p in printed if p not in have})
