"""`python -m tests.ready SOCKET`: the application's processes for tests, forked from one that has imported it.

Each house would import the web application, the worker and the kernel anew, which took a tenth of the suite's time.
Nothing is imported before the first is asked for; it ends with who started it. Houses that are killed piece by piece
(`tests.kills`), and all outside the suite, start their processes as people do.
"""

import gc
import importlib
import json
import os
import runpy
import select
import signal
import socket
import subprocess
import sys
import tempfile
import time
import traceback
from collections.abc import Iterator, Mapping
from contextlib import AbstractContextManager, contextmanager, suppress
from multiprocessing import forkserver
from pathlib import Path
from typing import Any

from house.places import PYTHON, ROOT
from house.services import SPARING

#: Where a process that forks is found, for the processes of the suite.
WHERE = "HEMP_LADDER_TEST_READY"


@contextmanager
def ready_processes() -> Iterator[str]:
    """Somebody who forks processes of the application until the context ends: where to ask."""
    with tempfile.TemporaryDirectory(prefix="ladder-ready-") as folder:
        where = str(Path(folder) / "socket")
        with socket.socket(socket.AF_UNIX) as listener:
            listener.bind(where)
            listener.listen(64)
            process = subprocess.Popen(
                # Those that are killed leave what Python would count for them.
                [str(PYTHON), "-W", "ignore:resource_tracker", "-m", "tests.ready", str(listener.fileno())], cwd=ROOT,
                env={**os.environ, **SPARING},
                stdin=subprocess.PIPE, pass_fds=[listener.fileno()],
            )  # fmt: skip
        try:
            yield where
        finally:
            # Its input ends, and so does it.
            process.communicate()


class Forked:
    """A process that is no child of this one, with as much of `Popen` as tests use."""

    def __init__(self, module: str, arguments: list[str], environment: Mapping[str, str], log: Path) -> None:
        wanted = {"module": module, "arguments": arguments, "environment": dict(environment), "log": str(log)}
        with socket.socket(socket.AF_UNIX) as talk:
            talk.connect(os.environ[WHERE])
            with talk.makefile("rw") as lines:
                lines.write(json.dumps(wanted) + "\n")
                lines.flush()
                said = lines.readline()
        if not said:
            raise AssertionError("the process that forks those of the application has ended")
        self.pid = int(said)

    def poll(self) -> int | None:
        """None while it runs."""
        with suppress(ProcessLookupError):
            os.kill(self.pid, 0)
            return None
        return 0

    def wait(self) -> None:
        while self.poll() is None:
            time.sleep(0.01)

    def send_signal(self, number: int) -> None:
        os.kill(self.pid, number)

    def kill(self) -> None:
        self.send_signal(signal.SIGKILL)


def main() -> None:
    """Fork what is asked for, until the input ends; what still runs then ends too."""
    listener = socket.socket(fileno=int(sys.argv[1]))
    forked: list[int] = []
    while sys.stdin not in select.select([listener, sys.stdin], [], [])[0]:
        talk, _ = listener.accept()
        with talk, talk.makefile("rw") as lines:
            wanted = json.loads(lines.readline())
            if not forked:
                _import()
                # Nobody waits for those that are forked here. The server of children would hand this on to all of them.
                signal.signal(signal.SIGCHLD, signal.SIG_IGN)
            pid = os.fork()
            if not pid:
                listener.close()
                _become(**wanted)
            forked.append(pid)
            lines.write(f"{pid}\n")
    for pid in forked:
        with suppress(OSError):
            os.killpg(pid, signal.SIGKILL)


def _import() -> None:
    """All that web process and worker import, and a server of children for the workers to share."""
    from hemp_ladder.work.children import start_early

    start_early(wholly=True)
    for name in ("uvicorn", "h11", "hemp_ladder.api.app", "hemp_ladder.work.folders"):
        importlib.import_module(name)
    queue = importlib.import_module("hemp_ladder.work.queue")
    for room in queue.TASKS:
        importlib.import_module(room)
    gc.collect()
    gc.freeze()


def _become(module: str, arguments: list[str], environment: dict[str, str], log: str) -> None:
    """`python -m MODULE ARGUMENTS` in a session of its own; does not return."""
    code: Any = 1
    try:
        os.setsid()
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        os.environ.clear()
        os.environ.update(environment)
        out = os.open(log, os.O_WRONLY | os.O_APPEND)
        for number, into in ((os.open(os.devnull, os.O_RDONLY), 0), (out, 1), (out, 2)):
            os.dup2(number, into)
        _share_children()
        sys.argv = [module, *arguments]
        with _this_database():
            runpy.run_module(module, run_name="__main__", alter_sys=True)
        code = 0
    except SystemExit as left:
        code = left.code
    except BaseException:
        traceback.print_exc()
    finally:
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code if isinstance(code, int) else 0 if code is None else 1)


def _share_children() -> None:
    """The server of children is there already, but no child of this process, which Python's own question supposes."""
    server: Any = forkserver
    server.ensure_running = server._forkserver.ensure_running = lambda: None


def _this_database() -> AbstractContextManager[Any]:
    """The queue was told an address when it was imported."""
    import procrastinate

    from hemp_ladder.store.config import database_url
    from hemp_ladder.work import queue

    return queue.app.replace_connector(procrastinate.PsycopgConnector(conninfo=database_url()))


if __name__ == "__main__":
    main()
