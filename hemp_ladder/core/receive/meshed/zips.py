"""Formats that are ZIPs: looked into without trusting what their directories claim."""

import lzma
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from hemp_ladder.core.errors import UnreadableSource

#: What is unpacked of one file in such a ZIP.
MOST_UNPACKED = 4 << 30

#: What the module and its decoders raise on what was damaged.
_DAMAGE = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, OSError, RuntimeError, NotImplementedError, EOFError, ValueError, KeyError,
)  # fmt: skip


def is_zip(path: Path) -> bool:
    """Whether a file begins as a ZIP does, or as one does that holds nothing."""
    with path.open("rb") as file:
        return file.read(4) in (b"PK\x03\x04", b"PK\x05\x06")


@contextmanager
def opened(path: Path, what: str) -> Iterator[zipfile.ZipFile]:
    """The ZIP. Whatever its module raises on damage becomes UnreadableSource."""
    try:
        with zipfile.ZipFile(path) as archive:
            yield archive
    except UnreadableSource:
        raise
    except _DAMAGE as error:
        raise UnreadableSource(f"The {what} file is damaged: {error}.", "Ask for it again.") from error


def member(archive: zipfile.ZipFile, name: str) -> IO[bytes] | None:
    """A file in it by its path, whatever its case and whether or not it begins with a stroke."""
    wanted = name.lstrip("/").casefold()
    found = next((item for item in archive.infolist() if item.filename.lstrip("/").casefold() == wanted), None)
    return archive.open(found) if found is not None else None


def member_bytes(archive: zipfile.ZipFile, name: str, most: int) -> bytes | None:
    """A file's bytes; None where it is not there or has more than `most`."""
    file = member(archive, name)
    if file is None:
        return None
    with file:
        data = file.read(most + 1)
    return data if len(data) <= most else None
