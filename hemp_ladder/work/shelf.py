"""Materials that are kept for other jobs, with the pictures that they wear."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from hemp_ladder.core.settings import Settings
from hemp_ladder.core.sort.editing import free_id, material_of, with_own
from hemp_ladder.core.sort.palette import pictures_of
from hemp_ladder.core.sort.settings import OwnMaterial, OwnPicture, as_own, as_picture
from hemp_ladder.store.tables import ShelfRow
from hemp_ladder.work import actions
from hemp_ladder.work.plans import planned
from hemp_ladder.work.sources import NothingThere, job_of, models_of, sources_of


class Kept(Settings):
    """What a row of the shelf holds."""

    material: OwnMaterial
    pictures: tuple[OwnPicture, ...] = ()


def shelf(session: Session) -> list[tuple[int, Kept]]:
    """All that is kept, by row number, the oldest first."""
    rows = session.scalars(select(ShelfRow).order_by(ShelfRow.id))
    return [(row.id, Kept.model_validate(row.document)) for row in rows]


def keep(session: Session, job_id: int, id_: str) -> None:
    """Keep a material of a job as it stands; one that is kept under its name already gives way."""
    job = job_of(session, job_id)
    _, decisions = actions.decisions_of(session, job)
    now = planned(models_of(sources_of(session, job_id)), decisions)
    own = as_own(material_of(now.model, now.decisions.sort, id_))
    known = pictures_of(now.model, now.decisions.sort)
    pictures = [as_picture(t) for worn in own.maps.values() if (t := known.get(worn.picture)) is not None]
    document = Kept(material=own, pictures=tuple(dict.fromkeys(pictures))).model_dump(mode="json")
    for number, kept in shelf(session):
        if kept.material.name == own.name:
            session.get_one(ShelfRow, number).document = document
            return
    session.add(ShelfRow(document=document))


def take(session: Session, job_id: int, number: int) -> None:
    """Put a kept material, with its pictures, among a job's own: a decision."""
    row = session.get(ShelfRow, number)
    if row is None:
        raise NothingThere("That material is not kept any more.")
    kept = Kept.model_validate(row.document)
    _, decisions = actions.decisions_of(session, job_of(session, job_id, lock=True))
    sort = decisions.sort
    there = {item.sha256 for item in sort.pictures}
    pictures = (*sort.pictures, *(item for item in kept.pictures if item.sha256 not in there))
    own = kept.material.model_copy(update={"id": free_id(sort, kept.material.name)})
    changed = with_own(sort.model_copy(update={"pictures": pictures}), own)
    actions.decide(session, job_id, decisions.model_copy(update={"sort": changed}), f"{own.name} from the shelf")


def forget(session: Session, number: int) -> None:
    row = session.get(ShelfRow, number)
    if row is not None:
        session.delete(row)
