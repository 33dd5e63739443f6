"""How large the whole model is, exactly, without meshing it."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.gp import gp_Trsf
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape

Array = NDArray[np.float64]


def exact_box(shape: TopoDS_Shape) -> Array | None:
    """Lowest and highest corner of the shape itself, (2, 3), or None when it is empty.

    The quick form of the kernel's box takes the control points of splines
    and adds tolerances; this one asks for the surface.
    """
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    if box.IsVoid():
        return None
    box.SetGap(0.0)
    low, high = box.CornerMin(), box.CornerMax()
    corners = np.array([[low.X(), low.Y(), low.Z()], [high.X(), high.Y(), high.Z()]])
    return corners if np.isfinite(corners).all() and np.abs(corners).max() < 1e99 else None


def overall_box(
    boxes: Sequence[Array], parts: NDArray[np.int64], world: Array, shapes: Sequence[TopoDS_Shape]
) -> Array:
    """The box of all placements, (2, 3), in the model's axes.

    boxes: each part's own box; parts: (n,) part index of each placement;
    world: (n, 4, 4). The turned corners of a part's box bound the placement
    from outside; where the placement is square to the axes they are exact.
    The others are asked of the kernel in the order of how far they could
    reach, until none could reach further than what is known: a handful of
    questions for thousands of placements.
    """
    corners = np.stack([_corners(box) for box in boxes])
    placed = corners[parts] @ world[:, :3, :3].transpose(0, 2, 1) + world[:, None, :3, 3]
    low, high = placed.min(axis=1), placed.max(axis=1)
    square = (np.abs(world[:, :3, :3]) > 1e-12).sum(axis=(1, 2)) == 3
    if square.any():
        best = np.array([low[square].min(axis=0), high[square].max(axis=0)])
    else:
        best = np.array([[np.inf] * 3, [-np.inf] * 3])
    asked: set[int] = set()
    for axis in range(3):
        for side, reach, order in ((0, low, 1), (1, high, -1)):
            for i in np.argsort(order * reach[:, axis], kind="stable"):
                gain = order * (best[side, axis] - reach[i, axis])
                if gain <= 1e-9:
                    break
                if square[i] or int(i) in asked:
                    continue
                asked.add(int(i))
                found = _placed_box(shapes[parts[i]], world[i])
                found = np.array([low[i], high[i]]) if found is None else found
                best = np.array([np.minimum(best[0], found[0]), np.maximum(best[1], found[1])])
    return best


def _corners(box: Array) -> Array:
    grid = np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T
    return np.stack([box[grid[:, axis], axis] for axis in range(3)], axis=1)


def _placed_box(shape: TopoDS_Shape, matrix: Array) -> Array | None:
    """Exact box of a rigidly placed shape; turned by the kernel, moved here to keep precision."""
    if np.linalg.det(matrix[:3, :3]) < 0:
        return None
    move = gp_Trsf()
    turn = matrix[:3, :3]
    move.SetValues(*turn[0], 0.0, *turn[1], 0.0, *turn[2], 0.0)
    box = exact_box(shape.Moved(TopLoc_Location(move)))
    return None if box is None else box + matrix[:3, 3]
