"""`python -m hemp_ladder.work.worker`: one worker, until it is told to stop."""

import os

from hemp_ladder.work.children import start_early


def main() -> None:
    """Take tasks from the queue, as many at once as there are processors."""
    start_early(wholly=True)
    import hemp_ladder.work.tasks  # noqa: F401  (registers the tasks)
    from hemp_ladder.work.queue import HEARTBEAT_SECONDS, STALLED_SECONDS, app

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
