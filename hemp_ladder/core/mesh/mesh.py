"""`Mesh`: triangles as numpy arrays, what hangs on them, and what was measured of them."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.triangles import count_open_edges, cross, folded, weld_indices, weld_tolerance

Point = tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Runs:
    """Which triangles belong to which face, shell or material: triangles that belong together stand in runs.

    first  (r + 1,) int64, first triangle of each run, and the number of all triangles
    of     (r,) int32, the number of the face each run belongs to
    count  how many numbers there are, those without a triangle too
    """

    first: NDArray[np.int64]
    of: NDArray[np.int32]
    count: int

    @staticmethod
    def each(starts: NDArray[np.integer]) -> "Runs":
        """One run for each number, empty ones too, in their order: (f + 1,) first triangles, and how many there are."""
        return Runs(np.asarray(starts, np.int64), np.arange(len(starts) - 1, dtype=np.int32), len(starts) - 1)

    @staticmethod
    def labelled(labels: NDArray[np.integer], count: int) -> "Runs":
        """From the number of every triangle, (m,), in whatever order they stand."""
        changes = np.flatnonzero(labels[1:] != labels[:-1]) + 1 if len(labels) else np.zeros(0, np.int64)
        starts = np.concatenate([[0], changes]).astype(np.int64) if len(labels) else np.zeros(0, np.int64)
        return Runs(np.append(starts, len(labels)), labels[starts].astype(np.int32), count)

    @cached_property
    def labels(self) -> NDArray[np.int32]:
        """The number of every triangle, (m,)."""
        return np.repeat(self.of, np.diff(self.first))


@dataclass(frozen=True, eq=False)
class Mesh:
    """The triangles of one part, in the part's own source coordinates.

    positions   (n, 3) float64
    triangles   (m, 3) int32, wound so that the outside sees them counter-clockwise
    attributes  by name, float32, a row for each vertex: `normal` (n, 3) of unit length; `uv`, `uv1` ... (n, 2) from
                the lower left; `colour` (n, 4) in linear light
    runs        by name, which triangles are whose: `face` of the exact shape always; `shell` and `material` where known
    figures     what was measured
    origin      what leaves a step is rounded to 32 bit numbers around this point, and stays so
    places      for each vertex the number of its position, (n,) int64, where the maker knows it; some may not occur
    """

    positions: NDArray[np.float64]
    triangles: NDArray[np.int32]
    attributes: Mapping[str, NDArray[np.float32]]
    runs: Mapping[str, Runs]
    figures: Figures = field(default=Figures())
    origin: Point = (0.0, 0.0, 0.0)
    places: NDArray[np.int64] | None = None

    @staticmethod
    def of(
        positions: NDArray[np.float64],
        normals: NDArray[np.float32],
        triangles: NDArray[np.int32],
        faces: NDArray[np.integer],
        figures: Figures = Figures(),  # noqa: B008  (frozen)
        places: NDArray[np.int64] | None = None,
    ) -> "Mesh":
        """A mesh with normals whose triangles stand face by face: `faces` (f + 1,) is the first of each, and m."""
        return Mesh(positions, triangles, {"normal": normals}, {"face": Runs.each(faces)}, figures, places=places)

    @staticmethod
    def nothing(faces: int, figures: Figures = Figures()) -> "Mesh":  # noqa: B008
        """Without a triangle, of so many faces."""
        starts = np.zeros(faces + 1, dtype=np.int64)
        return Mesh.of(np.zeros((0, 3)), np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32), starts, figures)

    @property
    def normals(self) -> NDArray[np.float32]:
        return self.attributes["normal"]

    @property
    def faces(self) -> Runs:
        return self.runs["face"]

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
        """For each vertex, the number of its position, near ones taken together: (n,) int64."""
        return weld_indices(self.positions, weld_tolerance(self.positions))

    @cached_property
    def same(self) -> NDArray[np.int64]:
        """For each vertex the number of its position, only the very same taken together: (n,) int64."""
        return folded(self.positions)[0] if self.places is None else self.places

    @cached_property
    def open_edges(self) -> int:
        """Edges that are not run along as often one way as the other; as measured, where that was done."""
        if self.figures.open_edges is not None:
            return self.figures.open_edges
        # What is closed by points that are the same stays so when near ones are taken together, and most meshes are.
        if not count_open_edges(self.same[self.triangles]):
            return 0
        return count_open_edges(self.welded[self.triangles])

    @property
    def watertight(self) -> bool:
        """Closed and consistently wound: every edge is run along once each way."""
        return bool(len(self.triangles)) and self.open_edges == 0

    @property
    def inside_out(self) -> bool:
        """Closed, and wound so that the inside is outside."""
        if self.figures.open_edges is not None:
            return self.figures.inside_out
        return self.watertight and self.volume() < 0

    def flipped(self) -> "Mesh":
        """The same surface facing the other way."""
        return replace(
            self,
            triangles=np.ascontiguousarray(self.triangles[:, ::-1]),
            attributes={**self.attributes, "normal": -self.normals},
            figures=replace(self.figures, inside_out=self.figures.watertight and not self.figures.inside_out),
        )

    def settled(self) -> "Mesh":
        """As it is stored: positions as 32 bit numbers around the middle of their box, attributes as 32 bit numbers.

        What a step made is the same whether it comes from the store or fresh; settling again changes nothing.
        """
        origin = np.array(self.origin)
        settled = around(self.positions, origin).astype(np.float64) + origin
        if not np.array_equal(settled, self.positions):
            low, high = self.positions.min(axis=0), self.positions.max(axis=0)
            origin = (low + high) / 2
            # Where the origin is the coordinate's own, as for most parts around theirs, nothing is added and lost.
            origin[np.abs(origin) < 1e-3 * (high - low).max()] = 0.0
            settled = around(self.positions, origin).astype(np.float64) + origin
        x, y, z = origin.tolist()
        attributes = {name: np.asarray(values, np.float32) for name, values in self.attributes.items()}
        attributes["normal"] = unit_normals(attributes["normal"])
        return replace(self, positions=settled, attributes=attributes, origin=(x, y, z))


def around(positions: NDArray[np.float64], origin: NDArray[np.float64] | Point) -> NDArray[np.float32]:
    """Positions (n, 3) as 32 bit numbers around a point."""
    return np.asarray(positions - np.asarray(origin), dtype="<f4")


def unit_normals(normals: NDArray[np.float32]) -> NDArray[np.float32]:
    """Normals (n, 3) of length one; +Z where there is none, since no format knows what to do with zero.

    Those that have length one within rounding stay as they are, so that doing it again changes nothing.
    """
    long = normals.astype(np.float64)
    length = np.sqrt(np.einsum("ij,ij->i", long, long))
    off = np.abs(length - 1) > 1e-6
    if not off.any():
        return np.asarray(normals, dtype="<f4")
    out = np.array(normals, dtype="<f4")
    out[off] = np.divide(
        long[off], length[off, None], out=np.zeros((int(off.sum()), 3)), where=length[off, None] > 1e-12
    )
    out[length <= 1e-12] = (0, 0, 1)
    return out
