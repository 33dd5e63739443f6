"""Sources of a job: one more, a new revision, one less, the file as it came."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from hemp_ladder.api import overview
from hemp_ladder.api.downloads import blob_answer
from hemp_ladder.api.routes.common import Id, models_of_job, uploaded
from hemp_ladder.api.views import JobView, NewSource
from hemp_ladder.core.ship.names import file_stem
from hemp_ladder.store import blobs
from hemp_ladder.store.database import session
from hemp_ladder.work import actions, sources
from hemp_ladder.work.sources import NothingThere

router = APIRouter()


@router.post("/jobs/{job_id}/sources", status_code=201)
def add_source(job_id: Id, new: NewSource) -> JobView:
    """One more source beside those that are there, of files that were uploaded before."""
    files = uploaded(new.files)
    with session() as s:
        sources.add_source(s, job_id, files)
        s.flush()
        return overview.job_view(s, job_id)


@router.put("/jobs/{job_id}/sources/{ref}")
def replace_source(job_id: Id, ref: str, new: NewSource) -> JobView:
    """A new revision of one source; decisions stay."""
    files = uploaded(new.files)
    with session() as s:
        sources.replace_source(s, job_id, ref, files)
        s.flush()
        return overview.job_view(s, job_id)


@router.delete("/jobs/{job_id}/sources/{ref}")
def remove_source(job_id: Id, ref: str) -> JobView:
    """Take a source out of the job, with all its revisions. Decisions about it stay and mean nothing."""
    with session() as s:
        actions.remove_source(s, job_id, ref)
        s.flush()
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/sources/{ref}/cancel")
def cancel_source(job_id: Id, ref: str) -> JobView:
    """Stop reading this source; the others go on."""
    with session() as s:
        sources.cancel_source(s, job_id, ref)
        s.flush()
        return overview.job_view(s, job_id)


@router.get("/jobs/{job_id}/sources/{ref}/files/{number}", response_class=Response)
def get_original(job_id: Id, ref: str, number: int, request: Request) -> Response:
    """A file of the newest revision as it came, by its place among them from 0."""
    with session() as s:
        sources.job_of(s, job_id)
        item = next((r for r in sources.sources_of(s, job_id) if r.source.ref == ref), None)
        files = item.newest.files if item is not None else []
    if not 0 <= number < len(files):
        raise NothingThere("There is no such file.")
    name = files[number]["name"].replace("\\", "/").rpartition("/")[2]
    return blob_answer(request, f"sources/{files[number]['sha256']}", "application/octet-stream", name)


@router.get("/jobs/{job_id}/sources/{ref}/clean")
def get_clean(job_id: Id, ref: str) -> Response:
    """A drawing without what is foreign to its format, as a file to save."""
    with session() as s:
        models = models_of_job(s, job_id)
    key = next((key for name, _, key in models if name == ref), None)
    try:
        data = blobs.get(f"clean/{key}")
    except KeyError as error:
        raise NothingThere("There is no cleaned file of this source: nothing in it was foreign.") from error
    name = f"{file_stem(ref, set())}-clean.svg"
    return Response(data, media_type="image/svg+xml", headers={"Content-Disposition": f'attachment; filename="{name}"'})
