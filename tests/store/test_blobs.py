"""The blob store, as a folder and as an S3-compatible bucket, through the same library."""

import os
import subprocess
import sys
import unittest

from house.places import ROOT
from tests.support import FolderCase, start_bucket

_TRIAL = """
import sys
from pathlib import Path
from hemp_ladder.store import blobs
name = blobs.put_by_content("packs", b"hello", ".glb")
assert blobs.exists(f"packs/{name}") and not blobs.exists("packs/none")
assert blobs.get(f"packs/{name}") == b"hello" and blobs.size(f"packs/{name}") == 5
try:
    blobs.get("packs/none")
except KeyError:
    pass
else:
    raise AssertionError("a blob that is not there was given")
big = Path(sys.argv[1]); big.write_bytes(bytes(range(256)) * 40_000)
blobs.put_file("sources/big", big)
assert b"".join(blobs.stream("sources/big")) == big.read_bytes()
out = big.with_suffix(".out"); blobs.fetch("sources/big", out)
assert out.read_bytes() == big.read_bytes()
"""


class Blobs(FolderCase):
    def trial(self, url: str, **environment: str) -> None:
        done = subprocess.run(
            [sys.executable, "-c", _TRIAL, str(self.folder / "big")],
            env={**os.environ, "HEMP_LADDER_STORE": url, "PYTHONPATH": str(ROOT), **environment}, capture_output=True, text=True,
        )  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr[-1500:])

    def test_a_folder(self) -> None:
        self.trial((self.folder / "store").as_uri())

    def test_a_bucket(self) -> None:
        server, environment = start_bucket()
        self.addCleanup(server.stop)
        self.trial(environment.pop("HEMP_LADDER_STORE"), **environment)


class Schema(unittest.TestCase):
    def test_migrations_make_the_tables_that_the_code_has(self) -> None:
        from alembic.autogenerate import compare_metadata
        from alembic.migration import MigrationContext
        from sqlalchemy import create_engine

        from hemp_ladder.store.tables import Base
        from tests.support import House

        house = House(workers=0)
        self.addCleanup(house.close)
        url = house.environment["HEMP_LADDER_DATABASE"].replace("postgresql://", "postgresql+psycopg://")
        engine = create_engine(url)
        self.addCleanup(engine.dispose)
        with engine.connect() as connection:
            context = MigrationContext.configure(
                connection,
                opts={"include_name": lambda name, kind, _: kind != "table" or not name.startswith("procrastinate")},
            )
            changes = [change for change in compare_metadata(context, Base.metadata) if "index" not in str(change[0])]
        self.assertEqual(changes, [])
