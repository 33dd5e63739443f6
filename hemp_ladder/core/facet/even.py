"""Long thin triangles across straight curves made shorter, where that costs little.

Between rulings of a cylinder, a cone or what is extruded, a strip as narrow as the curve asks is as long as the surface: under
five degrees, shading and baked light show it. Two slivers that lie flat beside each other are one such strip. Its long
sides are divided, alike in whatever shares them, and the strip is cut across: nothing moves. Faces are taken in the order of
how many slivers they lose for each triangle they gain, until so many more triangles are spent.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.facet.longest import Corners, divide, strip
from hemp_ladder.core.mesh.counts import slender_triangles
from hemp_ladder.core.mesh.edges import Edges, following
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.triangles import cross, dot, folded, lengths
from hemp_ladder.core.settings import Range

#: Tangent of the angle under which a triangle is a sliver: five degrees.
_THIN = 0.0875
#: Cosine of the angle under which two triangles lie flat beside each other.
_FLAT = 1 - 1e-6
#: So much better than it needs to be.
_SLACK = 1.05
#: No side is halved oftener.
_MOST = 8

Numbers = NDArray[np.int64]
Floats = NDArray[np.float64]


class Even(Operation):
    """Strips of long thin triangles cut across."""

    version: ClassVar[int] = 1
    ranges: ClassVar[Mapping[str, Range]] = {"more": Range(0.01, 2, 0.1)}
    optional: ClassVar[bool] = True
    does: Literal["even"] = "even"
    more: Annotated[float, Field(gt=0, le=10, description="of its triangles, as many more a part may get")] = 0.1

    def apply(self, mesh: Mesh) -> Mesh:
        return evened(mesh, self.more)


@dataclass(frozen=True)
class _Strips:
    """Pairs of slivers, (q, 2), each a quad.

    rings     (q, 4) its corners in the triangles' direction, from one long side to the other
    sides     (q, 2) which sides of triangles those long ones are, from the first corner and from the third
    halvings  (q,) how often they are to be halved
    """

    pairs: Numbers
    rings: Numbers
    sides: Numbers
    halvings: Numbers


def evened(mesh: Mesh, more: float) -> Mesh:
    """The mesh with strips of slivers cut across, and no more triangles than so many times what it has more."""
    places, each = folded(mesh.positions)
    spots, triangles = each[places], mesh.triangles.astype(np.int64)
    edges = Edges.of(places[triangles])
    strips = _strips(mesh, spots, triangles, edges)
    halvings = _affordable(mesh, strips, edges, more)
    untouched = replace(mesh, figures=replace(mesh.figures, effects={**mesh.figures.effects, "even": 0.0}))
    if not halvings.any():
        return untouched
    corners = Corners(spots, dict(mesh.attributes))
    # What has all sides divided has no strip: it is left, and with it whatever shares a side with it.
    while (whole := np.asarray((halvings > 0).all(axis=1))).any():
        halvings = _shared(edges, np.where(whole[:, None], 0, halvings), np.minimum)
    made, owners = _cut(corners, triangles, halvings, strips)
    if _slivers(corners.spots[made]) >= _slivers(mesh.corners):
        return untouched  # its neighbours would have as many
    order = np.argsort(owners, kind="stable")
    made, owners = made[order], owners[order]
    effects = {**mesh.figures.effects, "even": float(len(made) - len(triangles))}
    return replace(
        mesh, positions=corners.spots, triangles=made.astype(np.int32), attributes=corners.attributes, places=None,
        runs={name: Runs.labelled(runs.labels[owners], runs.count) for name, runs in mesh.runs.items()},
        figures=replace(mesh.figures, open_edges=None, effects=effects),
    )  # fmt: skip


def _strips(mesh: Mesh, spots: Floats, triangles: Numbers, edges: Edges) -> _Strips:
    """Two slivers of one curved face that share their longest side and lie in a plane."""
    ends = spots[triangles]
    ways = np.roll(ends, -1, axis=1) - ends
    long = np.linalg.norm(ways, axis=2)
    across = cross(ways[:, 0], ways[:, 1])
    size = lengths(across)
    normal = np.divide(across, size[:, None], out=np.zeros_like(across), where=size[:, None] > 0)
    thin = (long.min(axis=1) < _THIN * long.max(axis=1)) & (size > 0)
    lit = mesh.normals[mesh.triangles].astype(np.float64)
    thin &= (np.einsum("kci,ki->kc", lit, normal) < _FLAT).any(axis=1)
    label, side = mesh.faces.labels, triangles.reshape(-1)
    one, two = edges.pairs
    a, b = one // 3, two // 3
    good = thin[a] & thin[b] & (label[a] == label[b]) & (dot(normal[a], normal[b]) > _FLAT)
    good &= (side[one] == side[following(two)]) & (side[two] == side[following(one)])
    slack = 1 - 1e-9
    good &= (long[a, one % 3] >= slack * long[a].max(axis=1)) & (long[b, two % 3] >= slack * long[b].max(axis=1))
    one, two = one[good], two[good]
    after = following(one), following(two)
    last = following(after[0]), following(after[1])
    reach = long.reshape(-1)
    ahead = [reach[after[k]] > reach[last[k]] for k in (0, 1)]
    # Both of a strip's long sides lie on opposite sides of the quad, and a triangle is in one strip.
    alone = np.bincount(np.concatenate([one, two]) // 3, minlength=len(triangles)) == 1
    good = (ahead[0] == ahead[1]) & alone[one // 3] & alone[two // 3]
    one, two, ahead_here = one[good], two[good], ahead[0][good]
    after, last = (after[0][good], after[1][good]), (last[0][good], last[1][good])
    p, q, r, t = side[one], side[two], side[last[0]], side[last[1]]
    rings = np.where(ahead_here[:, None], np.stack([p, t, q, r], axis=1), np.stack([t, q, r, p], axis=1))
    sides = np.where(ahead_here[:, None], np.stack([after[1], after[0]], axis=1), np.stack([last[1], last[0]], axis=1))
    width = np.minimum(long[one // 3].min(axis=1), long[two // 3].min(axis=1))
    ratio = reach[sides].max(axis=1) * _THIN * _SLACK / np.maximum(width, 1e-300)
    halvings = np.ceil(np.log2(np.maximum(ratio, 1))).astype(np.int64).clip(0, _MOST)
    keep = halvings > 0
    pairs = np.stack([one // 3, two // 3], axis=1)
    return _Strips(pairs[keep], rings[keep], sides[keep], halvings[keep])


def _affordable(mesh: Mesh, strips: _Strips, edges: Edges, more: float) -> Numbers:
    """How often each side of every triangle is halved, (m, 3), alike in both triangles that share it."""
    count = len(mesh.triangles)
    halvings = np.zeros(3 * count, np.int64)
    if len(strips.pairs):
        label, faces = mesh.faces.labels, mesh.faces.count
        face, pieces = label[strips.pairs[:, 0]], np.exp2(strips.halvings)
        gain = 2.0 * np.bincount(face, minlength=faces)
        # A strip becomes as many quads as it has pieces; a long side on a border divides a neighbour too.
        cost = np.bincount(face, 2 * (pieces - 1), minlength=faces)
        cost += np.bincount(face, (pieces - 1) * _beyond(strips.sides, label, edges).sum(axis=1), minlength=faces)
        some = np.flatnonzero(gain > 0)
        order = some[np.argsort(-gain[some] / cost[some], kind="stable")]
        mine = np.isin(face, order[np.cumsum(cost[order]) <= more * count])
        for k in (0, 1):
            np.maximum.at(halvings, strips.sides[mine, k], strips.halvings[mine])
    return _shared(edges, halvings.reshape(count, 3), np.maximum)


def _beyond(sides: Numbers, label: NDArray[np.integer], edges: Edges) -> NDArray[np.bool_]:
    """Whether another face lies beyond sides (q, 2)."""
    of_side = np.empty(3 * len(edges.places), np.int64)
    of_side[edges.sides] = edges.of_side
    edge = of_side[sides]
    first, last = edges.sides[edges.first[edge]], edges.sides[edges.first[edge + 1] - 1]
    return np.asarray(label[first // 3] != label[last // 3], bool)


def _slivers(corners: Floats) -> int:
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return int(slender_triangles(corners, lengths(across)).sum())


def _shared(edges: Edges, halvings: Numbers, how: np.ufunc) -> Numbers:
    """The same for all sides that lie on one edge: the most, or the least."""
    flat = halvings.reshape(-1).copy()
    if len(edges.sides):
        flat[edges.sides] = how.reduceat(flat[edges.sides], edges.first[:-1])[edges.of_side]
    return flat.reshape(halvings.shape)


def _cut(corners: Corners, triangles: Numbers, halvings: Numbers, strips: _Strips) -> tuple[Numbers, Numbers]:
    """The pieces of triangles, and whose each is: strips across, all others by their divided sides."""
    times = halvings.reshape(-1)[strips.sides]
    # Its short sides and its diagonal stay whole.
    whole = (halvings[strips.pairs].sum(axis=(1, 2)) == times.sum(axis=1)) & (times > 0).any(axis=1)
    rest = np.ones(len(triangles), bool)
    rest[strips.pairs[whole]] = False
    made, whose = divide(corners, triangles[rest], halvings[rest])
    pieces, owners = [made], [np.flatnonzero(rest)[whose]]
    a, b, c, d = strips.rings.T
    for one, two in np.unique(times[whole], axis=0).tolist():
        some = np.flatnonzero(whole & (times == (one, two)).all(axis=1))
        first, second = corners.along(a[some], b[some], one), corners.along(d[some], c[some], two)
        for part in strip(first, second, met=False):
            pieces.append(np.stack([points[:, at] for points, at in part], axis=1))
            owners.append(strips.pairs[some, 0])
    return np.concatenate(pieces), np.concatenate(owners)
