"""Ways to fit, taken by a person: worked out over the meshes that are there, and put in force like any decision."""

import hashlib
import threading
from collections import OrderedDict

from sqlalchemy.orm import Session

from hemp_ladder.core.climb import Plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.fit.hulls import Hulls, hulls_of
from hemp_ladder.core.fit.marks import Marks
from hemp_ladder.core.fit.notes import Measured, measured
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.fit.ways import Way
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.refit import fitted_by
from hemp_ladder.store import meshes
from hemp_ladder.store.tables import Job
from hemp_ladder.work.actions import decide, decisions_of
from hemp_ladder.work.marking import body_of, marks_there, want_marks
from hemp_ladder.work.plans import Models, planned
from hemp_ladder.work.sources import NothingThere, job_of, models_of, sources_of

#: Of more vertices than this together, parts stand for their hulls by their boxes.
_MOST_VERTICES = 6_000_000


def plan_now(session: Session, job_id: int) -> tuple[Models, Plan]:
    """A job's models and what the decisions in force plan for them. Raises NothingThere while nothing is read."""
    _, decisions = decisions_of(session, job_of(session, job_id))
    models = models_of(sources_of(session, job_id), skeletons=True)
    if not models:
        raise NothingThere("No source is read yet.", "Wait until Receive is done.")
    return models, planned(models, decisions)


def standing_now(session: Session, job_id: int) -> tuple[Plan, Standing]:
    """What stands in a job under the decisions in force. Raises NothingThere while nothing is read."""
    models, now = plan_now(session, job_id)
    return now, _standing(session, models, now)


def _standing(session: Session, models: Models, now: Plan) -> Standing:
    return Standing(now.model, now.decisions.fit, _hulls(session, models, now))


def shipped_notes(session: Session, job_id: int, models: Models, decisions: Decisions) -> list[Measured]:
    """The measurements of decisions, for the receipt of what they come to."""
    if not decisions.fit.notes:
        return []
    now = planned(models, decisions)
    return notes_of(session, job_id, now, _standing(session, models, now))


#: Hulls that were worked out last, by what they were made from: a change of places changes none of it.
_kept: OrderedDict[str, Hulls] = OrderedDict()
_MOST_KEPT = 8
_lock = threading.Lock()


def _hulls(session: Session, models: Models, now: Plan) -> Hulls:
    chains = {index: chain.key for index, chain in enumerate(now.chains) if chain is not None}
    there = meshes.stored(session, set(chains.values()))
    digest = hashlib.sha256(repr(models).encode() + now.taken.placements.tobytes())
    for index, key in chains.items():
        digest.update(f"{index}{key if key in there else ''}".encode())
    case = digest.hexdigest()
    with _lock:
        if case in _kept:
            _kept.move_to_end(case)
            return _kept[case]
    small = sum(item.figures.vertices for item in there.values()) <= _MOST_VERTICES
    known = meshes.load({key: item.pack for key, item in there.items()}) if small else {}

    def mesh_of(part: int) -> Mesh | None:
        return known.get(chains.get(part, ""))

    found = hulls_of(now.fitted, now.taken.placements, mesh_of)
    with _lock:
        _kept[case] = found
        while len(_kept) > _MOST_KEPT:
            _kept.popitem(last=False)
    return found


def fit(
    session: Session, job_id: int, way: Way, label: str, continues: int | None = None, base: int | None = None
) -> Job:
    """Put in force what a way makes of the decisions. Raises what the way and `decide` do."""
    job = job_of(session, job_id, lock=True)
    _, given = decisions_of(session, job)
    now, standing = standing_now(session, job_id)
    changed = fitted_by(now.decisions, standing, way).model_copy(update={"ship": given.ship})
    return decide(session, job_id, changed, label, continues, base)


def notes_of(session: Session, job_id: int, now: Plan, standing: Standing, ask: bool = False) -> list[Measured]:
    """Every measurement that stays, worked out anew; marks that are not there yet are asked for where wished."""
    lacking: set[int] = set()

    def marks_of(part: int) -> Marks | None:
        body = body_of(now, part)
        if body is None:
            return None
        found = marks_there(body)
        if found is None and ask and part not in lacking:
            want_marks(session, job_id, body)
            lacking.add(part)
        return found

    return [measured(standing, note, marks_of) for note in standing.settings.notes]
