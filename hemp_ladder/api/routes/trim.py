"""Trim: parts reduced to a goal, grades tried beside each other, exact parts held against coarser facets."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from hemp_ladder.api import overview, trimming
from hemp_ladder.api.routes.common import SOON, Id, PartNumber, models_of_job, studied
from hemp_ladder.api.trim_views import FacetsView, GradesIn, GradesView, ReduceIn
from hemp_ladder.api.views import JobView
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.trim.goal import Goal
from hemp_ladder.store.database import session
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.trimming import Aim, reduce_to

router = APIRouter()


@router.post("/jobs/{job_id}/trim/reduce")
def post_reduce(job_id: Id, given: ReduceIn) -> JobView:
    """Reduce parts to a goal of all of them together: a decision like any other."""
    if given.everything == bool(given.parts):
        raise SettingsError("Say which parts are to be reduced, or that everything is.", "Choose some parts.")
    with session() as s:
        models_of_job(s, job_id)
        aim = Aim(Goal(given.goal.by, given.goal.value), given.hold, given.borders)
        reduce_to(s, job_id, None if given.everything else given.parts, aim)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/trim/grades")
def post_grades(job_id: Id, given: GradesIn) -> GradesView:
    """Parts as they are and at some goals, without deciding anything; ask again until all grades are ready."""
    with session() as s:
        models_of_job(s, job_id)
        return trimming.grades(s, job_id, given.parts, given.goals)


@router.get("/jobs/{job_id}/parts/{part}/facets", response_model=FacetsView, responses=SOON)
def get_facets(
    job_id: Id, part: PartNumber, count: Annotated[int, Query(ge=4, le=10_000_000)], request: Request
) -> Response:
    """How an exact part would look at a count of triangles by coarser facets, and by reduction; 202 while it is worked out."""
    answer = studied(job_id, part, f"facets-{count}", request)
    if answer.status_code != 200:
        return answer
    with session() as s:
        metres = float(plan_now(s, job_id)[1].fitted.scale_of(part))
    told = FacetsView.model_validate_json(bytes(answer.body))
    scaled = told.model_copy(update={"off": told.off * metres, "reduced_off": told.reduced_off * metres})
    # What the study says is of the part alone; in metres it is of how the part is fitted too.
    return Response(scaled.model_dump_json(), media_type="application/json")
