"""The voice booth playout PC framed as a review: products, rig, setups, loads and claims."""

from __future__ import annotations

from samovar.archive.archive import Archive
from samovar.archive.records import Review
from samovar.demo.plan import FACTS

REVIEW = "Voice booth playout PC"
QUESTION = "Which cooler keeps the playout PC in the voice booth at work, at no more than 28 dBA?"
LOADS = ("everyday", "heavy work", "worst case")
NOISE_LIMIT_DBA = 28.0

PRODUCTS: dict[str, tuple[str, dict[str, float | str], float]] = {
    "Plain 65": (
        "air cooler",
        {"height_mm": 63, "mass_kg": 0.31, "rated_heat_w": 65, "rated_noise_dba": 32},
        0.0,
    ),
    "Tern L9": (
        "air cooler",
        {"height_mm": 47, "mass_kg": 0.42, "rated_heat_w": 95, "rated_noise_dba": 27},
        46.9,
    ),
    "Osprey D14": (
        "air cooler",
        {"height_mm": 161, "mass_kg": 1.18, "rated_heat_w": 210, "rated_noise_dba": 25},
        84.5,
    ),
    "Fjord 280": (
        "liquid cooler",
        {"radiator_mm": 280, "mass_kg": 1.52, "rated_heat_w": 260, "rated_noise_dba": 34},
        129.0,
    ),
    "Loam P": (
        "air cooler",
        {"height_mm": 158, "mass_kg": 1.36, "rated_heat_w": 140, "rated_noise_dba": 21},
        109.0,
    ),
}


CLAIMS: tuple[tuple[str, str, str | None, str], ...] = (
    ("cooler", "Osprey D14", "Plain 65", "worst case"),
    ("more-work", "Osprey D14", "Plain 65", "worst case"),
    ("not-held", "Plain 65", None, "worst case"),
    ("quiet-enough", "Osprey D14", None, "worst case"),
    ("cooler", "Loam P", "Osprey D14", "worst case"),
    ("more-work", "Fjord 280", "Osprey D14", "worst case"),
)


def frame(archive: Archive) -> Review:
    """Enter the review, its products, rig, setups and claims; no run yet."""
    store = archive.reviews
    rig = store.add_rig("Halden 8 in Larch C2", FACTS, {"case": "Larch C2", "room": "voice booth store room"})
    review_id = store.add_review(REVIEW, QUESTION, LOADS, passes_wanted=2, noise_limit_dba=NOISE_LIMIT_DBA)
    keys: dict[str, int] = {}
    for name, (kind, specification, price) in PRODUCTS.items():
        product = store.add_product(name, kind, dict(specification), price or None, "EUR" if price else None)
        keys[name] = store.add_setup(review_id, name, rig, [product], reference=name == "Plain 65")
    for kind, name, other, load in CLAIMS:
        store.add_claim(review_id, kind, keys[name], keys[other] if other else None, load)
    review = store.review(review_id)
    assert review is not None
    return review
