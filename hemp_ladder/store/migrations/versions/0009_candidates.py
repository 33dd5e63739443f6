"""Sources that are only candidates for another's place."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sources", sa.Column("candidate_for", sa.String()))


def downgrade() -> None:
    op.drop_column("sources", "candidate_for")
