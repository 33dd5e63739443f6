"""Deliveries that are made together, and name each other."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("deliveries", sa.Column("beside_id", sa.Integer()))


def downgrade() -> None:
    op.drop_column("deliveries", "beside_id")
