"""Large answers: as JSON bytes without a copy in between, packed for those who can unpack them."""

import gzip

from fastapi import Request
from fastapi.responses import Response
from pydantic import BaseModel, TypeAdapter

#: Quick rather than small: it travels over loopback, but it is kept.
_LEVEL = 1


def json_bytes(view: BaseModel) -> bytes:
    return TypeAdapter(type(view)).dump_json(view)


def packed_json(view: BaseModel) -> bytes:
    return gzip.compress(json_bytes(view), _LEVEL, mtime=0)


def packed_answer(packed: bytes, request: Request) -> Response:
    """What `packed_json` gave, as it is, or unpacked for a client that does not say it can."""
    if "gzip" not in request.headers.get("accept-encoding", ""):
        return Response(gzip.decompress(packed), media_type="application/json")
    return Response(packed, media_type="application/json", headers={"Content-Encoding": "gzip"})
