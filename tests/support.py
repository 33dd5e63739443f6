"""What several tests need: files to read, a house to run in."""

import atexit
import contextlib
import os
import random
import re
import shutil
import socket
import subprocess
import tempfile
import time
import unittest
import urllib.request
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

import psycopg

from house.places import PYTHON, ROOT
from house.postgres import Cluster
from house.services import SPARING
from tests.ready import WHERE, Forked

DEMO = ROOT / "demo" / "gull-rock-lantern.step"
HOUSE = ROOT / "demo" / "keepers-house.ifc"
SHED = ROOT / "demo" / "boat-shed.ifc"
DAVIT = ROOT / "demo" / "quay-davit.igs"
#: Public STEP files that came in a package of the npm registry, written by four other systems.
PUBLIC = ROOT / "web" / "node_modules" / "occt-import-js" / "test" / "testfiles"
AS1 = PUBLIC / "cax-if" / "as1-oc-214.stp"
#: A real house of two storeys by another system, from a package of the npm registry.
REAL_HOUSE = ROOT / "web" / "node_modules" / "ifc-convert" / "test" / "duplex.ifc"
SEVERAL_FILES = PUBLIC / "cax-if" / "s1-c5-214"


class FolderCase(unittest.TestCase):
    """A test with a folder of its own."""

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="ladder-test-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)


def read_kept(path: Path) -> tuple[Any, Any]:
    """The model in a file of any format, and what its reader reported."""
    from hemp_ladder.core.receive.readers import need_reader
    from hemp_ladder.core.receive.report import Kept

    kept = Kept()
    return need_reader(path).read(path, kept), kept


class FollowedHere:
    """A shelf that follows chains in this process, from bodies by key, and keeps what it made."""

    def __init__(self, bodies: Mapping[str, bytes]) -> None:
        self.bodies = bodies
        self.kept: dict[str, Any] = {}

    def meshes(self, chains: Sequence[Any]) -> Any:
        from hemp_ladder.core.chain.making import Order, make
        from hemp_ladder.core.climb import Made

        missing = [chain for chain in chains if chain.key not in self.kept]
        for made in make([Order(chain, [self.bodies[key] for key in chain.bodies]) for chain in missing]):
            self.kept.update(made)
        return Made(self.kept)


def write_step(shape: Any, path: Path, unit: str = "MM") -> Path:
    """A kernel shape as a STEP file of one part named Part."""
    from demo.document import Assembly

    assembly = Assembly()
    assembly.part("Part", shape, "Layer", "#808080")
    assembly.write(path, unit=unit)
    return path


def broken_files(folder: Path) -> dict[str, Path]:
    """One file for each way of being bad that STEP files have."""
    whole = AS1.read_bytes()
    dice = random.Random(7)
    flipped = bytearray(whole)
    start = whole.index(b"DATA;")
    for _ in range(300):
        flipped[dice.randrange(start, len(flipped) - 40)] = dice.randrange(32, 127)
    numbers = re.findall(rb"^#(\d+)", whole, re.MULTILINE)

    def repoint(match: re.Match[bytes]) -> bytes:
        return b"#" + dice.choice(numbers) if dice.random() < 0.01 and match.start() > start else match[0]

    contents = {
        "empty": b"",
        "garbage": dice.randbytes(4000),
        "not-step": b"solid cube\nfacet normal 0 0 1\n",
        "truncated": whole[: len(whole) // 2],
        "flipped": bytes(flipped),
        "repointed": re.sub(rb"(?<=[(,])#\d+", repoint, whole),
        "no-shape": b"ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n#1=FOO();\nENDSEC;\nEND-ISO-10303-21;\n",
    }
    paths = {}
    for name, data in contents.items():
        paths[name] = folder / f"{name}.step"
        paths[name].write_bytes(data)
    return paths


@contextlib.contextmanager
def throwaway_cluster() -> Iterator[str]:
    """A PostgreSQL of its own in memory-backed disk, without the care a real one takes; yields its address."""
    base = Path("/dev/shm") if os.access("/dev/shm", os.W_OK) else Path(tempfile.gettempdir())
    folder = Path(tempfile.mkdtemp(prefix="ladder-pg-", dir=base))
    folder.chmod(0o755)
    cluster = Cluster(folder, ("fsync=off", "full_page_writes=off", "autovacuum=off", "max_connections=200"))
    try:
        cluster.start(0)
        yield cluster.url("postgres")
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)


def start_bucket() -> tuple[Any, dict[str, str]]:
    """An empty S3-compatible bucket on loopback (moto, a stand-in from the package index), and what a process must know of it."""
    import boto3
    from moto.server import ThreadedMotoServer

    server = ThreadedMotoServer(ip_address="127.0.0.1", port=0)
    server.start()
    host, port = server.get_host_and_port()
    boto3.client(
        "s3",
        endpoint_url=f"http://{host}:{port}",
        region_name="us-east-1",
        aws_access_key_id="x",
        aws_secret_access_key="x",
    ).create_bucket(Bucket="ladder")
    return server, {
        "HEMP_LADDER_STORE": "s3://ladder/house", "AWS_ENDPOINT": f"http://{host}:{port}", "AWS_ALLOW_HTTP": "true",
        "AWS_ACCESS_KEY_ID": "x", "AWS_SECRET_ACCESS_KEY": "x", "AWS_REGION": "us-east-1",
    }  # fmt: skip


class House:
    """A running application of a test class's own: database, blobs, web, and as many workers as asked; empty, or with
    what an earlier version left (`kept`: a folder with the revision of its schema, its rows as SQL, and its blobs)."""

    def __init__(self, workers: int = 1, kept: Path | None = None, **environment: str) -> None:
        server = os.environ["HEMP_LADDER_TEST_SERVER"]
        self.name = f"t{os.getpid()}_{random.randrange(1 << 30)}"
        self.folder = Path(tempfile.mkdtemp(prefix="ladder-house-"))
        self.environment = {
            **os.environ,
            "HEMP_LADDER_DATABASE": server.rsplit("/", 1)[0] + f"/{self.name}",
            "HEMP_LADDER_STORE": (self.folder / "blobs").as_uri(),
            **SPARING,
            **environment,
        }
        if kept is None:
            self._from_template(server)
        else:
            with psycopg.connect(server, autocommit=True) as connection:
                connection.execute(f'CREATE DATABASE "{self.name}"')
            self._migrate(f"{(kept / 'schema').read_text().strip()!r}")
            psql = ["psql", "-q", "-v", "ON_ERROR_STOP=1", "-d", self.environment["HEMP_LADDER_DATABASE"]]
            subprocess.run([*psql, "-f", str(kept / "house.sql")], check=True, stdout=subprocess.DEVNULL)
            shutil.copytree(kept / "blobs", self.folder / "blobs")
            self._migrate()
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.log = (self.folder / "log").open("ab")
        self.web = self._start("-m", "hemp_ladder.api.server", "--port", str(self.port))
        self.workers = [self.add_worker() for _ in range(workers)]
        self._wait()

    def _from_template(self, server: str) -> None:
        """A database as migrations make it, which is done once for all houses of a cluster."""
        with psycopg.connect(server, autocommit=True) as connection:
            # One at a time: whoever copies is to be alone with what it copies from.
            connection.execute("SELECT pg_advisory_lock(1)")
            known = connection.execute("SELECT 1 FROM pg_database WHERE datname = 'ready'").fetchone()
            if known is None:
                connection.execute('DROP DATABASE IF EXISTS "making"')
                connection.execute('CREATE DATABASE "making"')
                self._migrate(database=server.rsplit("/", 1)[0] + "/making")
                connection.execute('ALTER DATABASE "making" RENAME TO "ready"')
            connection.execute(f'CREATE DATABASE "{self.name}" TEMPLATE "ready"')

    def _migrate(self, to: str = "", database: str | None = None) -> None:
        environment = {**self.environment, **({"HEMP_LADDER_DATABASE": database} if database else {})}
        self._run("-c", f"from hemp_ladder.store.database import migrate; migrate({to})", environment=environment)

    def _run(self, *arguments: str, environment: dict[str, str] | None = None) -> None:
        subprocess.run([str(PYTHON), *arguments], cwd=ROOT, env=environment or self.environment, check=True)

    def _start(self, *arguments: str) -> Any:
        """A process of the application: forked from one that is ready where the suite keeps one."""
        if WHERE in os.environ:
            return Forked(arguments[1], list(arguments[2:]), self.environment, self.folder / "log")
        return subprocess.Popen(
            [str(PYTHON), *arguments], cwd=ROOT, env=self.environment, stdout=self.log, stderr=self.log,
            start_new_session=True,
        )  # fmt: skip

    def add_worker(self) -> Any:
        return self._start("-m", "hemp_ladder.work.worker")

    def _wait(self) -> None:
        for _ in range(300):
            with contextlib.suppress(OSError), urllib.request.urlopen(f"{self.url}/api/health") as answer:
                if answer.status == 200:
                    return
            time.sleep(0.1)
        raise AssertionError(f"the web process did not come up: {(self.folder / 'log').read_text()[-2000:]}")

    def close(self) -> None:
        for process in [self.web, *self.workers]:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(process.pid, 9)
            process.wait()
        self.log.close()
        with psycopg.connect(os.environ["HEMP_LADDER_TEST_SERVER"], autocommit=True) as connection:
            connection.execute(f'DROP DATABASE "{self.name}" WITH (FORCE)')
        shutil.rmtree(self.folder, ignore_errors=True)


#: Houses that classes of this process share, by what they are started with; they stand until it ends.
_SHARED: dict[tuple[Any, ...], House] = {}


def _shared(workers: int, environment: Mapping[str, str]) -> House:
    key = (workers, *sorted(environment.items()))
    if key not in _SHARED:
        _SHARED[key] = House(workers, **environment)
        atexit.register(_SHARED[key].close)
    return _SHARED[key]


class HouseCase(unittest.TestCase):
    """Tests against a running house, over HTTP."""

    workers = 1
    environment: dict[str, str] = {}
    kept: Path | None = None
    #: In a house that no other class uses: for those that stop its processes, or look at all that is in it.
    alone = False
    house: House

    @classmethod
    def setUpClass(cls) -> None:
        import httpx

        if cls.alone or cls.kept:
            cls.house = House(cls.workers, cls.kept, **cls.environment)
            cls.addClassCleanup(cls.house.close)
        else:
            cls.house = _shared(cls.workers, cls.environment)
        cls.http = httpx.Client(base_url=cls.house.url, timeout=60)
        cls.addClassCleanup(cls.http.close)

    def upload(self, path: Path, name: str | None = None) -> dict[str, Any]:
        answer = self.http.put("/api/uploads", params={"name": name or path.name}, content=path.read_bytes())
        self.assertEqual(answer.status_code, 200, answer.text)
        sent: dict[str, Any] = answer.json()
        return sent

    def make_job(self, *paths: Path, name: str = "A job") -> dict[str, Any]:
        files = [self.upload(path) for path in paths]
        answer = self.http.post("/api/jobs", json={"name": name, "files": files})
        self.assertEqual(answer.status_code, 201, answer.text)
        job: dict[str, Any] = answer.json()
        return job

    def wait_for(self, job: int, reached: Any, seconds: float = 240) -> dict[str, Any]:
        """The job as soon as `reached(job)` holds."""
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            view: dict[str, Any] = self.http.get(f"/api/jobs/{job}").json()
            if reached(view):
                return view
            time.sleep(0.1)
        self.fail(
            f"waited {seconds} s in vain: {[(s['state'], s['stage']) for s in view['sources']]}, {view['climb']}, {view['deliveries'][:1]}"
        )

    def ready(self, job: int) -> dict[str, Any]:
        """The job when every source is read, or will not be, and every mesh is made."""

        def done(view: dict[str, Any]) -> bool:
            busy = any(source["state"] in ("waiting", "reading") for source in view["sources"])
            return not busy and view["climb"]["state"] == "done"

        return self.wait_for(job, done)

    def decide(self, job: int, label: str, continues: int | None = None, **sections: Any) -> dict[str, Any]:
        """Lay sections over the decisions in force."""
        now = self.http.get(f"/api/jobs/{job}").json()
        decisions, base = now["decisions"], now["decisions_id"]
        for section, values in sections.items():
            decisions[section] = {**decisions[section], **values}
        answer = self.http.put(
            f"/api/jobs/{job}/decisions",
            json={"decisions": decisions, "label": label, "continues": continues, "base": base},
        )
        self.assertEqual(answer.status_code, 200, answer.text)
        view: dict[str, Any] = answer.json()
        return view


def write_crate(path: Path) -> Path:
    """A Wavefront file with a crate, closed, and a float that stands wholly in it."""
    import trimesh

    crate, ball = trimesh.creation.box((2, 2, 2)), trimesh.creation.icosphere(1, 0.3)
    path.write_text("".join(
        f"o {name}\n" + "".join(f"v {x} {y} {z}\n" for x, y, z in shape.vertices)
        + "".join("f " + " ".join(str(k + first) for k in face) + "\n" for face in shape.faces)
        for name, shape, first in (("Crate", crate, 1), ("Float", ball, 1 + len(crate.vertices)))
    ))  # fmt: skip
    return path
