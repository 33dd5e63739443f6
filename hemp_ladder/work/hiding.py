"""What of a job stands wholly inside something else: looked for once by a worker when somebody asks."""

import hashlib

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import LadderError
from hemp_ladder.store.database import session, tell
from hemp_ladder.work.children import ChildDied
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.looking import Search, load_parts, made_parts
from hemp_ladder.work.meshing.standing import standing_crew
from hemp_ladder.work.queue import app

#: Raise when looking says something else of the same meshes.
_VERSION = 1
_SECONDS = 300.0


def search_inside(s: Session, now: Plan) -> Search:
    """What would be looked through: meshes, where they stand, and what they wear."""
    told = hashlib.sha256()
    for column in (now.sorted.placements, now.sorted.parts, now.sorted.opaque()):
        told.update(np.ascontiguousarray(column).tobytes())
    told.update(now.fitted.placements()[now.sorted.placements].tobytes())
    return Search("inside", made_parts(s, now), f"{_VERSION} {told.hexdigest()}")


def inside_nodes(search: Search) -> NDArray[np.integer] | None:
    """The nodes that were found; None while nobody looked."""
    found = search.there()
    return None if found is None else np.array(found["nodes"], int)


@app.task(name="inside")
def find_inside(job_id: int) -> None:
    """Look through the meshes of a job as it stands now. Meshes that bring the child down hide nothing."""
    with session() as s:
        _, now = plan_now(s, job_id)
        search = search_inside(s, now)
        if search.there() is not None:
            return
        known = load_parts(s, search)
    nodes = now.sorted.placements
    given = known, now.sorted.parts, now.fitted.placements()[nodes], now.sorted.opaque()
    try:
        with standing_crew() as crew:
            mask, whole = crew.run("inside", *given, seconds=lambda *_: _SECONDS)
    except LadderError as error:
        if isinstance(error, ChildDied) and error.killed:
            return
        mask, whole = np.zeros(len(nodes), bool), False
    search.keep({"nodes": nodes[mask].tolist(), "whole": bool(whole)})
    with session() as s:
        tell(s, job_id)
