"""The jobs that work at bodies and meshes, in children: a child that reads a file does without what these import, and one
that makes meshes without what the others here do."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from hemp_ladder.core.chain.came import read_meshed
from hemp_ladder.core.chain.making import Order, make
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.work.child_jobs import Report

if TYPE_CHECKING:
    from hemp_ladder.core.facet.sight import Sight
    from hemp_ladder.core.fit.lookouts import View
    from hemp_ladder.core.fit.marks import Marks


def follow(orders: list[Order], report: Report) -> list[dict[str, Mesh]]:
    """Follow chains; for each order the meshes worth storing, by key."""
    return make(orders)


def gauge(orders: list[Order], report: Report) -> list[dict[str, float]]:
    """Follow chains for what is measured of the meshes at their ends; those are not kept."""
    from hemp_ladder.core.facet.gauge import gauged

    return [gauged(found[order.chain.key].figures) for order, found in zip(orders, make(orders), strict=True)]


def marks(body: bytes | Mesh, report: Report) -> "Marks":
    """What can be picked on a part: on its exact shape, on triangles as they came, or on a mesh."""
    from hemp_ladder.core.fit.marks.exact import exact_marks
    from hemp_ladder.core.fit.marks.meshed import mesh_marks

    if isinstance(body, Mesh):
        return mesh_marks(body)
    return mesh_marks(read_meshed(body)) if body.startswith(b"meshed/") else exact_marks(body)


def study(order: Order, what: str, report: Report) -> bytes:
    """What is to be shown of a part, as JSON: all of it, its weld curve, or how it looks at a count of triangles."""
    from hemp_ladder.core.mend.study import study as study_whole
    from hemp_ladder.core.mend.study import study_curve
    from hemp_ladder.core.trim.match import match_told

    if what.startswith("facets-"):
        return match_told(order, int(what.removeprefix("facets-")))
    key = order.chain.key
    mesh = order.start if order.done == len(order.chain.keys) else None
    mesh = mesh if mesh is not None else make([order])[0][key]
    return study_curve(mesh) if what == "curve" else study_whole(mesh)


def inside(meshes: dict[int, Mesh], parts: Any, places: Any, hides: Any, report: Report) -> tuple[Any, bool]:
    """Which placements stand wholly inside another, (p,), and whether all was looked through."""
    from hemp_ladder.core.sort.inside import hidden_inside

    found = hidden_inside(meshes, parts, places, hides)
    return found.mask, found.whole


def sight(
    meshes: dict[int, Mesh],
    parts: Any,
    places: Any,
    hides: Any,
    count: int,
    views: "list[View]",
    width: int,
    report: Report,
) -> "Sight":
    """What pictures show of parts."""
    from hemp_ladder.core.facet.looking import sight as see

    return see(meshes, parts, places, hides, count, views, width)


JOBS: dict[str, Callable[..., Any]] = {
    "make": follow,
    "gauge": gauge,
    "marks": marks,
    "study": study,
    "inside": inside,
    "sight": sight,
}
