"""Facet: purposes of the house's own."""

from fastapi import APIRouter
from pydantic import BaseModel, Field

from hemp_ladder.api.routes.common import Id
from hemp_ladder.api.views import Line
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
