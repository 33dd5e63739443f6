"""Runs of decisions that are kept and done again."""

from fastapi import APIRouter

from hemp_ladder.api import overview
from hemp_ladder.api.routes.common import Id, models_of_job
from hemp_ladder.api.sort_views import AgainIn, RunIn, RunView
from hemp_ladder.api.views import JobView
from hemp_ladder.store.database import session
from hemp_ladder.work import again, kept

router = APIRouter()


@router.get("/steps")
def get_runs() -> list[RunView]:
    with session() as s:
        return [RunView(number=n, name=name, lines=list(run.lines)) for n, name, run in again.runs(s)]


@router.post("/jobs/{job_id}/steps")
def keep_run(job_id: Id, given: RunIn) -> list[RunView]:
    """Keep a run of a job's decisions under a name; one of that name gives way."""
    with session() as s:
        again.keep_run(s, job_id, given.name, given.first, given.last)
    return get_runs()


@router.post("/jobs/{job_id}/steps/{number}")
def do_again(job_id: Id, number: Id, given: AgainIn) -> JobView:
    """Do a kept run again: a decision like any other."""
    with session() as s:
        models_of_job(s, job_id)
        again.do_again(s, job_id, number, given.parts)
        return overview.job_view(s, job_id)


@router.delete("/steps/{number}", status_code=204)
def forget_run(number: Id) -> None:
    with session() as s:
        kept.forget(s, again.KIND, number)
