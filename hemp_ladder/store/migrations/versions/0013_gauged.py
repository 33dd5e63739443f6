"""What was measured of meshes that are not kept."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "gauged", sa.Column("key", sa.String(), primary_key=True), sa.Column("told", JSONB(), nullable=False)
    )


def downgrade() -> None:
    op.drop_table("gauged")
