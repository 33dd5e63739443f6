"""Facet: settings tried beside each other and measured, and purposes of the house's own."""

from fastapi import APIRouter
from pydantic import BaseModel, Field

from hemp_ladder.api import faceting, overview
from hemp_ladder.api.facet_views import (
    ByViewIn,
    ByViewView,
    CurveIn,
    SettingsCurve,
    SpreadIn,
    SpreadView,
    SwatchesIn,
    SwatchesView,
)  # fmt: skip
from hemp_ladder.api.routes.common import Id, models_of_job
from hemp_ladder.api.views import JobView, Line
from hemp_ladder.core.facet.settings import FacetSettings
from hemp_ladder.store.database import session
from hemp_ladder.work import kept
from hemp_ladder.work import purposes as work

router = APIRouter()


class OwnPurpose(BaseModel):
    """Settings of facets that are kept, and the number they are known by."""

    number: int
    name: str
    facet: FacetSettings


class PurposeIn(BaseModel):
    name: Line = Field(min_length=1, max_length=200)


@router.get("/purposes")
def get_purposes() -> list[OwnPurpose]:
    with session() as s:
        return [OwnPurpose(number=n, name=name, facet=facet) for n, name, facet in work.purposes(s)]


@router.post("/jobs/{job_id}/purposes")
def keep_purpose(job_id: Id, given: PurposeIn) -> list[OwnPurpose]:
    """Keep what a job wants of all parts for others; one of that name gives way."""
    with session() as s:
        work.keep_purpose(s, job_id, given.name)
    return get_purposes()


@router.delete("/purposes/{number}", status_code=204)
def forget_purpose(number: Id) -> None:
    with session() as s:
        kept.forget(s, work.KIND, number)


@router.post("/jobs/{job_id}/facet/swatches")
def post_swatches(job_id: Id, given: SwatchesIn) -> SwatchesView:
    """Parts as they are and at some settings, without deciding anything; ask again until all swatches are ready."""
    with session() as s:
        models_of_job(s, job_id)
        return faceting.swatches(s, job_id, given.parts, given.settings)


@router.post("/jobs/{job_id}/facet/curve")
def post_curve(job_id: Id, given: CurveIn) -> SettingsCurve:
    """Triangles against error at many settings; ask again until all is measured. It goes on only while somebody asks."""
    with session() as s:
        models_of_job(s, job_id)
        return faceting.curve(s, job_id, given.parts)


@router.post("/jobs/{job_id}/facet/allowance")
def post_allowance(job_id: Id, given: SpreadIn) -> SpreadView:
    """Spread a number of triangles or bytes over the parts so that the largest error is smallest; ask again until it is done.
    It goes on only while somebody asks."""
    with session() as s:
        models_of_job(s, job_id)
        return faceting.allowance(s, job_id, given)


@router.post("/jobs/{job_id}/facet/views")
def post_views(job_id: Id, given: ByViewIn) -> ByViewView:
    """How fine parts must be for what lookouts show of them; ask again until it is done."""
    with session() as s:
        models_of_job(s, job_id)
        return faceting.by_view(s, job_id, given)


@router.post("/jobs/{job_id}/facet/allowance/use")
def use_allowance(job_id: Id, given: SpreadIn) -> JobView:
    """Put it in force: a decision like any other, once it is done."""
    with session() as s:
        models_of_job(s, job_id)
        faceting.use_allowance(s, job_id, given)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/facet/views/use")
def use_views(job_id: Id, given: ByViewIn) -> JobView:
    """Put it in force: a decision like any other, once it is done."""
    with session() as s:
        models_of_job(s, job_id)
        faceting.use_views(s, job_id, given)
        return overview.job_view(s, job_id)
