"""What a job holds and comes to: structure, outlines, properties, results, tallies, the plan."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from hemp_ladder.api import choosing, outlines, result, structure
from hemp_ladder.api.large import json_bytes, packed_answer, packed_json
from hemp_ladder.api.result_views import ResultNews, ResultView
from hemp_ladder.api.routes.common import Id, models_of_job
from hemp_ladder.api.views import DetailsView, Known, OutlinesView, PlanView, StructureView, TallyView
from hemp_ladder.store.database import session

router = APIRouter()


@router.get("/jobs/{job_id}/structure", response_model=StructureView)
def get_structure(job_id: Id, request: Request) -> Response:
    """The tree and parts: first the tree alone, where a source tells it early, then all."""
    with session() as s:
        models = models_of_job(s, job_id, skeletons=True)
    return packed_answer(structure.structure(models), request)


@router.get("/jobs/{job_id}/outlines", response_model=OutlinesView)
def get_outlines(job_id: Id, request: Request) -> Response:
    """What was drawn, on the plan: outlines with what becomes of each."""
    with session() as s:
        models_of_job(s, job_id)
        return packed_answer(packed_json(outlines.outlines_view(s, job_id)), request)


@router.get("/jobs/{job_id}/details")
def get_details(job_id: Id, node: Annotated[int, Query(ge=0, le=(1 << 31) - 1)]) -> DetailsView:
    """The property sets of one node of the structure."""
    with session() as s:
        models = models_of_job(s, job_id, skeletons=True)
    return structure.details(models, node)


@router.get("/jobs/{job_id}/result", response_model=ResultView)
def get_result(job_id: Id) -> Response:
    """What the decisions in force come to, over the meshes made so far."""
    with session() as s:
        models_of_job(s, job_id)
        return Response(json_bytes(result.result(s, job_id)), media_type="application/json")


@router.post("/jobs/{job_id}/result/news", response_model=ResultNews)
def post_news(job_id: Id, known: Known) -> Response:
    """What the result has become since some of its parts were known, as meshes come in. Where it is another altogether
    the answer is 409, and the whole result is to be had."""
    with session() as s:
        models_of_job(s, job_id)
        return Response(json_bytes(result.news(s, job_id, known)), media_type="application/json")


@router.get("/jobs/{job_id}/tallies")
def get_tallies(job_id: Id) -> list[TallyView]:
    """What each layer, class, storey and group holds and would add."""
    with session() as s:
        models_of_job(s, job_id)
        return choosing.tallies(s, job_id)


@router.get("/jobs/{job_id}/plan")
def get_plan(job_id: Id) -> PlanView:
    """Outlines on the plan, to draw a polygon over."""
    with session() as s:
        models_of_job(s, job_id)
        return choosing.plan_view(s, job_id)
