"""Whether a person stopped what a task is at, asked of the database no more often than makes sense."""

import time
from collections.abc import Callable
from typing import Any

from sqlalchemy import select

from hemp_ladder.store.database import session

ASK_SECONDS = 0.5


def asker(table: Any, row_id: int, stop: set[str]) -> Callable[[], bool]:
    """Whether the row says to stop, asked of the database no more often than makes sense."""
    asked, answer = 0.0, False

    def cancelled() -> bool:
        nonlocal asked, answer
        if not answer and time.monotonic() - asked > ASK_SECONDS:
            asked = time.monotonic()
            with session() as s:
                state = s.scalar(select(table.state).where(table.id == row_id))
            answer = state is None or state in stop
        return answer

    return cancelled
