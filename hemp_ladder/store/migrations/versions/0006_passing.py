"""Moments of a movement that another moment followed: the history leaves them out."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("decisions", sa.Column("passing", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.alter_column("decisions", "passing", server_default=None)


def downgrade() -> None:
    op.drop_column("decisions", "passing")
