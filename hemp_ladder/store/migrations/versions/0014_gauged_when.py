"""When meshes that are not kept were measured, so that what nobody asks for any more can go."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    when = sa.Column("created", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now())
    op.add_column("gauged", when)
    op.create_index("ix_gauged_created", "gauged", ["created"])


def downgrade() -> None:
    op.drop_index("ix_gauged_created", "gauged")
    op.drop_column("gauged", "created")
