"""`python -m hemp_ladder.work.worker`: one worker, until it is told to stop, or the database is gone.

Without its database a worker can neither tell what came of a task nor take
another, so it ends at once, its children with it, and whoever keeps it starts
a new one. What it was at is taken up again by rescue.
"""

import os
import sys
import threading
import time
from importlib import import_module

from hemp_ladder.work.children import start_early


def main() -> None:
    """Take tasks from the queue, as many at once as there are processors."""
    start_early(wholly=True)
    from hemp_ladder.work.folders import sweep
    from hemp_ladder.work.queue import HEARTBEAT_SECONDS, STALLED_SECONDS, TASKS, app

    sweep()
    for room in TASKS:
        import_module(room)

    threading.Thread(target=_watch_database, daemon=True).start()
    with app.open():
        app.run_worker(
            concurrency=os.cpu_count() or 2,
            fetch_job_polling_interval=1.0,
            update_heartbeat_interval=HEARTBEAT_SECONDS,
            stalled_worker_timeout=STALLED_SECONDS,
            shutdown_graceful_timeout=3.0,
            delete_jobs="successful",
        )


#: Seconds between questions to the database, and how long it may be away.
_EVERY, _PATIENCE = 1.0, 5.0


def _watch_database() -> None:
    """End the process when the database has not answered for a while."""
    import psycopg

    from hemp_ladder.store.config import database_url

    heard = time.monotonic()
    while True:
        try:
            with psycopg.connect(database_url(), connect_timeout=3, autocommit=True) as connection:
                while True:
                    connection.execute("SELECT 1")
                    heard = time.monotonic()
                    time.sleep(_EVERY)
        except psycopg.Error as error:
            if time.monotonic() - heard > _PATIENCE:
                print(f"The database is gone: {error}", file=sys.stderr, flush=True)
                os._exit(3)
            time.sleep(_EVERY)


if __name__ == "__main__":
    main()
