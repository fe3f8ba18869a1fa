"""How long a review takes to be published: page, document, card, figures and data package."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from tests.demo_archive import demo_archive

from bench.table import Row


def measure() -> Iterator[Row]:
    """The demo's booth: five setups under three loads, their figures for page and column."""
    from samovar.archive import Archive
    from samovar.publish.review import publish_review

    with tempfile.TemporaryDirectory() as name, Archive(demo_archive(Path(name))) as archive:
        review = archive.reviews.reviews()[0]
        begun = time.perf_counter()
        files = publish_review(archive, review, Path(name) / "published")
        took_s = time.perf_counter() - begun
    yield Row(f"publishing 5 setups under 3 loads, {len(files)} files", took_s, 12.0, "s")
