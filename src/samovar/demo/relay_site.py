"""The relay-site encoder board framed as a review: regulators under a spot thermometer, with and without a duct."""

from __future__ import annotations

from typing import Any

from samovar.archive.archive import Archive
from samovar.archive.records import Review
from samovar.bench.loads.catalogue import OwnLoad
from samovar.core.facts import Facts, ProcessorFacts, RoomFacts
from samovar.core.money import read_price
from samovar.core.product import Note

REVIEW = "Relay-site encoder board"
QUESTION = (
    "Do the regulators of the Ridge B7 stay under 85 °C on the relay site, and is a duct worth its fan?"
)
LOADS = ("encoder duty", "worst case")
FACTS = Facts(
    cpu=ProcessorFacts("Ridge B7", 4, 85.0, 1500.0, 2400.0, 12.0, None, None), room=RoomFacts(None, 0.25)
)

SPOTS: tuple[tuple[str, float], ...] = (("vrm", 1.0), ("vrm back", 0.88), ("vrm coils", 0.74))
"""Where the spot thermometer is held, and what share of the regulators' rise over the room is there: the board's back is cooled
by its copper, the coils by what air there is."""

PRODUCTS: dict[str, tuple[str, dict[str, Any], tuple[str, ...], tuple[Note, ...]]] = {
    "Ridge B7": (
        "board",
        {
            "width_m": 0.17, "depth_m": 0.17, "mass_kg": 0.48, "format": "mini", "socket": "soldered", "phases": 4,
            "memory_slots": 2, "ports": ["2 x SDI", "2 x LAN", "USB 3"], "supply_w": 36.0, "warranty_months": 60,
        },
        ("612.00 EUR list 2026-03-09 untaxed at Kaimann",),
        (Note("quirk", "the regulators sit behind the connectors, out of any draught"), Note("photograph", "ridge-b7-regulators.jpg")),
    ),
    "Duct R1": (
        "fan",
        {"height_m": 0.045, "width_m": 0.08, "depth_m": 0.11, "mass_kg": 0.11, "fan_size_m": 0.04, "speed_rpm": [1400.0, 1400.0], "rated_noise_dba": 24.0},
        ("27.50 EUR list 2026-03-09 untaxed at Kaimann",),
        (),
    ),
}  # fmt: skip


def frame(archive: Archive) -> Review:
    """Enter the review, its products, rig, load, course and setups; no run yet."""
    shelf, store = archive.shelf, archive.reviews
    rig = shelf.add_rig(
        "Ridge B7 in the relay cabinet",
        FACTS,
        {
            "memory": "8 GB", "board": "Ridge B7", "case": "relay cabinet", "system": "Bench Linux 4", "power_plan": "performance",
            "room_probe": "USB probe at the cabinet's inlet", "room_half_width_k": 0.5, "board_format": "mini",
        },
    )  # fmt: skip
    keys = {
        name: shelf.add_product(name, kind, body, [read_price(p, "2026-03-09") for p in prices], notes)
        for name, (kind, body, prices, notes) in PRODUCTS.items()
    }
    archive.plans.add_load(
        OwnLoad(
            "encoder duty",
            "ours",
            "heavy work",
            threads=3,
            duty=0.8,
            note="as three streams: 3 threads, 80 % duty",
        )
    )
    archive.plans.add_course(
        "Cabinet, with surfaces",
        {"load_most_s": 2400.0, "cool_down_most_s": 300.0, "readings": ["surface at the end"]},
    )
    review_id = store.add_review(
        REVIEW, QUESTION, LOADS, passes_wanted=2, courses=dict.fromkeys(LOADS, "Cabinet, with surfaces"),
        figure="at:temperature:vrm", demands=("regulators at most 85 °C", "regulators by hand at most 85 °C", "vrm back at most 85 °C", "vrm coils at most 85 °C"),
    )  # fmt: skip
    store.add_setup(review_id, "As delivered", rig, [keys["Ridge B7"]], reference=True)
    store.add_setup(
        review_id, "With duct", rig, [keys["Ridge B7"], keys["Duct R1"]], changes={"fan_rpm": 1400.0}
    )
    review = store.review(review_id)
    assert review is not None
    return review
