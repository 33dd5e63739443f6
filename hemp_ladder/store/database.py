"""Sessions, migrations, and the notice that something changed."""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session

from hemp_ladder.store.config import database_url

#: The channel on which a job's changes are told: payload {"job": id}.
CHANNEL = "hemp_ladder"


@cache
def engine() -> Engine:
    """One pool of connections a process."""
    return create_engine(
        database_url().replace("postgresql://", "postgresql+psycopg://", 1), pool_pre_ping=True, pool_size=8
    )


@contextmanager
def session() -> Iterator[Session]:
    """A transaction: committed at the end, rolled back on an error."""
    with Session(engine(), expire_on_commit=False) as open_session, open_session.begin():
        yield open_session


def tell(open_session: Session, job_id: int, **more: Any) -> None:
    """Tell whoever watches the job that it changed, when this transaction commits."""
    payload = json.dumps({"job": job_id, **more})
    open_session.execute(text("SELECT pg_notify(:channel, :payload)"), {"channel": CHANNEL, "payload": payload})


def migrate() -> None:
    """Bring the schema up to date."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).with_name("migrations")))
    command.upgrade(config, "head")
