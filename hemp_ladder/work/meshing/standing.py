"""Children that stay between tasks, for work so light that starting one would take longer than the work."""

import atexit
from collections.abc import Iterator
from contextlib import contextmanager

from hemp_ladder.work.children import Crew

_idle: list[Crew] = []


@contextmanager
def standing_crew(size: int = 1) -> Iterator[Crew]:
    """A crew of so many that has done such work before, where one is idle. After an error it is not used again."""
    crew = next((crew for crew in reversed(_idle) if crew.size == size), None)
    if crew is None:
        crew = Crew(size)
    else:
        _idle.remove(crew)
    try:
        yield crew
    except BaseException:
        crew.close()
        raise
    _idle.append(crew)


@atexit.register
def _dismiss() -> None:
    while _idle:
        _idle.pop().close()
