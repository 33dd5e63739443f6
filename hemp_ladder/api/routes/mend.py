"""Mend: what there is to see of one part, what is done by pointing, and all safe remedies at once."""

from typing import Annotated

from fastapi import APIRouter, Path, Request
from fastapi.responses import Response

from hemp_ladder.api import overview
from hemp_ladder.api.mend_views import CurveView, HandIn, RightView, StudyView
from hemp_ladder.api.routes.common import Id, models_of_job
from hemp_ladder.api.views import JobView
from hemp_ladder.store.database import session
from hemp_ladder.work import mending, studying
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.sources import NothingThere

router = APIRouter()
_SOON: dict[int | str, dict[str, object]] = {202: {"description": "It is being worked out; ask again in a moment"}}
_Part = Annotated[int, Path(ge=0, le=(1 << 31) - 1)]


@router.get("/jobs/{job_id}/parts/{part}/study", response_model=StudyView, responses=_SOON)
def get_study(job_id: Id, part: _Part, request: Request) -> Response:
    """The loose shells of a part and its flaws, with where they lie; 202 while it is worked out."""
    return _studied(job_id, part, "whole", request)


@router.get("/jobs/{job_id}/parts/{part}/weld-curve", response_model=CurveView, responses=_SOON)
def get_curve(job_id: Id, part: _Part, request: Request) -> Response:
    """How many vertices of a part are left at every weld tolerance; 202 while it is worked out."""
    return _studied(job_id, part, "curve", request)


def _studied(job_id: int, part: int, what: studying.What, request: Request) -> Response:
    with session() as s:
        models_of_job(s, job_id)
        now = plan_now(s, job_id)[1]
        subject = studying.subject_of(now, part, what) if part < len(now.model.parts) else None
        if subject is None:
            raise NothingThere("There is no such part, or it has no surface.")
        tag = f'"{subject.blob.rpartition("/")[2]}"'
        headers = {"ETag": tag, "Cache-Control": "private, no-cache"}
        if request.headers.get("if-none-match") == tag:
            return Response(status_code=304, headers=headers)
        found = studying.study_there(subject)
        if found is None:
            studying.want_study(s, job_id, subject)
            return Response(status_code=202, headers={"Retry-After": "1"})
    return Response(found, media_type="application/json", headers=headers)


@router.post("/jobs/{job_id}/mend/hand")
def post_hand(job_id: Id, given: HandIn) -> JobView:
    """Turn the shell or the face that is pointed at, or take the shell out: a decision like any other."""
    with session() as s:
        models_of_job(s, job_id)
        mending.by_hand(s, job_id, given.node, given.at, given.does)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/mend/right")
def post_right(job_id: Id) -> RightView:
    """Take all remedies that change nothing anybody could have meant, as one decision, and say which they were."""
    with session() as s:
        models_of_job(s, job_id)
        _, taken = mending.put_right(s, job_id)
        told = [f"{offer.label}: {found.message}" for found, offer in taken]
        return RightView(taken=told, job=overview.job_view(s, job_id))
