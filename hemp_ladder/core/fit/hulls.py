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
    shapes: dict[int, Matrix] = {}
    gathered: dict[str, list[Matrix]] = {}
    count = 0
    for node in placements.tolist():
        part = model.nodes[node].part
        if part not in shapes:
            mesh = mesh_of(part)
            known = mesh is not None and len(mesh.triangles) > 0
            shapes[part] = (
                outermost(mesh.positions[np.unique(mesh.triangles)]) if mesh is not None and known
                else corners_of(model.parts[part].box)
            )  # fmt: skip
        points, place = shapes[part], model.standing[node]
        if count > _MOST:
            points = corners_of(np.array([points.min(axis=0), points.max(axis=0)]))
        count += len(points)
        ref = model.members[int(model.member_of_node[node])].ref
        gathered.setdefault(ref, []).append(points @ place[:3, :3].T + place[:3, 3])
    return {ref: outermost(np.concatenate(points)) for ref, points in gathered.items()}
