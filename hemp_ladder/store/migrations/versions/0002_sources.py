"""Several sources in a job: what each is called, what is known of it early, and remedies in findings."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

_EMPTY = sa.text("'[]'::jsonb")


def upgrade() -> None:
    op.add_column("sources", sa.Column("ref", sa.String, nullable=True))
    op.execute("UPDATE sources SET ref = name")
    op.alter_column("sources", "ref", nullable=False)
    op.add_column("revisions", sa.Column("root", sa.String))
    op.add_column("revisions", sa.Column("outline_key", sa.String))
    for name in ("parts", "offers"):
        op.add_column("findings", sa.Column(name, JSONB, nullable=False, server_default=_EMPTY))
    op.add_column("deliveries", sa.Column("sources", JSONB, nullable=False, server_default=_EMPTY))


def downgrade() -> None:
    op.drop_column("deliveries", "sources")
    for name in ("parts", "offers"):
        op.drop_column("findings", name)
    op.drop_column("revisions", "outline_key")
    op.drop_column("revisions", "root")
    op.drop_column("sources", "ref")
