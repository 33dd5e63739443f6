"""The blob store: a local folder or an S3-compatible bucket, by one setting, through one library."""

import hashlib
from collections.abc import Iterator, Sequence
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import Any

import obstore
from obstore.exceptions import NotFoundError
from obstore.store import from_url

from hemp_ladder.store.config import store_url


@cache
def _store() -> Any:
    url = store_url()
    if url.startswith("file://"):
        return from_url(url, mkdir=True)
    return from_url(url)


def put(name: str, data: bytes) -> None:
    """Store bytes; whole or not at all."""
    obstore.put(_store(), name, data)


def put_file(name: str, path: Path) -> None:
    """Store a file without holding it in memory."""
    with path.open("rb") as file:
        obstore.put(_store(), name, file)


def get(name: str) -> bytes:
    """The bytes. Raises KeyError when there are none."""
    try:
        return bytes(obstore.get(_store(), name).bytes())
    except (NotFoundError, FileNotFoundError) as error:
        raise KeyError(name) from error


def stream(name: str, start: int = 0, end: int | None = None) -> Iterator[bytes]:
    """The bytes in chunks, or those from `start` to before `end`. Raises KeyError when there are none."""
    options: obstore.GetOptions | None = {"range": (start, end)} if end is not None and end > start else None
    try:
        result = obstore.get(_store(), name, options=options)
    except (NotFoundError, FileNotFoundError) as error:
        raise KeyError(name) from error
    return (bytes(chunk) for chunk in result.stream(min_chunk_size=1 << 20))


def exists(name: str) -> bool:
    try:
        obstore.head(_store(), name)
    except (NotFoundError, FileNotFoundError):
        return False
    return True


def size(name: str) -> int:
    """Bytes of a blob. Raises KeyError when it is not there."""
    try:
        return int(obstore.head(_store(), name)["size"])
    except (NotFoundError, FileNotFoundError) as error:
        raise KeyError(name) from error


def all_of_them() -> Iterator[tuple[str, int, datetime]]:
    """Every blob: name, bytes, and when it was stored last."""
    for batch in obstore.list(_store()):
        for item in batch:
            yield item["path"], int(item["size"]), item["last_modified"]


def remove(names: Sequence[str]) -> None:
    """Remove blobs; those that are not there count as removed."""
    for name in names:
        try:
            obstore.delete(_store(), name)
        except (NotFoundError, FileNotFoundError):
            continue


def fetch(name: str, path: Path) -> None:
    """Lay the blob down as a file."""
    with path.open("wb") as file:
        for chunk in stream(name):
            file.write(chunk)


def put_by_content(kind: str, data: bytes, suffix: str = "") -> str:
    """Store under the SHA-256 of the bytes; returns the hash with the suffix."""
    name = hashlib.sha256(data).hexdigest() + suffix
    put(f"{kind}/{name}", data)
    return name
