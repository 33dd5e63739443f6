"""Sessions, migrations, and the notice that something changed."""

import json
from collections.abc import Collection, Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

from sqlalchemy import ColumnElement, Engine, Text, any_, create_engine, func, text
from sqlalchemy.dialects.postgresql import ARRAY
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


def among(column: Any, keys: Collection[str]) -> ColumnElement[bool]:
    """Whether the column is one of the keys, however many, none of which holds a comma: they are one parameter, where
    IN makes one of each, takes long over thousands and cannot do with more than 65,535. One text, because the driver
    looks at every entry of an array."""
    return column == any_(func.string_to_array(",".join(keys), ",", type_=ARRAY(Text)))  # type: ignore[no-any-return]


def tell(open_session: Session, job_id: int, **more: Any) -> None:
    """Tell whoever watches the job that it changed, when this transaction commits."""
    payload = json.dumps({"job": job_id, **more})
    open_session.execute(text("SELECT pg_notify(:channel, :payload)"), {"channel": CHANNEL, "payload": payload})


def migrate(to: str = "head") -> None:
    """Bring the schema up to date, or to one of its revisions."""
    # Here, for whoever only reads and writes starts a tenth sooner without.
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).with_name("migrations")))
    command.upgrade(config, to)
