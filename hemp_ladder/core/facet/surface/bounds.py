"""How far triangles between points of a round surface can lie from it: bounds in closed form, not measured.

Corners are (m, 3, 3) in the surface's own frame, its axis along Z, and lie on the surface. Sizes are numbers, or arrays
(m,) where triangles are of several surfaces. Each gives (m,); NaN where there is no bound.

On cylinder, cone and sphere the distance is convex, and nothing on the outside strays: what strays most lies inside,
where an edge comes nearest to the axis, or on the axis itself. (On a cone the distance grows in proportion along every
line from its tip, so that a plane has no deepest point inside unless it is parallel to a tangent plane; then a whole line
of them, which meets an edge.) On a torus curvatures bound it: f between corners where it is zero strays by no more than
half the sum of l_i l_j q(e_ij) over the edges, for a quadratic form q that its second derivatives never exceed.
"""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.facet.patch import Floats
from hemp_ladder.core.facet.sag import bulge
from hemp_ladder.core.mesh.triangles import dot, lengths

Size = float | Floats
#: Radians over which a triangle of a torus may bend and still be bound.
_MOST_BEND = 1.0
#: Into so many pieces the sides of a torus's triangles are divided where the distance is known.
_PIECES = 4
_GRID = np.array([(i, j, _PIECES - i - j) for i in range(_PIECES + 1) for j in range(_PIECES + 1 - i)]) / _PIECES


def on_cylinder(corners: Floats, radius: Size) -> Floats:
    """A cylinder's: its radius less the distance between axis and triangle, as seen along the axis."""
    return np.maximum(radius - _nearest_to_axis(corners), 0.0)


def on_sphere(corners: Floats, radius: Size) -> Floats:
    """A sphere's: its radius less the distance between centre and triangle."""
    a, b, c = corners.transpose(1, 0, 2)
    across = np.cross(b - a, c - a)
    long = lengths(across)
    normal = np.divide(across, long[:, None], out=np.zeros_like(across), where=long[:, None] > 0)
    away = dot(a, normal)
    foot = normal * away[:, None]
    inside = long > 0
    for one, two in ((a, b), (b, c), (c, a)):
        inside &= dot(np.cross(two - one, foot - one), normal) >= 0
    edges = np.min([_nearest_to_origin(one, two) for one, two in ((a, b), (b, c), (c, a))], axis=0)
    return np.asarray(np.maximum(radius - np.where(inside, np.abs(away), edges), 0.0))


def on_cone(corners: Floats, radius: Size, angle: Size) -> Floats:
    """A cone's, of a radius where its height is zero and half an opening angle."""
    radius, angle = (np.broadcast_to(size, len(corners)) for size in (radius, angle))
    sine, cosine = np.sin(angle), np.cos(angle)
    worst = np.zeros(len(corners))
    for k in range(3):
        start, end = corners[:, k], corners[:, (k + 1) % 3]
        way = end - start
        a, b, c = dot(way[:, :2], way[:, :2]), dot(start[:, :2], way[:, :2]), dot(start[:, :2], start[:, :2])
        slope = sine / cosine * way[:, 2]
        with np.errstate(divide="ignore", invalid="ignore"):
            share = (-b + slope * np.sqrt(np.maximum(a * c - b * b, 0) / (a - slope * slope))) / a
        share = np.nan_to_num(share, nan=0.0, posinf=0.0, neginf=0.0).clip(0, 1)
        spot = start + share[:, None] * way
        worst = np.maximum(worst, -_off_cone(spot, radius, sine, cosine))
    around = _around_axis(corners)
    if around.any():
        # The axis goes through: nowhere is farther off than there.
        turns = _turns(corners[around])
        # Against the corner across of each edge, as shares of the whole.
        high = (np.roll(turns, -1, axis=1) * corners[around][:, :, 2]).sum(axis=1) / turns.sum(axis=1)
        there = radius[around] * cosine[around] + high * sine[around]
        worst[around] = np.maximum(worst[around], there)
    return worst


def _off_cone(points: Floats, radius: Floats, sine: Floats, cosine: Floats) -> Floats:
    return np.asarray((np.hypot(points[:, 0], points[:, 1]) - radius) * cosine - points[:, 2] * sine)


def on_torus(corners: Floats, ring: Size, radius: Size) -> Floats:
    """A torus's, of a ring radius and a tube's."""
    middle = corners.mean(axis=1)
    near, far = _nearest_to_axis(corners), np.hypot(corners[..., 0], corners[..., 1]).max(axis=1)
    low, high = corners[..., 2].min(axis=1), corners[..., 2].max(axis=1)
    angle = np.arctan2(middle[:, 1], middle[:, 0])
    turns = [np.abs(_within(np.arctan2(corners[:, k, 1], corners[:, k, 0]) - angle)) for k in range(3)]
    along = np.max(turns, axis=0)
    tube = np.arctan2(middle[:, 2], np.hypot(middle[:, 0], middle[:, 1]) - ring)
    rims = [(d - ring, h) for d in (near, far) for h in (low, high)]
    about = np.max([np.abs(_within(np.arctan2(h, d) - tube)) for d, h in rims], axis=0)
    # A box about the tube's own circle has no nearest corner.
    round_ = (near < ring) & (far > ring) & (low < 0) & (high > 0)
    x, y = np.maximum(np.maximum(near - ring, ring - far), 0), np.maximum(np.maximum(low, -high), 0)
    core = np.hypot(x, y)
    bend = np.hypot(along, about)
    outward = np.stack([np.cos(angle), np.sin(angle), np.zeros_like(angle)], axis=1)
    ringwise = np.stack([-np.sin(angle), np.cos(angle), np.zeros_like(angle)], axis=1)
    tubewise = -np.sin(tube)[:, None] * outward
    tubewise[:, 2] = np.cos(tube)
    forms = []
    for k in range(3):
        edge = corners[:, (k + 1) % 3] - corners[:, k]
        long = dot(edge, edge)
        with np.errstate(divide="ignore", invalid="ignore"):
            q = sum(
                ((1 + bend) * dot(way, edge) ** 2 + (bend + bend * bend) * long) / curved
                for way, curved in ((tubewise, core), (ringwise, near))
            )
        forms.append(q / 8)
    sides = np.stack(forms, axis=1)
    open_ = ~np.isfinite(sides).all(axis=1)
    sides[open_] = 0.0
    shares = bulge(sides)
    inner = 4 * sum(sides[:, k] * shares[:, k] * shares[:, (k + 1) % 3] for k in range(3))
    grid = np.einsum("gj,mjc->gmc", _GRID, corners)
    there = np.abs(np.hypot(np.hypot(grid[..., 0], grid[..., 1]) - ring, grid[..., 2]) - radius).max(axis=0)
    # Between points where it is known it strays further by what a triangle of a fourth the size allows.
    bound = there + np.maximum(sides.max(axis=1), inner) / _PIECES**2
    bound[round_ | open_ | (bend > _MOST_BEND) | _around_axis(corners)] = np.nan
    return np.asarray(bound)


def _within(angle: Floats) -> Floats:
    return np.asarray((angle + np.pi) % (2 * np.pi) - np.pi)


def _nearest_to_axis(corners: Floats) -> Floats:
    """The least distance between the axis and triangles, seen along it."""
    flat = corners[..., :2]
    edges = [_nearest_to_origin(flat[:, k], flat[:, (k + 1) % 3]) for k in range(3)]
    return np.where(_around_axis(corners), 0.0, np.min(edges, axis=0))


def _nearest_to_origin(start: Floats, end: Floats) -> Floats:
    way = end - start
    square = np.maximum(dot(way, way), 1e-300)
    share = (-dot(start, way) / square).clip(0, 1)
    return lengths(start + share[:, None] * way)


def _around_axis(corners: Floats) -> NDArray[np.bool_]:
    """Whether the axis goes through triangles (m,), not only through a corner."""
    turns = _turns(corners)
    enough = 1e-9 * np.square(corners[..., :2]).sum(axis=(1, 2))
    return np.asarray((turns.min(axis=1) > enough) | (turns.max(axis=1) < -enough))


def _turns(corners: Floats) -> Floats:
    """Twice the areas between the axis and each edge, signed, seen along it: (m, 3)."""
    x, y = corners[..., 0], corners[..., 1]
    return np.stack([x[:, k] * y[:, (k + 1) % 3] - y[:, k] * x[:, (k + 1) % 3] for k in range(3)], axis=1)
