"""Ten reviews unlike each other, and the whole text that is drafted of each."""

from __future__ import annotations

import unittest
from pathlib import Path

from samovar.archive.field_values import values_of
from samovar.core.live_fields import changed_in, with_values
from samovar.publish.draft.draft import draft_of, draft_verdict, paragraphs_of
from tests.publish.told import ToldRun, ToldSetup, told

COOLERS = told(
    [
        ToldSetup(
            "Boxed", [ToldRun("throttles", {"rise": (72.0, 0.3, "at least"), "work": (640.0, 1.0), "noise": (39.0, 1.5), "clock": (3100.0, 3.0)}, ("thermal", 4500.0, 3100.0)),
                      ToldRun("throttles", {"rise": (72.1, 0.3, "at least"), "work": (641.0, 1.0), "noise": (39.2, 1.5), "clock": (3105.0, 3.0)}, ("thermal", 4500.0, 3105.0))], reference=True,
        ),
        ToldSetup(
            "Tall", [ToldRun("clear", {"rise": (48.0, 0.4), "work": (806.0, 1.0), "noise": (24.0, 1.5), "clock": (4490.0, 3.0)}),
                     ToldRun("clear", {"rise": (48.3, 0.4), "work": (807.0, 1.0), "noise": (24.1, 1.5), "clock": (4492.0, 3.0)})], {"Tall": 79.0},
        ),
        ToldSetup(
            "Flat", [ToldRun("clear", {"rise": (58.0, 0.4), "work": (801.0, 1.0), "noise": (26.0, 1.5), "clock": (4460.0, 3.0)}),
                     ToldRun("clear", {"rise": (58.4, 0.4), "work": (802.0, 1.0), "noise": (26.2, 1.5), "clock": (4461.0, 3.0)})], {"Flat": 49.0},
        ),
    ],
    demands=["noise at most 28 dBA", "wish rise", "wish price"], base_mhz=3400.0,
)  # fmt: skip
CASES = told(
    [
        ToldSetup("Closed front", [ToldRun("budget", {"rise": (52.0, 0.4), "work": (700.0, 1.0), "noise": (31.0, 1.5), "rise:temperature:storage": (34.0, 0.5), "clock": (3900.0, 3.0)}, ("power", 4300.0, 3900.0)),
                                   ToldRun("budget", {"rise": (52.2, 0.4), "work": (700.5, 1.0), "noise": (31.1, 1.5), "rise:temperature:storage": (34.2, 0.5), "clock": (3901.0, 3.0)}, ("power", 4300.0, 3901.0))], {"Larch C3": 89.0}, reference=True),
        ToldSetup("Mesh front", [ToldRun("budget", {"rise": (47.0, 0.4), "work": (701.0, 1.0), "noise": (33.0, 1.5), "rise:temperature:storage": (27.0, 0.5), "clock": (3905.0, 3.0)}, ("power", 4300.0, 3905.0)),
                                 ToldRun("budget", {"rise": (47.1, 0.4), "work": (701.5, 1.0), "noise": (33.2, 1.5), "rise:temperature:storage": (27.1, 0.5), "clock": (3906.0, 3.0)}, ("power", 4300.0, 3906.0))], {"Alder M1": 109.0}),
    ],
)  # fmt: skip
BOARD = told(
    [
        ToldSetup("As sold", [ToldRun("rides-limit", {"rise:temperature:vrm": (66.0, 0.6), "steady:temperature:vrm": (88.0, 0.6), "work": (190.0, 1.0), "clock": (1800.0, 3.0)}, ("thermal", 2120.0, 1800.0)),
                              ToldRun("rides-limit", {"rise:temperature:vrm": (66.3, 0.6), "steady:temperature:vrm": (88.4, 0.6), "work": (191.0, 1.0), "clock": (1805.0, 3.0)}, ("thermal", 2120.0, 1805.0))], reference=True),
        ToldSetup("With a duct", [ToldRun("clear", {"rise:temperature:vrm": (49.0, 0.6), "steady:temperature:vrm": (71.0, 0.6), "work": (215.0, 1.0), "clock": (2110.0, 3.0)}),
                                  ToldRun("clear", {"rise:temperature:vrm": (49.2, 0.6), "steady:temperature:vrm": (71.1, 0.6), "work": (216.0, 1.0), "clock": (2112.0, 3.0)})], {"Duct R1": 27.5}),
    ],
    figure="rise:temperature:vrm", demands=["regulators at most 85 °C"], base_mhz=1500.0,
)  # fmt: skip
MEMORY = told(
    [
        ToldSetup("Bare", [ToldRun(None, {"rise:temperature:memory": (39.0, 0.3), "score": (8120.0, None)})], reference=True),
        ToldSetup("Quill wing", [ToldRun(None, {"rise:temperature:memory": (30.0, 0.3), "score": (8135.0, None), "noise": (32.4, 1.5, "at most")})], {"Quill wing": 18.0}),
    ],
    figure="rise:temperature:memory",
)  # fmt: skip
STAND = told(
    [
        ToldSetup("Slate 14, on the desk", [ToldRun("rides-limit", {"rise": (70.0, 0.3, "at least"), "work": (300.0, 1.0), "clock": (2500.0, 3.0)}, ("thermal", 3400.0, 2500.0)), ToldRun("rides-limit", {"rise": (70.0, 0.3, "at least"), "work": (301.0, 1.0), "clock": (2505.0, 3.0)}, ("thermal", 3400.0, 2505.0))], rig="Slate 14", reference=True),
        ToldSetup("Slate 14, on the stand", [ToldRun("rides-limit", {"rise": (70.1, 0.3, "at least"), "work": (330.0, 1.0), "clock": (2750.0, 3.0)}, ("thermal", 3400.0, 2750.0)), ToldRun("rides-limit", {"rise": (70.0, 0.3, "at least"), "work": (331.0, 1.0), "clock": (2755.0, 3.0)}, ("thermal", 3400.0, 2755.0))], {"Heron stand": 35.0}, rig="Slate 14"),
        ToldSetup("Marl 16, on the desk", [ToldRun("budget", {"rise": (50.0, 0.3), "work": (500.0, 1.0), "clock": (3000.0, 3.0)}, ("power", 3900.0, 3000.0)), ToldRun("budget", {"rise": (50.3, 0.3), "work": (500.5, 1.0), "clock": (3001.0, 3.0)}, ("power", 3900.0, 3001.0))], rig="Marl 16", reference=True),
        ToldSetup("Marl 16, on the stand", [ToldRun("budget", {"rise": (46.0, 0.3), "work": (501.0, 1.0), "clock": (3004.0, 3.0)}, ("power", 3900.0, 3004.0)), ToldRun("budget", {"rise": (46.2, 0.3), "work": (501.5, 1.0), "clock": (3005.0, 3.0)}, ("power", 3900.0, 3005.0))], {"Heron stand": 35.0}, rig="Marl 16"),
    ],
    base_mhz=2200.0,
)  # fmt: skip
FANLESS = told(
    [
        ToldSetup("Ingot F1", [ToldRun("throttles", {"rise": (68.0, 0.3, "at least"), "work": (150.0, 1.0), "clock": (1400.0, 3.0), "noise": (17.0, None, "at most")}, ("thermal", 2900.0, 1400.0)), ToldRun("throttles", {"rise": (68.0, 0.3, "at least"), "work": (151.0, 1.0), "clock": (1404.0, 3.0), "noise": (17.0, None, "at most")}, ("thermal", 2900.0, 1404.0))], {"Ingot F1": 149.0}),
    ],
    demands=["noise at most 20 dBA", "work at least 200 1/s"], base_mhz=1600.0,
)  # fmt: skip
DRIVE = told(
    [
        ToldSetup("Without", [ToldRun(None, {"steady:temperature:storage": (84.0, 0.6), "steady:work:storage write": (900.0, 8.0)}), ToldRun(None, {"steady:temperature:storage": (84.5, 0.6), "steady:work:storage write": (905.0, 8.0)})], reference=True),
        ToldSetup("Slab", [ToldRun(None, {"steady:temperature:storage": (62.0, 0.6), "steady:work:storage write": (3180.0, 9.0)}), ToldRun(None, {"steady:temperature:storage": (62.3, 0.6), "steady:work:storage write": (3190.0, 9.0)})], {"Slab": 12.0}),
        ToldSetup("Fin", [ToldRun(None, {"steady:temperature:storage": (61.8, 0.6), "steady:work:storage write": (3185.0, 9.0)}), ToldRun(None, {"steady:temperature:storage": (62.2, 0.6), "steady:work:storage write": (3188.0, 9.0)})], {"Fin": 19.0}),
    ],
    load="long write", figure="steady:temperature:storage", demands=["wish steady:temperature:storage", "wish price"],
)  # fmt: skip
SINGLE_BOARD = told(
    [
        ToldSetup("Open", [ToldRun("throttles", {"rise": (60.0, 0.4, "at least"), "time": (1066.0, 2.0), "clock": (1500.0, 3.0)}, ("thermal", 2400.0, 1500.0)), ToldRun("throttles", {"rise": (60.0, 0.4, "at least"), "time": (1064.0, 2.0), "clock": (1502.0, 3.0)}, ("thermal", 2400.0, 1502.0))], reference=True),
        ToldSetup("Fan case", [ToldRun("clear", {"rise": (38.0, 0.4), "time": (842.0, 2.0), "clock": (2390.0, 3.0), "noise": (38.0, 3.0)}), ToldRun("clear", {"rise": (38.4, 0.4), "time": (843.0, 2.0), "clock": (2391.0, 3.0), "noise": (38.0, 3.0)})], {"Fan case": 22.0}),
        ToldSetup("Block case", [ToldRun("clear", {"rise": (52.0, 0.4), "time": (846.0, 2.0), "clock": (2389.0, 3.0), "noise": (17.0, None, "at most")})], {"Block case": 31.0}),
    ],
    load="video job", figure="time", demands=["noise at most 30 dBA", "wish time"], base_mhz=1800.0,
)  # fmt: skip
ALONE = told(
    [ToldSetup("Loam P", [ToldRun("clear", {"rise": (55.0, 0.4), "work": (790.0, 1.0), "noise": (22.0, 1.5), "clock": (4400.0, 3.0)}), ToldRun("clear", {"rise": (55.2, 0.4), "work": (790.4, 1.0), "noise": (22.2, 1.5), "clock": (4401.0, 3.0)})], {"Loam P": 109.0})],
    demands=["noise at most 28 dBA"], base_mhz=3400.0,
)  # fmt: skip
FAILED = told(
    [
        ToldSetup("Wren", [ToldRun("throttles", {"rise": (71.0, 0.3, "at least"), "work": (600.0, 1.0), "noise": (41.0, 1.5), "clock": (2900.0, 3.0)}, ("thermal", 4500.0, 2900.0)), ToldRun("throttles", {"rise": (71.0, 0.3, "at least"), "work": (600.5, 1.0), "noise": (41.2, 1.5), "clock": (2902.0, 3.0)}, ("thermal", 4500.0, 2902.0))], {"Wren": 19.0}),
        ToldSetup("Dunlin", [ToldRun("stopped", {"rise": (74.0, None, "at least")})], {"Dunlin": 24.0}),
        ToldSetup("Stint", [ToldRun("rides-limit", {"rise": (71.2, 0.3, "at least"), "work": (690.0, 1.0), "noise": (36.0, 1.5), "clock": (3600.0, 3.0)}, ("thermal", 4500.0, 3600.0)), ToldRun("rides-limit", {"rise": (71.2, 0.3, "at least"), "work": (690.0, 1.0), "noise": (36.3, 1.5), "clock": (3604.0, 3.0)}, ("thermal", 4500.0, 3604.0))], {"Stint": 29.0}),
    ],
    demands=["noise at most 30 dBA"], base_mhz=3400.0,
)  # fmt: skip
REVIEWS = {
    "coolers": COOLERS, "cases": CASES, "board": BOARD, "memory": MEMORY, "stand": STAND, "fanless": FANLESS,
    "drive": DRIVE, "single-board": SINGLE_BOARD, "alone": ALONE, "failed": FAILED,
}  # fmt: skip
TEXTS = Path(__file__).parent / "drafts"


class DraftTest(unittest.TestCase):
    def test_each_review_is_drafted_as_an_editor_would_put_it(self) -> None:
        for name, data in REVIEWS.items():
            with self.subTest(name):
                wanted = (TEXTS / f"{name}.md").read_text(encoding="utf-8")
                self.assertEqual("\n\n".join(draft_verdict(data, [])) + "\n", wanted)

    def test_every_number_of_a_figure_is_a_live_field(self) -> None:
        for name, data in REVIEWS.items():
            article = "\n\n".join(paragraphs_of(draft_of(data, [])))
            with self.subTest(name):
                self.assertEqual(changed_in(article, values_of(data)), [])
                self.assertNotIn("±", _bare(article), article)


def _bare(article: str) -> str:
    """What an article says outside of its fields."""
    return with_values(article, lambda field: "x")


if __name__ == "__main__":
    # Writes what is drafted now: to be read, every word of it, before it is kept.
    for name, data in REVIEWS.items():
        (TEXTS / f"{name}.md").write_text("\n\n".join(draft_verdict(data, [])) + "\n", encoding="utf-8")
