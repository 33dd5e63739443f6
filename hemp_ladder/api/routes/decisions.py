"""Decisions: put in force, taken back, looked back at."""

from fastapi import APIRouter

from hemp_ladder.api import overview, past
from hemp_ladder.api.routes.common import Id
from hemp_ladder.api.views import DecisionsIn, DecisionsPatch, HistoryLine, JobView, OfferIn
from hemp_ladder.core.findings import Offer
from hemp_ladder.store.database import session
from hemp_ladder.work import actions, sources

router = APIRouter()


@router.post("/jobs/{job_id}/offers")
def take_offer(job_id: Id, taken: OfferIn) -> JobView:
    """Take the remedy that a finding offers: a decision like any other, which undo takes back."""
    with session() as s:
        offer = Offer(taken.label, taken.does, taken.values)
        actions.take(s, job_id, offer, taken.source, taken.parts)
        return overview.job_view(s, job_id)


@router.put("/jobs/{job_id}/decisions")
def put_decisions(job_id: Id, new: DecisionsIn) -> JobView:
    """Put decisions in force; the meshes they lack are queued. Where others are in force than those they are based on,
    nothing changes and the answer is 409."""
    with session() as s:
        actions.decide(s, job_id, new.decisions, new.label, new.continues, new.base, new.first)
        return overview.job_view(s, job_id)


@router.patch("/jobs/{job_id}/decisions")
def patch_decisions(job_id: Id, new: DecisionsPatch) -> JobView:
    """Change some of the decisions in force, for scripts: a merge patch (RFC 7396)."""
    with session() as s:
        actions.patch(s, job_id, new.patch, new.label, new.base)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/undo")
def undo(job_id: Id) -> JobView:
    with session() as s:
        actions.undo(s, job_id)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/redo")
def redo(job_id: Id) -> JobView:
    with session() as s:
        actions.redo(s, job_id)
        return overview.job_view(s, job_id)


@router.get("/jobs/{job_id}/history")
def get_history(job_id: Id) -> list[HistoryLine]:
    """Everything that was decided and received, newest first, what was undone too."""
    with session() as s:
        return past.history(s, job_id)


@router.post("/jobs/{job_id}/history/decisions/{decisions_id}")
def go_back(job_id: Id, decisions_id: Id) -> JobView:
    """Put a state of the decisions in force again, wherever in the history it stands."""
    with session() as s:
        actions.go_back(s, job_id, decisions_id)
        return overview.job_view(s, job_id)


@router.post("/jobs/{job_id}/history/sources/{revision_id}")
def read_again(job_id: Id, revision_id: Id) -> JobView:
    """Have an earlier revision of a source stand again."""
    with session() as s:
        sources.read_again(s, job_id, revision_id)
        return overview.job_view(s, job_id)
