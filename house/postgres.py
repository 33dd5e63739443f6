"""Our own PostgreSQL on loopback: made, started, stopped. Nobody else's is touched."""

import contextlib
import os
import pwd
import shutil
import socket
import subprocess
from pathlib import Path

from house.places import HOUSE, Trouble, say

_BIN = Path("/usr/lib/postgresql/15/bin")
_FALLBACK = Path("/var/lib/hemp-ladder")


class Cluster:
    """One data folder and the server that runs on it."""

    def __init__(self, folder: Path, options: tuple[str, ...] = ()) -> None:
        self.data = folder / "data"
        self._folder = folder
        self._lock = self.data / "postmaster.pid"
        self._options = options

    @property
    def port(self) -> int | None:
        """The port of the running server, None when it does not run."""
        with contextlib.suppress(OSError, ValueError, IndexError):
            lines = self._lock.read_text().splitlines()
            # After a power loss the number may be anybody's, and a dead process that nobody has
            # reaped counts as alive to PostgreSQL. A living server stands in its data folder.
            if Path(f"/proc/{int(lines[0])}/cwd").samefile(self.data):
                return int(lines[3])
        return None

    def url(self, database: str = "ladder") -> str:
        return f"postgresql://ladder@127.0.0.1:{self.port}/{database}"

    def start(self, wanted: int) -> None:
        """Start on `wanted`, or on a free port when that is 0 or taken. Half-made data is made anew."""
        if self.port is not None:
            return
        if not (self.data / "ready").exists():
            self._make()
        self._lock.unlink(missing_ok=True)
        port = wanted if wanted and _free(wanted) else _any_port()
        options = " ".join(f"-c {option}" for option in (
            f"port={port}", "listen_addresses=127.0.0.1", "unix_socket_directories=''", *self._options))  # fmt: skip
        code = self._run(
            "pg_ctl", "start", "-w", "-t", "30", "-D", str(self.data), "-l", str(self._folder / "log"), "-o", options
        )
        if code:
            tail = "\n".join((self._folder / "log").read_text(errors="replace").splitlines()[-8:])
            raise Trouble(f"{tail}\nPostgreSQL did not start. Its log is {self._folder / 'log'}.")

    def stop(self) -> bool:
        if self.port is None:
            return False
        self._run("pg_ctl", "stop", "-w", "-m", "fast", "-D", str(self.data))
        return True

    def _make(self) -> None:
        if self.data.exists():
            say("The database folder was left half made; it is made anew.")
            shutil.rmtree(self.data)
        self._folder.mkdir(parents=True, exist_ok=True)
        if os.geteuid() == 0:
            user = pwd.getpwnam("postgres")
            os.chown(self._folder, user.pw_uid, user.pw_gid)
        code = self._run(
            "initdb", "-D", str(self.data), "-U", "ladder", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "-N"
        )
        if code:
            raise Trouble(f"PostgreSQL could not make its folder {self.data}.")
        self._run("postgres", "--single", "-D", str(self.data), "postgres", text="CREATE DATABASE ladder;\n")
        (self.data / "ready").touch()

    def _run(self, program: str, *arguments: str, text: str = "") -> int:
        """Run one of PostgreSQL's programs, as its own user when we are root: it refuses root."""
        command = [str(_BIN / program), *arguments]
        if os.geteuid() == 0:
            command = ["setpriv", "--reuid=postgres", "--regid=postgres", "--init-groups", *command]
        done = subprocess.run(
            command, input=text, text=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, cwd="/"
        )
        return done.returncode


def home() -> Path:
    """Where the database lies: in the project, or under /var/lib when the project's path shuts others out."""
    inside = HOUSE / "postgres"
    if os.geteuid() != 0 or all(parent.stat().st_mode & 0o001 for parent in HOUSE.parents):
        if HOUSE.exists() and os.geteuid() == 0:
            HOUSE.chmod(0o755)
        return inside
    key = str(HOUSE).strip("/").replace("/", "-")
    say(f"The database lies in {_FALLBACK / key}: its user cannot enter this project's folder.")
    return _FALLBACK / key


def _free(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) != 0


def _any_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
