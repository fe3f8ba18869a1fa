"""The archive's tables, as of the present schema version: those of what is framed here, those of runs beside it."""

from __future__ import annotations

from sqlalchemy import (
    JSON,
    Column,
    Float,
    Integer,
    LargeBinary,
    Table,
    Text,
    UniqueConstraint,
)

from samovar.archive.columns import (
    METADATA,
    belongs_column,
    changed_by_column,
    id_column,
    revision_column,
    state_column,
)
from samovar.archive.run_tables import (
    ANNOTATION,
    CHANGE,
    CHANNEL,
    CHUNK,
    EXCLUDED,
    FINDING,
    HAND_READING,
    MARK,
    RESULT,
    RUN,
    SEAL,
    SERIES,
)

META = Table("meta", METADATA, Column("key", Text, primary_key=True), Column("value", Text, nullable=False))

PRODUCT = Table(
    "product",
    METADATA,
    id_column(),
    Column("name", Text, nullable=False, unique=True),
    Column("kind", Text, nullable=False),
    Column("specification", JSON, nullable=False, default=dict),
    Column("prices", JSON, nullable=False, default=list),
    Column("notes", JSON, nullable=False, default=list),
    state_column(),
    revision_column(),
    changed_by_column(),
)

RIG = Table(
    "rig",
    METADATA,
    id_column(),
    Column("name", Text, nullable=False, unique=True),
    Column("facts", JSON, nullable=False, default=dict),
    Column("details", JSON, nullable=False, default=dict),
    Column("sensors", JSON, nullable=False, default=dict),
    state_column(),
    revision_column(),
    changed_by_column(),
)

RATE = Table(
    "rate",
    METADATA,
    id_column(),
    Column("currency", Text, nullable=False),
    Column("into", Text, nullable=False),
    Column("value", Float, nullable=False),
    Column("day", Text, nullable=False),
)

COURSE = Table(
    "course",
    METADATA,
    id_column(),
    Column("name", Text, nullable=False, unique=True),
    Column("body", JSON, nullable=False, default=dict),
    state_column(),
    revision_column(),
    changed_by_column(),
)

LOAD = Table(
    "load",
    METADATA,
    id_column(),
    Column("name", Text, nullable=False, unique=True),
    Column("body", JSON, nullable=False, default=dict),
    state_column(),
    revision_column(),
    changed_by_column(),
)
"""Loads of the reviewer's own. Those of the program have no row."""

REVIEW = Table(
    "review",
    METADATA,
    id_column(),
    Column("slug", Text, nullable=False, unique=True),
    Column("name", Text, nullable=False),
    Column("question", Text, nullable=False, default=""),
    Column("verdict", Text, nullable=False, default=""),
    Column("margin_k", Float, nullable=False, default=1.0),
    Column("margin_share", Float, nullable=False, default=0.02),
    Column("noise_limit_dba", Float),
    Column("noise_distance_m", Float),
    Column("figure", Text, nullable=False, default="", server_default=""),
    Column("demands", JSON, nullable=False, default=list, server_default="[]"),
    Column("elsewhere", JSON, nullable=False, default=list, server_default="[]"),
    Column("criteria", JSON, nullable=False, default=list, server_default="[]"),
    Column("priced", Text, nullable=False, default="", server_default=""),
    Column("conclusion", JSON, nullable=False, default=list, server_default="[]"),
    Column("passes_wanted", Integer, nullable=False, default=2),
    Column("loads", JSON, nullable=False, default=list),
    Column("courses", JSON, nullable=False, default=dict),
    state_column(),
    revision_column(),
    changed_by_column(),
)

SETUP = Table(
    "setup",
    METADATA,
    id_column(),
    belongs_column("review_id", "review"),
    belongs_column("rig_id", "rig", nullable=True),
    Column("name", Text, nullable=False),
    Column("position", Integer, nullable=False, default=0),
    Column("reference", Integer, nullable=False, default=0),
    Column("changes", JSON, nullable=False, default=dict),
    state_column(),
    revision_column(),
    changed_by_column(),
    UniqueConstraint("review_id", "name"),
)

SETUP_PRODUCT = Table(
    "setup_product",
    METADATA,
    id_column(),
    belongs_column("setup_id", "setup"),
    belongs_column("product_id", "product"),
)

CLAIM = Table(
    "claim",
    METADATA,
    id_column(),
    belongs_column("review_id", "review"),
    Column("position", Integer, nullable=False, default=0),
    Column("kind", Text, nullable=False),
    belongs_column("setup_id", "setup", nullable=True),
    belongs_column("other_id", "setup", nullable=True),
    Column("load", Text, nullable=False, default=""),
    Column("accepted", Text),
    Column("about", JSON),
)

EDITION = Table(
    "edition",
    METADATA,
    id_column(),
    belongs_column("review_id", "review"),
    Column("number", Integer, nullable=False),
    Column("day", Text, nullable=False),
    Column("words", JSON, nullable=False, default=list),
    Column("numbers", JSON, nullable=False, default=dict),
    Column("files", JSON),
)
"""What each edition of a review said: its paragraphs, its figures as text, and its files: where each stood, and its body."""

BODY = Table(
    "body",
    METADATA,
    Column("digest", Text, primary_key=True),
    Column("packed", LargeBinary, nullable=False),
)
"""The content of files that editions wrote, each once, by its SHA-256."""

CLIP = Table(
    "clip",
    METADATA,
    Column("digest", Text, primary_key=True),
    Column("flac", LargeBinary, nullable=False),
)
"""Pieces of sound that were asked to be kept, without loss, each once, by its SHA-256; readings name theirs."""

PLAN = Table(
    "plan",
    METADATA,
    id_column(),
    belongs_column("rig_id", "rig"),
    Column("name", Text, nullable=False),
    Column("body", JSON, nullable=False),
    UniqueConstraint("rig_id", "name"),
)
"""Plans of a rig's boards and faces, as `core.surfaces.plan` has them."""

PICTURE = Table(
    "picture",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
    Column("plan", Text, nullable=False),
    Column("name", Text, nullable=False, default=""),
    Column("at_s", Float),
    Column("set_to", Float, nullable=False),
    Column("reflected_c", Float, nullable=False),
    Column("row_count", Integer, nullable=False),
    Column("column_count", Integer, nullable=False),
    Column("digest", Text, nullable=False),
    Column("packed", LargeBinary, nullable=False),
)
"""Temperature pictures of runs: what they are of, how they were taken, and their degrees, with the SHA-256 of those."""

DRAFTED = Table(
    "drafted",
    METADATA,
    id_column(),
    belongs_column("review_id", "review"),
    Column("key", Text, nullable=False),
    Column("state", Text, nullable=False),
    Column("text", Text, nullable=False),
    UniqueConstraint("review_id", "key"),
)
"""What the reviewer made of each drafted sentence: kept or struck, and how it read then."""

PHOTOGRAPH = Table(
    "photograph",
    METADATA,
    id_column(),
    belongs_column("review_id", "review"),
    Column("position", Integer, nullable=False, default=0),
    Column("name", Text, nullable=False),
    Column("caption", Text, nullable=False, default=""),
    Column("words", Text, nullable=False, default=""),
    Column("kind", Text, nullable=False),
    Column("image", LargeBinary, nullable=False),
)
"""Photographs of a review: what stands under each, what it shows in words, and the picture, scaled and without its maker's notes."""

COLUMN_MAP = Table(
    "column_map",
    METADATA,
    id_column(),
    Column("titles", Text, nullable=False, unique=True),
    Column("body", JSON, nullable=False),
)
"""How a person settled the columns of a log, to be remembered for the next one of the same titles."""

CHANNEL_VIEW = Table(
    "channel_view",
    METADATA,
    id_column(),
    belongs_column("rig_id", "rig", nullable=True),
    Column("body", JSON, nullable=False),
    UniqueConstraint("rig_id"),
)
"""Which channels of a rig are drawn, and how; without a rig, those of runs that have none."""

IMPRINT = Table(
    "imprint",
    METADATA,
    Column("key", Text, primary_key=True),
    Column("value", Text, nullable=False),
)
"""Under whose name, licence and in which form an archive's reviews are published."""

__all__ = [
    "ANNOTATION",
    "BODY",
    "CHANGE",
    "CHANNEL",
    "CHANNEL_VIEW",
    "CHUNK",
    "CLAIM",
    "CLIP",
    "COLUMN_MAP",
    "COURSE",
    "DRAFTED",
    "EDITION",
    "EXCLUDED",
    "FINDING",
    "HAND_READING",
    "IMPRINT",
    "LOAD",
    "MARK",
    "META",
    "METADATA",
    "PHOTOGRAPH",
    "PICTURE",
    "PLAN",
    "PRODUCT",
    "RATE",
    "RESULT",
    "REVIEW",
    "RIG",
    "RUN",
    "SEAL",
    "SERIES",
    "SETUP",
    "SETUP_PRODUCT",
]
