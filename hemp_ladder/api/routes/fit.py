"""Fit: what can be picked, ways to fit, and what they would come to."""

from typing import Annotated

from fastapi import APIRouter, Path, Request
from fastapi.responses import Response
from pydantic import BaseModel, Field

from hemp_ladder.api import fitting, overview
from hemp_ladder.api.fit_views import FittingView, MarksView, PickIn, SpotView, WayIn, WayLook
from hemp_ladder.api.routes.common import Id, models_of_job
from hemp_ladder.api.views import JobView
from hemp_ladder.store.database import session
from hemp_ladder.work import fitting as fitting_work
from hemp_ladder.work.marking import marks_there

router = APIRouter()
_SOON: dict[int | str, dict[str, object]] = {202: {"description": "They are being made; ask again in a moment"}}


class Picks(BaseModel):
    """Points that were pointed at."""

    picks: list[PickIn] = Field(max_length=100)


@router.get("/jobs/{job_id}/fit")
def get_fit(job_id: Id) -> FittingView:
    """Likely units, measurements as they stand now, the offset, and what places in the mesh would cost."""
    with session() as s:
        models_of_job(s, job_id, skeletons=True)
        return fitting.fit_view(s, job_id)


@router.post("/jobs/{job_id}/fit")
def post_fit(job_id: Id, given: WayIn) -> JobView:
    """Take a way to fit: a decision like any other, which undo takes back."""
    with session() as s:
        fitting_work.fit(s, job_id, given.way, given.label or given.way.does, given.continues)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/fit/look")
def post_look(job_id: Id, given: WayIn) -> WayLook:
    """What a way would come to, before it is taken: factor, common mistake, residuals, size."""
    with session() as s:
        return fitting.look(s, job_id, given.way)


@router.post("/jobs/{job_id}/fit/spots")
def post_spots(job_id: Id, given: Picks) -> list[SpotView]:
    """What was pointed at, as exact points of the sources."""
    with session() as s:
        return fitting.spots(s, job_id, given.picks)


@router.get("/jobs/{job_id}/parts/{part}/marks", response_model=MarksView, responses=_SOON)
def get_marks(job_id: Id, part: Annotated[int, Path(ge=0, le=(1 << 31) - 1)], request: Request) -> Response:
    """Corners, edges, circles and flat faces of a part; 202 while they are being made."""
    with session() as s:
        body = fitting.marks_of_part(s, job_id, part)
    if body is None:
        return Response(status_code=202, headers={"Retry-After": "1"})
    tag = f'"{body.blob.rpartition("/")[2]}"'
    headers = {"ETag": tag, "Cache-Control": "private, no-cache"}
    if request.headers.get("if-none-match") == tag:
        return Response(status_code=304, headers=headers)
    found = marks_there(body)
    assert found is not None
    return Response(found.to_json(), media_type="application/json", headers=headers)
