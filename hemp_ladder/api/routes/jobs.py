"""Jobs: the list, one of them, its name, its events."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import StreamingResponse
from sqlalchemy import delete, update

from hemp_ladder.api import overview
from hemp_ladder.api.events import Bell
from hemp_ladder.api.routes.common import Id, uploaded
from hemp_ladder.api.views import JobLine, JobName, JobView, NewJob
from hemp_ladder.store.database import session, tell
from hemp_ladder.store.tables import Job
from hemp_ladder.work import actions, sources
from hemp_ladder.work.sources import NothingThere

#: Jobs on a page of the list.
_PAGE = 100

router = APIRouter()
_EVENTS: dict[int | str, dict[str, object]] = {200: {"content": {"text/event-stream": {}}}}


@router.get("/jobs")
def list_jobs(
    response: Response,
    before: Annotated[int | None, Query(ge=1, le=(1 << 31) - 1, description="only jobs with lower numbers")] = None,
    limit: Annotated[int, Query(ge=1, le=500)] = _PAGE,
) -> list[JobLine]:
    """A page of jobs, newest first. Where there are more, the header Link names the next page (RFC 8288)."""
    with session() as s:
        lines = overview.job_lines(s, before, limit + 1)
    if len(lines) > limit:
        response.headers["Link"] = f'</api/jobs?before={lines[limit - 1].id}&limit={limit}>; rel="next"'
    return lines[:limit]


@router.post("/jobs", status_code=201)
def create_job(new: NewJob) -> JobView:
    """Make a job of files that were uploaded before."""
    files = uploaded(new.files)
    with session() as s:
        job = actions.create_job(s, new.name, files)
        s.flush()
        return overview.job_view(s, job.id)


@router.get("/jobs/{job_id}")
def get_job(job_id: Id) -> JobView:
    with session() as s:
        return overview.job_view(s, job_id)


@router.patch("/jobs/{job_id}")
def rename_job(job_id: Id, new: JobName) -> JobView:
    """Call the job otherwise."""
    with session() as s:
        job = sources.job_of(s, job_id, lock=True)
        job.name = new.name.strip() or job.name
        tell(s, job.id)
        s.flush()
        return overview.job_view(s, job_id)


@router.delete("/jobs/{job_id}", status_code=204)
def delete_job(job_id: Id) -> None:
    """Remove the job from the list. What it alone referred to goes when the house is next cleaned."""
    with session() as s:
        sources.job_of(s, job_id)
        s.execute(update(Job).where(Job.id == job_id).values(head_id=None))
        s.execute(delete(Job).where(Job.id == job_id))


@router.post("/jobs/{job_id}/cancel")
def cancel(job_id: Id) -> JobView:
    """Stop reading and meshing."""
    with session() as s:
        sources.job_of(s, job_id)
        actions.cancel_climb(s, job_id)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/resume")
def resume(job_id: Id) -> JobView:
    """Take up again what was cancelled."""
    with session() as s:
        actions.resume(s, job_id)
        return overview.job_view(s, job_id)


@router.get("/jobs/{job_id}/events", response_class=StreamingResponse, responses=_EVENTS)
async def events(job_id: Id, request: Request) -> StreamingResponse:
    """Server-sent events: the job whenever it changes. Subscribes first, then sends how it stands."""
    bell: Bell = request.app.state.bell

    def snapshot() -> str:
        with session() as s:
            return overview.job_view(s, job_id).model_dump_json()

    async def stream() -> AsyncIterator[str]:
        with bell.listen(job_id) as rung:
            while True:
                try:
                    yield f"event: job\ndata: {await asyncio.to_thread(snapshot)}\n\n"
                except NothingThere:
                    return
                while not rung.is_set():
                    try:
                        await asyncio.wait_for(rung.wait(), 15)
                    except TimeoutError:
                        yield ": still here\n\n"
                rung.clear()
                await asyncio.sleep(0.1)

    with session() as s:
        sources.job_of(s, job_id)
    return StreamingResponse(stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})
