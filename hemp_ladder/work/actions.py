"""What a person does to a job: each action is one transaction, its queued work included."""

from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from hemp_ladder.core.climb import plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import LadderError, SettingsError
from hemp_ladder.core.keys import bundle_key, model_key
from hemp_ladder.core.model import Model
from hemp_ladder.store import model_blob
from hemp_ladder.store.database import tell
from hemp_ladder.store.tables import ClimbRow, DecisionsRow, DeliveryRow, Job, MeshRow, Revision, Source
from hemp_ladder.work.queue import defer

#: A climb fans out into about this many tasks, so that every worker gets some and late ones still do.
_BATCHES = 16


class NothingThere(LadderError):
    """The job, decision or delivery asked for does not exist."""

    code = "not-found"


def job_of(session: Session, job_id: int, lock: bool = False) -> Job:
    job = session.get(Job, job_id, with_for_update=lock)
    if job is None:
        raise NothingThere("There is no such job.", "Go back to the list of jobs.")
    return job


def revision_of(session: Session, job_id: int) -> Revision:
    """The job's newest revision."""
    found = session.scalars(
        select(Revision).join(Source).where(Source.job_id == job_id).order_by(Revision.id.desc()).limit(1)
    ).first()
    if found is None:
        raise NothingThere("The job has no source yet.", "Drop a file on it.")
    return found


def decisions_of(session: Session, job: Job) -> tuple[DecisionsRow, Decisions]:
    row = session.get_one(DecisionsRow, job.head_id)
    return row, Decisions.model_validate(row.document)


def create_job(session: Session, name: str, files: list[dict[str, Any]], decisions: Decisions | None = None) -> Job:
    """A job with one source, [{name, sha256, bytes}], and the reading of it queued."""
    job = Job(name=name.strip()[:200] or "Untitled")
    session.add(job)
    session.flush()
    source = Source(job_id=job.id, name=files[0]["name"][:200])
    first = DecisionsRow(job_id=job.id, label="Start", document=(decisions or Decisions()).model_dump(mode="json"))
    session.add_all([source, first])
    session.flush()
    job.head_id = first.id
    revision = Revision(source_id=source.id, files=files)
    session.add(revision)
    session.flush()
    defer(session, "receive", revision_id=revision.id)
    return job


def source_key(files: list[dict[str, Any]]) -> str:
    """The key of the model that these files give."""
    pairs = [(item["name"], item["sha256"]) for item in files]
    return model_key(files[0]["sha256"] if len(files) == 1 else bundle_key(pairs))


def decide(session: Session, job_id: int, document: dict[str, Any], label: str, continues: int | None = None) -> Job:
    """Put new decisions in force.

    `continues` names the decision in force when this one is the next moment of
    the same movement (a slider on its way): undo then skips what lies between.
    Raises SettingsError, or pydantic's ValidationError, for what makes no sense.
    """
    job = job_of(session, job_id, lock=True)
    checked = Decisions.model_validate(document)
    row, now = decisions_of(session, job)
    if checked == now:
        return job
    parent = row.parent_id if continues == row.id and row.label == label else row.id
    following = DecisionsRow(
        job_id=job.id, parent_id=parent, label=label[:200], document=checked.model_dump(mode="json")
    )
    session.add(following)
    session.flush()
    _move_head(session, job, following.id)
    return job


def undo(session: Session, job_id: int) -> Job:
    """Go back to what was in force before."""
    job = job_of(session, job_id, lock=True)
    row = session.get_one(DecisionsRow, job.head_id)
    if row.parent_id is None:
        raise SettingsError("There is nothing to undo.")
    _move_head(session, job, row.parent_id)
    return job


def redo(session: Session, job_id: int) -> Job:
    """Go forward again to the newest decision that followed this one."""
    job = job_of(session, job_id, lock=True)
    following = redo_target(session, job)
    if following is None:
        raise SettingsError("There is nothing to redo.")
    _move_head(session, job, following)
    return job


def redo_target(session: Session, job: Job) -> int | None:
    return session.scalars(
        select(DecisionsRow.id)
        .where(DecisionsRow.job_id == job.id, DecisionsRow.parent_id == job.head_id)
        .order_by(DecisionsRow.id.desc())
        .limit(1)
    ).first()


def _move_head(session: Session, job: Job, decisions_id: int) -> None:
    job.head_id = decisions_id
    session.flush()
    start_climb(session, job)
    tell(session, job.id)


def start_climb(session: Session, job: Job) -> None:
    """Queue the making of the meshes that the decisions in force lack, and of no others.

    Climbs of the job that are still under way for other decisions stop: what
    they have made stays made.
    """
    revision = revision_of(session, job.id)
    if revision.state != "ready" or revision.model_key is None:
        return
    session.execute(
        update(ClimbRow)
        .where(ClimbRow.job_id == job.id, ClimbRow.state == "working", ClimbRow.decisions_id != job.head_id)
        .values(state="cancelled")
    )
    _, decisions = decisions_of(session, job)
    missing = missing_meshes(session, model_blob.load(revision.model_key), decisions)
    if not missing:
        return
    running = session.scalars(
        select(ClimbRow).where(ClimbRow.decisions_id == job.head_id, ClimbRow.state == "working")
    ).first()
    if running is not None and {request[0] for request in missing} <= set(running.keys):
        return
    climb = ClimbRow(job_id=job.id, decisions_id=job.head_id, keys=[request[0] for request in missing])
    session.add(climb)
    session.flush()
    for batch in _batches(missing):
        defer(session, "facet", climb_id=climb.id, requests=batch)


def catch_up(session: Session, job_id: int) -> None:
    """Queue what a job's decisions in force lack because a newer version of ours makes other meshes.

    What a person stopped stays stopped.
    """
    job = job_of(session, job_id, lock=True)
    last = session.scalars(
        select(ClimbRow).where(ClimbRow.decisions_id == job.head_id).order_by(ClimbRow.id.desc()).limit(1)
    ).first()
    if last is None or last.state != "cancelled":
        start_climb(session, job)


def missing_meshes(session: Session, model: Model, decisions: Decisions) -> list[list[Any]]:
    """`MeshRequest.as_list` of every mesh that is wanted and not there."""
    wanted = {r.key: r for r in plan(model, decisions).requests if r is not None}
    there = set(session.scalars(select(MeshRow.key).where(MeshRow.key.in_(list(wanted)))))
    return [r.as_list() for key, r in wanted.items() if key not in there]


def _batches(requests: list[list[Any]]) -> list[list[list[Any]]]:
    """Spread over batches by number of faces, the heaviest first."""
    count = min(_BATCHES, len(requests))
    batches: list[list[list[Any]]] = [[] for _ in range(count)]
    loads = [0] * count
    for request in sorted(requests, key=lambda item: -item[4]):
        lightest = loads.index(min(loads))
        batches[lightest].append(request)
        loads[lightest] += request[4] + 1
    return batches


def cancel_climb(session: Session, job_id: int) -> None:
    """Stop reading and meshing for the job. What was made stays."""
    session.execute(
        update(ClimbRow).where(ClimbRow.job_id == job_id, ClimbRow.state == "working").values(state="cancelled")
    )
    revision = revision_of(session, job_id)
    if revision.state in ("waiting", "reading"):
        revision.state = "cancelled"
    tell(session, job_id)


def resume(session: Session, job_id: int) -> None:
    """Take up again what was cancelled."""
    job = job_of(session, job_id, lock=True)
    revision = revision_of(session, job_id)
    if revision.state == "cancelled":
        revision.state = "waiting"
        defer(session, "receive", revision_id=revision.id)
    start_climb(session, job)
    tell(session, job_id)


def ship(session: Session, job_id: int) -> DeliveryRow:
    """Queue a delivery of the decisions in force to their target."""
    job = job_of(session, job_id, lock=True)
    if revision_of(session, job_id).state != "ready":
        raise SettingsError("The source is not read yet.", "Wait until Receive is done.")
    _, decisions = decisions_of(session, job)
    delivery = DeliveryRow(
        job_id=job.id, decisions_id=job.head_id, target=decisions.ship.target.model_dump(mode="json"), files=[]
    )
    session.add(delivery)
    session.flush()
    defer(session, "ship", delivery_id=delivery.id)
    tell(session, job.id)
    return delivery


def cancel_delivery(session: Session, delivery_id: int) -> None:
    delivery = session.get(DeliveryRow, delivery_id)
    if delivery is None:
        raise NothingThere("There is no such delivery.")
    if delivery.state in ("waiting", "writing"):
        delivery.state = "cancelled"
        tell(session, delivery.job_id)
