"""`Mesh`: triangles as numpy arrays, and what can be asked of them."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

#: Finding the convex hull of points takes about as long as placing them this often.
_MANY = 40


@dataclass(frozen=True)
class Mesh:
    """The triangles of one part, in the part's own source coordinates.

    positions  (n, 3) float64
    normals    (n, 3) float32, unit length, from the true surface where there is one
    triangles  (m, 3) int32, wound so that the outside sees them counter-clockwise
    faces      (f + 1,) int64, first triangle of each face of the exact shape, and m
    off_by     largest distance measured between a triangle and the true surface
    failed     numbers of the faces that gave no triangles though they should
    thin       of a drawn part: where a wall is thinner than the nozzle, (x, y, width) each
    """

    positions: NDArray[np.float64]
    normals: NDArray[np.float32]
    triangles: NDArray[np.int32]
    faces: NDArray[np.int64]
    off_by: float = 0.0
    failed: tuple[int, ...] = ()
    healed: bool = field(default=False, compare=False)
    thin: tuple[tuple[float, float, float], ...] = ()

    @cached_property
    def corners(self) -> NDArray[np.float64]:
        """The three corners of every triangle, (m, 3, 3)."""
        return self.positions[self.triangles]

    def volume(self) -> float:
        """Signed volume by the divergence theorem; positive when the outside is outside."""
        if not len(self.triangles):
            return 0.0
        corners = self.corners - self.positions.mean(axis=0)
        across = cross(corners[:, 1], corners[:, 2])
        return float(np.einsum("ij,ij->", corners[:, 0], across) / 6)

    def area(self) -> float:
        """Total area of the triangles."""
        corners = self.corners
        across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        return float(np.linalg.norm(across, axis=1).sum() / 2)

    @cached_property
    def welded(self) -> NDArray[np.int64]:
        """For each vertex, the number of its position: (n,) int64."""
        return weld_indices(self.positions, weld_tolerance(self.positions))

    @cached_property
    def open_edges(self) -> int:
        """Edges that are not run along as often one way as the other."""
        # What is closed by points that are the same stays so when near ones are taken together, and most meshes are.
        if not count_open_edges(self.numbered()[self.triangles]):
            return 0
        return count_open_edges(self.welded[self.triangles])

    def numbered(self) -> NDArray[np.int64]:
        """For each vertex the number of its position, only the same ones taken together; `welded` where it is known."""
        known: NDArray[np.int64] | None = self.__dict__.get("welded")
        return folded(self.positions)[0] if known is None else known

    def knowing(self, welded: NDArray[np.int64]) -> "Mesh":
        """The same, told by its maker, who need not look for them, which vertices share a position."""
        self.__dict__["welded"] = welded
        return self

    @property
    def watertight(self) -> bool:
        """Closed and consistently wound: every edge is run along once each way."""
        return bool(len(self.triangles)) and self.open_edges == 0

    @cached_property
    def inside_out(self) -> bool:
        """Closed, and wound so that the inside is outside."""
        return self.watertight and self.volume() < 0

    @property
    def count(self) -> int:
        """Of triangles."""
        return len(self.triangles)

    @property
    def failed_count(self) -> int:
        """Of faces that gave no triangles though they should."""
        return len(self.failed)

    def flipped(self) -> "Mesh":
        """The same surface facing the other way."""
        return Mesh(
            self.positions, -self.normals, np.ascontiguousarray(self.triangles[:, ::-1]),
            self.faces, self.off_by, self.failed, self.healed, self.thin,
        )  # fmt: skip


def cross(first: NDArray[np.floating], second: NDArray[np.floating]) -> NDArray[np.float64]:
    """Cross products of vectors (n, 3), either of which may be one vector (3,); several times quicker than numpy's."""
    ax, ay, az = first[..., 0], first[..., 1], first[..., 2]
    bx, by, bz = second[..., 0], second[..., 1], second[..., 2]
    return np.stack([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx], axis=-1)


def count_open_edges(triangles: NDArray[np.integer]) -> int:
    """Edges of triangles (m, 3) of position numbers that are not run along as often each way.

    Closed parts that touch along an edge keep it even, where the stricter
    "exactly two triangles an edge" would call both open.
    """
    a, b, c = triangles.T
    kept = triangles[(a != b) & (b != c) & (c != a)].astype(np.int64)
    if not len(kept):
        return 0
    start, end = kept.reshape(-1), kept[:, [1, 2, 0]].reshape(-1)
    step = int(kept.max()) + 1
    up, down = start < end, start > end
    there = np.sort(start[up] * step + end[up])
    back = np.sort(end[down] * step + start[down])
    if np.array_equal(there, back):
        return 0
    edges, inverse = np.unique(np.concatenate([there, back]), return_inverse=True)
    signs = np.repeat([1, -1], [len(there), len(back)])
    return int(np.count_nonzero(np.bincount(inverse, weights=signs, minlength=len(edges))))


def placed_box(
    positions: NDArray[np.float64], matrices: Sequence[NDArray[np.float64]] | NDArray[np.float64]
) -> NDArray[np.float64]:
    """Lowest and highest corner, (2, 3), of all positions (n, 3) at all places, each (4, 4)."""
    if len(matrices) > _MANY:
        positions = _extreme_points(positions)
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for matrix in matrices:
        placed = positions @ matrix[:3, :3].T + matrix[:3, 3]
        low, high = np.minimum(low, placed.min(axis=0)), np.maximum(high, placed.max(axis=0))
    return np.array([low, high])


def _extreme_points(positions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Few points with the same convex hull, so that placing them gives the box of placing all."""
    from scipy.spatial import ConvexHull, QhullError

    try:
        return np.asarray(positions[ConvexHull(positions).vertices])
    except (QhullError, ValueError):
        return positions


def weld_tolerance(positions: NDArray[np.float64]) -> float:
    """A millionth of the box: above the rounding of curve points, below any detail a mesh shows."""
    if not len(positions):
        return 0.0
    return float(np.ptp(positions, axis=0).max()) * 1e-6 or 1e-12


def weld_indices(positions: NDArray[np.float64], tolerance: float) -> NDArray[np.int64]:
    """Number positions so that those nearer than `tolerance` share a number.

    Identical positions fold first (a sort), so that the KD-tree sees each
    place once; pairs within the tolerance are then joined as connected
    components, which cannot miss a pair at a cell border as rounding does.
    """
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    inverse, places = folded(positions)
    if not len(places):
        return inverse
    pairs = cKDTree(places).query_pairs(tolerance, output_type="ndarray")
    if not len(pairs):
        return inverse
    ones = np.ones(len(pairs), dtype=bool)
    graph = coo_array((ones, (pairs[:, 0], pairs[:, 1])), shape=(len(places), len(places)))
    _, label = connected_components(graph, directed=False)
    return np.asarray(label[inverse], dtype=np.int64)


def folded(positions: NDArray[np.float64]) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """For each position (n, k) the number of its place, and the places: the same position is the same place."""
    if not len(positions):
        return np.zeros(0, dtype=np.int64), positions
    order = np.lexsort(positions.T)
    ranked = positions[order]
    fresh = np.concatenate([[True], (ranked[1:] != ranked[:-1]).any(axis=1)])
    numbers = np.empty(len(positions), dtype=np.int64)
    numbers[order] = np.cumsum(fresh) - 1
    return numbers, ranked[fresh]
