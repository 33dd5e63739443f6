"""What is kept for other jobs, of several kinds, where there were sets of rules only."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.rename_table("rule_sets", "kept")
    op.add_column("kept", sa.Column("kind", sa.String(), nullable=False, server_default="rules"))
    op.drop_constraint("rule_sets_name_key", "kept", type_="unique")
    op.create_unique_constraint("kept_kind_name", "kept", ["kind", "name"])


def downgrade() -> None:
    op.execute("delete from kept where kind <> 'rules'")
    op.drop_constraint("kept_kind_name", "kept", type_="unique")
    op.drop_column("kept", "kind")
    op.create_unique_constraint("rule_sets_name_key", "kept", ["name"])
    op.rename_table("kept", "rule_sets")
