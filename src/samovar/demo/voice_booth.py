"""The voice booth playout PC framed as a review: products, rig, setups, course, loads and claims."""

from __future__ import annotations

from typing import Any

from samovar.archive.archive import Archive
from samovar.archive.records import Review
from samovar.core.money import Rate, read_price
from samovar.core.product import Note
from samovar.demo.plan import FACTS
from samovar.simulator.instruments.booth import RIG

REVIEW = "Voice booth playout PC"
QUESTION = "Which cooler keeps the playout PC in the voice booth at work, at no more than 28 dBA?"
LOADS = ("everyday", "heavy work", "worst case")
NOISE_LIMIT_DBA = 28.0
_SOCKETS = ["HL8", "HL4"]

PRODUCTS: dict[str, tuple[str, dict[str, Any], tuple[str, ...], tuple[Note, ...]]] = {
    "Plain 65": (
        "air cooler",
        {
            "height_m": 0.063, "width_m": 0.092, "depth_m": 0.092, "overhang_m": 0.046, "memory_clearance_m": 0.028,
            "mass_kg": 0.31, "rated_heat_w": 65.0, "rated_noise_dba": 32.0, "fans": 1, "fan_size_m": 0.08,
            "speed_rpm": [1100.0, 2900.0], "sockets": ["HL8"], "materials": ["aluminium"], "warranty_months": 36,
        },
        (),
        (Note("in the box", "comes with the boxed processor, paste already on"), Note("quirk", "hunts between 1700 and 2600 rpm")),
    ),
    "Tern 47": (
        "air cooler",
        {
            "height_m": 0.047, "width_m": 0.095, "depth_m": 0.096, "overhang_m": 0.048, "memory_clearance_m": 0.031,
            "mass_kg": 0.42, "rated_heat_w": 95.0, "rated_noise_dba": 27.0, "fans": 1, "fan_size_m": 0.092,
            "fan_thickness_m": 0.014, "speed_rpm": [700.0, 1900.0], "airflow_m3_per_s": 0.0131,
            "sockets": _SOCKETS, "materials": ["copper", "aluminium"], "warranty_months": 72,
        },
        ("46.90 EUR street 2026-02-24 tax 19 % at Kaimann", "549 NOK list 2026-01-12 tax 25 % at Fjellbod"),
        (Note("rating", "easy to fit, but it never gets to grips with this chip", 5.0),),
    ),
    "Osprey 161": (
        "air cooler",
        {
            "height_m": 0.161, "width_m": 0.150, "depth_m": 0.135, "overhang_m": 0.068, "memory_clearance_m": 0.042,
            "mass_kg": 1.18, "rated_heat_w": 210.0, "rated_noise_dba": 24.0, "fans": 2, "fan_size_m": 0.14,
            "fan_thickness_m": 0.025, "speed_rpm": [300.0, 1000.0], "airflow_m3_per_s": 0.0322,
            "static_pressure_pa": 14.7, "sockets": _SOCKETS, "materials": ["copper", "aluminium"], "warranty_months": 72,
        },
        ("84.50 EUR street 2026-02-24 tax 19 % at Kaimann", "979 NOK street 2026-02-20 tax 25 % at Fjellbod"),
        (
            Note("rating", "quiet, and the booth does not hear it", 9.0),
            Note("in the box", "two fans, paste, a long screwdriver, brackets for both sockets"),
            Note("photograph", "osprey-161-over-memory.jpg"),
        ),
    ),
    "Fjord 280": (
        "liquid cooler",
        {
            "radiator_length_m": 0.315, "radiator_width_m": 0.143, "radiator_thickness_m": 0.030, "height_m": 0.054,
            "mass_kg": 1.52, "pump_w": 3.2, "rated_heat_w": 260.0, "rated_noise_dba": 34.0, "fans": 2,
            "fan_size_m": 0.14, "fan_thickness_m": 0.025, "speed_rpm": [500.0, 1700.0], "sockets": _SOCKETS,
            "materials": ["aluminium", "copper"], "warranty_months": 60,
        },
        ("129.00 EUR street 2026-02-24 tax 19 % at Kaimann",),
        (Note("fault on arrival", "one fan screw missing"), Note("rating", "cold, and the pump can be heard", 6.5)),
    ),
    "Loam P": (
        "air cooler",
        {
            "height_m": 0.158, "width_m": 0.152, "depth_m": 0.126, "overhang_m": 0.051, "memory_clearance_m": 0.044,
            "mass_kg": 1.36, "rated_heat_w": 140.0, "rated_noise_dba": 21.0, "fans": 1, "fan_size_m": 0.12,
            "fan_thickness_m": 0.025, "speed_rpm": [0.0, 900.0], "sockets": _SOCKETS, "materials": ["copper", "aluminium"],
            "warranty_months": 72,
        },
        ("109.00 EUR street 2026-02-25 tax 19 % at Kaimann", "1190 NOK sale 2026-02-20 tax 25 % at Fjellbod"),
        (Note("quirk", "the fan stands still below 48 °C"), Note("rating", "silent at the desk, good under load", 8.5)),
    ),
    "Heron 168": (
        "air cooler",
        {
            "height_m": 0.168, "width_m": 0.140, "depth_m": 0.152, "overhang_m": 0.076, "memory_clearance_m": 0.036,
            "mass_kg": 1.31, "rated_heat_w": 250.0, "rated_noise_dba": 26.0, "fans": 2, "fan_size_m": 0.14, "sockets": _SOCKETS,
        },
        ("99.00 EUR list 2026-02-24 tax 19 % at Kaimann",),
        (Note("note", "sent in by its maker; too tall for the booth's case"),),
    ),
    "Larch C2": (
        "case",
        {
            "height_m": 0.40, "width_m": 0.205, "depth_m": 0.43, "volume_m3": 0.0353, "cooler_height_m": 0.165,
            "radiators": ["320 top 58", "240 front 60"], "boards": ["micro", "mini"], "fans": 1, "fan_size_m": 0.12,
        },
        ("72.00 EUR street 2026-02-24 tax 19 % at Kaimann",),
        (),
    ),
    "Dab 6": ("paste", {"conductivity_w_per_mk": 8.5, "contents_kg": 0.004, "hottest_c": 180.0}, ("6.90 EUR list 2026-02-24 tax 19 % at Kaimann",), ()),
}  # fmt: skip
IN_REVIEW = ("Plain 65", "Tern 47", "Osprey 161", "Fjord 280", "Loam P")

DETAILS: dict[str, Any] = {
    "memory": "2 x 16 GB Quill 6000", "graphics": "on the processor", "storage": "Silt S1 1 TB", "board": "Ridge M4",
    "case": "Larch C2", "supply": "Moor 450", "system": "Bench Linux 4", "firmware": "1.14", "power_plan": "performance",
    "room_probe": "USB probe, 30 cm before the inlet", "room_half_width_k": 0.3, "meter_class": "class 2",
    "meter_distance_m": 1.0, "background_dba": 17.0, "panel_m": 0.165, "memory_distance_m": 0.053,
    "memory_height_m": 0.0405, "above_board_m": 0.172, "storage_height_m": 0.015,
    "radiators": ["320 top 58", "240 front 60"], "fan_mounts": ["120 rear", "120 front"], "socket": "HL8", "board_format": "micro",
}  # fmt: skip

CLAIMS: tuple[tuple[str, str, str | None, str], ...] = (
    ("cooler", "Osprey 161", "Plain 65", "worst case"),
    ("more-work", "Osprey 161", "Plain 65", "worst case"),
    ("not-held", "Plain 65", None, "worst case"),
    ("quiet-enough", "Osprey 161", None, "worst case"),
    ("cooler", "Loam P", "Osprey 161", "worst case"),
    ("more-work", "Fjord 280", "Osprey 161", "worst case"),
)

DEMANDS = ("price at most 120 EUR", "wish work", "wish rise", "wish price")

COURSES: dict[str, dict[str, Any]] = {
    "Booth, half an hour": {"load_most_s": 1800.0, "cool_down_most_s": 420.0, "readings": ["noise when settled"]},
    "Four fan speeds": {
        "steps": ["fans 40 % at most 12:00", "fans 60 % at most 12:00", "fans 80 % at most 12:00", "fans 100 % at most 12:00"],
        "readings": ["noise at 10:00", "noise at the end"],
    },
}  # fmt: skip


def frame(archive: Archive) -> Review:
    """Enter the review, its products, rig, course, setups and claims; no run yet."""
    shelf, store = archive.shelf, archive.reviews
    rig = shelf.add_rig(RIG, FACTS, DETAILS)
    keys = {
        name: shelf.add_product(name, kind, body, [read_price(p, "2026-03-02") for p in prices], notes)
        for name, (kind, body, prices, notes) in PRODUCTS.items()
    }
    shelf.add_rate(Rate("EUR", "NOK", 11.62, "2026-02-27"))
    for name, body in COURSES.items():
        archive.plans.add_course(name, body)
    review_id = store.add_review(
        REVIEW, QUESTION, LOADS, passes_wanted=2, noise_limit_dba=NOISE_LIMIT_DBA,
        courses=dict.fromkeys(LOADS, "Booth, half an hour"), demands=DEMANDS,
    )  # fmt: skip
    setups = {
        name: store.add_setup(review_id, name, rig, [keys[name]], reference=name == "Plain 65")
        for name in IN_REVIEW
    }
    for kind, name, other, load in CLAIMS:
        store.add_claim(review_id, kind, setups[name], setups[other] if other else None, load)
    review = store.review(review_id)
    assert review is not None
    return review
