"""Files on their way in."""

import asyncio
import hashlib

from fastapi import APIRouter, Request
from fastapi.responses import Response

from hemp_ladder.api.problems import problem
from hemp_ladder.api.views import Uploaded
from hemp_ladder.store import blobs
from hemp_ladder.store.config import upload_limit
from hemp_ladder.work.folders import working_folder

router = APIRouter()


@router.put("/uploads", response_model=Uploaded)
async def upload(name: str, request: Request) -> Response | Uploaded:
    """Take one file as the raw body. It is kept under its SHA-256; the same file twice is kept once.

    What breaks off leaves nothing behind: the bytes go to a temporary file first.
    """
    limit = upload_limit()
    if int(request.headers.get("content-length") or 0) > limit:
        return _too_large(limit)
    digest, size = hashlib.sha256(), 0
    with working_folder() as folder, (folder / "upload").open("wb") as file:
        async for chunk in request.stream():
            size += len(chunk)
            if size > limit:
                return _too_large(limit)
            digest.update(chunk)
            await asyncio.to_thread(file.write, chunk)
        file.flush()
        sha256 = digest.hexdigest()
        # Also where it is there already: what was stored lately is safe from the cleaner until a job refers to it.
        await asyncio.to_thread(blobs.put_file, f"sources/{sha256}", folder / "upload")
    return Uploaded(name=name[:400], sha256=sha256, bytes=size)


def _too_large(limit: int) -> Response:
    size = f"{limit / (1 << 20):,.0f} MB"
    return problem(413, "too-large", f"The file is larger than {size}.", "Ask for it in pieces, or raise the limit.")
