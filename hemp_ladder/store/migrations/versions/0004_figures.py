"""Figures of a mesh are one document, so that a new figure needs no migration; failures stand beside meshes.

The structure that is known before any shape is called a skeleton, which outlines are not.

Every mesh has another key from now on, so what was made before is let go and made anew when it is wanted.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

_OLD = ("triangles", "vertices", "off_by", "watertight", "inside_out", "failed_faces", "box", "thin")


def upgrade() -> None:
    op.execute("DELETE FROM meshes")
    for name in _OLD:
        op.drop_column("meshes", name)
    op.add_column("meshes", sa.Column("figures", JSONB, nullable=False))
    op.add_column("climbs", sa.Column("message", sa.String, nullable=False, server_default=""))
    op.alter_column("revisions", "outline_key", new_column_name="skeleton_key")
    op.create_table(
        "mesh_failures",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("message", sa.String, nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    raise NotImplementedError("the meshes of before are gone")
