"""`python -m hemp_ladder.work.worker`: one worker, until it is told to stop."""

import os
from importlib import import_module

from hemp_ladder.work.children import start_early


def main() -> None:
    """Take tasks from the queue, as many at once as there are processors."""
    start_early(wholly=True)
    from hemp_ladder.work.queue import HEARTBEAT_SECONDS, STALLED_SECONDS, TASKS, app

    for room in TASKS:
        import_module(room)

    with app.open():
        app.run_worker(
            concurrency=os.cpu_count() or 2,
            fetch_job_polling_interval=1.0,
            update_heartbeat_interval=HEARTBEAT_SECONDS,
            stalled_worker_timeout=STALLED_SECONDS,
            shutdown_graceful_timeout=3.0,
            delete_jobs="successful",
        )


if __name__ == "__main__":
    main()
