"""Alembic's way in: one engine, the queue's own tables left alone."""

from alembic import context

from hemp_ladder.store.database import engine
from hemp_ladder.store.tables import Base


def _ours(name: str | None, kind: str, parents: object) -> bool:
    return kind != "table" or not (name or "").startswith("procrastinate_")


with engine().connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, include_name=_ours)
    with context.begin_transaction():
        context.run_migrations()
