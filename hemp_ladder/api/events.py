"""One listener on the database's notices, and a bell for each browser that waits."""

import asyncio
import json
from collections.abc import Iterator
from contextlib import contextmanager

import psycopg

from hemp_ladder.store.config import database_url
from hemp_ladder.store.database import CHANNEL


class Bell:
    """Rings for everyone who listens to a job when the job changes."""

    def __init__(self) -> None:
        self._waiting: dict[int, set[asyncio.Event]] = {}

    @contextmanager
    def listen(self, job_id: int) -> Iterator[asyncio.Event]:
        event = asyncio.Event()
        self._waiting.setdefault(job_id, set()).add(event)
        try:
            yield event
        finally:
            self._waiting[job_id].discard(event)

    def ring(self, job_id: int | None) -> None:
        """Ring for one job, or for all after a gap in listening."""
        for known, events in self._waiting.items():
            if job_id is None or known == job_id:
                for event in events:
                    event.set()

    async def run(self) -> None:
        """Listen for ever; a lost connection is taken up again."""
        while True:
            try:
                connection = await psycopg.AsyncConnection.connect(database_url(), autocommit=True)
                async with connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    self.ring(None)
                    async for notice in connection.notifies():
                        self.ring(json.loads(notice.payload)["job"])
            except psycopg.Error:
                await asyncio.sleep(1)
