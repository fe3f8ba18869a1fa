"""A review as a document: the same article, set by typst, its figures as vectors and its fonts embedded."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Iterator
from dataclasses import asdict
from importlib.resources import files
from pathlib import Path
from typing import Any

from samovar import __version__
from samovar.figures.write import fonts
from samovar.publish.article import Article, Grid, Photo, Picture, told
from samovar.publish.form import PLAIN, Form
from samovar.publish.markdown import blocks_of


def pdf_document(article: Article, folder: Path, subject: str, form: Form = PLAIN) -> bytes:
    """The document; its figures are read from the folder they were drawn into.

    Args:
        article: what it says.
        folder: the publication's.
        subject: the words of what the review is about.
        form: the language and the units of what the document itself says.
    """
    import typst

    sources: dict[str, bytes] = {}

    def picture(one: Picture | None) -> dict[str, str] | None:
        if one is None:
            return None
        name = f"{one.file}.svg"
        sources[name] = (folder / name).read_bytes()
        return {"file": name, "title": one.title, "finding": one.finding}

    def blocks(one: str | Photo) -> dict[str, Any]:
        if isinstance(one, str):
            return {"blocks": blocks_of(one)}
        sources[one.file] = one.image
        return {"photo": {"file": one.file, "caption": one.caption, "words": one.words or one.caption}}

    plain: dict[str, Any] = {
        "language": form.code, "t": _texts(form, article),
        "title": article.title, "question": article.question, "edition": article.edition, "day": article.day,
        "author": article.author, "licence": article.licence, "version": __version__,
        "told": [blocks(one) for one in told(article)], "conclusion": article.conclusion, "claims": [{**asdict(c), "said": form.text(c.state)} for c in article.claims],
        "sections": [
            {
                "title": s.title, "table": _grid(s.table), "words": s.words, "steps": _grid(s.steps),
                "pictures": [picture(p) for p in s.pictures],
            }
            for s in article.sections
        ],
        "near": None if article.near is None else {"picture": picture(article.near[0]), "words": article.near[1]},
        "sounds": None if article.sounds is None else _grid(article.sounds.table),
        "lacking": article.lacking,
        "products": [
            {
                "name": f"{p['name']}, {p['kind']}", "figures": p["figures"], "lines": list(_lines(p, form)),
                "drawing": picture(p["drawing"]),
            }
            for p in article.products
        ],
        "method": article.method, "caveats": article.caveats, "readings": _grid(article.readings),
        "runs": _grid(_runs(article, subject, form)), "changes": article.changes,
    }  # fmt: skip
    sources["article.json"] = json.dumps(plain).encode()
    sources["main.typ"] = files("samovar").joinpath("publish/templates/review.typ").read_bytes()
    # Pictures are no text, and what is handed over in memory has to be: so all of it goes through a folder.
    with tempfile.TemporaryDirectory() as holder:
        for name, body in sources.items():
            place = Path(holder) / name
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_bytes(body)
        main = str(Path(holder) / "main.typ")
        return bytes(typst.compile(main, root=holder, font_paths=fonts(), timestamp=0))


_SAID = {
    "claimed": "What was claimed, and what the runs say", "near": "One run from near", "lacking": "Missing, and at fault", "sounds": "What it sounds like",
    "products": "The products", "method": "Appendix: method", "caveats": "Appendix: caveats",
    "readings": "Appendix: read by hand", "runs": "Appendix: all runs", "changes": "What this edition changed",
    "none_claimed": "No claims were made.", "no_caveats": "None that the audit found.", "contents": "Contents",
}  # fmt: skip
"""What the document itself says."""


def _texts(form: Form, article: Article) -> dict[str, Any]:
    return {
        **{key: form.text(words) for key, words in _SAID.items()},
        "edition": form.text(f"Edition {article.edition}, {article.day}"),
        "claim_heads": [form.text(w) for w in ("claim", "state", "finding", "evidence")],
    }


def _grid(one: Grid | None) -> dict[str, Any] | None:
    if one is None:
        return None
    return {"heads": one.heads, "rows": one.rows, "best": [sorted(b) for b in one.best]}


def _lines(product: dict[str, Any], form: Form) -> Iterator[str]:
    for claim in product["claims"]:
        yield f"{form.text('Claimed')}: {claim}."
    if product["fit"]:
        yield product["fit"]
    for kind, text in product["notes"]:
        yield f"{kind}: {text}"
    yield from product["prices"]


def _runs(article: Article, subject: str, form: Form) -> Grid:
    rows = []
    for r in article.runs:
        left_out = f" {form.text('Left out')}: {r['left_out']}." if r["left_out"] else ""
        words = f"{r['words']}{' ' + form.text('Unguarded.') if r['unguarded'] else ''}{left_out}"
        rows.append((r["id"], r["setup"], r["load"], str(r["pass"]), r["day"], r["result"], words))
    heads = tuple(form.text(w) for w in ("run", "setup", "load", "pass", "day", subject, "what it says"))
    return Grid(heads, tuple(rows))
