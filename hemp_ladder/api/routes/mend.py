"""Mend: what there is to see of one part, what is done by pointing, and all safe remedies at once."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from hemp_ladder.api import overview
from hemp_ladder.api.mend_views import CurveView, HandIn, RightView, StudyView
from hemp_ladder.api.routes.common import SOON, Id, PartNumber, models_of_job, studied
from hemp_ladder.api.views import JobView
from hemp_ladder.store.database import session
from hemp_ladder.work import mending

router = APIRouter()


@router.get("/jobs/{job_id}/parts/{part}/study", response_model=StudyView, responses=SOON)
def get_study(job_id: Id, part: PartNumber, request: Request) -> Response:
    """The loose shells of a part and its flaws, with where they lie; 202 while it is worked out."""
    return studied(job_id, part, "whole", request)


@router.get("/jobs/{job_id}/parts/{part}/weld-curve", response_model=CurveView, responses=SOON)
def get_curve(job_id: Id, part: PartNumber, request: Request) -> Response:
    """How many vertices of a part are left at every weld tolerance; 202 while it is worked out."""
    return studied(job_id, part, "curve", request)


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
