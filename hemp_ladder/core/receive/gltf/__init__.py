"""glTF 2.0, as JSON with its buffers beside it and as one binary file."""

import json
import re
import struct
from pathlib import Path
from urllib.parse import unquote

from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.reader import PICTURES, Reader
from hemp_ladder.core.receive.report import Report

_ASSET = re.compile(rb'"asset"\s*:\s*\{')
#: A document that is larger than this is no description of a scene.
MOST_JSON = 512 << 20


def is_gltf(head: bytes) -> bool:
    """The magic number of the binary form, or JSON with an asset."""
    if head[:4] == b"glTF":
        return True
    text = head.removeprefix(b"\xef\xbb\xbf").lstrip()
    return text[:1] == b"{" and (_ASSET.search(text) is not None or b'"bufferViews"' in text or b'"accessors"' in text)


def _buffers(path: Path) -> list[str]:
    """Files that it names as its buffers and pictures; nothing where it cannot be read."""
    with path.open("rb") as file:
        head = file.read(20)
        if head[:4] == b"glTF":
            if len(head) < 20:
                return []
            text = file.read(min(struct.unpack_from("<I", head, 12)[0], MOST_JSON))
        else:
            text = head + file.read(MOST_JSON)
    try:
        document = json.loads(text.decode("utf-8-sig", "replace"))
        uris = [item.get("uri") for table in ("buffers", "images") for item in document.get(table, [])]
    except (ValueError, AttributeError, RecursionError, TypeError):
        return []
    return [unquote(uri) for uri in uris if isinstance(uri, str) and not uri.startswith("data:")][:1000]


def _read(path: Path, report: Report) -> Model:
    from hemp_ladder.core.receive.gltf.read import read_gltf

    return read_gltf(path, report)


READER = Reader(
    unit_in="the standard: metres",
    name="glTF", owns=lambda evidence: is_gltf(evidence.head), read=_read, asked_for="glTF or GLB",
    refers=_buffers, companions=(".bin", *PICTURES), units=("m", "cm", "mm", "in", "ft"),
)  # fmt: skip
