"""Kernel calls that may never come back, each in a copy of the process with limited processor time."""

import os
import pickle
import resource
import signal
from collections.abc import Callable
from typing import TypeVar

_Told = TypeVar("_Told")


def in_fork(work: Callable[[], _Told], seconds: int) -> _Told | None:
    """What `work` gives, which must survive pickling; None where it raised, crashed, or took more processor time.

    A copy takes a twentieth of a second. Nothing but the kernel is to be called in it: other threads of this process
    are not there.
    """
    out, into = os.pipe()
    child = os.fork()
    if child == 0:
        # Nothing of the parent's may run here, not even its clean-up.
        try:
            os.close(out)
            resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
            signal.signal(signal.SIGXCPU, signal.SIG_DFL)
            resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
            with os.fdopen(into, "wb") as pipe:
                pickle.dump(work(), pipe)
        finally:
            os._exit(0)
    os.close(into)
    with os.fdopen(out, "rb") as pipe:
        told = pipe.read()
    os.waitpid(child, 0)
    try:
        found: _Told = pickle.loads(told)  # noqa: S301  (what this very process wrote)
    except (pickle.UnpicklingError, EOFError, ValueError):
        return None
    return found
