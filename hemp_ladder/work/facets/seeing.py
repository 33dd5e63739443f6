"""What the lookouts of a job show of its parts: looked for once by a worker when somebody asks."""

import hashlib

import numpy as np
from sqlalchemy.orm import Session

from hemp_ladder.core.byview import views_of
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.facet.settings import SeenFrom
from hemp_ladder.core.facet.sight import Sight
from hemp_ladder.core.trim.pixels import Seen as Picture
from hemp_ladder.core.trim.pixels import pixels_per_metre
from hemp_ladder.store.database import session
from hemp_ladder.work.children import ChildDied
from hemp_ladder.work.fitting import plan_now
from hemp_ladder.work.looking import Search, load_parts, made_parts
from hemp_ladder.work.meshing.standing import standing_crew
from hemp_ladder.work.queue import app

#: Raise when looking says something else of the same meshes.
_VERSION = 1
_SECONDS = 600.0


def search_sight(s: Session, now: Plan, seen: SeenFrom) -> Search:
    """What would be looked at: meshes, where they stand, what shows through, and from where. Raises SettingsError where there
    is no lookout."""
    told = hashlib.sha256()
    for column in (now.sorted.placements, now.sorted.parts, now.sorted.opaque()):
        told.update(np.ascontiguousarray(column).tobytes())
    told.update(now.fitted.placements()[now.sorted.placements].tobytes())
    told.update(repr((views_of(now, seen), seen.width)).encode())
    return Search("sight", made_parts(s, now), f"{_VERSION} {told.hexdigest()}")


def sight_of(search: Search) -> Sight | None:
    """What was seen; None while nobody looked."""
    found = search.there()
    if found is None:
        return None
    return Sight(np.array(found["pixels"], float), np.array(found["outline"], bool), bool(found["hidden"]))


@app.task(name="sight")
def find_sight(job_id: int, seen: dict[str, object]) -> None:
    """Look at a job as it stands now. Where the child is brought down, all that is in a picture is told as seen."""
    wanted = SeenFrom.model_validate(seen)
    with session() as s:
        _, now = plan_now(s, job_id)
        search = search_sight(s, now, wanted)
        if search.there() is not None:
            return
        known = load_parts(s, search)
    nodes, count = now.sorted.placements, len(now.model.parts)
    given = known, now.sorted.parts, now.fitted.placements()[nodes], now.sorted.opaque(), count
    try:
        with standing_crew() as crew:
            found: Sight = crew.run("sight", *given, views_of(now, wanted), wanted.width, seconds=lambda *_: _SECONDS)
    except ChildDied as error:
        if error.killed:
            return
        found = _everything(now, wanted, count)
    search.keep({
        "pixels": found.pixels.tolist(), "outline": found.outline.tolist(), "hidden": found.hidden,
    })  # fmt: skip


def _everything(now: Plan, seen: SeenFrom, count: int) -> Sight:
    """As if nothing hid anything: what a metre is wide at the nearest of any part's box."""
    world = now.fitted.placements()[now.sorted.placements]
    boxes = np.array([part.box for part in now.model.parts], float).reshape(-1, 2, 3)
    middles = boxes.mean(axis=1)[now.sorted.parts]
    placed = np.einsum("pij,pj->pi", world[:, :3, :3], middles) + world[:, :3, 3]
    radii = np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1)[now.sorted.parts] / 2
    radii = radii * np.linalg.norm(world[:, :3, :3], axis=1).max(axis=1)
    pixels = np.zeros(count)
    for view in views_of(now, seen):
        picture = Picture(view.eye, view.way, view.tall, view.wide, view.reach)
        np.maximum.at(pixels, now.sorted.parts, pixels_per_metre(picture, seen.width, placed, radii))
    return Sight(pixels, np.ones(count, bool), False)
