"""The outside-broadcast van framed as a review: a compact computer in a flight case, on a hot afternoon."""

from __future__ import annotations

from typing import Any

from samovar.archive.archive import Archive
from samovar.archive.records import Review
from samovar.core.facts import Facts, ProcessorFacts, RoomFacts
from samovar.core.money import read_price
from samovar.core.product import Note

REVIEW = "Outside-broadcast van"
QUESTION = (
    "Does the Pebble K4 keep up in its flight case at 34 °C, and does a vent kit or a larger budget help?"
)
LOADS = ("everyday", "heavy work", "worst case")
FACTS = Facts(
    cpu=ProcessorFacts("Pebble K4", 4, 90.0, 2100.0, 3800.0, 15.0, 25.0, 28.0), room=RoomFacts(None, 0.15)
)

PRODUCTS: dict[str, tuple[str, dict[str, Any], tuple[str, ...], tuple[Note, ...]]] = {
    "Pebble K4": (
        "compact computer",
        {
            "height_m": 0.044, "width_m": 0.126, "depth_m": 0.126, "mass_kg": 0.62, "processor": "Pebble K4, 4 cores",
            "memory": "16 GB", "graphics": "on the processor", "storage": "512 GB", "ports": ["4 x USB 3", "2 x HDMI", "2 x LAN"],
            "supply_w": 65.0, "rated_noise_dba": 36.0, "fans": 1, "warranty_months": 24,
        },
        ("489.00 EUR street 2026-03-05 tax 19 % at Kaimann",),
        (Note("rating", "small, sturdy, loud once it works", 7.0), Note("in the box", "supply, bracket, two screws too few")),
    ),
    "Pebble K2": (
        "compact computer",
        {
            "height_m": 0.036, "width_m": 0.112, "depth_m": 0.112, "mass_kg": 0.41, "processor": "Pebble K2, 2 cores",
            "memory": "8 GB", "graphics": "on the processor", "storage": "256 GB", "ports": ["2 x USB 3", "HDMI", "LAN"],
            "supply_w": 40.0, "rated_noise_dba": 34.0, "fans": 1, "warranty_months": 24,
        },
        ("279.00 EUR street 2026-03-05 tax 19 % at Kaimann",),
        (Note("note", "the spare of the van, in the small flight case with slots"),),
    ),
    "Vent kit V1": (
        "fan",
        {
            "height_m": 0.028, "width_m": 0.12, "depth_m": 0.06, "mass_kg": 0.19, "fan_size_m": 0.06, "speed_rpm": [1500.0, 1500.0],
            "airflow_m3_per_s": 0.0085, "rated_noise_dba": 26.0, "supply_w": 1.8,
        },
        ("38.00 EUR list 2026-03-05 tax 19 % at Kaimann",),
        (Note("fault on arrival", "cable 4 cm too short for the case"),),
    ),
}  # fmt: skip

SPARE_FACTS = Facts(
    cpu=ProcessorFacts("Pebble K2", 2, 90.0, 1800.0, 3400.0, 10.0, 12.0, 28.0), room=RoomFacts(None, 0.15)
)
SPARE: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("K2, closed", ("Pebble K2",)),
    ("K2, vent kit", ("Pebble K2", "Vent kit V1")),
)
"""The spare computer, a second rig for the same kit; its own reference comes first."""
_BUDGET = {"sustained_power_w": 22.0}
SETUPS: tuple[tuple[str, tuple[str, ...], dict[str, Any]], ...] = (
    ("Closed", ("Pebble K4",), {"surroundings": "flight case closed", "panel": "on"}),
    ("Vent kit", ("Pebble K4", "Vent kit V1"), {"surroundings": "flight case closed", "panel": "on"}),
    ("Closed, 22 W", ("Pebble K4",), {"surroundings": "flight case closed", "panel": "on", **_BUDGET}),
    (
        "Vent kit, 22 W",
        ("Pebble K4", "Vent kit V1"),
        {"surroundings": "flight case closed", "panel": "on", **_BUDGET},
    ),
)


def frame(archive: Archive) -> Review:
    """Enter the review, its products, rig, course and setups; no run yet."""
    shelf, store = archive.shelf, archive.reviews
    rig = shelf.add_rig(
        "Pebble K4 in its flight case",
        FACTS,
        {
            "memory": "16 GB", "storage": "Silt S1 512 GB", "case": "flight case of the van", "system": "Bench Linux 4",
            "power_plan": "balanced", "room_probe": "USB probe in the van, by the rack", "room_half_width_k": 0.3,
            "meter_class": "class 2", "meter_distance_m": 1.0, "background_dba": 24.0,
        },
    )  # fmt: skip
    keys = {
        name: shelf.add_product(name, kind, body, [read_price(p, "2026-03-05") for p in prices], notes)
        for name, (kind, body, prices, notes) in PRODUCTS.items()
    }
    archive.plans.add_course(
        "Van, hot afternoon", {"load_most_s": 2400.0, "cool_down_most_s": 300.0, "stop_above_c": 98.0}
    )
    review_id = store.add_review(
        REVIEW, QUESTION, LOADS, passes_wanted=2, courses=dict.fromkeys(LOADS, "Van, hot afternoon"),
        demands=("wish work", "wish rise"),
    )  # fmt: skip
    setups = {
        name: store.add_setup(
            review_id, name, rig, [keys[p] for p in fitted], reference=name == "Closed", changes=changes
        )
        for name, fitted, changes in SETUPS
    }
    spare = shelf.add_rig(
        "Pebble K2 in the small case",
        SPARE_FACTS,
        {
            "memory": "8 GB", "storage": "Silt S1 256 GB", "case": "small flight case with slots", "system": "Bench Linux 4",
            "power_plan": "balanced", "room_probe": "USB probe in the van, by the rack", "room_half_width_k": 0.3,
            "meter_class": "class 2", "meter_distance_m": 1.0, "background_dba": 24.0,
        },
    )  # fmt: skip
    for name, fitted in SPARE:
        store.add_setup(review_id, name, spare, [keys[p] for p in fitted], reference=name == SPARE[0][0])
    store.add_claim(review_id, "cooler", setups["Vent kit"], setups["Closed"], "worst case")
    store.add_claim(review_id, "more-work", setups["Vent kit, 22 W"], setups["Closed"], "worst case")
    review = store.review(review_id)
    assert review is not None
    return review
