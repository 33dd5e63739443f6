"""The queue: procrastinate on our own PostgreSQL."""

import json
from typing import Any

import procrastinate
from sqlalchemy import text
from sqlalchemy.orm import Session

from hemp_ladder.store.config import database_url

#: A task that took its worker down this often is given up.
MOST_ATTEMPTS = 3
HEARTBEAT_SECONDS, STALLED_SECONDS = 2.0, 8.0

#: Where tasks are: a room each.
TASKS = [
    "hemp_ladder.work.receiving.tasks", "hemp_ladder.work.meshing.tasks", "hemp_ladder.work.shipping.tasks",
    "hemp_ladder.work.marking", "hemp_ladder.work.studying", "hemp_ladder.work.trimming", "hemp_ladder.work.sharing",
    "hemp_ladder.work.hiding", "hemp_ladder.work.facets.gauging", "hemp_ladder.work.facets.seeing",
    "hemp_ladder.work.rescue",
]  # fmt: skip

app = procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=database_url()), import_paths=TASKS)


def defer(session: Session, task: str, priority: int = 0, lock: str | None = None, **values: Any) -> None:
    """Queue a task in the caller's own transaction: it exists when the rows it speaks of do. What a person waits for with
    the pointer on the stage goes before what fills it. Of tasks with one lock, one is done at a time."""
    session.execute(
        text(
            "SELECT procrastinate_defer_jobs_v1(ARRAY[ROW('default', :task, :priority, :lock, NULL, "
            "CAST(:values AS jsonb), NULL)::procrastinate_job_to_defer_v1])"
        ),
        {"task": task, "priority": priority, "lock": lock, "values": json.dumps(values)},
    )
