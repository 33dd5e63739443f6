"""`python -m house.keeper`: watches what `start` started and brings back what died. It does nothing else.

Each look holds the house's lock, which `start` and `stop` hold too, so that
nobody starts a thing twice. What dies again as soon as it is started waits
twice as long before every further try.
"""

import contextlib
import fcntl
import os
import time
from collections.abc import Iterator

from house import postgres, services
from house.places import HOUSE, Trouble, say

DATABASE_PORT = 54331
#: Seconds between looks; the longest wait before another try.
_PAUSE, _LONGEST = 1.0, 30.0


@contextlib.contextmanager
def alone() -> Iterator[None]:
    """Between these, no other process of ours starts or stops anything of this house."""
    HOUSE.mkdir(parents=True, exist_ok=True)
    with (HOUSE / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def own_database() -> bool:
    """Whether the database is ours to look after, and not one that was given."""
    return "HEMP_LADDER_DATABASE" not in os.environ


def environment(cluster: postgres.Cluster) -> dict[str, str]:
    """What the processes of the house are told."""
    return {
        "HEMP_LADDER_DATABASE": os.environ.get("HEMP_LADDER_DATABASE", cluster.url()),
        "HEMP_LADDER_STORE": os.environ.get("HEMP_LADDER_STORE", (HOUSE / "blobs").as_uri()),
        "PYTHONPYCACHEPREFIX": str(HOUSE / "compiled"),
    }


def web_port() -> int | None:
    """Where the web process stands, or stood at last."""
    with contextlib.suppress(OSError, ValueError):
        return int((HOUSE / "port").read_text())
    return None


class Keeper:
    """Looks after the database, the web process and the worker."""

    def __init__(self, cluster: postgres.Cluster) -> None:
        self._cluster = cluster
        self._next: dict[str, float] = {}
        self._wait: dict[str, float] = {}

    def look(self) -> list[str]:
        """Bring back what is gone; the names of what was brought back."""
        back = []
        if own_database() and self._cluster.port is None and self._may("database"):
            self._cluster.start(DATABASE_PORT)
            back.append("database")
        if own_database() and self._cluster.port is None:
            return back
        told = environment(self._cluster)
        # `start` may have found the web process another port meanwhile.
        for service in (services.web(web_port() or 0), services.worker()):
            if service.running and service.database != told["HEMP_LADDER_DATABASE"]:
                service.stop()
            if not service.running and self._may(service.name):
                service.start(told)
                back.append(service.name)
        return back

    def _may(self, name: str) -> bool:
        """Whether it is time for another try; the next waits longer unless this one lasted."""
        now = time.monotonic()
        if now < self._next.get(name, 0.0):
            return False
        lasted = now - self._next.get(name, now) > _LONGEST
        self._wait[name] = 1.0 if lasted else min(_LONGEST, 2 * self._wait.get(name, 0.5))
        self._next[name] = now + self._wait[name]
        return True


def service() -> services.Service:
    return services.Service("keeper", ["-m", "house.keeper"])


def main() -> None:
    """Look once a second, until it is told to stop."""
    keeper = Keeper(postgres.Cluster(postgres.home()))
    while True:
        time.sleep(_PAUSE)
        try:
            with alone():
                for name in keeper.look():
                    say(f"{time.strftime('%Y-%m-%d %H:%M:%S')} brought back: {name}")
        except (Trouble, OSError) as trouble:
            say(str(trouble))


if __name__ == "__main__":
    main()
