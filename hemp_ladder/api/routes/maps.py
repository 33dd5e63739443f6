"""Pictures of surfaces: what materials wear, what is given to a job, and the pictures themselves, whole, small or grey."""

import re
from typing import Annotated

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import Response

from hemp_ladder.api import decoding, maps, overview
from hemp_ladder.api.downloads import blob_answer
from hemp_ladder.api.maps import MapsView, PictureIn
from hemp_ladder.api.routes.common import Id, models_of_job
from hemp_ladder.api.views import JobView
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.model.finish import Channel
from hemp_ladder.store import blobs
from hemp_ladder.store.database import session
from hemp_ladder.work.sources import NothingThere

router = APIRouter()
#: Of a thumbnail, in pixels.
_SIDE = 192
_IMAGES: dict[int | str, dict[str, object]] = {200: {"content": {"image/png": {}, "image/jpeg": {}}}}
_PNG: dict[int | str, dict[str, object]] = {200: {"content": {"image/png": {}}}}
Sha = Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")]


@router.get("/jobs/{job_id}/maps")
def get_maps(job_id: Id) -> MapsView:
    """What each material in use wears, what is missing, and pictures that nobody wears."""
    with session() as s:
        models_of_job(s, job_id)
        return maps.maps_view(s, job_id)


@router.post("/jobs/{job_id}/maps/pictures")
def post_picture(job_id: Id, told: PictureIn) -> JobView:
    """Take an uploaded file as a picture of the job, and put it into a slot of a material where one is named."""
    try:
        data = blobs.get(f"sources/{told.sha256}")
    except KeyError as error:
        raise SettingsError(f"The file “{told.name[:80]}” was not uploaded.", "Upload it first.") from error
    kept, texture = decoding.judged(data, told.name.rpartition("/")[2])
    with session() as s:
        maps.give_picture(s, job_id, told, kept, texture)
        return overview.job_view(s, job_id)


@router.get("/textures/{sha256}", response_class=Response, responses=_IMAGES)
def texture(sha256: str, request: Request) -> Response:
    """A picture that a source brought, PNG or JPEG, by its content."""
    if not re.fullmatch(r"[0-9a-f]{64}", sha256):
        raise NothingThere("There is no such picture.")
    try:
        head = b"".join(blobs.stream(f"textures/{sha256}", 0, 8))
    except KeyError as error:
        raise NothingThere("That is not in the store any more.") from error
    media = "image/png" if head.startswith(b"\x89PNG") else "image/jpeg"
    return blob_answer(request, f"textures/{sha256}", media)


@router.get("/textures/{sha256}/small", response_class=Response, responses=_PNG)
def small_texture(sha256: Sha, request: Request) -> Response:
    """A picture no larger than 192 pixels."""
    name = f"thumbs/{sha256}"
    if not blobs.exists(name):
        blobs.put(name, decoding.small(_bytes(sha256), _SIDE))
    return blob_answer(request, name, "image/png")


@router.get("/textures/{sha256}/grey", response_class=Response, responses=_PNG)
def grey_texture(
    sha256: Sha, channel: Annotated[Channel, Query()] = "rgb", inverted: Annotated[bool, Query()] = False
) -> Response:
    """One number of a picture a pixel, as grey."""
    data = decoding.grey(_bytes(sha256), channel, inverted)
    return Response(data, media_type="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})


def _bytes(sha256: str) -> bytes:
    try:
        return blobs.get(f"textures/{sha256}")
    except KeyError as error:
        raise NothingThere("That is not in the store any more.") from error
