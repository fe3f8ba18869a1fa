"""An old edition written again, as it was."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.records import Review
from samovar.exchange.problems import InputError
from samovar.exchange.whole_file import write_whole_bytes
from samovar.figures.write import pdf_of
from samovar.publish.folder import PublicationFolder


def keep_edition(
    archive: Archive, review: Review, number: int, folder: Path, written: Iterable[Path]
) -> None:
    """Keep an edition's files in the archive. Figures as PDF are not: they are typeset from the SVG beside them."""
    bodies = {}
    for path in written:
        name = path.relative_to(folder).as_posix()
        if not _typeset_from(name):
            bodies[name] = path.read_bytes()
    archive.editions.keep_files(review.id, number, bodies)


def write_edition(
    archive: Archive, review: Review, number: int, folder: Path, into: bool = False
) -> list[Path]:
    """Write an edition again.

    Returns:
        The files written.

    Raises:
        InputError: the folder cannot be written or holds what is not ours, or the edition is not kept.
    """
    files = archive.editions.files_of(review.id, number)
    if not files:
        kept = ", ".join(str(e.number) for e in archive.editions.of(review.id)) or "none"
        raise InputError(
            f"{review.slug}: edition {number} is not kept (kept: {kept}); publish it as it is now"
        )
    place = PublicationFolder(folder, into)
    bodies = dict(files)
    for name in files:
        if name.startswith("figures/") and name.endswith(".svg"):
            bodies[name.removesuffix(".svg") + ".pdf"] = b""
    targets = {name: place.file(*name.split("/")) for name in bodies}
    place.announce()
    for name, path in targets.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        source = files.get(name)
        write_whole_bytes(
            path, source if source is not None else pdf_of(files[name.removesuffix(".pdf") + ".svg"])
        )
    place.close()
    return list(targets.values())


def _typeset_from(name: str) -> bool:
    return name.startswith("figures/") and name.endswith(".pdf")
