"""Where the database and the object store are; set by `./ladder`, or by hand for further machines."""

import os
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
HOUSE = Path(os.environ.get("HEMP_LADDER_HOUSE", ROOT / ".house"))


def database_url() -> str:
    """A `postgresql://` address; the library's own form of it is made where it is used."""
    return os.environ.get("HEMP_LADDER_DATABASE", "postgresql://ladder@127.0.0.1:5433/ladder")


def store_url() -> str:
    """`file:///...` for a local folder, `s3://bucket/prefix` for a bucket (keys from AWS_* variables)."""
    return os.environ.get("HEMP_LADDER_STORE", (HOUSE / "blobs").as_uri())


def upload_limit() -> int:
    """Bytes of the largest file that is taken."""
    return int(os.environ.get("HEMP_LADDER_UPLOAD_LIMIT", 2 << 30))
