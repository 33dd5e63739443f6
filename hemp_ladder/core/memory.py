"""Python's collector of cycles, put aside while very many objects are made that all stay."""

import gc
from collections.abc import Iterator
from contextlib import contextmanager


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
