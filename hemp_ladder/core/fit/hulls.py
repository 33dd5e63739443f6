"""The outermost points of each source, by which it stands on the ground whichever way it is turned."""

from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.fit.matrix import Fitted, corners_of
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.model import Matrix

#: By what decisions call a source, its outermost points (n, 3) in its own coordinates and axes.
Hulls = Mapping[str, Matrix]
#: Of fewer points all are kept; of more placed ones than this, only their boxes' corners are looked at.
_FEW, _MOST = 40, 4_000_000


def outermost(points: Matrix) -> Matrix:
    """Of points (n, 3), those on their convex hull; all of them where they are few or lie in a plane."""
    if len(points) <= _FEW:
        return points
    from scipy.spatial import ConvexHull, QhullError

    try:
        return np.asarray(points[ConvexHull(points - points.mean(axis=0)).vertices])
    except QhullError:
        return _flat(points)


def _flat(points: Matrix) -> Matrix:
    """Of points in a plane or on a line: the hull within it."""
    from scipy.spatial import ConvexHull, QhullError

    middle = points - points.mean(axis=0)
    along = np.linalg.svd(middle, full_matrices=False)[2]
    try:
        return np.asarray(points[ConvexHull(middle @ along[:2].T).vertices])
    except QhullError:
        spread = middle @ along[0]
        return points[[int(spread.argmin()), int(spread.argmax())]]


def hulls_of(
    fitted: Fitted, placements: NDArray[np.int32], mesh_of: Callable[[int], Mesh | None] = lambda part: None
) -> Hulls:
    """Of what stands at the placements (indices of nodes). Where a part has no mesh yet, its box stands for it."""
    model = fitted.model
    part_of = np.array([node.part for node in model.nodes], dtype=np.int64)[placements]
    owner = model.member_of_node[placements]
    gathered: dict[str, list[Matrix]] = {}
    order = np.lexsort((part_of, owner))
    case = np.column_stack([owner, part_of])[order]
    starts = np.flatnonzero(np.r_[True, (case[1:] != case[:-1]).any(axis=1)]) if len(case) else np.zeros(0, np.int64)
    count = 0
    for rows in np.split(order, starts[1:]) if len(case) else ():
        part, member = int(part_of[rows[0]]), int(owner[rows[0]])
        mesh = mesh_of(part)
        known = mesh is not None and len(mesh.triangles) > 0
        points = (
            outermost(mesh.positions[np.unique(mesh.triangles)]) if mesh is not None and known
            else corners_of(model.parts[part].box)
        )  # fmt: skip
        if count + len(points) * len(rows) > _MOST:
            points = corners_of(np.array([points.min(axis=0), points.max(axis=0)]))
        count += len(points) * len(rows)
        places = model.standing[placements[rows]]
        placed = np.einsum("nij,kj->nki", places[:, :3, :3], points) + places[:, None, :3, 3]
        gathered.setdefault(model.members[member].ref, []).append(placed.reshape(-1, 3))
    return {ref: outermost(np.concatenate(points)) for ref, points in gathered.items()}
