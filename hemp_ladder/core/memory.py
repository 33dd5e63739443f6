"""Python's collector of cycles, put aside or slowed where very many objects are made that all stay."""

import gc
from collections.abc import Iterator
from contextlib import contextmanager


def collect_seldom() -> None:
    """For a process that imports much, or answers people from large models: cycles are looked for after 50,000 new
    objects, not 700, and everything is looked over after a hundred times that. At the usual pace it takes a third of a
    decision's view."""
    gc.set_threshold(50_000, 10, 10)


@contextmanager
def without_collector() -> Iterator[None]:
    """Between these, cycles are not looked for: over a million objects the looking takes a tenth of the time."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()
