"""The reporters' laptop framed as a review: processor and graphics at once, flat on a desk and on a stand."""

from __future__ import annotations

from typing import Any

from samovar.archive.archive import Archive
from samovar.archive.records import Review
from samovar.bench.loads.catalogue import OwnLoad
from samovar.core.facts import Facts, GraphicsFacts, ProcessorFacts, RoomFacts
from samovar.core.money import read_price
from samovar.core.product import Note

REVIEW = "Reporters' laptop"
QUESTION = "Does a stand let the Wigeon S14 cut pictures faster while it mixes sound, or is it only cooler?"
BOTH = "both at once"
LOADS = (BOTH, "graphics drawing")
FACTS = Facts(
    cpu=ProcessorFacts("Halden 6U", 6, 98.0, 2200.0, 4600.0, 32.0, 54.0, 28.0),
    gpu=GraphicsFacts(87.0),
    room=RoomFacts(None, 0.15),
)

PRODUCTS: dict[str, tuple[str, dict[str, Any], tuple[str, ...], tuple[Note, ...]]] = {
    "Wigeon S14": (
        "laptop",
        {
            "height_m": 0.0169, "width_m": 0.314, "depth_m": 0.222, "mass_kg": 1.48, "processor": "Halden 6U, 6 cores",
            "memory": "32 GB", "graphics": "Merle G2, beside the processor", "storage": "1 TB",
            "ports": ["2 x USB-C", "HDMI", "card reader"], "supply_w": 100.0, "rated_noise_dba": 38.0, "fans": 2,
            "warranty_months": 24,
        },
        ("1649.00 EUR street 2026-03-11 tax 19 % at Kaimann",),
        (Note("quirk", "its inlets are in the underside, 2 mm over the desk"),),
    ),
    "Perch 2": (
        "laptop stand",
        {"height_m": 0.062, "width_m": 0.26, "depth_m": 0.235, "mass_kg": 0.72, "warranty_months": 24},
        ("34.90 EUR street 2026-03-11 tax 19 % at Kaimann",),
        (Note("note", "no fan of its own: it lifts the inlets off the desk"),),
    ),
}  # fmt: skip
SETUPS: tuple[tuple[str, tuple[str, ...], dict[str, Any]], ...] = (
    ("Flat on the desk", ("Wigeon S14",), {"surroundings": "flat on the desk"}),
    ("On the stand", ("Wigeon S14", "Perch 2"), {"surroundings": "on the stand"}),
)
CLAIMS = (
    ("cooler", "On the stand", "Flat on the desk", BOTH),
    ("more-work", "On the stand", "Flat on the desk", BOTH),
)


def frame(archive: Archive) -> Review:
    """Enter the review, its products, rig, load, course, setups and claims; no run yet."""
    shelf, store = archive.shelf, archive.reviews
    rig = shelf.add_rig(
        "Wigeon S14 on the desk",
        FACTS,
        {
            "memory": "32 GB", "graphics": "Merle G2, beside the processor", "storage": "Silt S1 1 TB", "system": "Bench Linux 4",
            "power_plan": "performance", "room_probe": "USB probe, on the desk behind it", "room_half_width_k": 0.3,
            "meter_class": "class 2", "meter_distance_m": 1.0, "background_dba": 19.0,
        },
    )  # fmt: skip
    keys = {
        name: shelf.add_product(name, kind, body, [read_price(p, "2026-03-11") for p in prices], notes)
        for name, (kind, body, prices, notes) in PRODUCTS.items()
    }
    archive.plans.add_load(
        OwnLoad(BOTH, "several", parts=("worst case", "graphics drawing"), note="mixing and cutting at once")
    )
    archive.plans.add_course(
        "Laptop, twenty minutes",
        {"load_s": 1200.0, "cool_down_most_s": 300.0, "readings": ["noise when settled"]},
    )
    review_id = store.add_review(
        REVIEW, QUESTION, LOADS, passes_wanted=2, courses=dict.fromkeys(LOADS, "Laptop, twenty minutes"),
        figure="steady:work:gpu 1/s", demands=("wish steady:work:gpu 1/s", "wish work", "wish noise"),
    )  # fmt: skip
    setups = {
        name: store.add_setup(
            review_id, name, rig, [keys[p] for p in fitted], reference=name == SETUPS[0][0], changes=changes
        )
        for name, fitted, changes in SETUPS
    }
    for kind, name, other, load in CLAIMS:
        store.add_claim(review_id, kind, setups[name], setups[other], load)
    review = store.review(review_id)
    assert review is not None
    return review
