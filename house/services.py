"""The processes that `start` leaves running: web and worker. Each has a file with its number and start time."""

import contextlib
import os
import signal
import socket
import subprocess
import time
from pathlib import Path

from house.places import HOUSE, PYTHON, ROOT, Trouble

#: The C library gives each thread of a pool its own heap, and keeps what was freed there: two heaps do.
SPARING = {"MALLOC_ARENA_MAX": "2"}


class Service:
    """A process of ours, recognised later by its number and start time, so that no stranger is stopped."""

    def __init__(self, name: str, arguments: list[str]) -> None:
        self.name = name
        self._arguments = arguments
        self._mark = HOUSE / f"{name}.pid"
        self.log = HOUSE / f"{name}.log"

    @property
    def running(self) -> int | None:
        """Its number, None when it does not run or the number belongs to another process now."""
        with contextlib.suppress(OSError, ValueError):
            number, born = self._mark.read_text().split()[:2]
            if _born(int(number)) == born:
                return int(number)
        return None

    @property
    def database(self) -> str:
        """The address of the database that it was told when it was started."""
        with contextlib.suppress(OSError, IndexError):
            return self._mark.read_text().split()[2]
        return ""

    def start(self, environment: dict[str, str]) -> None:
        if self.running:
            return
        with self.log.open("ab") as log:
            process = subprocess.Popen(
                [str(PYTHON), *self._arguments], cwd=ROOT, env={**os.environ, **SPARING, **environment},
                stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True,
            )  # fmt: skip
        self._mark.write_text(f"{process.pid} {_born(process.pid)} {environment.get('HEMP_LADDER_DATABASE', '')}")

    def stop(self) -> bool:
        number = self.running
        if number is None:
            self._mark.unlink(missing_ok=True)
            return False
        os.killpg(number, signal.SIGTERM)
        for _ in range(80):
            if self.running is None:
                break
            time.sleep(0.1)
        else:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(number, signal.SIGKILL)
        self._mark.unlink(missing_ok=True)
        return True

    def last_words(self) -> str:
        with contextlib.suppress(OSError):
            return "\n".join(self.log.read_text(errors="replace").splitlines()[-12:])
        return ""


def _born(number: int) -> str:
    """When a process started, in the kernel's ticks; empty for a dead one."""
    with contextlib.suppress(OSError):
        fields = Path(f"/proc/{number}/stat").read_text().rpartition(")")[2].split()
        return "" if fields[0] == "Z" else fields[19]
    return ""


def web(port: int) -> Service:
    return Service("web", ["-m", "hemp_ladder.api.server", "--port", str(port)])


def worker() -> Service:
    return Service("worker", ["-m", "hemp_ladder.work.worker"])


def wait_for(port: int, service: Service) -> None:
    """Wait until the web process answers."""
    for _ in range(300):
        if _answers(f"http://127.0.0.1:{port}/api/health"):
            return
        if service.running is None:
            break
        time.sleep(0.1)
    raise Trouble(f"{service.last_words()}\nThe web process did not come up. Its log is {service.log}.")


def _answers(address: str) -> bool:
    # Half of what every command would import, for the one that starts the house.
    import urllib.request

    with contextlib.suppress(OSError), urllib.request.urlopen(address, timeout=2) as answer:  # noqa: S310 (our own)
        return bool(answer.status == 200)
    return False


def free_port(wanted: int) -> int:
    """`wanted`, or the next free one."""
    for port in range(wanted, wanted + 50):
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) != 0:
                return port
    raise Trouble(f"No port between {wanted} and {wanted + 49} is free.")
