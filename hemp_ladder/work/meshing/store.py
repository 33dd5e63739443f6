"""The shelf of a house: meshes in the store, and what is not there made and put there."""

import time
from collections.abc import Callable, Mapping, Sequence

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Made
from hemp_ladder.core.errors import Cancelled
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.store import blobs, meshes
from hemp_ladder.store.database import session, tell
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing.shelf import Maker

#: Meshes that are made before they are stored, so that the stage fills as they come; more of small ones that come
#: quickly, up to so many vertices.
_PACK, _MOST_PACKED, _PACK_SECONDS, _MOST_VERTICES = 24, 500, 0.4, 300_000


class StoreShelf:
    """Meshes from the store; what is not there is made in this process's children and stored, what failed is told."""

    def __init__(self, cancelled: Callable[[], bool], job_id: int) -> None:
        self._cancelled, self._job_id = cancelled, job_id

    def meshes(self, chains: Sequence[Chain]) -> Made:
        keys = [chain.key for chain in chains]
        with session() as s:
            pack_of, failed = meshes.packs_of(s, keys), meshes.failures_of(s, keys)
        kept = meshes.load(pack_of, self._between)
        missing = [chain for chain in chains if chain.key not in kept and chain.key not in failed]
        if missing:
            wanted = {chain.key for chain in missing}

            def take(made: Mapping[str, Mesh]) -> None:
                kept.update((key, mesh) for key, mesh in made.items() if key in wanted)

            with Crew() as crew:
                make_stored(missing, crew, self._job_id, self._cancelled, take)
            with session() as s:
                failed = meshes.failures_of(s, keys)
        return Made(kept, failed)

    def _between(self) -> None:
        if self._cancelled():
            raise Cancelled("Stopped on request.")


def make_stored(
    chains: Sequence[Chain],
    crew: Crew,
    job_id: int,
    cancelled: Callable[[], bool],
    take: Callable[[Mapping[str, Mesh]], None] = lambda made: None,
) -> None:
    """Follow chains from the longest beginnings that are stored, and store what is made as it comes.

    What was made when it is cancelled, or ends in an error, is stored too.
    """
    with session() as s:
        begun = meshes.beginnings(s, chains)

    def start(chain: Chain) -> tuple[int, Mesh] | None:
        if chain.key not in begun:
            return None
        done, key, pack = begun[chain.key]
        return done, meshes.load({key: pack})[key]

    made: dict[str, Mesh] = {}
    failures: dict[str, str] = {}
    stored, vertices = time.monotonic(), 0

    def put_away() -> None:
        nonlocal stored, vertices
        if made or failures:
            with session() as s:
                meshes.put(s, made)
                meshes.put_failures(s, failures)
                tell(s, job_id)
        made.clear()
        failures.clear()
        stored, vertices = time.monotonic(), 0

    def keep(chain: Chain, fresh: Mapping[str, Mesh]) -> None:
        nonlocal vertices
        made.update(fresh)
        take(fresh)
        vertices += sum(len(mesh.positions) for mesh in fresh.values())
        waited = time.monotonic() - stored > _PACK_SECONDS or vertices > _MOST_VERTICES
        if len(made) >= (_PACK if waited else _MOST_PACKED):
            put_away()

    def fail(chain: Chain, why: str) -> None:
        failures[chain.key] = why

    try:
        Maker(crew, lambda key: blobs.get(f"shapes/{key}"), keep, fail, start).make(chains, cancelled)
    finally:
        put_away()
