"""How often meshes were taken out of the store: whoever remembers which are there asks this first."""

from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("CREATE TABLE mesh_losses (times bigint PRIMARY KEY)")
    op.execute("INSERT INTO mesh_losses VALUES (0)")
    # Counted within the transaction that takes them out, by whichever process and whatever means.
    op.execute(
        "CREATE FUNCTION count_mesh_loss() RETURNS trigger LANGUAGE plpgsql AS "
        "$$ BEGIN UPDATE mesh_losses SET times = times + 1; RETURN NULL; END $$"
    )
    op.execute(
        "CREATE TRIGGER count_mesh_loss AFTER DELETE OR TRUNCATE ON meshes "
        "FOR EACH STATEMENT EXECUTE FUNCTION count_mesh_loss()"
    )


def downgrade() -> None:
    op.execute("DROP TRIGGER count_mesh_loss ON meshes")
    op.execute("DROP FUNCTION count_mesh_loss()")
    op.execute("DROP TABLE mesh_losses")
