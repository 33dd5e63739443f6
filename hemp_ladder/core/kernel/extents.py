"""How large parts and the whole model are, without meshing them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.gp import gp_Trsf
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape

Array = NDArray[np.float64]


def quick_box(shape: TopoDS_Shape) -> Array | None:
    """Lowest and highest corner that hold the shape, (2, 3), or None when it is empty; in a ten-thousandth of a second.

    Exact where faces and edges are plain; of splines it holds the control
    points, which lie up to a quarter of the size outside.
    """
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box, False)
    return _corners_of(box)


def exact_box(shape: TopoDS_Shape) -> Array | None:
    """Lowest and highest corner of the shape itself, (2, 3), or None when it is empty. Takes 30 ms for a casting."""
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    return _corners_of(box)


def _corners_of(box: Bnd_Box) -> Array | None:
    if box.IsVoid():
        return None
    # Without what is added for tolerances.
    box.SetGap(0.0)
    low, high = box.CornerMin(), box.CornerMax()
    corners = np.array([[low.X(), low.Y(), low.Z()], [high.X(), high.Y(), high.Z()]])
    return corners if np.isfinite(corners).all() and np.abs(corners).max() < 1e99 else None


def overall_box(
    boxes: Sequence[Array], parts: NDArray[np.int64], world: Array, shapes: Sequence[TopoDS_Shape]
) -> Array:
    """The box of all placements, (2, 3), in the model's axes.

    boxes: a box that holds each part; parts: (n,) part index of each
    placement; world: (n, 4, 4). The turned corners of a part's box bound the
    placement from outside. The kernel is asked for exact boxes in the order
    of how far placements could reach, until none could reach further than
    what is known: a handful of questions for thousands of placements. After
    `_MOST_EXACT` of them a thousandth of the whole is near enough, after
    `_MOST_ASKED` the bounds stand, a little larger than the model.
    """
    ask = _Asker(boxes, parts, world, shapes)
    near = 1e-3 * float(np.max(ask.high.max(axis=0) - ask.low.min(axis=0)))
    best = np.array([[np.inf] * 3, [-np.inf] * 3])
    for axis in range(3):
        for side, reach, order in ((0, ask.low, 1), (1, ask.high, -1)):
            for i in np.argsort(order * reach[:, axis], kind="stable"):
                gain = order * (best[side, axis] - reach[i, axis])
                if gain <= (1e-9 if ask.asked < _MOST_EXACT else near):
                    break
                found = ask(int(i))
                best = np.array([np.minimum(best[0], found[0]), np.maximum(best[1], found[1])])
    return best


#: So many exact boxes of a model are asked for, each a twentieth of a second's work for a casting.
_MOST_EXACT, _MOST_ASKED = 12, 40


class _Asker:
    """Exact boxes of placements, each asked for once; of those square to the axes one for all of a part."""

    def __init__(
        self, boxes: Sequence[Array], parts: NDArray[np.int64], world: Array, shapes: Sequence[TopoDS_Shape]
    ) -> None:
        self._parts, self._world, self._shapes = parts, world, shapes
        self.low, self.high = self._bounds(np.stack([_corners(box) for box in boxes])[parts], world)
        self._square = (np.abs(world[:, :3, :3]) > 1e-12).sum(axis=(1, 2)) == 3
        self._known: dict[tuple[int, int], Array | None] = {}

    @property
    def asked(self) -> int:
        return len(self._known)

    def __call__(self, i: int) -> Array:
        part, square = int(self._parts[i]), bool(self._square[i])
        case = (part, -1 if square else i)
        if case not in self._known:
            if len(self._known) >= _MOST_ASKED:
                return np.array([self.low[i], self.high[i]])
            shape = self._shapes[part]
            self._known[case] = exact_box(shape) if square else _placed_box(shape, self._world[i])
        found = self._known[case]
        if found is None:
            return np.array([self.low[i], self.high[i]])
        if not square:
            return found
        low, high = self._bounds(_corners(found)[None], self._world[i : i + 1])
        return np.array([low[0], high[0]])

    @staticmethod
    def _bounds(corners: Array, world: Array) -> tuple[Array, Array]:
        placed = corners @ world[:, :3, :3].transpose(0, 2, 1) + world[:, None, :3, 3]
        return placed.min(axis=1), placed.max(axis=1)


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
