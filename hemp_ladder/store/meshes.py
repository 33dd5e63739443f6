"""Meshes in the store: triangles in packs, figures in rows, and what could not be made."""

import threading
from collections import OrderedDict, defaultdict
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import TypeVar

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.store import blobs, packs
from hemp_ladder.store.database import among
from hemp_ladder.store.tables import FailureRow, MeshLossRow, MeshRow

_Kept = TypeVar("_Kept")


@dataclass(frozen=True)
class Stored:
    """A mesh that is there: its key, the pack it lies in, and its figures."""

    key: str
    pack: str
    figures: Figures


#: Figures that were looked up last. What is stored under a key never changes.
_recent: OrderedDict[str, Stored] = OrderedDict()
#: And the packs they lie in, which is all that a plan asks for.
_pack_of: OrderedDict[str, str] = OrderedDict()
_losses: dict[str, int | None] = {}
_MOST_RECENT = 100_000
_lock = threading.Lock()


def stored(session: Session, keys: Collection[str]) -> dict[str, Stored]:
    """The meshes that are there, by key."""
    _forget_lost(session)
    with _lock:
        found = {key: _recent[key] for key in keys if key in _recent}
    missing = [key for key in keys if key not in found]
    if missing:
        rows = session.execute(select(MeshRow.key, MeshRow.pack, MeshRow.told).where(among(MeshRow.key, missing)))
        fresh = {row.key: Stored(row.key, row.pack, Figures.from_dict(row.told)) for row in rows}
        found |= fresh
        with _lock:
            _keep(_recent, fresh)
    return found


def _forget_lost(session: Session) -> None:
    """What is remembered holds until meshes are taken out of the store, which the database counts."""
    times = session.scalar(select(MeshLossRow.times))
    with _lock:
        if _losses.get("times") != times:
            _recent.clear()
            _pack_of.clear()
            _losses["times"] = times


def _keep(kept: "OrderedDict[str, _Kept]", fresh: Mapping[str, _Kept]) -> None:
    kept.update(fresh)
    while len(kept) > _MOST_RECENT:
        kept.popitem(last=False)


def packs_of(session: Session, keys: Collection[str]) -> dict[str, str]:
    """For the meshes that are there, the pack each lies in, by key."""
    _forget_lost(session)
    with _lock:
        found = {key: _pack_of[key] for key in keys if key in _pack_of}
    missing = [key for key in keys if key not in found]
    if missing:
        rows = session.execute(select(MeshRow.key, MeshRow.pack).where(among(MeshRow.key, missing)))
        fresh = dict(row for row in rows.tuples())
        found |= fresh
        with _lock:
            _keep(_pack_of, fresh)
    return found


def failures_of(session: Session, keys: Collection[str]) -> dict[str, str]:
    """Why meshes with these keys could not be made, of those that could not."""
    rows = session.execute(select(FailureRow.key, FailureRow.message).where(among(FailureRow.key, keys)))
    return dict(row for row in rows.tuples())


def forget_failures(session: Session, keys: Collection[str]) -> None:
    """Have meshes with these keys tried again when they are next wanted."""
    session.execute(delete(FailureRow).where(among(FailureRow.key, keys)))


def load(pack_of: Mapping[str, str], between: Callable[[], None] = lambda: None) -> dict[str, Mesh]:
    """Meshes by key, given the pack each lies in; of a pack only what is asked for is unpacked."""
    by_pack: dict[str, set[str]] = defaultdict(set)
    for key, pack in pack_of.items():
        by_pack[pack].add(key)
    found: dict[str, Mesh] = {}
    for pack, keys in by_pack.items():
        between()
        found.update(packs.decode(blobs.get(f"packs/{pack}"), keys))
    return found


def put(session: Session, meshes: Mapping[str, Mesh]) -> None:
    """Put meshes away as one pack, their figures as rows; a mesh that another made meanwhile stays its."""
    if not meshes:
        return
    pack = blobs.put_by_content("packs", packs.encode(meshes), ".glb")
    rows = [{"key": key, "pack": pack, "told": mesh.figures.as_dict()} for key, mesh in meshes.items()]
    session.execute(insert(MeshRow).on_conflict_do_nothing(), rows)


def put_failures(session: Session, failures: Mapping[str, str]) -> None:
    """Note what could not be made, and why."""
    if failures:
        rows = [{"key": key, "message": message[:1000]} for key, message in failures.items()]
        session.execute(insert(FailureRow).on_conflict_do_nothing(), rows)


def beginnings(session: Session, chains: Iterable[Chain]) -> dict[str, tuple[int, str, str]]:
    """For chains whose mesh is not there but one on its way is: by the chain's key how many steps are done in the
    longest beginning that is stored, that mesh's key, and its pack."""
    longer = [chain for chain in chains if chain.operations]
    if not longer:
        return {}
    there = packs_of(session, {key for chain in longer for key in chain.keys[:-1]})
    found: dict[str, tuple[int, str, str]] = {}
    for chain in longer:
        done = next((n for n in range(len(chain.operations), 0, -1) if chain.keys[n - 1] in there), 0)
        if done:
            found[chain.key] = (done, chain.keys[done - 1], there[chain.keys[done - 1]])
    return found
