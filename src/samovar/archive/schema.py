"""The archive's tables, as of the present schema version."""

from __future__ import annotations

from sqlalchemy import (
    JSON,
    Column,
    Float,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    String,
    Table,
    Text,
    UniqueConstraint,
)

METADATA = MetaData()


def _id() -> Column[int]:
    return Column("id", Integer, primary_key=True)


def _belongs(name: str, to: str, nullable: bool = False) -> Column[int]:
    cascade = "SET NULL" if nullable else "CASCADE"
    return Column(name, Integer, ForeignKey(f"{to}.id", ondelete=cascade), nullable=nullable, index=True)


def _state() -> Column[str]:
    """kept, archived (out of sight) or deleted (can be brought back)."""
    return Column("state", String(10), nullable=False, default="kept", server_default="kept")


META = Table(
    "meta", METADATA, Column("key", String(40), primary_key=True), Column("value", Text, nullable=False)
)

PRODUCT = Table(
    "product",
    METADATA,
    _id(),
    Column("name", String(120), nullable=False, unique=True),
    Column("kind", String(40), nullable=False),
    Column("specification", JSON, nullable=False, default=dict),
    Column("prices", JSON, nullable=False, default=list),
    Column("notes", JSON, nullable=False, default=list),
    _state(),
)

RIG = Table(
    "rig",
    METADATA,
    _id(),
    Column("name", String(120), nullable=False, unique=True),
    Column("facts", JSON, nullable=False, default=dict),
    Column("details", JSON, nullable=False, default=dict),
    Column("sensors", JSON, nullable=False, default=dict),
    _state(),
)

RATE = Table(
    "rate",
    METADATA,
    _id(),
    Column("currency", String(3), nullable=False),
    Column("into", String(3), nullable=False),
    Column("value", Float, nullable=False),
    Column("day", String(10), nullable=False),
)

COURSE = Table(
    "course",
    METADATA,
    _id(),
    Column("name", String(120), nullable=False, unique=True),
    Column("body", JSON, nullable=False, default=dict),
    _state(),
)

LOAD = Table(
    "load",
    METADATA,
    _id(),
    Column("name", String(80), nullable=False, unique=True),
    Column("body", JSON, nullable=False, default=dict),
    _state(),
)
"""Loads of the reviewer's own. Those of the program have no row."""

REVIEW = Table(
    "review",
    METADATA,
    _id(),
    Column("slug", String(80), nullable=False, unique=True),
    Column("name", String(160), nullable=False),
    Column("question", Text, nullable=False, default=""),
    Column("verdict", Text, nullable=False, default=""),
    Column("margin_k", Float, nullable=False, default=1.0),
    Column("margin_share", Float, nullable=False, default=0.02),
    Column("noise_limit_dba", Float),
    Column("noise_distance_m", Float),
    Column("figure", String(80), nullable=False, default="", server_default=""),
    Column("demands", JSON, nullable=False, default=list, server_default="[]"),
    Column("elsewhere", JSON, nullable=False, default=list, server_default="[]"),
    Column("criteria", JSON, nullable=False, default=list, server_default="[]"),
    Column("priced", String(80), nullable=False, default="", server_default=""),
    Column("conclusion", JSON, nullable=False, default=list, server_default="[]"),
    Column("passes_wanted", Integer, nullable=False, default=2),
    Column("loads", JSON, nullable=False, default=list),
    Column("courses", JSON, nullable=False, default=dict),
    _state(),
)

SETUP = Table(
    "setup",
    METADATA,
    _id(),
    _belongs("review_id", "review"),
    _belongs("rig_id", "rig", nullable=True),
    Column("name", String(120), nullable=False),
    Column("position", Integer, nullable=False, default=0),
    Column("reference", Integer, nullable=False, default=0),
    Column("changes", JSON, nullable=False, default=dict),
    _state(),
    UniqueConstraint("review_id", "name"),
)

SETUP_PRODUCT = Table(
    "setup_product",
    METADATA,
    _id(),
    _belongs("setup_id", "setup"),
    _belongs("product_id", "product"),
)

RUN = Table(
    "run",
    METADATA,
    _id(),
    _belongs("review_id", "review", nullable=True),
    _belongs("setup_id", "setup", nullable=True),
    Column("load", String(80), nullable=False),
    Column("pass_number", Integer, nullable=False, default=1),
    Column("state", String(20), nullable=False, index=True),
    Column("reason", Text),
    Column("started", String(32), nullable=False),
    Column("duration_s", Float, nullable=False, default=0.0),
    Column("interval_s", Float),
    Column("channels", Integer, nullable=False, default=0),
    Column("samples", Integer, nullable=False, default=0),
    Column("facts", JSON, nullable=False, default=dict),
    Column("course", JSON),
    Column("owner", JSON),
    Column("left_out", Text),
)

CHANNEL = Table(
    "channel",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("position", Integer, nullable=False),
    Column("name", String(160), nullable=False),
    Column("quantity", String(20), nullable=False),
    Column("unit", String(10), nullable=False),
    Column("role", String(20), nullable=False),
    Column("domain", String(20), nullable=False),
    Column("sensor", String(200), nullable=False, default=""),
)

CHUNK = Table(
    "chunk",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("samples", Integer, nullable=False),
    Column("data", LargeBinary, nullable=False),
)
"""The journal of a run under way: a few samples of all channels at a time. Empty once it is sealed."""

SERIES = Table(
    "series",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("position", Integer, nullable=False),
    Column("encoding", String(8), nullable=False),
    Column("data", LargeBinary, nullable=False),
    UniqueConstraint("run_id", "position"),
)
"""The samples of a sealed run, one row a channel; position -1 holds the times."""

MARK = Table(
    "mark",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("at_s", Float, nullable=False),
    Column("text", Text, nullable=False),
)

HAND_READING = Table(
    "hand_reading",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("n", Integer, nullable=False),
    Column("at_s", Float),
    Column("kind", String(20), nullable=False),
    Column("value", Float),
    Column("half_width", Float),
    Column("unit", String(10), nullable=False),
    Column("bound", String(10)),
    Column("place", Text, nullable=False, default=""),
    Column("instrument", Text, nullable=False, default=""),
    Column("distance_m", Float),
    Column("background", Float),
    Column("emissivity", Float),
    Column("set_to", Float),
    Column("character", Text, nullable=False, default=""),
    Column("typed", Text, nullable=False, default=""),
    Column("words", Text, nullable=False, default=""),
)
"""What people read of a run. `n` names a reading within its run."""

CHANGE = Table(
    "change",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("at_s", Float, nullable=False),
    Column("what", String(10), nullable=False),
    Column("name", Text, nullable=False),
    Column("value", Float),
)
"""When load, fans and joining loads changed, as the recorder did it or a person said it."""

RESULT = Table(
    "result",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("step", Integer, nullable=False, default=0),
    Column("part", String(40)),
    Column("channel", String(160)),
    Column("quantity", String(20), nullable=False),
    Column("statistic", String(20), nullable=False),
    Column("unit", String(10), nullable=False),
    Column("value", Float, nullable=False),
    Column("half_width", Float),
    Column("bound", String(10)),
    Column("start_s", Float),
    Column("end_s", Float),
    Column("n", Integer, nullable=False),
    Column("by", String(20)),
    Column("at_s", Float),
    Column("direction", String(10)),
    Index("result_figure", "run_id", "statistic", "quantity"),
)
"""What was computed of a run, kept beside its finding: one row a figure; step 0 is the whole run."""

FINDING = Table(
    "finding",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("method_version", Integer, nullable=False),
    Column("judgement", String(20)),
    Column("free_clock_mhz", Float),
    Column("reference_clock_mhz", Float),
    Column("body", JSON, nullable=False),
    Column("steps", JSON),
    UniqueConstraint("run_id"),
)

CLAIM = Table(
    "claim",
    METADATA,
    _id(),
    _belongs("review_id", "review"),
    Column("position", Integer, nullable=False, default=0),
    Column("kind", String(40), nullable=False),
    _belongs("setup_id", "setup", nullable=True),
    _belongs("other_id", "setup", nullable=True),
    Column("load", String(80), nullable=False, default=""),
    Column("accepted", Text),
    Column("about", JSON),
)

EDITION = Table(
    "edition",
    METADATA,
    _id(),
    _belongs("review_id", "review"),
    Column("number", Integer, nullable=False),
    Column("day", String(10), nullable=False),
    Column("words", JSON, nullable=False, default=list),
    Column("numbers", JSON, nullable=False, default=dict),
    Column("files", JSON),
)
"""What each edition of a review said: its paragraphs, its figures as text, and its files: where each stood, and its body."""

BODY = Table(
    "body",
    METADATA,
    Column("digest", String(64), primary_key=True),
    Column("packed", LargeBinary, nullable=False),
)
"""The content of files that editions wrote, each once, by its SHA-256."""

DRAFTED = Table(
    "drafted",
    METADATA,
    _id(),
    _belongs("review_id", "review"),
    Column("key", Text, nullable=False),
    Column("state", String(10), nullable=False),
    Column("text", Text, nullable=False),
    UniqueConstraint("review_id", "key"),
)
"""What the reviewer made of each drafted sentence: kept or struck, and how it read then."""

PHOTOGRAPH = Table(
    "photograph",
    METADATA,
    _id(),
    _belongs("review_id", "review"),
    Column("position", Integer, nullable=False, default=0),
    Column("name", String(80), nullable=False),
    Column("caption", Text, nullable=False, default=""),
    Column("words", Text, nullable=False, default=""),
    Column("kind", String(10), nullable=False),
    Column("image", LargeBinary, nullable=False),
)
"""Photographs of a review: what stands under each, what it shows in words, and the picture, scaled and without its maker's notes."""

Index("run_cell", RUN.c.review_id, RUN.c.setup_id, RUN.c.load)
