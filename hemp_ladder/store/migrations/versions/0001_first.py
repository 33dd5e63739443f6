"""The first tables, and the queue's schema as procrastinate 3.10 ships it, frozen beside this file."""

from pathlib import Path

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

_TIME = sa.DateTime(timezone=True)


def _job(table: str = "jobs") -> sa.Column[int]:
    return sa.Column("job_id", sa.Integer, sa.ForeignKey(f"{table}.id", ondelete="CASCADE"), nullable=False, index=True)


def upgrade() -> None:
    queue = Path(__file__).with_name("queue_3_10.sql").read_text("utf-8")
    op.get_bind().connection.driver_connection.execute(queue)  # type: ignore[union-attr]
    op.create_table(
        "jobs",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("created", _TIME, nullable=False),
        sa.Column("head_id", sa.Integer),
    )
    op.create_table(
        "sources",
        sa.Column("id", sa.Integer, primary_key=True),
        _job(),
        sa.Column("name", sa.String, nullable=False),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("source_id", sa.Integer, sa.ForeignKey("sources.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("files", JSONB, nullable=False),
        sa.Column("created", _TIME, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("stage", sa.String, nullable=False),
        sa.Column("count", sa.Integer, nullable=False),
        sa.Column("model_key", sa.String),
        sa.Column("facts", JSONB),
    )
    op.create_table(
        "findings",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "revision_id", sa.Integer, sa.ForeignKey("revisions.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        *(
            sa.Column(name, sa.String, nullable=False)
            for name in ("code", "severity", "where", "message", "remedy", "why")
        ),
    )
    op.create_table(
        "decisions",
        sa.Column("id", sa.Integer, primary_key=True),
        _job(),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("decisions.id", ondelete="CASCADE")),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("created", _TIME, nullable=False),
    )
    op.create_foreign_key("jobs_head", "jobs", "decisions", ["head_id"], ["id"])
    op.create_table(
        "climbs",
        sa.Column("id", sa.Integer, primary_key=True),
        _job(),
        sa.Column("decisions_id", sa.Integer, sa.ForeignKey("decisions.id", ondelete="CASCADE"), nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("keys", JSONB, nullable=False),
        sa.Column("created", _TIME, nullable=False),
    )
    op.create_index("climbs_by_decisions", "climbs", ["decisions_id"])
    op.create_table(
        "meshes",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("pack", sa.String, nullable=False),
        sa.Column("triangles", sa.Integer, nullable=False),
        sa.Column("vertices", sa.Integer, nullable=False),
        sa.Column("off_by", sa.Float, nullable=False),
        sa.Column("watertight", sa.Boolean, nullable=False),
        sa.Column("inside_out", sa.Boolean, nullable=False),
        sa.Column("failed_faces", sa.Integer, nullable=False),
        sa.Column("box", JSONB, nullable=False),
    )
    op.create_table(
        "deliveries",
        sa.Column("id", sa.Integer, primary_key=True),
        _job(),
        sa.Column("decisions_id", sa.Integer, sa.ForeignKey("decisions.id", ondelete="CASCADE"), nullable=False),
        sa.Column("target", JSONB, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("stage", sa.String, nullable=False),
        sa.Column("message", sa.String, nullable=False),
        sa.Column("files", JSONB, nullable=False),
        sa.Column("bundle", sa.String),
        sa.Column("bundle_bytes", sa.BigInteger, nullable=False),
        sa.Column("receipt", JSONB),
        sa.Column("created", _TIME, nullable=False),
    )


def downgrade() -> None:
    raise NotImplementedError("there is nothing before the first revision")
