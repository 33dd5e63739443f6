"""Flats of a mesh: triangles that hang together, lie in one plane, and carry everything alike."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.weld import row_codes
from hemp_ladder.core.mesh.edges import Edges, Mask, Numbers, components, following
from hemp_ladder.core.mesh.triangles import cross, dot, lengths, means, numbered
from hemp_ladder.core.trim.prepare import Prepared

#: Cosine of the angle by which neighbours of one flat may lean at the most, and normals differ from their plane's.
_LEAN, _SHADED = np.cos(np.radians(1.0)), np.cos(np.radians(1.0))
#: A flat is looked for this many times the tolerance about the plane of its largest triangle, which is little of it.
_NEAR = 8.0
#: A triangle lower than so many times the tolerance has a normal that is mostly rounding.
_SLIVER = 30.0
#: Attributes may differ by this from what one map of the plane gives, in their own units.
_MAPPED = 2e-5
#: Rounds of taking planes out of what is bent a little everywhere; what is left stays as it is.
_ROUNDS = 40


@dataclass(frozen=True, eq=False)
class Regions:
    """
    of         (m,) the region of each triangle
    count      how many there are
    triangles  (r,) how many triangles each has
    label      (r,) the label of its triangles
    normal     (r, 3) of its plane
    sliver     (m,) triangles that are too low to have a plane of their own
    """

    of: Numbers
    count: int
    triangles: Numbers
    label: Numbers
    normal: NDArray[np.float64]
    sliver: Mask


def flat_regions(ready: Prepared, tolerance: float) -> Regions:
    """Every triangle's flat; one that is in none is one by itself. A sliver, whose own normal is mostly rounding, belongs
    where its corners lie."""
    corners = ready.positions[ready.triangles]
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    double = lengths(across)
    longest = np.max([lengths(corners[:, k] - corners[:, k - 1]) for k in range(3)], axis=0)
    facets = _Facets(
        corners, np.divide(across, double[:, None], out=np.zeros_like(across), where=double[:, None] > 0), double,
        double < _SLIVER * tolerance * longest, _shades(ready),
    )  # fmt: skip
    edges = ready.edges
    sides = [np.concatenate(pair) for pair in zip(edges.pairs, _crowded(edges), strict=True)]
    one, two = (side // 3 for side in sides)
    shared = ready.labels[one] == ready.labels[two]
    shared &= (dot(facets.normal[one], facets.normal[two]) > _LEAN) | facets.sliver[one] | facets.sliver[two]
    shared &= _continues(ready, edges, *sides)
    of, planes = _planes(facets, one[shared], two[shared], tolerance)
    return _mapped(ready, of, planes, facets.sliver)


@dataclass(frozen=True, eq=False)
class _Facets:
    """Triangles: corners (m, 3, 3), normals (m, 3), twice their areas (m,), which are slivers (m,), and the normals that
    they are shaded with, (m, 3, 3), None in flat shading."""

    corners: NDArray[np.float64]
    normal: NDArray[np.float64]
    double: NDArray[np.float64]
    sliver: Mask
    shades: NDArray[np.float32] | None

    def lie_in(self, plane: NDArray[np.float64], at: NDArray[np.float64], tolerance: float) -> Mask:
        """Whether each lies in its plane, (m, 3) and a point of it, and looks and is shaded that way."""
        inside = dot(self.normal, plane) > _LEAN
        inside |= self.sliver
        for k in range(3):
            inside &= np.abs(dot(self.corners[:, k] - at, plane)) <= tolerance
            if self.shades is not None:
                inside &= self.sliver | (dot(self.shades[:, k].astype(np.float64), plane) > _SHADED)
        return np.asarray(inside)

    def mean(self, of: Numbers, count: int, some: Mask) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Of each of so many groups the mean plane of some of its triangles by area: normals (c, 3), points (c, 3)."""
        weight = np.where(some, self.double, 0.0)
        across = np.stack([np.bincount(of, weight * self.normal[:, k], count) for k in range(3)], axis=1).astype(float)
        long = lengths(across)
        middle = means(self.corners)
        mass = np.maximum(np.bincount(of, weight, count), 1e-300)
        at = np.stack([np.bincount(of, weight * middle[:, k], count) for k in range(3)], axis=1) / mass[:, None]
        return np.divide(across, long[:, None], out=np.zeros_like(across), where=long[:, None] > 0), at

    def of(self, some: Numbers) -> "_Facets":
        shades = self.shades[some] if self.shades is not None else None
        return _Facets(self.corners[some], self.normal[some], self.double[some], self.sliver[some], shades)


def _shades(ready: Prepared) -> NDArray[np.float32] | None:
    told = ready.attributes.get("normal")
    return told[ready.triangles] if told is not None else None


def _crowded(edges: Edges) -> tuple[Numbers, Numbers]:
    """Sides that lie one behind the other on edges of more than two: slivers of no height make such."""
    behind = np.ones(len(edges.sides), bool)
    behind[edges.first[:-1]] = False
    behind &= edges.uses[edges.of_side] > 2
    at = np.flatnonzero(behind)
    return edges.sides[at - 1], edges.sides[at]


def _continues(ready: Prepared, edges: Edges, one: Numbers, two: Numbers) -> Mask:
    """Across which pairs of sides both carry the same, shading apart."""
    carried = [row_codes(name, values) for name, values in sorted(ready.attributes.items()) if name != "normal"]
    if not carried:
        return np.ones(len(one), bool)
    code = numbered(carried)[0][ready.triangles.reshape(-1)]
    # One side may run as the other does, where more than two lie on an edge.
    same = edges.start(one) == edges.start(two)
    start, end = np.where(same, two, following(two)), np.where(same, following(two), two)
    return np.asarray((code[one] == code[start]) & (code[following(one)] == code[end]))


def _planes(facets: _Facets, one: Numbers, two: Numbers, tolerance: float) -> tuple[Numbers, NDArray[np.float64]]:
    """For every triangle its region, and for every region its normal.

    What hangs together is one flat if all of it lies in the mean plane of it. Else what lies near the plane of its largest
    triangle, and hangs together with that, is one if it lies in the mean plane of that, and the rest is looked at again:
    planes are fixed, so they do not creep around a bend.
    """
    total = len(facets.double)
    found = np.full(total, -1, np.int64)
    planes = np.zeros((total, 3))
    there, now, numbers = np.arange(total), facets, 0
    for _ in range(_ROUNDS):
        count, of = components(len(there), one, two)
        plane, at = now.mean(of, count, np.ones(len(of), bool))
        inside = now.lie_in(plane[of], at[of], tolerance)
        bent = np.bincount(of[~inside], minlength=count) > 0
        if bent.any():
            seed = _largest(np.where(now.sliver, now.double - now.double.max(), now.double), of, count)
            near = now.lie_in(now.normal[seed][of], now.corners[seed, 0][of], _NEAR * tolerance)
            near[seed] = True
            some = near[one] & near[two]
            piece = components(len(there), one[some], two[some])[1]
            near &= piece == piece[seed[of]]
            own, spot = now.mean(of, count, near)
            plane[bent], at[bent] = own[bent], spot[bent]
            lies = near & now.lie_in(plane[of], at[of], tolerance)
            lies[seed] = True
            inside = np.where(bent[of], lies, inside)
            some = inside[one] & inside[two]
            piece = components(len(there), one[some], two[some])[1]
            inside &= ~bent[of] | (piece == piece[seed[of]])
        found[there[inside]] = of[inside] + numbers
        planes[numbers : numbers + count] = plane
        numbers += count
        rest = np.flatnonzero(~inside)
        if not len(rest):
            break
        rank = np.cumsum(~inside) - 1
        still = ~inside[one] & ~inside[two]
        one, two = rank[one[still]], rank[two[still]]
        there, now = there[rest], now.of(rest)
    alone = np.flatnonzero(found < 0)
    found[alone] = numbers + np.arange(len(alone))
    return found, np.concatenate([planes[:numbers], facets.normal[alone]])


def _largest(double: NDArray[np.float64], of: Numbers, count: int) -> Numbers:
    """The largest triangle of each group."""
    seed = np.zeros(count, np.int64)
    order = np.argsort(double, kind="stable")
    seed[of[order]] = order
    return seed


def _mapped(ready: Prepared, of: Numbers, planes: NDArray[np.float64], sliver: Mask) -> Regions:
    """The regions, but those whose attributes no one map of the plane gives, which fall apart into their triangles."""
    count = len(planes)
    told = [values for name, values in sorted(ready.attributes.items()) if name != "normal"]
    sizes = np.bincount(of, minlength=count)
    if told:
        bent = _bent(ready, of, planes, np.concatenate(told, axis=1).astype(np.float64), sizes)
        loose = np.flatnonzero(bent[of])
        of = of.copy()
        of[loose] = count + np.arange(len(loose))
        used, of = np.unique(of, return_inverse=True)
        planes = np.concatenate([planes, planes[np.zeros(len(loose), int)]])[used] if len(loose) else planes[used]
        count = len(used)
        sizes = np.bincount(of, minlength=count)
    label = np.zeros(count, np.int64)
    label[of] = ready.labels
    return Regions(of, count, sizes, label, planes, sliver)


def _bent(
    ready: Prepared, of: Numbers, planes: NDArray[np.float64], values: NDArray[np.float64], sizes: Numbers
) -> Mask:
    """Which regions carry something that is not one affine map of their plane, (r,)."""
    bent = np.zeros(len(planes), bool)
    order = np.argsort(of, kind="stable")
    starts = np.searchsorted(of[order], np.arange(len(planes) + 1))
    for number in np.flatnonzero(sizes > 2).tolist():
        vertices = np.unique(ready.triangles[order[starts[number] : starts[number + 1]]])
        points, told = ready.positions[vertices], values[vertices]
        middle = points.mean(axis=0)
        size = float(np.abs(points - middle).max()) or 1.0
        frame = frame_of(planes[number])
        base = np.column_stack([(points - middle) @ frame.T / size, np.ones(len(points))])
        fit = np.linalg.lstsq(base, told, rcond=None)[0]
        bent[number] = bool(np.abs(base @ fit - told).max() > _MAPPED)
    return bent


def frame_of(normal: NDArray[np.float64]) -> NDArray[np.float64]:
    """Two directions of a plane, (2, 3), so that its front is seen counter-clockwise."""
    x, y, z = normal.tolist()
    if abs(z) < 0.9:
        long = math.hypot(x, y)
        side = (y / long, -x / long, 0.0)
    else:
        long = math.hypot(y, z)
        side = (0.0, z / long, -y / long)
    a, b, c = side
    return np.array([side, (y * c - z * b, z * a - x * c, x * b - y * a)])
