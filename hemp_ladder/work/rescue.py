"""Rescue: what a dead worker left is taken up again; what keeps killing its workers ends with a sentence."""

from typing import Any

import procrastinate

from hemp_ladder.store.database import session, tell
from hemp_ladder.store.tables import ClimbRow
from hemp_ladder.work.queue import MOST_ATTEMPTS, STALLED_SECONDS, app
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
