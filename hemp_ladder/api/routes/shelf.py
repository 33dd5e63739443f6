"""The shelf: materials that are kept for other jobs."""

from fastapi import APIRouter
from pydantic import BaseModel, Field

from hemp_ladder.api import overview
from hemp_ladder.api.routes.common import Id
from hemp_ladder.api.views import JobView, MaterialView
from hemp_ladder.store.database import session
from hemp_ladder.work import shelf

router = APIRouter()


class ShelfView(BaseModel):
    """A kept material, and the number it is known by."""

    number: int
    material: MaterialView


class KeepIn(BaseModel):
    """A material of a job, by its id."""

    material: str = Field(min_length=1, max_length=300)


@router.get("/shelf")
def get_shelf() -> list[ShelfView]:
    with session() as s:
        return [
            ShelfView(number=number, material=overview.material_view(kept.material.material))
            for number, kept in shelf.shelf(s)
        ]


@router.post("/jobs/{job_id}/shelf")
def keep_material(job_id: Id, told: KeepIn) -> list[ShelfView]:
    """Keep a material of the job for others; one of the same name gives way."""
    with session() as s:
        shelf.keep(s, job_id, told.material)
    return get_shelf()


@router.post("/jobs/{job_id}/shelf/{number}")
def take_material(job_id: Id, number: Id) -> JobView:
    """Put a kept material among the job's own."""
    with session() as s:
        shelf.take(s, job_id, number)
        return overview.job_view(s, job_id)


@router.delete("/shelf/{number}", status_code=204)
def forget_material(number: Id) -> None:
    """Keep it no more; jobs that took it have it still."""
    with session() as s:
        shelf.forget(s, number)
