"""What nothing refers to any more: looked up, and removed beside running work.

Kept is what the revisions and deliveries of living jobs name, and every mesh
that any of a job's decisions asks for, so that undo finds it. What is younger
than a day stays in any case: it may belong to something that has no row yet.
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from hemp_ladder.core.climb import plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import LadderError
from hemp_ladder.store import blobs, model_blob
from hemp_ladder.store.database import among, session
from hemp_ladder.store.tables import DecisionsRow, DeliveryRow, GaugeRow, Job, MeshRow, Revision, ShelfRow
from hemp_ladder.work.sources import models_of, source_key, sources_of

GRACE = timedelta(days=1)
#: Of each job so many decisions, the newest, keep their meshes.
_DECISIONS = 200
#: What was measured of meshes that are not kept stays so many times as long.
_MEASURED = 30
#: Rows and blobs are removed so many at a time.
_AT_ONCE = 5000
_KINDS = {
    "sources": "files as they came", "models": "what was read of them", "shapes": "exact and drawn bodies",
    "details": "properties", "previews": "outlines for plans", "clean": "cleaned drawings", "bundles": "names in bundles", "glances": "pictures of sources",
    "packs": "meshes", "textures": "pictures", "thumbs": "small pictures", "marks": "what can be picked on parts", "deliveries": "deliveries",
}  # fmt: skip


@dataclass
class Kind:
    """Blobs of a kind: how many there are and their bytes, and of these what nothing refers to."""

    name: str
    says: str
    count: int = 0
    bytes: int = 0
    going: int = 0
    going_bytes: int = 0


def survey(grace: timedelta = GRACE) -> list[Kind]:
    """What takes how much, and what would go."""
    with session() as s:
        kept = _kept(s)
        kept["packs"] = _packs_in_use(s, _wanted(s))
    return _count(kept, grace)[0]


def clean(grace: timedelta = GRACE) -> list[Kind]:
    """Remove what nothing refers to; what there was before. Where anybody decides or reads meanwhile, meshes wait for
    the next time."""
    with session() as s:
        before = _fingerprint(s)
        wanted = _wanted(s)
    with session() as s:
        # From here until the rows are gone nobody begins to want a mesh that is there.
        s.execute(text("LOCK TABLE decisions, revisions, jobs IN SHARE MODE"))
        if _fingerprint(s) == before:
            lost = [key for key in s.scalars(select(MeshRow.key)) if key not in wanted]
            for start in range(0, len(lost), _AT_ONCE):
                s.execute(delete(MeshRow).where(among(MeshRow.key, lost[start : start + _AT_ONCE])))
    with session() as s:
        # What was measured for a board is measured again where somebody asks.
        s.execute(delete(GaugeRow).where(GaugeRow.created < datetime.now(UTC) - _MEASURED * grace))
    with session() as s:
        kept = _kept(s)
        kept["packs"] = {f"packs/{name}" for name in s.scalars(select(MeshRow.pack).distinct())}
    kinds, going = _count(kept, grace)
    for start in range(0, len(going), _AT_ONCE):
        blobs.remove(going[start : start + _AT_ONCE])
    return kinds


def _fingerprint(s: Session) -> tuple[Any, ...]:
    """Changes with every decision and every reading."""
    heads = s.execute(select(Job.id, Job.head_id).order_by(Job.id)).all()
    read = s.execute(select(Revision.id, Revision.state, Revision.model_key).order_by(Revision.id)).all()
    return s.scalar(select(func.max(DecisionsRow.id))), tuple(heads), tuple(read)


def _kept(s: Session) -> dict[str, set[str]]:
    """Names of blobs that rows refer to, by kind; of kinds that are known by a model's key, those keys."""
    kept: dict[str, set[str]] = defaultdict(set)
    for revision in s.scalars(select(Revision)):
        kept["sources"] |= {f"sources/{item['sha256']}" for item in revision.files}
        keys = {source_key(list(revision.files), revision.root), revision.model_key, revision.skeleton_key}
        kept["model keys"] |= {key.removesuffix("-skeleton") for key in keys if key}
        if revision.model_key:
            try:
                model = model_blob.load(revision.model_key)
            except KeyError:
                continue
            kept["shapes"] |= {f"shapes/{part.key}" for part in model.parts}
            kept["marks"] |= {part.key for part in model.parts}
            _keep_pictures(kept, (texture.sha256 for texture in model.textures))
    given = select(DecisionsRow.document["sort"]["pictures"]).where(DecisionsRow.job_id.in_(select(Job.id)))
    for pictures in s.scalars(given.distinct()):
        _keep_pictures(kept, (item["sha256"] for item in pictures or ()))
    for document in s.scalars(select(ShelfRow.document)):
        _keep_pictures(kept, (item["sha256"] for item in document["pictures"]))
    kept["marks"] |= set(s.scalars(select(MeshRow.key)))
    kept["deliveries"] = {f"deliveries/{name}" for name in s.scalars(select(DeliveryRow.bundle)) if name}
    return kept


def _keep_pictures(kept: dict[str, set[str]], pictures: Iterable[str]) -> None:
    """Pictures, and what was made of them."""
    for sha256 in pictures:
        kept["textures"].add(f"textures/{sha256}")
        kept["thumbs"].add(f"thumbs/{sha256}")


def _wanted(s: Session) -> set[str]:
    """Keys of the meshes that any decision of a living job asks for, and of those on the way to them."""
    wanted: set[str] = set()
    for job_id in s.scalars(select(Job.id)):
        models = models_of(sources_of(s, job_id))
        if not models:
            continue
        rows = (
            select(DecisionsRow.document)
            .where(DecisionsRow.job_id == job_id)
            .order_by(DecisionsRow.id.desc())
            .limit(_DECISIONS)
        )
        for document in s.scalars(rows):
            try:
                chains = plan(model_blob.load_joined(models), Decisions.model_validate(document)).wanted().values()
            except (LadderError, ValueError):
                continue
            wanted |= {key for chain in chains for key in chain.stored}
    return wanted


def _packs_in_use(s: Session, wanted: set[str]) -> set[str]:
    rows = s.execute(select(MeshRow.key, MeshRow.pack)).tuples()
    return {f"packs/{pack}" for key, pack in rows if key in wanted}


def _count(kept: dict[str, set[str]], grace: timedelta) -> tuple[list[Kind], list[str]]:
    kinds = {name: Kind(name, says) for name, says in _KINDS.items()}
    going: list[str] = []
    old = datetime.now(UTC) - grace
    for name, size, changed in blobs.all_of_them():
        kind = kinds.get(name.partition("/")[0])
        if kind is None:
            continue
        kind.count, kind.bytes = kind.count + 1, kind.bytes + size
        if changed < old and not _is_kept(name, kind.name, kept):
            kind.going, kind.going_bytes = kind.going + 1, kind.going_bytes + size
            going.append(name)
    return list(kinds.values()), going


def _is_kept(name: str, kind: str, kept: dict[str, set[str]]) -> bool:
    if kind in ("sources", "shapes", "packs", "textures", "thumbs", "deliveries"):
        return name in kept[kind]
    if kind == "marks":
        return any(key in kept["marks"] for key in _beginnings(name.partition("/")[2]))
    return any(key in kept["model keys"] for key in _beginnings(name.partition("/")[2]))


def _beginnings(name: str) -> Iterator[str]:
    """The name, and without what hangs on it behind a dash."""
    yield name
    if "-" in name:
        yield name.rpartition("-")[0]
