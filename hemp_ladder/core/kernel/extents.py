"""How large parts and the whole model are, without meshing them."""

from collections.abc import Callable, Sequence
from heapq import heapify, heappop, heappush

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
    placement from outside; the quick box of the turned shape does so closer.
    What could reach farthest is looked at closer, first so, then exactly,
    until nothing could reach further than what is known: a handful of
    questions for thousands of placements. After `_MOST_EXACT` of them a
    thousandth of the whole is near enough, after `_MOST_ASKED` the bounds
    stand, a little larger than the model.
    """
    ask = _Asker(boxes, parts, world, shapes)
    near = 1e-3 * float(np.max(ask.bounds[:, 1].max(axis=0) - ask.bounds[:, 0].min(axis=0)))
    best = np.array([[np.inf] * 3, [-np.inf] * 3])
    for axis in range(3):
        for side, order in ((0, 1), (1, -1)):
            reaching = [(order * reach, i, False) for i, reach in enumerate(ask.bounds[:, side, axis].tolist())]
            heapify(reaching)
            while reaching:
                reach, i, closer = heappop(reaching)
                if order * best[side, axis] - reach <= (1e-9 if ask.asked < _MOST_EXACT else near):
                    break
                if not closer:
                    heappush(reaching, (order * float(ask.closer(i)[side, axis]), i, True))
                    continue
                found = ask.exact(i)
                best = np.array([np.minimum(best[0], found[0]), np.maximum(best[1], found[1])])
    return best


#: So many exact boxes of a model are asked for, each a twentieth of a second's work for a casting.
_MOST_EXACT, _MOST_ASKED = 12, 40


class _Asker:
    """Boxes of placements, each asked of the kernel once; of those square to the axes once for all of a part.

    bounds  (n, 2, 3) what holds each, from the box of its part
    """

    def __init__(
        self, boxes: Sequence[Array], parts: NDArray[np.int64], world: Array, shapes: Sequence[TopoDS_Shape]
    ) -> None:
        self._parts, self._world, self._shapes = parts, world, shapes
        self.bounds = _turned(np.stack([_corners(box) for box in boxes])[parts], world)
        self._square = (np.abs(world[:, :3, :3]) > 1e-12).sum(axis=(1, 2)) == 3
        self._closer: dict[int, Array] = {}
        self._exact: dict[tuple[int, int], Array | None] = {}

    @property
    def asked(self) -> int:
        return len(self._exact)

    def closer(self, i: int) -> Array:
        """What holds it, (2, 3), by the quick box of the shape as it stands."""
        if i not in self._closer:
            found = None if self._square[i] else _placed_box(self._shapes[self._parts[i]], self._world[i], quick_box)
            bound = self.bounds[i]
            if found is not None:
                bound = np.array([np.maximum(bound[0], found[0]), np.minimum(bound[1], found[1])])
            self._closer[i] = bound
        return self._closer[i]

    def exact(self, i: int) -> Array:
        """Its own box, (2, 3); what holds it, where that cannot be told or enough was asked."""
        part, square = int(self._parts[i]), bool(self._square[i])
        case = (part, -1 if square else i)
        if case not in self._exact:
            if len(self._exact) >= _MOST_ASKED:
                return self.closer(i)
            shape = self._shapes[part]
            self._exact[case] = exact_box(shape) if square else _placed_box(shape, self._world[i], exact_box)
        found = self._exact[case]
        if found is None:
            return self.closer(i)
        return np.asarray(_turned(_corners(found)[None], self._world[i : i + 1])[0]) if square else found


def _turned(corners: Array, world: Array) -> Array:
    """Boxes (n, 2, 3) that hold corners (n, 8, 3) as they stand by (n, 4, 4)."""
    placed = corners @ world[:, :3, :3].transpose(0, 2, 1) + world[:, None, :3, 3]
    return np.stack([placed.min(axis=1), placed.max(axis=1)], axis=1)


def _corners(box: Array) -> Array:
    grid = np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T
    return np.stack([box[grid[:, axis], axis] for axis in range(3)], axis=1)


def _placed_box(shape: TopoDS_Shape, matrix: Array, box_of: Callable[[TopoDS_Shape], Array | None]) -> Array | None:
    """The box of a rigidly placed shape; turned by the kernel, moved here to keep precision."""
    if np.linalg.det(matrix[:3, :3]) < 0:
        return None
    move = gp_Trsf()
    turn = matrix[:3, :3]
    move.SetValues(*turn[0], 0.0, *turn[1], 0.0, *turn[2], 0.0)
    box = box_of(shape.Moved(TopLoc_Location(move)))
    return None if box is None else box + matrix[:3, 3]
