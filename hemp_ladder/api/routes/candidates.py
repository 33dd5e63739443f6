"""Candidates for one source's place: laid beside it, used instead, dropped."""

from typing import Annotated

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import Response

from hemp_ladder.api import candidates, decoding, overview
from hemp_ladder.api.candidates import CandidateView
from hemp_ladder.api.downloads import blob_answer
from hemp_ladder.api.routes.common import Id, uploaded
from hemp_ladder.api.views import JobView, NewSource
from hemp_ladder.core.fit.settings import Axis
from hemp_ladder.store import blobs
from hemp_ladder.store.database import session
from hemp_ladder.work import candidates as candidates_work
from hemp_ladder.work import sources
from hemp_ladder.work.sources import NothingThere

router = APIRouter()
_PNG: dict[int | str, dict[str, object]] = {200: {"content": {"image/png": {}}}}


@router.get("/jobs/{job_id}/sources/{ref}/candidates")
def get_candidates(job_id: Id, ref: str) -> list[CandidateView]:
    """The source as it stands, and the files that could take its place."""
    with session() as s:
        return candidates.candidates_view(s, job_id, ref)


@router.post("/jobs/{job_id}/sources/{ref}/candidates", status_code=201)
def add_candidates(job_id: Id, ref: str, new: NewSource) -> JobView:
    """Lay files that were uploaded before beside a source: each is a candidate of its own."""
    files = uploaded(new.files)
    with session() as s:
        for file in files:
            sources.add_candidate(s, job_id, ref, [file])
        s.flush()
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/sources/{ref}/candidates/{number}/use")
def use_candidate(job_id: Id, ref: str, number: Id) -> JobView:
    """Put a candidate in the source's place; what was there becomes a candidate."""
    with session() as s:
        candidates_work.use(s, job_id, ref, number)
        s.flush()
        return overview.job_view(s, job_id)


@router.delete("/jobs/{job_id}/candidates/{number}")
def drop_candidate(job_id: Id, number: Id) -> JobView:
    """Take a candidate out of the job."""
    with session() as s:
        sources.drop_candidate(s, job_id, number)
        s.flush()
        return overview.job_view(s, job_id)


@router.get("/glances/{key}", response_class=Response, responses=_PNG)
def get_glance(
    key: Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")], up: Annotated[Axis, Query()], request: Request
) -> Response:
    """A model that brought triangles as a small picture, all from one camera, with this axis upright."""
    name = f"glances/{key}-{up}"
    if not blobs.exists(name):
        if not blobs.exists(f"models/{key}"):
            raise NothingThere("There is no such model.")
        made = decoding.glance(key, up)
        if made is None:
            raise NothingThere("It has no triangles to be seen yet.")
        blobs.put(name, made)
    return blob_answer(request, name, "image/png")
