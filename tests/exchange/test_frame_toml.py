"""Frames as TOML: nothing lost on the way, every mistake said with its place, never a traceback."""

from __future__ import annotations

import tempfile
import tomllib
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.fields import Field
from samovar.core.money import Rate
from samovar.core.product import KINDS, NOTE_KINDS, PRICE_KINDS, Note, Price
from samovar.core.quantity import ROLES
from samovar.core.rig import RIG_FIELDS
from samovar.core.setup_changes import CHANGES
from samovar.core.units import DIMENSIONS, Unreadable
from samovar.exchange.frame_toml import (
    ClaimFrame,
    Frame,
    ProductFrame,
    ReviewFrame,
    RigFrame,
    SetupFrame,
    frame_of,
    frame_text,
    read_frame,
    write_frame,
)
from samovar.exchange.problems import InputError

NAMES = (
    st.text(st.characters(exclude_categories=("C", "Zl", "Zp")), min_size=1, max_size=16)
    .map(str.strip)
    .filter(bool)
)
CHIP = {
    "cpu.cores": (1, 4096),
    "cpu.base_clock_mhz": (1, 20e3),
    "cpu.boost_clock_mhz": (1, 20e3),
    "cpu.burst_time_s": (0, 86400),
}
"""What a chip's facts are bounded by, narrower than their dimensions."""
DAYS = st.dates().map(lambda d: d.isoformat()).filter(lambda d: d > "1000")


def values(fields: tuple[Field, ...]) -> st.SearchStrategy[dict[str, Any]]:
    """Some values of some fields."""

    def one(field: Field) -> st.SearchStrategy[Any]:
        if field.key in CHIP:
            return (st.integers if field.of == "count" else st.floats)(*CHIP[field.key])  # type: ignore[operator]
        if field.key.endswith("temperature_limit_c"):
            return st.floats(1, 200)
        if field.key.startswith("cpu.") and field.of == "power":
            return st.floats(0.01, 20e3)
        if field.of in DIMENSIONS:
            return st.floats(DIMENSIONS[field.of].least, DIMENSIONS[field.of].most)
        if field.of == "range":
            return st.lists(st.floats(0, 9000), min_size=2, max_size=2).map(sorted)
        if field.of == "words":
            return st.lists(NAMES.filter(lambda n: "," not in n), min_size=1, max_size=3)
        if field.of == "count":
            return st.integers(0, 10**6)
        if field.of == "number":
            return st.floats(0, 1000)
        if field.of == "choice":
            return st.sampled_from(field.choices)
        return NAMES

    return st.fixed_dictionaries({}, optional={f.key: one(f) for f in fields})


PRICES = st.builds(
    Price,
    st.floats(0, 1e6),
    st.sampled_from(["EUR", "NOK"]),
    DAYS,
    st.sampled_from(PRICE_KINDS),
    st.booleans(),
    st.none() | st.floats(0, 1),
    NAMES,
)
NOTES = st.builds(Note, st.sampled_from(NOTE_KINDS), NAMES, st.none() | st.floats(0, 10))
PRODUCTS = st.sampled_from(sorted(KINDS)).flatmap(
    lambda kind: st.builds(
        ProductFrame,
        NAMES,
        st.just(kind),
        values(KINDS[kind]),
        st.lists(PRICES, max_size=2).map(tuple),
        st.lists(NOTES, max_size=2).map(tuple),
    )
)
RIGS = st.builds(
    RigFrame, NAMES, values(RIG_FIELDS), st.dictionaries(NAMES, st.sampled_from(ROLES), max_size=3)
)
SETUPS = st.builds(
    SetupFrame,
    NAMES,
    st.none() | NAMES,
    st.lists(NAMES, max_size=2).map(tuple),
    values(CHANGES),
    st.booleans(),
)
CLAIMS = st.builds(
    ClaimFrame, st.just("cooler"), st.none() | NAMES, st.none() | NAMES, NAMES, st.none() | NAMES
)


def review(
    name: str, loads: dict[str, str], rest: tuple[int, float, float, float | None, float | None, str], setups: list[SetupFrame],
    claims: list[ClaimFrame], demands: tuple[str, ...], elsewhere: tuple[str, ...],
    criteria: tuple[str, ...], priced: str, conclusion: tuple[str, ...],
) -> ReviewFrame:  # fmt: skip
    """A review that hangs together: one reference at most, claims about its own setups."""
    setups = [replace(s, reference=s.reference and k == 0) for k, s in enumerate(setups)]
    names = [s.name for s in setups]
    claims = [
        replace(c, setup=names[0] if names else None, other=names[-1] if names else None) for c in claims
    ]
    return ReviewFrame(
        name,
        name,
        name,
        tuple(loads),
        loads,
        *rest,
        demands,
        elsewhere,
        criteria,
        priced,
        conclusion,
        tuple(setups),
        tuple(claims),
    )


REVIEWS = st.builds(
    review, NAMES, st.dictionaries(NAMES, NAMES, max_size=3),
    st.tuples(st.integers(1, 20), st.floats(0, 9), st.floats(0, 1), st.none() | st.floats(0, 99), st.none() | st.floats(0.1, 9),
              st.sampled_from(["", "rise", "steady:temperature:memory", "peak:temperature:hotspot"])),
    st.lists(SETUPS, max_size=2, unique_by=lambda s: s.name), st.lists(CLAIMS, max_size=2),
    st.sampled_from([(), ("noise at most 28 dBA", "wish work")]), st.sampled_from([(), ("score 5012 points, K, by Q, 2026-01-12",)]),
    st.sampled_from([(), ("height less", "looks x2: A = 8, B = 6", "missing A: a hub, a fan")]), st.sampled_from(["", "EUR without tax"]),
    st.sampled_from([(), ("pick: A", "good: quiet", "rating: 9/10")]),
)  # fmt: skip
BODIES = st.dictionaries(
    NAMES, st.dictionaries(st.sampled_from(["load_s", "duty"]), st.floats(0, 1)), max_size=2
)
FRAMES = st.builds(
    Frame, st.lists(PRODUCTS, max_size=2).map(tuple), st.lists(RIGS, max_size=2).map(tuple), BODIES, BODIES,
    st.lists(st.builds(Rate, st.just("EUR"), st.just("NOK"), st.floats(0.1, 99), DAYS), max_size=2).map(tuple),
    st.lists(REVIEWS, max_size=2).map(tuple),
)  # fmt: skip


class FrameTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(FRAMES)
    def test_nothing_is_lost_on_the_way(self, frame: Frame) -> None:
        self.assertEqual(frame_of(tomllib.loads(frame_text(frame))), frame)

    @settings(max_examples=150, deadline=None)
    @given(
        st.recursive(
            st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=6),
            lambda inner: st.lists(inner, max_size=3) | st.dictionaries(
                st.sampled_from(["name", "kind", "samovar", "format", "product", "review", "setup", "changes", "panel", "prices", "rig", "x"]),
                inner, max_size=4,
            ),
            max_leaves=20,
        )
    )  # fmt: skip
    def test_any_document_is_read_or_refused_in_one_line(self, content: Any) -> None:
        document = content if isinstance(content, dict) else {}
        try:
            frame_of({**document, "samovar": {"format": 1}})
        except Unreadable as problem:
            self.assertTrue(str(problem))

    def test_mistakes_are_said_with_their_place(self) -> None:
        head = "[samovar]\nformat = 1\n"
        for text, words in (
            ("x = 1", "'x' is not understood"),
            ("[samovar]\nformat = 2", "format is not 1"),
            (head + '[[product]]\nkind = "fan"', "product 1: name: is missing"),
            (
                head + '[[product]]\nname = "x"\nkind = "toy"',
                "product 'x': kind: 'toy' is no kind of product",
            ),
            (
                head + '[[product]]\nname = "x"\nkind = "fan"\n[product.specification]\nheight_m = 161',
                "height_m: 161 is no height in mm; write",
            ),
            (
                head + '[[product]]\nname = "x"\nkind = "fan"\n[product.specification]\nhight_m = 1',
                "'hight_m' is not understood",
            ),
            (
                head
                + '[[product]]\nname = "x"\nkind = "fan"\n[[product.prices]]\namount = 1\ncurrency = "EUX"\nday = "2026-03-02"',
                "ISO 4217",
            ),
            (
                head + '[[rig]]\nname = "x"\n[rig.sensors]\n"a" = "nose"',
                "sensors.a: 'nose' is no role; write one of die",
            ),
            (
                head + '[[review]]\nname = "x"\npasses_wanted = "two"',
                "passes_wanted: 'two' is no whole number",
            ),
            (
                head
                + '[[review]]\nname = "x"\n[[review.setup]]\nname = "y"\n[review.setup.changes]\npanel = "ajar"',
                "setups 1.changes: panel: 'ajar' is none of on, off, vented",
            ),
            ("[[[", "correct the TOML there"),
            ("x = " + "[" * 5000, "nested too deeply"),
        ):
            with self.subTest(words=words), tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "x.toml"
                path.write_text(text)
                with self.assertRaises(InputError) as caught:
                    read_frame(path)
                self.assertIn(words, str(caught.exception))
                self.assertIn("x.toml: ", str(caught.exception))
                self.assertNotIn("\n", str(caught.exception))

    def test_a_person_may_write_units(self) -> None:
        frame = frame_of(
            tomllib.loads(
                '[samovar]\nformat = 1\n[[product]]\nname = "x"\nkind = "fan"\n[product.specification]\nheight_m = "1 in"\nspeed_rpm = "500-900"'
            )
        )
        self.assertEqual(frame.products[0].specification, {"height_m": 0.0254, "speed_rpm": [500.0, 900.0]})

    def test_a_place_that_cannot_be_written_is_said(self) -> None:
        with self.assertRaisesRegex(InputError, "name a place that can be written"):
            write_frame(Frame(), Path("/nowhere/at/all.toml"))
        with self.assertRaisesRegex(InputError, "check the name"):
            read_frame(Path("/nowhere/at/all.toml"))
        with self.assertRaisesRegex(InputError, "a device"):
            read_frame(Path("/dev/zero"))


if __name__ == "__main__":
    unittest.main()
