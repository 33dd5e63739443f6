"""Blobs as downloads: whole or a range of them, with validators, under a name of any script."""

import re
from urllib.parse import quote

from fastapi import Request
from fastapi.responses import Response, StreamingResponse

from hemp_ladder.store import blobs
from hemp_ladder.work.sources import NothingThere

#: Blobs are known by their content, so what a name stands for never changes.
_FOREVER = "private, max-age=31536000, immutable"


def disposition(name: str) -> str:
    """The header that has a browser save under this name (RFC 6266): plain letters for old ones, all for others."""
    plain = re.sub(r"[^A-Za-z0-9._ -]+", "-", name).strip() or "file"
    return f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name, safe='')}"


def blob_answer(request: Request, blob: str, media_type: str, name: str | None = None) -> Response:
    """The blob, or the one range of it that is asked for (RFC 9110, 14). Raises NothingThere when it is not there."""
    try:
        size = blobs.size(blob)
    except KeyError as error:
        raise NothingThere("That is not in the store any more.") from error
    tag = f'"{blob.rpartition("/")[2]}"'
    headers = {"ETag": tag, "Accept-Ranges": "bytes", "Cache-Control": _FOREVER}
    if name is not None:
        headers["Content-Disposition"] = disposition(name)
    if tag in [item.strip() for item in request.headers.get("if-none-match", "").split(",")]:
        return Response(status_code=304, headers=headers)
    asked = request.headers.get("range", "")
    start, end, status = 0, size, 200
    wanted = re.fullmatch(r"bytes=(\d*)-(\d*)", asked.strip())
    if wanted and any(wanted.groups()) and request.headers.get("if-range", tag) == tag:
        first, last = wanted.groups()
        start = int(first) if first else max(0, size - int(last))
        end = min(size, int(last) + 1) if first and last else size
        if start >= end:
            return Response(status_code=416, headers={"Content-Range": f"bytes */{size}"})
        status = 206
        headers["Content-Range"] = f"bytes {start}-{end - 1}/{size}"
    headers["Content-Length"] = str(end - start)
    return StreamingResponse(blobs.stream(blob, start, end), status, headers, media_type)
