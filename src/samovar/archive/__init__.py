"""What is kept: the catalogue of products, rigs, reviews and runs, and every sample, in one database."""

from samovar.archive.archive import Archive
from samovar.archive.database import ArchiveError

__all__ = ["Archive", "ArchiveError"]
