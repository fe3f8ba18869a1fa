"""The archive's tables, as of the present schema version."""

from __future__ import annotations

from sqlalchemy import (
    JSON,
    BigInteger,
    Column,
    Float,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
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


def _revision() -> Column[int]:
    """Counts changes, so that a second person's change on an older state is noticed; see `KeptTable.change`."""
    return Column("revision", Integer, nullable=False, default=1, server_default="1")


def _changed_by() -> Column[str]:
    """Who changed it last, and where: `Ada on bench-2`."""
    return Column("changed_by", Text, nullable=False, default="", server_default="")


def _state() -> Column[str]:
    """kept, archived (out of sight) or deleted (can be brought back)."""
    return Column("state", Text, nullable=False, default="kept", server_default="kept")


META = Table("meta", METADATA, Column("key", Text, primary_key=True), Column("value", Text, nullable=False))

PRODUCT = Table(
    "product",
    METADATA,
    _id(),
    Column("name", Text, nullable=False, unique=True),
    Column("kind", Text, nullable=False),
    Column("specification", JSON, nullable=False, default=dict),
    Column("prices", JSON, nullable=False, default=list),
    Column("notes", JSON, nullable=False, default=list),
    _state(),
    _revision(),
    _changed_by(),
)

RIG = Table(
    "rig",
    METADATA,
    _id(),
    Column("name", Text, nullable=False, unique=True),
    Column("facts", JSON, nullable=False, default=dict),
    Column("details", JSON, nullable=False, default=dict),
    Column("sensors", JSON, nullable=False, default=dict),
    _state(),
    _revision(),
    _changed_by(),
)

RATE = Table(
    "rate",
    METADATA,
    _id(),
    Column("currency", Text, nullable=False),
    Column("into", Text, nullable=False),
    Column("value", Float, nullable=False),
    Column("day", Text, nullable=False),
)

COURSE = Table(
    "course",
    METADATA,
    _id(),
    Column("name", Text, nullable=False, unique=True),
    Column("body", JSON, nullable=False, default=dict),
    _state(),
    _revision(),
    _changed_by(),
)

LOAD = Table(
    "load",
    METADATA,
    _id(),
    Column("name", Text, nullable=False, unique=True),
    Column("body", JSON, nullable=False, default=dict),
    _state(),
    _revision(),
    _changed_by(),
)
"""Loads of the reviewer's own. Those of the program have no row."""

REVIEW = Table(
    "review",
    METADATA,
    _id(),
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
    _state(),
    _revision(),
    _changed_by(),
)

SETUP = Table(
    "setup",
    METADATA,
    _id(),
    _belongs("review_id", "review"),
    _belongs("rig_id", "rig", nullable=True),
    Column("name", Text, nullable=False),
    Column("position", Integer, nullable=False, default=0),
    Column("reference", Integer, nullable=False, default=0),
    Column("changes", JSON, nullable=False, default=dict),
    _state(),
    _revision(),
    _changed_by(),
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
    Column("load", Text, nullable=False),
    Column("pass_number", Integer, nullable=False, default=1),
    Column("state", Text, nullable=False, index=True),
    Column("reason", Text),
    Column("started", Text, nullable=False),
    Column("duration_s", Float, nullable=False, default=0.0),
    Column("interval_s", Float),
    Column("channels", Integer, nullable=False, default=0),
    Column("samples", BigInteger, nullable=False, default=0),
    Column("facts", JSON, nullable=False, default=dict),
    Column("course", JSON),
    Column("owner", JSON),
    Column("left_out", Text),
    Column("bench", Text, nullable=False, default="", server_default=""),
    Column("token", Text, nullable=False, default="", server_default=""),
)
"""`owner` is the process that records it now, `bench` who recorded it where; `token` is the run's own name, the same
whatever number it has, by which what a server could not take finds its run again."""

CHANNEL = Table(
    "channel",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("position", Integer, nullable=False),
    Column("name", Text, nullable=False),
    Column("quantity", Text, nullable=False),
    Column("unit", Text, nullable=False),
    Column("role", Text, nullable=False),
    Column("domain", Text, nullable=False),
    Column("sensor", Text, nullable=False, default=""),
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
    Column("encoding", Text, nullable=False),
    Column("data", LargeBinary, nullable=False),
    Column("sum", BigInteger),
    UniqueConstraint("run_id", "position"),
)
"""The samples of a sealed run, one row a channel; position -1 holds the times. `sum`: see `sums.sum_of_series`."""

SEAL = Table(
    "seal",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("part", Text, nullable=False),
    Column("digest", Text, nullable=False),
    UniqueConstraint("run_id", "part"),
)
"""A checksum for each part of a run beside its samples: what it must still be. See `sums`."""

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
    Column("kind", Text, nullable=False),
    Column("value", Float),
    Column("half_width", Float),
    Column("unit", Text, nullable=False),
    Column("bound", Text),
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

ANNOTATION = Table(
    "annotation",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("start_s", Float),
    Column("end_s", Float),
    Column("note", Text, nullable=False, default=""),
    UniqueConstraint("run_id"),
)
"""What a person said of a whole run: the averaging window set by hand, and a note."""

EXCLUDED = Table(
    "excluded",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("start_s", Float, nullable=False),
    Column("end_s", Float, nullable=False),
    Column("reason", Text, nullable=False),
)
"""Stretches of a run that are left out of its figures."""

CHANGE = Table(
    "change",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("at_s", Float, nullable=False),
    Column("what", Text, nullable=False),
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
    Column("part", Text),
    Column("channel", Text),
    Column("quantity", Text, nullable=False),
    Column("statistic", Text, nullable=False),
    Column("unit", Text, nullable=False),
    Column("value", Float, nullable=False),
    Column("half_width", Float),
    Column("bound", Text),
    Column("start_s", Float),
    Column("end_s", Float),
    Column("n", Integer, nullable=False),
    Column("by", Text),
    Column("at_s", Float),
    Column("direction", Text),
    Index("result_figure", "run_id", "statistic", "quantity"),
)
"""What was computed of a run, kept beside its finding: one row a figure; step 0 is the whole run."""

FINDING = Table(
    "finding",
    METADATA,
    _id(),
    _belongs("run_id", "run"),
    Column("method_version", Integer, nullable=False),
    Column("judgement", Text),
    Column("free_clock_mhz", Float),
    Column("reference_clock_mhz", Float),
    Column("body", JSON, nullable=False),
    Column("steps", JSON),
    Column("in_steps", Integer, nullable=False, default=0, server_default="0"),
    UniqueConstraint("run_id"),
)

Index(
    "finding_brief", FINDING.c.run_id, FINDING.c.judgement, FINDING.c.method_version, FINDING.c.in_steps,
    FINDING.c.free_clock_mhz,
)  # fmt: skip
"""What lists of many runs ask of a finding, without its long body."""

CLAIM = Table(
    "claim",
    METADATA,
    _id(),
    _belongs("review_id", "review"),
    Column("position", Integer, nullable=False, default=0),
    Column("kind", Text, nullable=False),
    _belongs("setup_id", "setup", nullable=True),
    _belongs("other_id", "setup", nullable=True),
    Column("load", Text, nullable=False, default=""),
    Column("accepted", Text),
    Column("about", JSON),
)

EDITION = Table(
    "edition",
    METADATA,
    _id(),
    _belongs("review_id", "review"),
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

DRAFTED = Table(
    "drafted",
    METADATA,
    _id(),
    _belongs("review_id", "review"),
    Column("key", Text, nullable=False),
    Column("state", Text, nullable=False),
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
    Column("name", Text, nullable=False),
    Column("caption", Text, nullable=False, default=""),
    Column("words", Text, nullable=False, default=""),
    Column("kind", Text, nullable=False),
    Column("image", LargeBinary, nullable=False),
)
"""Photographs of a review: what stands under each, what it shows in words, and the picture, scaled and without its maker's notes."""

Index("run_cell", RUN.c.review_id, RUN.c.setup_id, RUN.c.load)
Index(
    "run_brief", RUN.c.review_id, RUN.c.setup_id, RUN.c.load, RUN.c.state, RUN.c.left_out, RUN.c.samples, RUN.c.duration_s,
    RUN.c.started,
)  # fmt: skip
"""What the plan of every review asks of its runs, without their facts."""

COLUMN_MAP = Table(
    "column_map",
    METADATA,
    _id(),
    Column("titles", Text, nullable=False, unique=True),
    Column("body", JSON, nullable=False),
)
"""How a person settled the columns of a log, to be remembered for the next one of the same titles."""

CHANNEL_VIEW = Table(
    "channel_view",
    METADATA,
    _id(),
    _belongs("rig_id", "rig", nullable=True),
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
