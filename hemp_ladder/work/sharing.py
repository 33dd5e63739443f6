"""Copies among the parts of a job: looked for once by a worker when somebody asks, and shared by a decision."""

import hashlib
from typing import Any

from sqlalchemy.orm import Session

from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.sort.settings import Shared
from hemp_ladder.core.sort.sharing import shareable
from hemp_ladder.store.database import session, tell
from hemp_ladder.store.tables import Job
from hemp_ladder.work.actions import decide
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.looking import Search, load_parts, made_parts
from hemp_ladder.work.queue import app
from hemp_ladder.work.sources import job_of

#: Raise when looking says something else of the same meshes.
_VERSION = 2


def search_of(s: Session, now: Plan, tolerance: float) -> Search:
    """What would be looked through, within a tolerance in metres."""
    keys = made_parts(s, now)
    looks = hashlib.sha256()
    for part in keys:
        item = now.model.parts[part]
        looks.update(repr((item.ref, item.layer, item.style, item.colour, sorted(item.face_styles.items()),
                           [(face, colour.hex) for face, colour in sorted(item.face_colours.items())],
                           float(now.fitted.scale_of(part)))).encode("utf-8", "surrogatepass"))  # fmt: skip
    return Search("copies", keys, f"{_VERSION} {tolerance!r} {looks.hexdigest()}")


def copies_there(search: Search) -> list[dict[str, Any]] | None:
    """The copies that were found: `part` and `of` by index, `matrix`, `mirrored`, `triangles`; None while nobody looked."""
    found: list[dict[str, Any]] | None = search.there()
    return found


@app.task(name="copies")
def find_copies(job_id: int, tolerance: float) -> None:
    """Look through the meshes of a job as it stands now."""
    with session() as s:
        _, now = plan_now(s, job_id)
        search = search_of(s, now, tolerance)
        if search.there() is not None:
            return
        known = load_parts(s, search)
    scales = {part: float(now.fitted.scale_of(part)) for part in known}
    search.keep([
        {"part": item.part, "of": item.of, "matrix": item.matrix.reshape(-1).tolist(), "mirrored": item.mirrored,
         "triangles": len(known[item.part].triangles)}
        for item in shareable(now.model, known, tolerance, scales)
    ])  # fmt: skip
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
