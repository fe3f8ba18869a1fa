"""The article beside its editor: as it will be read, with what has changed since it was agreed to, or the draft where there is none."""

from __future__ import annotations

from collections.abc import Sequence

from rich.text import Text

from samovar.core.live_fields import ValueOf, changed_in, with_values
from samovar.figures.palette import Palette


def preview_text(palette: Palette, article: str, draft: Sequence[str], value_of: ValueOf) -> Text:
    """What stands in the preview."""
    text = Text()
    if not article.strip():
        for paragraph in draft:
            text.append(f"{paragraph}\n\n", palette.text)
        text.append(
            "n takes this draft into your article; until there is one it is published as it stands.",
            palette.soft,
        )
        return text
    changes = changed_in(article, value_of)
    for changed in changes:
        one = changed.field
        text.append(f"↻ {one.figure}, {one.setup}, {one.load}: ", f"bold {palette.caution}")
        text.append(f"{changed.now}, was {one.agreed}\n", palette.caution)
    if changes:
        text.append("g agrees to the numbers as they are now.\n\n", palette.soft)
    text.append(with_values(article, value_of), palette.text)
    return text
