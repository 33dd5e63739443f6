"""How far a part's triangles lie from its exact shape, both ways: sampled, and bound where surfaces have a closed form.

Points on triangles are held against the surface of their face: where sides and insides of triangles stray most (which
refining measured), and spread by area. Points of the surface, at the parameters of those, are held against all triangles
of the part; points of the exact edges against the sides that stand for them. What is found is a lower bound of the
largest distance; on planes, cylinders, cones, spheres and tori with straight or round edges there is an upper one too.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from hemp_ladder.core.facet.edges import EdgesOff
from hemp_ladder.core.facet.patch import Floats, Integers, Patch
from hemp_ladder.core.facet.surface import TrueSurface
from hemp_ladder.core.facet.surface.many import by_face, distances, points_on
from hemp_ladder.core.facet.surface.round import bounds
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.tree import Tree
from hemp_ladder.core.mesh.triangles import cross, dot, lengths

#: Points of each curved face that are spread by area, and middles of its largest triangles.
EACH, _LARGEST = 100, 100


def measured(mesh: Mesh, patch: Patch, surfaces: Sequence[TrueSurface], edges: EdgesOff) -> dict[str, float]:
    """Of a part's mesh, whose faces' refined patch and exact surfaces are given, and how far its edges were found off;
    lengths in source coordinates.

    back     largest distance found from triangles to the surface
    there    largest distance found from surface and edges to the triangles
    mean     from triangles to the surface, over the whole area, flat faces too
    samples  how many points were held against something
    bound    no point of a triangle and no point of an edge is farther off; left out where that is not known
    """
    if not len(patch.triangles):
        return {}
    corners = patch.positions[patch.triangles]
    area = lengths(cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]))
    of = patch.face[patch.triangles[:, 0]]
    curved = np.array([not surface.flat for surface in surfaces])
    told = {"back": edges.largest, "there": edges.largest, "mean": 0.0, "samples": float(edges.samples)}
    rows = np.flatnonzero(curved[of])
    if len(rows):
        strays = patch.off_by(rows)
        told["back"] = max(told["back"], float(strays.max()))
        told["samples"] += 4 * len(rows)
        _spread(told, mesh, patch, surfaces, rows, area)
    bound = _bound(corners, of, surfaces, edges)
    if bound is not None:
        # What was found is off by rounding where it is the bound itself.
        told["bound"] = max(bound, told["back"], told["there"])
    return told


def _spread(
    told: dict[str, float], mesh: Mesh, patch: Patch, surfaces: Sequence[TrueSurface], rows: Integers, area: Floats
) -> None:
    """Hold points spread over curved faces, by the triangles `rows` of those, against the surface and the other way."""
    chosen, shares = _points(patch.face[patch.triangles[rows, 0]], area[rows])
    vertices = patch.triangles[rows[chosen]]
    points = np.einsum("kj,kjc->kc", shares, patch.positions[vertices])
    uv, face = patch.uv_at(vertices, shares), patch.face[vertices[:, 0]]
    true = points_on(surfaces, face, uv)
    back = distances(surfaces, face, points, uv, np.zeros(len(points)), true)
    told["back"] = max(told["back"], float(back.max()))
    there = _there(mesh, true, points, patch.positions[vertices], told["there"])
    told["there"] = max(told["there"], float(there.max()))
    told["samples"] += 2 * len(points)
    of = patch.face[patch.triangles[:, 0]]
    whole = np.bincount(of, area, minlength=len(surfaces))
    # Those that were spread by area tell how it is on average.
    mean_of = np.arange(len(face)) < EACH * len(np.unique(face))
    counts = np.maximum(np.bincount(face[mean_of], minlength=len(surfaces)), 1)
    means = np.bincount(face[mean_of], back[mean_of], minlength=len(surfaces)) / counts
    told["mean"] = float((whole * means).sum() / max(whole.sum(), 1e-300))


def _there(mesh: Mesh, true: Floats, points: Floats, corners: Floats, known: float) -> Floats:
    """How far points (n, 3) of the surface lie from the triangles, (n,), whose largest is wanted beyond what is known.

    Over the triangle it belongs to, corners (n, 3, 3), a point is as far off as it stands above; elsewhere no farther than
    from the place it belongs to. Only what that leaves open is looked for among all triangles.
    """
    a, b, c = corners.transpose(1, 0, 2)
    across = cross(b - a, c - a)
    square = np.maximum(dot(across, across), 1e-300)
    second = dot(cross(true - a, c - a), across) / square
    third = dot(cross(b - a, true - a), across) / square
    above = (second >= 0) & (third >= 0) & (second + third <= 1)
    found = np.where(above, np.abs(dot(true - a, across)) / np.sqrt(square), lengths(true - points))
    unsure = np.flatnonzero(~above & (found > max(known, float(found[above].max(initial=0)))))
    if len(unsure):
        found[unsure] = Tree(mesh).nearest(true[unsure])[0]
    return np.asarray(found)


def _points(face: Integers, area: Floats) -> tuple[Integers, Floats]:
    """So many points for each face, spread by area over its triangles (m,), always the same: which triangle each lies on,
    and its shares of the corners, (k, 3)."""
    dice = np.random.default_rng(11)
    chosen, large = (np.concatenate(rows) for rows in zip(*_spread_over(face, area, dice), strict=True))
    one, two = dice.random((2, len(chosen)))
    over = one + two > 1
    one[over], two[over] = 1 - one[over], 1 - two[over]
    shares = np.stack([1 - one - two, one, two], axis=1)
    return np.concatenate([chosen, large]), np.concatenate([shares, np.full((len(large), 3), 1 / 3)])


def _spread_over(face: Integers, area: Floats, dice: np.random.Generator) -> Iterator[tuple[Integers, Integers]]:
    for _, own in by_face(face):
        rows = np.arange(len(face))[own]
        total = np.cumsum(area[rows])
        # One in each of so many equal stretches, so that none is left out.
        at = (np.arange(EACH) + dice.random(EACH)) / EACH * total[-1]
        spread = rows[np.searchsorted(total, at, side="right").clip(0, len(rows) - 1)]
        yield spread, rows[np.argsort(-area[rows], kind="stable")[:_LARGEST]]


def _bound(corners: Floats, of: Integers, surfaces: Sequence[TrueSurface], edges: EdgesOff) -> float | None:
    if not edges.exact:
        return None
    flat = np.array([surface.flat for surface in surfaces])
    rows = np.flatnonzero(~flat[of])
    numbers, own = np.unique(of[rows], return_inverse=True)
    known = [surfaces[number].round for number in numbers]
    rounds = [item for item in known if item is not None]
    if len(rounds) < len(known):
        return None
    found = bounds(rounds, own, corners[rows]) if rounds else np.zeros(1)
    return None if np.isnan(found).any() else max(edges.largest, float(found.max()))
