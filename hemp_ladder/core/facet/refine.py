"""Split triangles where they stray further from the true surface than asked, and only there."""

from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopoDS import TopoDS_Face

from hemp_ladder.core.facet.deviation import centre_sag, edge_reach, edge_sag, pair_reach, pair_sag
from hemp_ladder.core.facet.flip import flip_edges
from hemp_ladder.core.mesh import Mesh, weld_indices, weld_tolerance

#: A split halves an edge, which quarters its distance.
_PASSES = 12
#: A face that grows beyond this, or whose last few strays will not settle, is better left to the kernel's own control.
_GROWTH = 8
#: Middles of triangles measured on every curved face in every pass.
_PROBES = 8
#: Passes that turn edges first and split thriftily; later ones only split, and everything that strays,
#: so that the two cannot chase each other.
_TURNING = 5
#: Estimates err by a few per cent; what they leave just under the limit is measured too.
_NEAR = 0.9
#: Distance is measured at edges and middles; on surfaces curved both ways it can be a little larger between.
_GOAL = 0.98
_CURVED_ONE_WAY = (
    GeomAbs_SurfaceType.GeomAbs_Cylinder,
    GeomAbs_SurfaceType.GeomAbs_Cone,
    GeomAbs_SurfaceType.GeomAbs_SurfaceOfExtrusion,
)

#: Surfaces without inflections, on which the estimates can be trusted to see every edge.
_CURVED_EVENLY = (
    GeomAbs_SurfaceType.GeomAbs_Cylinder,
    GeomAbs_SurfaceType.GeomAbs_Cone,
    GeomAbs_SurfaceType.GeomAbs_Sphere,
    GeomAbs_SurfaceType.GeomAbs_Torus,
)
#: On the others every inner edge and most middles are measured in these passes.
_FULL = (0, 2)

Positions = NDArray[np.float64]
Triangles = NDArray[np.int32]
Pairs = NDArray[np.integer]


@dataclass(frozen=True)
class Patch:
    """One face's triangles: positions (n, 3), normals (n, 3), uv (n, 2), triangles (m, 3).

    `free` (n, 2) says where u or v of a vertex means nothing, as u at the pole of a sphere.
    """

    positions: Positions
    normals: NDArray[np.float32]
    uv: NDArray[np.float64]
    triangles: Triangles
    free: NDArray[np.bool_] = field(default_factory=lambda: np.zeros((0, 2), dtype=bool))

    def uv_at(self, vertices: NDArray[np.integer], shares: tuple[float, ...]) -> NDArray[np.float64]:
        """UV at the mean of vertices (k, j) by shares (j,); a free coordinate follows the others."""
        uv, free = self.uv[vertices], self.free[vertices]
        weights = np.where(free, 0.0, np.array(shares)[None, :, None])
        total = weights.sum(axis=1)
        plain = np.einsum("kjc,j->kc", uv, np.array(shares))
        return np.where(total > 0, (uv * weights).sum(axis=1) / np.where(total > 0, total, 1), plain)

    def with_vertices(
        self, points: Positions, normals: NDArray[np.floating], uv: NDArray[np.float64], triangles: NDArray[np.integer]
    ) -> "Patch":
        """The patch with more vertices behind its own, and other triangles."""
        return Patch(
            np.concatenate([self.positions, points]),
            np.concatenate([self.normals, normals.astype(np.float32)]),
            np.concatenate([self.uv, uv]),
            triangles.astype(np.int32),
            np.concatenate([self.free, np.zeros((len(points), 2), dtype=bool)]),
        )


def refine(patches: list[Patch | None], faces: list[TopoDS_Face], failed: list[int], chord: float) -> Mesh:
    """Join the faces' patches into one mesh, refined to `chord` (source coordinates).

    Splits stay inside a face: the points along its border are shared with
    its neighbours, and the mesher placed them within the chord error.
    """
    worst = 0.0
    whole: list[Patch] = []
    starts = [0]
    for patch, face in zip(patches, faces, strict=True):
        if patch is not None:
            patch, off_by = _refine_patch(patch, face, chord)
            worst = max(worst, off_by)
            whole.append(patch)
        starts.append(starts[-1] + (0 if patch is None else len(patch.triangles)))
    if not whole:
        return Mesh(
            np.zeros((0, 3)), np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32),
            np.array(starts), 0.0, tuple(failed),
        )  # fmt: skip
    offsets = np.cumsum([0] + [len(patch.positions) for patch in whole[:-1]])
    return Mesh(
        _joined(np.concatenate([patch.positions for patch in whole])),
        np.concatenate([patch.normals for patch in whole]),
        np.concatenate([p.triangles + o for p, o in zip(whole, offsets, strict=True)]).astype(np.int32),
        np.array(starts, dtype=np.int64),
        worst,
        tuple(failed),
    )


def _joined(positions: Positions) -> Positions:
    """Give neighbouring faces' border points the very same numbers, so that no rounding opens a crack."""
    welded = weld_indices(positions, weld_tolerance(positions))
    first = np.zeros(int(welded.max()) + 1, dtype=np.int64)
    first[welded[::-1]] = np.arange(len(positions))[::-1]
    return positions[first[welded]]


def _refine_patch(patch: Patch, face: TopoDS_Face, chord: float) -> tuple[Patch, float]:
    """The patch split until it lies within `chord`, and how far off it still is."""
    surface = BRepAdaptor_Surface(face, False)
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Plane:
        return patch, 0.0
    if surface.GetType() not in _CURVED_ONE_WAY:
        chord *= _GOAL
    general = surface.GetType() not in _CURVED_EVENLY
    true = _TrueSurface(face)
    patch = replace(patch, free=true.free_directions(patch))
    off_by, first = 0.0, max(len(patch.triangles), 500)
    for attempt in range(_PASSES + 1):
        if attempt < _TURNING:
            turned = flip_edges(
                patch.positions, patch.normals, patch.uv, patch.triangles, _NEAR * chord,
                partial(_measure, patch, true, chord),
            )  # fmt: skip
            patch = replace(patch, triangles=turned)
        split, pierced, off_by = _offenders(patch, true, chord, attempt < _TURNING, general and attempt in _FULL)
        hopeless = len(patch.triangles) > _GROWTH * first or (
            attempt > _TURNING and len(split) < len(patch.triangles) / 200
        )
        if attempt == _PASSES or hopeless or not (len(split) or len(pierced)):
            break
        patch = _split(_pierce(patch, pierced, true), split, true)
    return patch, off_by


class _TrueSurface:
    """Points and outward normals of a face's surface at given UVs."""

    def __init__(self, face: TopoDS_Face) -> None:
        self._surface = BRepAdaptor_Surface(face, False)
        self._sign = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
        self._mirror = face.Location().IsIdentity() or not face.Location().Transformation().IsNegative()

    def free_directions(self, patch: Patch) -> NDArray[np.bool_]:
        """Where a vertex's u or v means nothing, (n, 2): the surface does not move along it.

        Only vertices that share their position with another of the face are asked.
        """
        free = np.zeros((len(patch.positions), 2), dtype=bool)
        welded = weld_indices(patch.positions, weld_tolerance(patch.positions))
        shared = np.flatnonzero(np.bincount(welded)[welded] > 1)
        if len(shared):
            _, along_u, along_v = self._derived(patch.uv[shared])
            speed = np.stack([np.linalg.norm(along_u, axis=1), np.linalg.norm(along_v, axis=1)], axis=1)
            free[shared] = speed < 1e-7 * np.maximum(speed.max(axis=1, keepdims=True), 1e-30)
        return free

    def at(self, uv: NDArray[np.float64]) -> tuple[Positions, NDArray[np.float64]]:
        """(n, 3) points and (n, 3) unit normals at uv (n, 2); a zero normal where there is none."""
        points, along_u, along_v = self._derived(uv)
        normals = np.cross(along_u, along_v) * (self._sign if self._mirror else -self._sign)
        length = np.linalg.norm(normals, axis=1, keepdims=True)
        return points, np.divide(normals, length, out=np.zeros_like(normals), where=length > 1e-30)

    def distance(self, points: Positions, uv: NDArray[np.float64], enough: float) -> NDArray[np.float64]:
        """How far points (n, 3) lie from the surface near uv (n, 2).

        The distance to the surface's point at uv is too large where uv is not
        the nearest; whatever seems to exceed `enough` is settled by two steps
        of Gauss and Newton towards the foot of the perpendicular.
        """
        found = np.linalg.norm(points - self._derived(uv)[0], axis=1)
        unsure = np.flatnonzero(found > enough)
        if len(unsure):
            here = uv[unsure]
            for _ in range(2):
                foot, along_u, along_v = self._derived(here)
                here = here + _step(points[unsure] - foot, along_u, along_v)
            nearer = np.linalg.norm(points[unsure] - self._derived(here)[0], axis=1)
            found[unsure] = np.minimum(found[unsure], nearer)
        return found

    def _derived(self, uv: NDArray[np.float64]) -> tuple[Positions, Positions, Positions]:
        """Points and both first derivatives, each (n, 3)."""
        point, along_u, along_v = gp_Pnt(), gp_Vec(), gp_Vec()
        out = np.empty((len(uv), 9))
        ask = self._surface.D1
        for row, (u, v) in enumerate(uv.tolist()):
            ask(u, v, point, along_u, along_v)
            out[row] = (
                point.X(), point.Y(), point.Z(),
                along_u.X(), along_u.Y(), along_u.Z(),
                along_v.X(), along_v.Y(), along_v.Z(),
            )  # fmt: skip
        return out[:, :3], out[:, 3:6], out[:, 6:]


def _step(offset: Positions, along_u: Positions, along_v: Positions) -> NDArray[np.float64]:
    """The change of (u, v) that best explains an offset in the tangent plane, (n, 2)."""
    uu, uv, vv = (np.einsum("ij,ij->i", a, b) for a, b in ((along_u, along_u), (along_u, along_v), (along_v, along_v)))
    du, dv = np.einsum("ij,ij->i", offset, along_u), np.einsum("ij,ij->i", offset, along_v)
    determinant = uu * vv - uv * uv
    good = determinant > 1e-12 * np.maximum(uu * vv, 1e-300)
    steps = np.stack([vv * du - uv * dv, uu * dv - uv * du], axis=1)
    return np.divide(steps, determinant[:, None], out=np.zeros_like(steps), where=good[:, None])


def _offenders(
    patch: Patch, true: _TrueSurface, chord: float, thrifty: bool, all_edges: bool
) -> tuple[NDArray[np.int64], NDArray[np.int64], float]:
    """What strays: inner edges to split, (k, 2) sorted vertex pairs; triangles to pierce; the largest distance.

    What the estimates suspect is measured, and the likeliest middles always,
    since estimates fall short where facets are coarse; `all_edges` measures
    every inner edge. A triangle gives up
    its worst inner edge, or, when not `thrifty`, every one that strays; one whose middle strays while its edges hold gives up
    its longest, or is pierced where all three are borders.
    """
    sags = edge_reach(patch.positions, patch.normals, patch.triangles)
    centres = np.abs(centre_sag(edge_sag(patch.positions, patch.normals, patch.triangles)))
    edges = np.sort(patch.triangles[:, [[0, 1], [1, 2], [2, 0]]], axis=2)
    count = len(patch.positions)
    codes, inverse, uses = np.unique(
        edges[..., 0].astype(np.int64) * count + edges[..., 1], return_inverse=True, return_counts=True
    )
    pairs = np.stack([codes // count, codes % count], axis=1)
    inverse = inverse.reshape(-1, 3)
    inner = uses == 2
    suspect = np.zeros(len(pairs), dtype=bool)
    suspect[inverse[sags > _NEAR * chord]] = True
    suspect |= inner & all_edges
    measured = np.zeros(len(pairs))
    asked = np.flatnonzero(suspect)
    measured[asked] = _measure(patch, true, chord, pairs[asked])
    by_triangle = np.where(inner[inverse], measured[inverse], -1)
    likeliest = np.argsort(-centres)[:_PROBES]
    doubted = np.union1d(np.flatnonzero(centres > (0.3 if all_edges else _NEAR) * chord), likeliest)
    doubted = doubted[(by_triangle[doubted] <= chord).all(axis=1)]
    middles = _measure_middles(patch, doubted, true, chord)
    off_by = float(max(sags[sags <= _NEAR * chord].max(initial=0), measured.max(initial=0), middles.max(initial=0)))
    stray = doubted[middles > chord]
    length = np.linalg.norm(patch.positions[pairs[:, 0]] - patch.positions[pairs[:, 1]], axis=1)
    length[~inner] = -1
    longest = inverse[stray, length[inverse[stray]].argmax(axis=1)]
    splittable = length[longest] > 0
    worst_here = np.zeros(len(pairs), dtype=bool)
    worst_here[inverse[np.arange(len(inverse)), by_triangle.argmax(axis=1)]] = True
    chosen = inner & (measured > chord) & (worst_here if thrifty else True)
    chosen[longest[splittable]] = True
    return pairs[chosen], stray[~splittable], off_by


def _pierce(patch: Patch, rows: NDArray[np.int64], true: _TrueSurface) -> Patch:
    """Put a vertex of the true surface into the middle of triangles; each becomes three."""
    if not len(rows):
        return patch
    corners = patch.triangles[rows]
    uv = patch.uv_at(corners, (1 / 3, 1 / 3, 1 / 3))
    points, normals = true.at(uv)
    new = (len(patch.positions) + np.arange(len(rows))).astype(np.int32)
    a, b, c = corners.T
    fans = [np.stack(fan, axis=1) for fan in ((a, b, new), (b, c, new), (c, a, new))]
    return patch.with_vertices(points, normals, uv, np.concatenate([np.delete(patch.triangles, rows, axis=0), *fans]))


def _measure(patch: Patch, true: _TrueSurface, chord: float, pairs: Pairs) -> NDArray[np.float64]:
    """How far edges lie from the true surface, at their middles; at their quarters too where they bend both ways."""
    if not len(pairs):
        return np.zeros(0)
    worst = _at_share(patch, pairs, true, chord, 0.5)
    start, end = pairs.T
    reach = pair_reach(patch.positions, patch.normals, start, end)
    bent = np.flatnonzero(reach > 1.2 * np.abs(pair_sag(patch.positions, patch.normals, start, end)))
    for share in (0.25, 0.75):
        worst[bent] = np.maximum(worst[bent], _at_share(patch, pairs[bent], true, chord, share))
    return worst


def _at_share(patch: Patch, pairs: Pairs, true: _TrueSurface, chord: float, share: float) -> NDArray[np.float64]:
    """The distance a share of the way along each edge."""
    start, end = patch.positions[pairs].swapaxes(0, 1)
    return true.distance(start + share * (end - start), patch.uv_at(pairs, (1 - share, share)), chord)


def _measure_middles(patch: Patch, rows: NDArray[np.int64], true: _TrueSurface, chord: float) -> NDArray[np.float64]:
    triangles = patch.triangles[rows]
    uv = patch.uv_at(triangles, (1 / 3, 1 / 3, 1 / 3))
    return true.distance(patch.positions[triangles].mean(axis=1), uv, chord)


def _split(patch: Patch, pairs: Pairs, true: _TrueSurface) -> Patch:
    """Put a vertex of the true surface on each edge in `pairs` and divide the triangles around it.

    A triangle with one, two or three split edges becomes two, three or four.
    """
    if not len(pairs):
        return patch
    count = len(patch.positions)
    uv = patch.uv_at(pairs, (0.5, 0.5))
    points, normals = true.at(uv)
    nowhere = ~normals.any(axis=1)
    normals[nowhere] = patch.normals[pairs[nowhere, 0]]
    edges = np.sort(patch.triangles[:, [[0, 1], [1, 2], [2, 0]]], axis=2)
    codes = edges[..., 0].astype(np.int64) * count + edges[..., 1]
    wanted = pairs[:, 0].astype(np.int64) * count + pairs[:, 1]
    order = np.argsort(wanted)
    place = np.searchsorted(wanted[order], codes).clip(max=len(wanted) - 1)
    hit = wanted[order][place] == codes
    middle = np.where(hit, count + order[place], -1)
    return patch.with_vertices(points, normals, uv, _divide(patch.triangles, middle))


def _divide(triangles: Triangles, middle: NDArray[np.int64]) -> Triangles:
    """Divide triangles (m, 3) at the vertices `middle` (m, 3), -1 where an edge stays whole.

    Column k of `middle` lies on the edge from corner k to corner k + 1.
    """
    pieces = [triangles[(middle < 0).all(axis=1)].astype(np.int64)]
    number = (middle >= 0).sum(axis=1)
    for turn in range(3):
        a, b, c = (triangles[:, (turn + k) % 3] for k in range(3))
        ab, bc, ca = (middle[:, (turn + k) % 3] for k in range(3))
        one = (number == 1) & (ab >= 0)
        pieces += [_rows(one, a, ab, c), _rows(one, ab, b, c)]
        two = (number == 2) & (ca < 0)
        pieces += [_rows(two, ab, b, bc), _rows(two, a, ab, bc), _rows(two, a, bc, c)]
    three = number == 3
    a, b, c = triangles.T
    ab, bc, ca = middle.T
    pieces += [_rows(three, a, ab, ca), _rows(three, ab, b, bc), _rows(three, ca, bc, c), _rows(three, ab, bc, ca)]
    return np.concatenate(pieces).astype(np.int32)


def _rows(chosen: NDArray[np.bool_], *columns: NDArray[np.integer]) -> NDArray[np.int64]:
    return np.stack([column[chosen] for column in columns], axis=1).astype(np.int64)
