"""Child processes for native code that may crash, hang or eat memory.

The kernel's binding holds the interpreter lock and dies on damaged files, so
reading and meshing happen in children. They are forked from a server that has
imported the kernel once (1.5 s), so a new child costs milliseconds, also the
one that replaces a dead one. Each is limited in memory and processor time by
the operating system and in wall time by the parent.
"""

import gc
import importlib
import multiprocessing
import os
import resource
import signal
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, nullcontext
from dataclasses import dataclass, field
from multiprocessing import forkserver
from multiprocessing.connection import Connection, wait
from multiprocessing.process import BaseProcess
from pathlib import Path
from typing import Any

from hemp_ladder.core.errors import Cancelled, LadderError
from hemp_ladder.core.memory import collect_seldom, without_collector

#: What the fork server imports before it forks.
_PRELOAD = ["hemp_ladder.work.child_jobs"]
GIB = 1 << 30
#: So often a child is tried to be forked.
_FORKS = 5
#: Seconds without a job after which a new child makes itself ready for any: longer than the other needs for a small file,
#: which it would only slow down.
_LEISURE = 2.5
#: Jobs that need none of what a child imports to be ready for any.
_READING = {"open", "receive"}


@dataclass(frozen=True)
class Limits:
    """What one job may use: bytes of address space, seconds of processor and of wall time."""

    memory: int = field(default_factory=lambda: _from_environment("HEMP_LADDER_CHILD_MEMORY_GIB", 8) * GIB)
    cpu_seconds: int = field(default_factory=lambda: _from_environment("HEMP_LADDER_CHILD_CPU_SECONDS", 1800))
    wall_seconds: float = field(
        default_factory=lambda: float(_from_environment("HEMP_LADDER_CHILD_WALL_SECONDS", 3600))
    )

    def roomier(self) -> "Limits":
        """Twice of everything, for what may just have been unlucky."""
        return Limits(2 * self.memory, 2 * self.cpu_seconds, 2 * self.wall_seconds)


def _from_environment(name: str, otherwise: int) -> int:
    return int(os.environ.get(name, otherwise))


class ChildDied(LadderError):
    """The child ended before its job did, and how: by a `limit`; `killed` from outside, as by a system short of memory,
    which says nothing of the job; `raised`, by an error of our own code or a library's, which comes again; or by none
    of these, in native code."""

    code = "child-died"

    def __init__(self, message: str, limit: bool = False, killed: bool = False, raised: bool = False) -> None:
        super().__init__(message)
        self.limit, self.killed, self.raised = limit, killed, raised

    def __reduce__(self) -> tuple[Any, ...]:
        return type(self), (self.message, self.limit, self.killed, self.raised)


#: Takes what a job reports on its way: a word and its values.
OnReport = Callable[[str, tuple[Any, ...]], None]


def start_early(wholly: bool = False) -> None:
    """Have the fork server import the kernel while the caller is still importing its own things.

    `wholly`, for who will ask for many children over a long time: also what only some jobs need.
    """
    if wholly:
        _PRELOAD[:] = ["hemp_ladder.work.child_all"]
    multiprocessing.get_context("forkserver").set_forkserver_preload(_PRELOAD)
    forkserver.ensure_running()


class Crew:
    """A few warm children. Use as a context; all children end with it."""

    def __init__(self, size: int | None = None, limits: Limits | None = None) -> None:
        self.size = size or os.cpu_count() or 1
        self.limits = limits or Limits()
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(_PRELOAD)
        self._idle: list[_Child] = []
        self._busy: list[_Child] = []

    def __enter__(self) -> "Crew":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        for child in self._idle:
            child.end()
        self._idle.clear()

    def roomier(self) -> "Crew":
        """One child at a time with twice the room."""
        crew = Crew(1, self.limits.roomier())
        crew._context = self._context
        return crew

    @contextmanager
    def beside(self) -> Iterator["Crew"]:
        """One child of this crew's, to work in another thread while this crew does; it comes back."""
        crew = Crew(1, self.limits)
        crew._context = self._context
        crew._idle.append(self._taken(""))
        try:
            yield crew
        finally:
            self._idle += crew._idle

    def warm(self, more: int = 0) -> None:
        """Start children ahead of need; returns at once, they import while the caller goes on: all but one, which is to
        read, at once, one after another."""
        for number in range(len(self._idle), self.size + more):
            leisure = _LEISURE * abs(number - 1)
            self._idle.append(_Child(self._context, self.limits, leisure, ready=number > 0))
        # The last is taken first: the one that makes itself ready at once.
        self._idle[1:] = self._idle[:0:-1]

    def _taken(self, job: str) -> "_Child":
        """A child for a job: one that is ready for any, or one that is not for one that reads; a new one where none waits."""
        if not self._idle:
            return _Child(self._context, self.limits)
        fitting = [child for child in self._idle if child.ready != (job in _READING)]
        child = (fitting or self._idle)[-1]
        self._idle.remove(child)
        return child

    def _started(self, job: str, values: tuple[Any, ...], seconds: float) -> "_Child":
        """A child at work on it. One that was ended while it waited, as by a system short of memory, is passed over."""
        for _ in range(len(self._idle) + _FORKS):
            child = self._taken(job)
            try:
                child.start(job, values, seconds)
                return child
            except OSError:
                child.end()
        raise ChildDied("Its process was ended from outside.", killed=True)

    def processor_time(self, of_idle: bool = False) -> float:
        """Seconds of processor that the children at work have used since they started; those that wait too, where asked."""
        return float(sum(child.processor_time() for child in (*self._busy, *(self._idle if of_idle else ()))))

    def run(
        self,
        job: str,
        *inputs: Any,
        on_report: OnReport | None = None,
        cancelled: Callable[[], bool] = lambda: False,
        seconds: Callable[..., float] | None = None,
    ) -> Any:
        """One job of `child_jobs` or `child_shapes` in a child of its own.

        `seconds` gives from the inputs how much processor time it may take, within the limit for all.

        Raises what the job raised, ChildDied when the child ended first, and
        Cancelled as soon as `cancelled()` says so.
        """
        for _, outcome in self.map(job, [inputs], on_report, cancelled, seconds):
            if isinstance(outcome, Exception):
                raise outcome
            return outcome
        raise AssertionError("a job gave no outcome")

    def map(
        self,
        job: str,
        inputs: Iterable[tuple[Any, ...]],
        on_report: OnReport | None = None,
        cancelled: Callable[[], bool] = lambda: False,
        seconds: Callable[..., float] | None = None,
    ) -> Iterator[tuple[int, Any]]:
        """Run the job over many inputs; yields (number, result or exception) as they end."""
        waiting = iter(enumerate(inputs))
        busy: dict[Connection, tuple[_Child, int, float]] = {}
        more = True
        try:
            while True:
                while more and len(busy) < self.size:
                    following = next(waiting, None)
                    if following is None:
                        more = False
                        break
                    number, values = following
                    child = self._started(job, values, seconds(*values) if seconds else float("inf"))
                    self._busy.append(child)
                    busy[child.pipe] = (child, number, time.monotonic() + self.limits.wall_seconds)
                if not busy:
                    return
                ready = wait(list(busy), timeout=0.2)
                if cancelled():
                    raise Cancelled("Stopped on request.")
                for pipe in ready:
                    child, number, deadline = busy[pipe]  # type: ignore[index]
                    outcome = child.receive(on_report)
                    if outcome is _STILL_BUSY:
                        continue
                    del busy[pipe]  # type: ignore[arg-type]
                    self._busy.remove(child)
                    if isinstance(outcome, ChildDied):
                        child.end()
                    else:
                        self._idle.append(child)
                    yield number, outcome
                now = time.monotonic()
                for pipe, (child, number, deadline) in list(busy.items()):
                    if now > deadline:
                        del busy[pipe]
                        self._busy.remove(child)
                        child.end()
                        yield number, ChildDied("It took longer than the wall time one job may take.", True)
        finally:
            for child, _, _ in busy.values():
                self._busy.remove(child)
                child.end()


_STILL_BUSY = object()


class _Child:
    """`leisure` is how many seconds without a job it waits before it makes itself ready for any; `ready`, whether it will
    have been."""

    def __init__(self, context: Any, limits: Limits, leisure: float = _LEISURE, ready: bool = False) -> None:
        self.pipe, far = context.Pipe()
        self.ready = ready
        self._limits = limits
        self._used = 0.0
        for attempt in range(_FORKS):
            self.process: BaseProcess = context.Process(target=_serve, args=(far, limits, leisure), daemon=True)
            try:
                self.process.start()
                break
            except (EOFError, OSError):
                # The fork server itself was killed; the next start brings up another.
                if attempt + 1 == _FORKS:
                    raise
                time.sleep(0.2)
        far.close()

    def start(self, job: str, values: tuple[Any, ...], seconds: float) -> None:
        self.pipe.send((job, values, max(1, int(min(seconds, self._limits.cpu_seconds)))))

    def receive(self, on_report: OnReport | None) -> Any:
        try:
            word, *values = self.pipe.recv()
        except (EOFError, ConnectionError):
            self.process.join(5)
            return _death(self.process.exitcode)
        if word == "report":
            if on_report is not None:
                on_report(values[0], values[1])
            return _STILL_BUSY
        return values[0]

    def processor_time(self) -> float:
        """As the system counts it; what it was at last where the process is gone."""
        try:
            fields = Path(f"/proc/{self.process.pid}/stat").read_text().rpartition(")")[2].split()
            self._used = (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")
        except (OSError, IndexError):
            pass
        return self._used

    def end(self) -> None:
        self.pipe.close()
        self.process.kill()
        self.process.join(5)


def _death(code: int | None) -> ChildDied:
    if code is not None and code < 0:
        name = signal.Signals(-code).name
        if -code == signal.SIGXCPU:
            return ChildDied("It used more processor time than one job may use.", limit=True)
        if -code in (signal.SIGKILL, signal.SIGTERM):
            return ChildDied("Its process was ended from outside.", killed=True)
        return ChildDied(f"The native code crashed ({name}).")
    return ChildDied("The child process ended early.")


def _serve(pipe: Connection, limits: Limits, leisure: float) -> None:
    """The child's life: take a job, do it, say how it went."""
    resource.setrlimit(resource.RLIMIT_AS, (limits.memory, limits.memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # What the server has imported stays, and is not looked over for cycles by each child again.
    gc.freeze()
    collect_seldom()
    known = importlib.import_module("hemp_ladder.work.child_jobs")
    if not pipe.poll(leisure):
        known.at_leisure(pipe.poll)

    def report(word: str, *values: Any) -> None:
        pipe.send(("report", word, values))

    while True:
        try:
            job, values, seconds = pipe.recv()
        except (EOFError, OSError):
            return
        used = resource.getrusage(resource.RUSAGE_SELF)
        allowed = int(used.ru_utime + used.ru_stime) + seconds
        resource.setrlimit(resource.RLIMIT_CPU, (allowed, resource.RLIM_INFINITY))
        # What was read is looked over for cycles, and let go, when the answer is on its way.
        with without_collector() if job in _READING else nullcontext():
            outcome = _outcome(known, job, values, report)
            try:
                pipe.send(("done", outcome))
            except OSError:
                return
            del outcome


def _outcome(known: Any, job: str, values: tuple[Any, ...], report: OnReport) -> Any:
    try:
        return known.job_called(job)(*values, report)
    except MemoryError:
        return ChildDied("It needed more memory than one job may use.", True)
    except LadderError as error:
        return error
    except Exception as error:
        return ChildDied(f"It gave up: {type(error).__name__}: {error}"[:300], raised=True)
