"""Pictures of jobs, as their benches last showed them."""

from datetime import UTC, datetime

from fastapi import APIRouter, Request, Response
from sqlalchemy.dialects.postgresql import insert

from hemp_ladder.api.routes.common import Id
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.store.database import session
from hemp_ladder.store.tables import JobPicture
from hemp_ladder.work.sources import NothingThere, job_of

#: Bytes; a picture for a list is small.
_MOST = 256_000

router = APIRouter()
_IMAGES: dict[int | str, dict[str, object]] = {
    200: {"content": {media: {} for media in ("image/webp", "image/png", "image/jpeg")}}
}


def _media_type(data: bytes) -> str | None:
    """By its first bytes, whatever it is called."""
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "image/webp"
    if data.startswith(b"\x89PNG\r\n\x1a\n"):
        return "image/png"
    return "image/jpeg" if data.startswith(b"\xff\xd8\xff") else None


@router.put(
    "/jobs/{job_id}/picture",
    status_code=204,
    openapi_extra={"requestBody": {"content": {"image/*": {}}, "required": True}},
)
async def put_picture(job_id: Id, request: Request) -> Response:
    """Keep how the job looks: WebP, PNG or JPEG of at most 256 kB."""
    data = b""
    async for piece in request.stream():
        data += piece
        if len(data) > _MOST:
            raise SettingsError("The picture is larger than 256 kB.", "Send a smaller one.")
    media = _media_type(data)
    if media is None:
        raise SettingsError("That is no picture.", "Send WebP, PNG or JPEG.")
    with session() as s:
        job_of(s, job_id)
        values = {"media_type": media, "data": data, "made": datetime.now(UTC)}
        s.execute(
            insert(JobPicture)
            .values(job_id=job_id, **values)
            .on_conflict_do_update(index_elements=["job_id"], set_=values)
        )
    return Response(status_code=204)


@router.get("/jobs/{job_id}/picture", response_class=Response, responses=_IMAGES)
def get_picture(job_id: Id) -> Response:
    """How the job looked last. It may be an hour old to who asks again; ask with `?` and when it was made."""
    with session() as s:
        row = s.get(JobPicture, job_id)
        if row is None:
            raise NothingThere("The job has no picture.")
        return Response(row.data, media_type=row.media_type, headers={"Cache-Control": "private, max-age=3600"})
