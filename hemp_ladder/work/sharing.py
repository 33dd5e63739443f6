"""Copies among the parts of a job: looked for once by a worker when somebody asks, and shared by a decision."""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.sort.settings import Shared
from hemp_ladder.core.sort.sharing import shareable
from hemp_ladder.store import blobs, meshes
from hemp_ladder.store.database import session, tell
from hemp_ladder.store.tables import Job
from hemp_ladder.work.actions import decide
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.once import Asked
from hemp_ladder.work.queue import app, defer
from hemp_ladder.work.sources import job_of

#: Raise when looking says something else of the same meshes.
_VERSION = 1
_SOON = 10
_asked = Asked(30.0)


@dataclass(frozen=True)
class Search:
    """The parts of a job that are made, by index the key of each one's mesh, and the tolerance in metres."""

    keys: Mapping[int, str]
    looks: str
    tolerance: float

    @property
    def blob(self) -> str:
        told = json.dumps([sorted(self.keys.items()), self.looks, self.tolerance, _VERSION])
        return f"marks/{hashlib.sha256(told.encode()).hexdigest()}-copies"


def search_of(s: Session, now: Plan, tolerance: float) -> Search:
    """What would be looked through."""
    there = meshes.packs_of(s, now.wanted().keys())
    parts = sorted(now.taken.parts)
    keys = {part: chain.key for part in parts if (chain := now.chains[part]) is not None and chain.key in there}
    looks = hashlib.sha256()
    for part in keys:
        item = now.model.parts[part]
        looks.update(repr((item.ref, item.layer, item.style, item.colour, sorted(item.face_styles.items()),
                           [(face, colour.hex) for face, colour in sorted(item.face_colours.items())],
                           float(now.fitted.scale_of(part)))).encode("utf-8", "surrogatepass"))  # fmt: skip
    return Search(keys, looks.hexdigest(), tolerance)


def copies_there(search: Search) -> list[dict[str, Any]] | None:
    """The copies that were found: `part` and `of` by index, `matrix`, `mirrored`, `triangles`; None while nobody looked."""
    if not blobs.exists(search.blob):
        return None
    found: list[dict[str, Any]] = json.loads(blobs.get(search.blob))
    return found


def want_copies(s: Session, job_id: int, search: Search) -> None:
    """Have them looked for soon."""
    if _asked.is_new(search.blob):
        defer(s, "copies", priority=_SOON, lock=search.blob, job_id=job_id, tolerance=search.tolerance)


@app.task(name="copies")
def find_copies(job_id: int, tolerance: float) -> None:
    """Look through the meshes of a job as it stands now."""
    with session() as s:
        _, now = plan_now(s, job_id)
        search = search_of(s, now, tolerance)
        if blobs.exists(search.blob):
            return
        packs = meshes.packs_of(s, search.keys.values())
    by_key = meshes.load(packs)
    known = {part: by_key[key] for part, key in search.keys.items() if key in by_key and len(by_key[key].triangles)}
    scales = {part: float(now.fitted.scale_of(part)) for part in known}
    found = [
        {"part": item.part, "of": item.of, "matrix": item.matrix.reshape(-1).tolist(), "mirrored": item.mirrored,
         "triangles": len(known[item.part].triangles)}
        for item in shareable(now.model, known, tolerance, scales)
    ]  # fmt: skip
    blobs.put(search.blob, json.dumps(found).encode())
    with session() as s:
        tell(s, job_id)


def share(s: Session, job_id: int, tolerance: float) -> Job:
    """Have all copies that were found give way to those that they are copies of. Raises SettingsError while nobody looked."""
    job_of(s, job_id, lock=True)
    _, now = plan_now(s, job_id)
    found = copies_there(search_of(s, now, tolerance))
    if found is None:
        raise SettingsError("Copies have not been looked for yet.", "Wait a moment, and do it again.")
    parts = now.model.parts
    shared = tuple(
        Shared(part=parts[item["part"]].ref, of=parts[item["of"]].ref, matrix=tuple(item["matrix"])) for item in found
    )
    sort = now.decisions.sort.model_copy(update={"shared": (*now.decisions.sort.shared, *shared)})
    return decide(
        s, job_id, now.decisions.model_copy(update={"sort": sort}), f"{len(shared):,} copies share their shapes"
    )
