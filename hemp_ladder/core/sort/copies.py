"""Copies in all but record: parts of the same shape up to a move, a turn or a mirror, found by their triangles."""

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import lengths, means

Array = NDArray[np.float64]
#: Where a shape is so alike all round that as many turns were tried, it counts as no copy.
_TRIES = 400
#: Vertices that a turn is tried on before all of them.
_SAMPLE = 32


@dataclass(frozen=True, eq=False)
class Copy:
    """A part that is another's copy: both by index, and the matrix (4, 4) that puts the other's triangles where its are."""

    part: int
    of: int
    matrix: Array

    @property
    def mirrored(self) -> bool:
        return float(np.linalg.det(self.matrix[:3, :3])) < 0


def copies(meshes: Mapping[int, Mesh], tolerance: float, keys: Mapping[int, object] | None = None) -> list[Copy]:
    """Which of some meshes, by part, are copies of an earlier one: every vertex and every triangle's middle within a
    tolerance, in their coordinates. Those of different `keys` are none of each other's.

    Candidates agree in counts, area and spread. A motion is fixed by three vertices, those of the rarest distances from the
    middle, and tried on all that could be theirs: hypothesise and verify, as M. Fischler and R. Bolles (1981).
    """
    kinds: dict[object, list[int]] = defaultdict(list)
    shapes = {part: _Shape.of(mesh) for part, mesh in meshes.items() if len(mesh.triangles)}
    for part, shape in shapes.items():
        kinds[len(shape.points), len(shape.middles), (keys or {}).get(part)].append(part)
    found: list[Copy] = []
    for parts in kinds.values():
        leaders: list[int] = []
        reaches = np.array([shapes[part].reach for part in parts])
        led = np.zeros(0, np.int64)
        for at, part in enumerate(parts):
            shape = shapes[part]
            near = np.abs(reaches[led] - reaches[at]) <= 2 * tolerance
            for leader in (leaders[k] for k in np.flatnonzero(near).tolist()):
                matrix = shapes[leader].motion_to(shape, tolerance) if shapes[leader].like(shape, tolerance) else None
                if matrix is not None:
                    found.append(Copy(part, leader, matrix))
                    break
            else:
                leaders.append(part)
                led = np.append(led, at)
    return found


@dataclass(frozen=True, eq=False)
class _Shape:
    """points (n, 3), each place once; middles (m, 3) of triangles; radii (n,) from the middle of the points, rising in
    `order`; area."""

    points: Array
    middles: Array
    centre: Array
    radii: Array
    area: float

    @staticmethod
    def of(mesh: Mesh) -> "_Shape":
        _, first = np.unique(mesh.same, return_index=True)
        points = mesh.positions[first]
        centre = points.mean(axis=0)
        return _Shape(points, means(mesh.corners), centre, lengths(points - centre), mesh.area())

    def like(self, other: "_Shape", tolerance: float) -> bool:
        """Whether nothing speaks against one being the other's copy before any motion is tried."""
        slack = 2 * tolerance
        reach = self.reach
        if abs(reach - other.reach) > slack:
            return False
        # A vertex that moves by the tolerance changes the area by no more than that times all edges; half is plenty.
        if abs(self.area - other.area) > slack * max(reach, tolerance) * len(self.middles) ** 0.5 + 1e-6 * self.area:
            return False
        return bool(np.abs(self.sorted_radii - other.sorted_radii).max(initial=0.0) <= slack)

    @cached_property
    def reach(self) -> float:
        return float(self.radii.max(initial=0.0))

    @cached_property
    def sorted_radii(self) -> Array:
        return np.sort(self.radii)

    @cached_property
    def trees(self) -> tuple[Any, Any]:
        from scipy.spatial import cKDTree

        return cKDTree(self.points), cKDTree(self.middles)

    @cached_property
    def frame(self) -> tuple[int, int, int]:
        """Three vertices that fix a motion: the first of the rarest distance from the middle, the others far from the line
        so far; -1 where all lie on one line."""
        steps = np.round(self.radii / max(float(self.radii.max(initial=0.0)) * 1e-3, 1e-300)).astype(np.int64)
        rare = np.unique(steps, return_inverse=True, return_counts=True)
        often = rare[2][rare[1]]
        far = self.radii > 0.2 * self.radii.max(initial=0.0)
        first = int(np.lexsort((-self.radii, np.where(far, often, len(often) + 1)))[0])
        one = self.points[first] - self.centre
        off = lengths(np.cross(np.broadcast_to(one, self.points.shape), self.points - self.centre))
        good = off > 0.3 * off.max(initial=0.0)
        second = int(np.lexsort((-off, np.where(good, often, len(often) + 1)))[0])
        plane = np.cross(one, self.points[second] - self.centre)
        high = np.abs((self.points - self.centre) @ plane)
        third = int(high.argmax())
        flat = float(high.max(initial=0.0)) <= 1e-9 * max(float(np.linalg.norm(plane)), 1e-300) * float(
            self.radii.max()
        )
        if off[second] <= 0:
            return first, -1, -1
        return first, second, -1 if flat else third

    def motion_to(self, other: "_Shape", tolerance: float) -> Array | None:
        """The matrix that puts this one's triangles onto another's, turns before mirrors; None where there is none."""
        first, second, third = self.frame
        if second < 0:
            return None
        mirror: Array | None = None
        for tried, (a, b, c) in enumerate(self._candidates(other, first, second, third, tolerance)):
            if tried >= _TRIES:
                break
            chosen = [first, second, *([third] if third >= 0 else [])]
            theirs = [a, b, *([c] if c >= 0 else [])]
            for turned in self._motions(chosen, other, theirs):
                if not self._fits(other, turned, tolerance):
                    continue
                if np.linalg.det(turned[:3, :3]) > 0:
                    return turned
                mirror = turned if mirror is None else mirror
        return mirror

    def _candidates(
        self, other: "_Shape", first: int, second: int, third: int, tolerance: float
    ) -> Iterator[tuple[int, int, int]]:
        """Vertices that could be the three of the frame, those whose distances agree best first."""
        slack = 2 * tolerance
        here, there = self.points, other.points
        off = [np.abs(other.radii - self.radii[k]) for k in (first, second, max(third, 0))]
        apart = [float(np.linalg.norm(here[second] - here[first]))]
        if third >= 0:
            apart += [float(np.linalg.norm(here[third] - here[k])) for k in (first, second)]
        for a in _least(off[0], slack):
            from_a = lengths(there - there[a])
            for b in _least(np.maximum(off[1], np.abs(from_a - apart[0]) / 2), slack):
                if third < 0:
                    yield a, b, -1
                    continue
                from_b = lengths(there - there[b])
                error = np.maximum(np.abs(from_a - apart[1]), np.abs(from_b - apart[2])) / 2
                for c in _least(np.maximum(off[2], error), slack):
                    yield a, b, c

    def _motions(self, chosen: Sequence[int], other: "_Shape", theirs: Sequence[int]) -> Iterator[Array]:
        """The motions that take the middle and some vertices to another's: one where three of them do not lie in a plane
        with the middle; else a turn and a mirror."""
        here = np.array(self.points[list(chosen)] - self.centre)
        there = np.array(other.points[list(theirs)] - other.centre)
        u, values, v = np.linalg.svd(here.T @ there)
        whole = values[2] > 1e-9 * max(values[0], 1e-300)
        for sign in (1.0,) if whole else (1.0, -1.0):
            turn = (u @ np.diag([1, 1, sign]) @ v).T
            matrix = np.eye(4)
            matrix[:3, :3] = turn
            matrix[:3, 3] = other.centre - turn @ self.centre
            yield matrix

    def _fits(self, other: "_Shape", matrix: Array, tolerance: float) -> bool:
        """Whether another's vertices and middles lie where this one's are, brought back by the motion: so this one's trees
        serve for all of its copies."""
        points, middles = self.trees
        turn, shift = matrix[:3, :3], matrix[:3, 3]
        some = other.points[:: max(1, len(other.points) // _SAMPLE)]
        for tree, spots in ((points, some), (points, other.points), (middles, other.middles)):
            far, at = tree.query((spots - shift) @ turn, distance_upper_bound=2 * tolerance)
            if not (far <= tolerance).all():
                return False
            if spots is other.points and len(np.unique(at)) < len(spots):
                return False
        return True


def _least(errors: Array, most: float) -> list[int]:
    """Where errors are no larger than so much, the least first."""
    some = np.flatnonzero(errors <= most)
    return some[np.argsort(errors[some], kind="stable")].tolist()  # type: ignore[no-any-return]
