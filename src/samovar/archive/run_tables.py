"""The tables of runs: their entries, samples, what was said and what was computed of them."""

from __future__ import annotations

from sqlalchemy import (
    JSON,
    BigInteger,
    Column,
    Float,
    Index,
    Integer,
    LargeBinary,
    Table,
    Text,
    UniqueConstraint,
)

from samovar.archive.columns import (
    METADATA,
    belongs_column,
    id_column,
)

RUN = Table(
    "run",
    METADATA,
    id_column(),
    belongs_column("review_id", "review", nullable=True),
    belongs_column("setup_id", "setup", nullable=True),
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
    id_column(),
    belongs_column("run_id", "run"),
    Column("position", Integer, nullable=False),
    Column("name", Text, nullable=False),
    Column("quantity", Text, nullable=False),
    Column("unit", Text, nullable=False),
    Column("role", Text, nullable=False),
    Column("domain", Text, nullable=False),
    Column("sensor", Text, nullable=False, default=""),
    Column("accuracy", Text, info={"since": 8}),
)

CHUNK = Table(
    "chunk",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
    Column("samples", Integer, nullable=False),
    Column("data", LargeBinary, nullable=False),
)
"""The journal of a run under way: a few samples of all channels at a time. Empty once it is sealed."""

SERIES = Table(
    "series",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
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
    id_column(),
    belongs_column("run_id", "run"),
    Column("part", Text, nullable=False),
    Column("digest", Text, nullable=False),
    UniqueConstraint("run_id", "part"),
)
"""A checksum for each part of a run beside its samples: what it must still be. See `sums`."""

MARK = Table(
    "mark",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
    Column("at_s", Float, nullable=False),
    Column("text", Text, nullable=False),
)

HAND_READING = Table(
    "hand_reading",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
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
    Column("heard", Text, info={"since": 9}),
)
"""What people read of a run, or what was listened to. `n` names a reading within its run."""

ANNOTATION = Table(
    "annotation",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
    Column("start_s", Float),
    Column("end_s", Float),
    Column("note", Text, nullable=False, default=""),
    UniqueConstraint("run_id"),
)
"""What a person said of a whole run: the averaging window set by hand, and a note."""

EXCLUDED = Table(
    "excluded",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
    Column("start_s", Float, nullable=False),
    Column("end_s", Float, nullable=False),
    Column("reason", Text, nullable=False),
)
"""Stretches of a run that are left out of its figures."""

CHANGE = Table(
    "change",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
    Column("at_s", Float, nullable=False),
    Column("what", Text, nullable=False),
    Column("name", Text, nullable=False),
    Column("value", Float),
)
"""When load, fans and joining loads changed, as the recorder did it or a person said it."""

RESULT = Table(
    "result",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
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
    Column("off_by", Float, info={"since": 8}),
    Column("common_of", Text, info={"since": 8}),
    Index("result_figure", "run_id", "statistic", "quantity"),
)
"""What was computed of a run, kept beside its finding: one row a figure; step 0 is the whole run."""

FINDING = Table(
    "finding",
    METADATA,
    id_column(),
    belongs_column("run_id", "run"),
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

Index("run_cell", RUN.c.review_id, RUN.c.setup_id, RUN.c.load)
Index(
    "run_brief", RUN.c.review_id, RUN.c.setup_id, RUN.c.load, RUN.c.state, RUN.c.left_out, RUN.c.samples, RUN.c.duration_s,
    RUN.c.started,
)  # fmt: skip
"""What the plan of every review asks of its runs, without their facts."""
