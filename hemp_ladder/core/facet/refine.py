"""Split triangles where they stray further from the true surface than asked, and only there."""

from dataclasses import dataclass, replace
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

#: Each pass halves each triangle's worst edge, which quarters that edge's distance.
_PASSES = 16
#: Passes that turn edges first; later ones only split, so that the two cannot chase each other.
_TURNING = 6
#: Estimates err by a few per cent; what they leave just under the limit is measured too.
_NEAR = 0.9
#: Edges and middles are where distance is measured; between them it can be a little larger.
_GOAL = 0.98

Positions = NDArray[np.float64]
Triangles = NDArray[np.int32]
Pairs = NDArray[np.integer]


@dataclass(frozen=True)
class Patch:
    """One face's triangles: positions (n, 3), normals (n, 3), uv (n, 2), triangles (m, 3)."""

    positions: Positions
    normals: NDArray[np.float32]
    uv: NDArray[np.float64]
    triangles: Triangles


def refine(patches: list[Patch | None], faces: list[TopoDS_Face], failed: list[int], chord: float) -> Mesh:
    """Join the faces' patches into one mesh, refined to `chord` (source coordinates).

    Splits stay inside a face: the points along its border are shared with
    its neighbours, and the mesher placed them within the chord error.
    """
    worst = 0.0
    chord *= _GOAL
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
    true = _TrueSurface(face)
    off_by = 0.0
    for attempt in range(_PASSES + 1):
        if attempt < _TURNING:
            turned = flip_edges(
                patch.positions, patch.normals, patch.uv, patch.triangles, _NEAR * chord,
                partial(_measure, patch, true),
            )  # fmt: skip
            patch = replace(patch, triangles=turned)
        centres = centre_sag(edge_sag(patch.positions, patch.normals, patch.triangles))
        sags = edge_reach(patch.positions, patch.normals, patch.triangles)
        off_by = float(max(sags.max(initial=0), np.abs(centres).max(initial=0)))
        if off_by <= _NEAR * chord or attempt == _PASSES:
            break
        split, off_by = _offenders(patch, sags, centres, true, chord)
        if not len(split):
            break
        patch = _split(patch, split, true)
    return patch, off_by


class _TrueSurface:
    """Points and outward normals of a face's surface at given UVs."""

    def __init__(self, face: TopoDS_Face) -> None:
        self._surface = BRepAdaptor_Surface(face, False)
        self._sign = -1.0 if face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED else 1.0
        self._mirror = face.Location().IsIdentity() or not face.Location().Transformation().IsNegative()

    def at(self, uv: NDArray[np.float64]) -> tuple[Positions, NDArray[np.float64]]:
        """(n, 3) points and (n, 3) unit normals at uv (n, 2); a zero normal where there is none."""
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
        normals = np.cross(out[:, 3:6], out[:, 6:9]) * (self._sign if self._mirror else -self._sign)
        length = np.linalg.norm(normals, axis=1, keepdims=True)
        return out[:, :3], np.divide(normals, length, out=np.zeros_like(normals), where=length > 1e-30)


def _offenders(
    patch: Patch, sags: NDArray[np.float64], centres: NDArray[np.float64], true: _TrueSurface, chord: float
) -> tuple[NDArray[np.int64], float]:
    """The inner edges to split, (k, 2) sorted vertex pairs, and the largest distance measured.

    What the estimate suspects is measured at the edge's middle in UV; a
    triangle whose middle is off while its edges are fine gives up its
    longest inner edge.
    """
    edges = np.sort(patch.triangles[:, [[0, 1], [1, 2], [2, 0]]], axis=2)
    pairs, inverse, uses = np.unique(edges.reshape(-1, 2), axis=0, return_inverse=True, return_counts=True)
    inverse = inverse.reshape(-1, 3)
    inner = uses == 2
    suspect = np.zeros(len(pairs), dtype=bool)
    suspect[inverse[sags > _NEAR * chord]] = True
    measured = np.zeros(len(pairs))
    asked = np.flatnonzero(suspect)
    measured[asked] = _measure(patch, true, pairs[asked])
    by_triangle = measured[inverse]
    loose = (np.abs(centres) > _NEAR * chord) & (by_triangle <= chord).all(axis=1)
    extra = np.flatnonzero(loose)
    if len(extra):
        off = _measure_middles(patch, extra, true)
        extra = extra[off > chord]
        length = np.linalg.norm(patch.positions[pairs[:, 0]] - patch.positions[pairs[:, 1]], axis=1)
        length[~inner] = -1
        candidates = inverse[extra]
        best = candidates[np.arange(len(extra)), length[candidates].argmax(axis=1)]
        best = best[length[best] > 0]
        measured[best] = np.maximum(measured[best], chord * 1.001)
    worst_here = np.zeros(len(pairs), dtype=bool)
    by_triangle = np.where(inner[inverse], measured[inverse], -1)
    worst_here[inverse[np.arange(len(inverse)), by_triangle.argmax(axis=1)]] = True
    chosen = inner & (measured > chord) & worst_here
    certain = float(sags[sags <= _NEAR * chord].max(initial=0))
    return pairs[chosen], max(certain, float(measured.max(initial=0)))


def _measure(patch: Patch, true: _TrueSurface, pairs: Pairs) -> NDArray[np.float64]:
    """How far edges lie from the true surface, along its normal, at their middles and quarters."""
    if not len(pairs):
        return np.zeros(0)
    middle = _at_share(patch, pairs, true, 0.5)
    start, end = pairs.T
    reach = pair_reach(patch.positions, patch.normals, start, end)
    bent = np.flatnonzero(reach > 1.2 * np.abs(pair_sag(patch.positions, patch.normals, start, end)))
    for share in (0.25, 0.75):
        middle[bent] = np.maximum(middle[bent], _at_share(patch, pairs[bent], true, share))
    return middle


def _at_share(patch: Patch, pairs: Pairs, true: _TrueSurface, share: float) -> NDArray[np.float64]:
    """The distance a share of the way along each edge; the point of the surface is that share of the UV."""
    (uv_start, uv_end), (start, end) = patch.uv[pairs].swapaxes(0, 1), patch.positions[pairs].swapaxes(0, 1)
    points, normals = true.at(uv_start + share * (uv_end - uv_start))
    return _along(points - start - share * (end - start), normals)


def _measure_middles(patch: Patch, rows: NDArray[np.int64], true: _TrueSurface) -> NDArray[np.float64]:
    triangles = patch.triangles[rows]
    points, normals = true.at(patch.uv[triangles].mean(axis=1))
    return _along(points - patch.positions[triangles].mean(axis=1), normals)


def _along(offsets: Positions, normals: NDArray[np.float64]) -> NDArray[np.float64]:
    flat = np.abs(np.einsum("ij,ij->i", offsets, normals))
    nowhere = ~normals.any(axis=1)
    flat[nowhere] = np.linalg.norm(offsets[nowhere], axis=1)
    return flat


def _split(patch: Patch, pairs: Pairs, true: _TrueSurface) -> Patch:
    """Put a vertex of the true surface on each edge in `pairs` and divide the triangles around it.

    A triangle with one, two or three split edges becomes two, three or four.
    """
    count = len(patch.positions)
    uv = patch.uv[pairs].mean(axis=1)
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
    return Patch(
        np.concatenate([patch.positions, points]),
        np.concatenate([patch.normals, normals.astype(np.float32)]),
        np.concatenate([patch.uv, uv]),
        _divide(patch.triangles, middle),
    )


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
