"""A review as a page that stands alone: one HTML file with its figures inside."""

from __future__ import annotations

import base64
import re
from collections.abc import Sequence
from pathlib import Path

from samovar import __version__
from samovar.exchange.photograph import scaled
from samovar.figures.card import LOOKS
from samovar.publish.article import Article, Photo, Picture, SoundPiece, told
from samovar.publish.form import PLAIN, Form
from samovar.publish.markdown import html_of

PAGE_PX = 1200
"""Photographs inside the page are no wider; the whole ones lie beside it."""
_IDS = re.compile(r'(\bid="|url\(#|href="#)([^")]+)')


def page_of(
    article: Article, folder: Path, subject: str, others: Sequence[Picture], form: Form = PLAIN
) -> str:
    """The page; its figures are read from the folder they were drawn into.

    Args:
        article: what it says.
        folder: the publication's.
        subject: the words of what the review is about.
        others: figures that are files only, as links.
        form: the language and the units of what the page itself says.
    """
    from jinja2 import Environment, PackageLoader, StrictUndefined

    environment = Environment(
        loader=PackageLoader("samovar", "publish/templates"), autoescape=True, undefined=StrictUndefined
    )
    environment.globals["_"] = form.text
    seen: dict[Path, int] = {}

    def inside(picture: Picture) -> str:
        number = seen.setdefault(picture.path, len(seen) + 1)
        return svg_inside(folder / f"{picture.file}.svg", picture, f"f{number}-")

    return environment.get_template("index.html.j2").render(
        a=article,
        told=[html_of(one) if isinstance(one, str) else one for one in told(article)],
        inlined=inlined,
        heard=heard,
        inside=inside,
        subject=subject,
        others=others,
        version=__version__,
        language=form.code,
        looks=LOOKS,
    )


def inlined(photo: Photo) -> str:
    """A photograph as it can stand in a page, scaled to its width."""
    data = base64.b64encode(scaled(photo.image, PAGE_PX)).decode()
    return f"data:image/{'png' if photo.kind == 'png' else 'jpeg'};base64,{data}"


def heard(piece: SoundPiece) -> str:
    """A piece of sound as it can stand in a page."""
    return f"data:audio/flac;base64,{base64.b64encode(piece.flac).decode()}"


def svg_inside(path: Path, picture: Picture, prefix: str) -> str:
    """An SVG as it can stand in a page: without the XML prolog, its ids its own, and with words for those who do not see it."""
    from markupsafe import escape

    text = path.read_text(encoding="utf-8")
    svg = _IDS.sub(lambda found: f"{found[1]}{prefix}{found[2]}", text[text.index("<svg") :])
    words = escape(f"{picture.title}. {picture.finding}".strip())
    end = svg.index(">")
    return f'{svg[:end]} role="img" aria-label="{words}"{svg[end:]}'
