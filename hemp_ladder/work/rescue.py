"""Rescue: what a dead worker left is taken up again; what keeps killing its workers ends with a sentence.

Two ways in which work is lost. A task whose worker died stays in the queue as
being done: by its missing heartbeat. And a task that ended while the database
was away could not say so in its row: a row that waits for a task of which the
queue knows nothing more.
"""

import asyncio
from typing import Any

import procrastinate
from sqlalchemy import text

from hemp_ladder.store.database import session, tell
from hemp_ladder.store.tables import ClimbRow, Job
from hemp_ladder.work.actions import start_or_fail
from hemp_ladder.work.cleaning import clean
from hemp_ladder.work.queue import MOST_ATTEMPTS, STALLED_SECONDS, app, defer
from hemp_ladder.work.receiving.tasks import give_up_revision
from hemp_ladder.work.shipping.tasks import close_delivery


@app.periodic(cron="*/3 * * * * *")
@app.task(name="rescue", queueing_lock="rescue", pass_context=True)
async def rescue(context: procrastinate.JobContext, timestamp: int) -> None:
    """Take up again what a dead worker left; give up what keeps killing its workers."""
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_SECONDS):
        if job.attempts + 1 >= MOST_ATTEMPTS:
            await manager.finish_job(job, procrastinate.jobs.Status.FAILED, delete_job=False)
            give_up(job.task_name, job.task_kwargs)
        else:
            await manager.retry_job(job)
    await asyncio.to_thread(take_up_forgotten)


@app.periodic(cron="40 3 * * *")
@app.task(name="clean", queueing_lock="clean")
def clean_up(timestamp: int) -> None:
    """Every night, what nothing refers to goes."""
    clean()


#: Rows that wait for a task, by the task: the query gives their ids and how many such tasks failed.
_FORGOTTEN = {
    task: text(
        f"SELECT r.id, (SELECT count(*) FROM procrastinate_jobs f WHERE f.task_name = '{task}' "  # noqa: S608 (ours)
        f"AND f.status = 'failed' AND (f.args->>'{argument}')::bigint = r.id) FROM {table} r "
        f"WHERE r.state IN ({states}) AND NOT EXISTS (SELECT 1 FROM procrastinate_jobs j "
        f"WHERE j.task_name = '{task}' AND j.status IN ('todo', 'doing') AND (j.args->>'{argument}')::bigint = r.id) {unless}"
    )
    for task, argument, table, states, unless in (
        ("receive", "revision_id", "revisions", "'waiting', 'reading'", ""),
        # Of two deliveries that were asked for together the first one's task makes both.
        (
            "ship",
            "delivery_id",
            "deliveries",
            "'waiting', 'writing'",
            "AND NOT EXISTS (SELECT 1 FROM deliveries b WHERE b.id = r.beside_id AND b.id < r.id "
            "AND b.state IN ('waiting', 'writing'))",
        ),
        ("mesh", "climb_id", "climbs", "'working'", ""),
    )
}
_ARGUMENT = {"receive": "revision_id", "ship": "delivery_id"}


def take_up_forgotten() -> None:
    """Queue the task anew for every row that waits for one, or end it where that was tried often enough."""
    for task, question in _FORGOTTEN.items():
        with session() as s:
            forgotten = [(int(row[0]), int(row[1])) for row in s.execute(question)]
        for row_id, failed in forgotten:
            if task == "mesh":
                _climb_again(row_id)
            elif failed + 1 >= MOST_ATTEMPTS:
                give_up(task, {_ARGUMENT[task]: row_id})
            else:
                values: dict[str, Any] = {_ARGUMENT[task]: row_id}
                with session() as s:
                    defer(s, task, **values)


def _climb_again(climb_id: int) -> None:
    """Close a climb whose tasks are gone, and begin another for what is still missing."""
    with session() as s:
        climb = s.get(ClimbRow, climb_id)
        if climb is None:
            return
        job = s.get_one(Job, climb.job_id, with_for_update=True)
        s.refresh(climb)
        if climb.state != "working":
            return
        climb.state = "done"
        s.flush()
        tried = s.query(ClimbRow).filter(ClimbRow.decisions_id == climb.decisions_id).count()
        if climb.decisions_id == job.head_id and tried < 2 * MOST_ATTEMPTS:
            start_or_fail(s, job)
        elif climb.decisions_id == job.head_id:
            climb.state, climb.message = "failed", f"Meshing was taken up {tried} times and never ended."
        tell(s, job.id)


def give_up(task: str, values: dict[str, Any]) -> None:
    """End what a task was for, with a sentence where it is looked for."""
    if task == "receive":
        give_up_revision(values["revision_id"])
    elif task == "ship":
        close_delivery(values["delivery_id"], "failed", message="Writing it ended its worker several times.")
    elif task == "mesh":
        with session() as s:
            climb = s.get(ClimbRow, values["climb_id"])
            if climb is not None and climb.state == "working":
                climb.state, climb.message = "failed", f"Meshing ended its worker {MOST_ATTEMPTS} times."
                tell(s, climb.job_id)
