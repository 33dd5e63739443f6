"""What a person does to a job: each action is one transaction, its queued work included."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import LadderError, SettingsError
from hemp_ladder.core.findings import Offer
from hemp_ladder.core.locks import refuse_locked
from hemp_ladder.core.model.references import bind
from hemp_ladder.core.offers import take_offer
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.core.sort.palette import unknown_materials
from hemp_ladder.core.trim.settings import FULL
from hemp_ladder.store import meshes, model_blob
from hemp_ladder.store.database import tell
from hemp_ladder.store.tables import ClimbRow, DecisionsRow, DeliveryRow, Job, Source
from hemp_ladder.work.meshing.shelf import is_light
from hemp_ladder.work.plans import Models, planned
from hemp_ladder.work.queue import defer
from hemp_ladder.work.sources import NothingThere, job_of, models_of, sources_of, take_in

#: A climb fans out into about this many tasks, so that every worker gets some and late ones still do.
_BATCHES = 16
#: What is in view is made before the rest.
_IN_VIEW = 5
#: Of light chains, so many make a batch: a quarter of a second's work.
_LIGHT = 500


def decisions_of(session: Session, job: Job) -> tuple[DecisionsRow, Decisions]:
    row = session.get_one(DecisionsRow, job.head_id)
    return row, Decisions.model_validate(row.document)


def create_job(session: Session, name: str, files: list[dict[str, Any]], decisions: Decisions | None = None) -> Job:
    """A job with one source, [{name, sha256, bytes}], and the reading of it queued."""
    job = Job(name=name.strip()[:200] or "Untitled")
    session.add(job)
    session.flush()
    first = DecisionsRow(job_id=job.id, label="Start", document=(decisions or Decisions()).model_dump(mode="json"))
    session.add(first)
    session.flush()
    job.head_id = first.id
    take_in(session, job, files)
    return job


class Conflict(LadderError):
    """Somebody else decided meanwhile."""

    code = "conflict"

    def __init__(self) -> None:
        super().__init__("Somebody else decided meanwhile.", "Look at what changed, and do it again.")


def decide(
    session: Session, job_id: int, wanted: Decisions, label: str, continues: int | None = None, base: int | None = None,
    first: Sequence[int] = (),
) -> Job:  # fmt: skip
    """Put new decisions in force. The meshes of parts in `first`, by index, are made before others.

    `continues` names the decision in force when this one is the next moment of
    the same movement (a slider on its way): undo then skips what lies between.
    `base` names those that these were made from. Raises Conflict where others
    are in force, SettingsError for what makes no sense.
    """
    job = job_of(session, job_id, lock=True)
    if base is not None and base != job.head_id:
        raise Conflict
    checked = wanted
    row, now = decisions_of(session, job)
    if checked == now:
        return job
    _refuse_unknown(session, job, checked, now)
    refuse_locked(now, checked)
    row.passing = continues == row.id and row.label == label
    parent = row.parent_id if row.passing else row.id
    following = DecisionsRow(
        job_id=job.id, parent_id=parent, label=label[:200], document=checked.model_dump(mode="json")
    )
    session.add(following)
    session.flush()
    _move_head(session, job, following.id, first)
    return job


def patch(session: Session, job_id: int, change: dict[str, Any], label: str, base: int | None = None) -> Job:
    """Put in force what a merge patch (RFC 7396) makes of the decisions. Raises what `decide` does, and pydantic's
    ValidationError for what makes no sense."""
    _, now = decisions_of(session, job_of(session, job_id, lock=True))
    wanted = Decisions.model_validate(_merged(now.model_dump(mode="json"), change))
    return decide(session, job_id, wanted, label, base=base)


def _merged(target: Any, change: Any) -> Any:
    if not isinstance(change, dict):
        return change
    merged = dict(target) if isinstance(target, dict) else {}
    for name, value in change.items():
        if value is None:
            merged.pop(name, None)
        else:
            merged[name] = _merged(merged.get(name), value)
    return merged


def _refuse_unknown(session: Session, job: Job, wanted: Decisions, now: Decisions) -> None:
    """Raise SettingsError for a rule that gives a material which the palette does not hold, unless it stood already."""
    models = models_of(sources_of(session, job.id), skeletons=True)
    if not models or wanted.sort == now.sort:
        return
    joined = model_blob.load_joined(models)
    stood = unknown_materials(joined, now.sort)
    fresh = [id_ for id_ in unknown_materials(joined, wanted.sort) if id_ not in stood]
    if fresh:
        raise SettingsError(f"There is no material “{fresh[0][:40]}” in the palette.", "Choose one of those listed.")


def take(session: Session, job_id: int, offer: Offer, source: str, parts: Sequence[int]) -> Job:
    """Put the remedy of a finding in force. Raises SettingsError for one that nobody offers."""
    job = job_of(session, job_id, lock=True)
    _, decisions = decisions_of(session, job)
    models = models_of(sources_of(session, job_id), skeletons=True)
    if not models:
        raise NothingThere("No source is read yet.", "Wait until Receive is done.")
    # Findings about triangles count parts as the plan does, where a polygon adds pieces.
    now = planned(models, decisions)
    changed = take_offer(now.model, now.decisions, offer, source, parts)
    return decide(session, job_id, changed, offer.label)


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


def go_back(session: Session, job_id: int, decisions_id: int) -> Job:
    """Put a state of the decisions in force again, wherever in the history it stands; undo goes on from there."""
    job = job_of(session, job_id, lock=True)
    row = session.get(DecisionsRow, decisions_id)
    if row is None or row.job_id != job_id:
        raise NothingThere("The job has no such decision.")
    if row.id != job.head_id:
        _move_head(session, job, row.id)
    return job


def redo_target(session: Session, job: Job) -> int | None:
    return session.scalars(
        select(DecisionsRow.id)
        .where(DecisionsRow.job_id == job.id, DecisionsRow.parent_id == job.head_id)
        .order_by(DecisionsRow.id.desc())
        .limit(1)
    ).first()


def _move_head(session: Session, job: Job, decisions_id: int, first: Sequence[int] = ()) -> None:
    job.head_id = decisions_id
    session.flush()
    start_climb(session, job, first)
    tell(session, job.id)


def start_climb(session: Session, job: Job, first: Sequence[int] = ()) -> None:
    """Queue the making of the meshes that the decisions in force lack, and of no others; of parts in `first` before the rest.

    Climbs of the job that are still under way for other decisions stop: what
    they have made stays made.
    """
    models = models_of(sources_of(session, job.id))
    if not models:
        return
    session.execute(
        update(ClimbRow)
        .where(ClimbRow.job_id == job.id, ClimbRow.state == "working", ClimbRow.decisions_id != job.head_id)
        .values(state="cancelled")
    )
    _, decisions = decisions_of(session, job)
    missing = missing_meshes(session, models, decisions)
    if not missing:
        return
    running = session.scalars(
        select(ClimbRow).where(ClimbRow.decisions_id == job.head_id, ClimbRow.state == "working")
    ).first()
    if running is not None and {chain.key for chain in missing} <= set(running.keys):
        return
    climb = ClimbRow(job_id=job.id, decisions_id=job.head_id, keys=[chain.key for chain in missing])
    session.add(climb)
    session.flush()
    chains = planned(models, decisions).chains
    soon = {chain.key for part in first if part < len(chains) and (chain := chains[part]) is not None}
    for some, priority in (
        ([chain for chain in missing if chain.key in soon], _IN_VIEW),
        ([chain for chain in missing if chain.key not in soon], 0),
    ):
        for batch in _batches(some):
            defer(session, "mesh", priority, climb_id=climb.id, chains=[chain.as_dict() for chain in batch])


def start_or_fail(session: Session, job: Job) -> None:
    """`start_climb`; where the decisions in force make no sense for what was read, that is told by a failed climb."""
    try:
        with session.begin_nested():
            start_climb(session, job)
    except LadderError as error:
        message = f"{error.message} {error.remedy}".strip()
        session.add(ClimbRow(job_id=job.id, decisions_id=job.head_id, keys=[], state="failed", message=message))
        session.flush()


def catch_up(session: Session, job_id: int) -> None:
    """Bring a job up to date with this version: its decisions call parts as it does now, and what they lack because a
    newer version makes other meshes is queued. What a person stopped stays stopped."""
    job = job_of(session, job_id, lock=True)
    rebind(session, job)
    last = session.scalars(
        select(ClimbRow).where(ClimbRow.decisions_id == job.head_id).order_by(ClimbRow.id.desc()).limit(1)
    ).first()
    if last is None or last.state != "cancelled":
        start_or_fail(session, job)


def rebind(session: Session, job: Job) -> None:
    """Have all of a job's decisions, whenever they were made, call parts as its models do now."""
    models = models_of(sources_of(session, job.id))
    if not models:
        return
    parts = model_blob.load_joined(models).parts
    for row in session.scalars(select(DecisionsRow).where(DecisionsRow.job_id == job.id)):
        given = Decisions.model_validate(row.document)
        bound = bind(given, parts)
        if bound is not given:
            row.document = bound.model_dump(mode="json")


def missing_meshes(session: Session, models: Models, decisions: Decisions) -> list[Chain]:
    """The chains of meshes that are wanted, not there, and not known to fail."""
    wanted = planned(models, decisions).wanted()
    there = meshes.packs_of(session, wanted).keys() | meshes.failures_of(session, wanted).keys()
    return [chain for key, chain in wanted.items() if key not in there]


def _batches(chains: list[Chain]) -> list[list[Chain]]:
    """Spread over batches by how long they take, the heaviest first; light ones go many at a time. Chains that begin
    alike stay together."""
    light = [[chain] for chain in chains if is_light(chain)]
    alike: dict[str, list[Chain]] = {}
    for chain in chains:
        if not is_light(chain):
            alike.setdefault(chain.keys[0], []).append(chain)
    heavy = list(alike.values())
    return [*_spread(heavy, min(_BATCHES, len(heavy))), *_spread(light, min(_BATCHES, -(-len(light) // _LIGHT)))]


def _spread(groups: list[list[Chain]], count: int) -> list[list[Chain]]:
    batches: list[list[Chain]] = [[] for _ in range(count)]
    loads = [0.0] * count
    for group in sorted(groups, key=lambda item: -item[0].seconds()):
        lightest = loads.index(min(loads))
        batches[lightest] += group
        loads[lightest] += group[0].seconds()
    return batches


def cancel_climb(session: Session, job_id: int) -> None:
    """Stop reading and meshing for the job. What was made stays."""
    job_of(session, job_id, lock=True)
    session.execute(
        update(ClimbRow).where(ClimbRow.job_id == job_id, ClimbRow.state == "working").values(state="cancelled")
    )
    for item in sources_of(session, job_id):
        if item.busy:
            item.newest.state = "cancelled"
    tell(session, job_id)


def resume(session: Session, job_id: int) -> None:
    """Take up again what was cancelled, and try again what failed."""
    job = job_of(session, job_id, lock=True)
    received = sources_of(session, job_id)
    models = models_of(received)
    if models:
        _, decisions = decisions_of(session, job)
        meshes.forget_failures(session, planned(models, decisions).wanted())
        start_climb(session, job)
    for item in received:
        if item.newest.state in ("cancelled", "refused"):
            item.newest.state = "waiting"
            defer(session, "receive", revision_id=item.newest.id)
    tell(session, job_id)


def remove_source(session: Session, job_id: int, ref: str) -> None:
    """Take a source out of a job. Raises SettingsError for its only one."""
    job = job_of(session, job_id, lock=True)
    sources = session.scalars(select(Source).where(Source.job_id == job_id, Source.candidate_for.is_(None))).all()
    source = next((item for item in sources if item.ref == ref), None)
    if source is None:
        raise NothingThere("The job has no such source.")
    if len(sources) == 1:
        raise SettingsError("A job has one source at least.", "Replace it, or remove the job.")
    session.delete(source)
    session.execute(delete(Source).where(Source.job_id == job_id, Source.candidate_for == ref))
    session.flush()
    start_or_fail(session, job)
    tell(session, job_id)


def ship(session: Session, job_id: int, target: Target | None = None, beside: str | None = None) -> DeliveryRow:
    """Queue a delivery of the decisions in force, to their target or another; `beside` is a level of detail that is
    delivered with it, as a delivery of its own. Raises SettingsError for a level that there is not."""
    job = job_of(session, job_id, lock=True)
    received = sources_of(session, job_id)
    if any(item.busy for item in received) or not models_of(received):
        raise SettingsError("Not every source is read yet.", "Wait until Receive is done.")
    _, decisions = decisions_of(session, job)
    wanted = target or decisions.ship.target
    beside = beside if target or beside else decisions.ship.beside
    levels = [wanted.level, *([beside] if beside is not None else [])]
    there = {FULL, *(level.name for level in decisions.trim.levels)}
    if beside is not None and (beside not in there or beside == wanted.level):
        raise SettingsError(
            f"There is no other level called “{beside[:40]}”.", f"There are: {', '.join(sorted(there))}."
        )
    rows = [
        DeliveryRow(
            job_id=job.id, decisions_id=job.head_id, files=[], sources=[list(item) for item in models_of(received)],
            target=wanted.model_copy(update={"level": level}).model_dump(mode="json"),
        )
        for level in levels
    ]  # fmt: skip
    session.add_all(rows)
    session.flush()
    if len(rows) > 1:
        rows[0].beside_id, rows[1].beside_id = rows[1].id, rows[0].id
    defer(session, "ship", delivery_id=rows[0].id)
    tell(session, job.id)
    return rows[0]


def cancel_delivery(session: Session, delivery_id: int) -> None:
    delivery = session.get(DeliveryRow, delivery_id)
    if delivery is None:
        raise NothingThere("There is no such delivery.")
    if delivery.state in ("waiting", "writing"):
        delivery.state = "cancelled"
        tell(session, delivery.job_id)
