"""Candidates for a source's place, and putting one there."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.fit.settings import SourceFit
from hemp_ladder.core.model.model import Model
from hemp_ladder.store import model_blob
from hemp_ladder.store.database import tell
from hemp_ladder.store.tables import Source
from hemp_ladder.work import actions
from hemp_ladder.work.sources import NothingThere, candidates_of, job_of, name_among, read_files, sources_of, take_in


def fitted_as(decisions: Decisions, ref: str, model: Model) -> SourceFit:
    """What is stated of a source when this model takes its place: unit and up axis as the model declares them, for what was
    stated was said of another file; where it declares none, what was stated."""
    own = decisions.fit.sources.get(ref, SourceFit())
    unit = model.unit or own.unit or decisions.fit.unit
    up = model.up if model.up in ("x", "y", "z") else own.up or decisions.fit.up
    return own.model_copy(update={"unit": unit, "up": up})


def use(session: Session, job_id: int, ref: str, number: int) -> None:
    """Put a candidate in a source's place; what was there is a candidate from then on. Of the decisions, unit and up axis
    become what the new file declares."""
    job = job_of(session, job_id, lock=True)
    now = next((item for item in sources_of(session, job_id) if item.source.ref == ref), None)
    chosen = next((item for item in candidates_of(session, job_id, ref) if item.source.id == number), None)
    if now is None or chosen is None or chosen.ready is None or chosen.ready.model_key is None:
        raise NothingThere("There is no such candidate.")
    _, decisions = actions.decisions_of(session, job)
    fit = fitted_as(decisions, ref, model_blob.load(chosen.ready.model_key))
    if fit != decisions.fit.sources.get(ref, SourceFit()):
        section = decisions.fit.model_copy(update={"sources": {**decisions.fit.sources, ref: fit}})
        wanted = decisions.model_copy(update={"fit": section})
        actions.decide(session, job_id, wanted, f"Unit and up axis as {chosen.source.name} declares them")
    before = (list(now.newest.files), now.newest.root)
    files, root = list(chosen.newest.files), chosen.newest.root
    session.delete(chosen.source)
    session.flush()
    take_in(session, job, *before, candidate_for=ref)
    others = set(session.scalars(select(Source.name).where(Source.job_id == job_id, Source.id != now.source.id)))
    now.source.name = name_among(root or files[0]["name"], others)
    read_files(session, now.source, files, root)
    tell(session, job_id)
