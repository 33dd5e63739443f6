"""Children that stay between tasks, for work so light that starting one would take longer than the work."""

import atexit
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager

from hemp_ladder.work.children import Crew

_idle: dict[int, list[Crew]] = defaultdict(list)


@contextmanager
def standing_crew(size: int = 1) -> Iterator[Crew]:
    """A crew of so many that has done such work before, where one is idle. After an error it is not used again."""
    idle = _idle[size]
    crew = idle.pop() if idle else Crew(size)
    try:
        yield crew
    except BaseException:
        crew.close()
        raise
    idle.append(crew)


@atexit.register
def _dismiss() -> None:
    for crews in _idle.values():
        while crews:
            crews.pop().close()
