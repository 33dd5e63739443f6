"""Curves to points within a chord error and an angle, or with a number of segments a curve.

Circles and ellipses in closed form: a chord over the angle s of a circle of
radius r strays by r (1 - cos(s/2)), and an ellipse is a stretched circle
that strays by no more than the stretch. Beziers by Wang's bound on the
second differences of their control points (G. Wang, "The subdivision method
for finding the intersection between two Bezier curves or surfaces", 1984;
the formula from memory). B-splines, and conics, by doubling until the
middles agree. The angle is held by doubling as well.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np

from hemp_ladder.core.drawn.curves import Points, Segment, Subpath, bounds

#: No single curve gets more points than this, whatever is asked.
_MOST = 20_000
#: A cusp turns back whatever the step: it is a corner, not a bend.
_CUSP = 0.9 * math.pi
#: Of a few points arrays cost more than they save: pieces of a pen's line, which come by the hundred, and rectangles.
_FEW = 8
#: Of its size, how near a closed path's end may be to its start to be the same point.
_SAME = 1e-9


@dataclass(frozen=True)
class Fineness:
    """Chord error as a length, angle in radians; `segments`, where given, replaces both."""

    chord: float
    angle: float
    segments: int | None = None


#: Of its size, how far a box may miss the curve that bulges out of it.
_BOX_MISS = 1e-5


def tight_bounds(paths: Sequence[Subpath]) -> Points:
    """(2, 2) lowest and highest corner of the curves themselves; control points may lie far outside of them."""
    hull = bounds(paths)
    if all(verb in "LA" for path in paths for verb, _ in path.segments):
        return hull
    fine = Fineness(max(_BOX_MISS * float(np.ptp(hull, axis=0).max()), 1e-300), math.radians(30))
    points = np.concatenate([flatten(path, fine) for path in paths])
    return np.array([points.min(axis=0), points.max(axis=0)])


def flatten(path: Subpath, fine: Fineness) -> Points:
    """Points along the subpath, (n, 2), the start first; a closed one does not repeat it at the end."""
    return flatten_measured(path, fine)[0]


def flatten_measured(path: Subpath, fine: Fineness) -> tuple[Points, float]:
    """The points, and the largest distance of a curve from its chord, in the middle of each."""
    if path.closed and len(path.segments) == 1 and path.segments[0][0] == "A":
        points, off = _arc(path.segments[0][1], fine)
        if abs(path.segments[0][1][7]) >= 2 * math.pi:
            return points, off
    if len(path.segments) == 1 and path.segments[0][0] == "L" and len(path.segments[0][1]) <= 2 * _FEW:
        return _corners(path), 0.0
    pieces = [np.array([path.start])]
    at, off = path.start, 0.0
    for segment in path.segments:
        piece, strays = _points(segment, at, fine)
        off = max(off, strays)
        pieces.append(piece)
        at = (float(piece[-1, 0]), float(piece[-1, 1]))
    points = np.concatenate(pieces)
    keep = np.ones(len(points), dtype=bool)
    keep[1:] = (points[1:] != points[:-1]).any(axis=1)
    points = points[keep]
    if path.closed and len(points) > 1:
        size = float(np.ptp(points, axis=0).max())
        if float(np.abs(points[0] - points[-1]).max()) <= _SAME * size:
            points = points[:-1]
    return points, off


def _corners(path: Subpath) -> Points:
    """Of a path of a few straight lines; those that have no length are left out."""
    v = path.segments[0][1]
    points = [path.start]
    for point in zip(v[::2], v[1::2], strict=True):
        if point != points[-1]:
            points.append(point)
    if path.closed and len(points) > 1:
        xs, ys = zip(*points, strict=True)
        size = max(max(xs) - min(xs), max(ys) - min(ys))
        (x, y), (tx, ty) = points[0], points[-1]
        if max(abs(x - tx), abs(y - ty)) <= _SAME * size:
            points.pop()
    return np.array(points, dtype=np.float64)


_Measured = tuple[Points, float]


def _points(segment: Segment, at: tuple[float, float], fine: Fineness) -> _Measured:
    """Those after `at`, where the segment begins."""
    verb, v = segment
    if verb == "L":
        return np.asarray(v, dtype=np.float64).reshape(-1, 2), 0.0
    if verb == "A":
        return _arc(v, fine)
    if verb in "QK" and not fine.segments:
        short = _short(at, v, fine)
        if short is not None:
            return short
    if verb in "QC":
        control = np.array([at, *np.asarray(v).reshape(-1, 2)])
        first = fine.segments or _wang(control, fine.chord)
        return _sampled(lambda t: _bezier(control, t), first, fine)
    if verb == "K":
        control, weight = np.array([at, (v[0], v[1]), (v[2], v[3])]), v[4]
        return _sampled(lambda t: _conic(control, weight, t), fine.segments or 2 * _FEW, fine)
    return _spline(v, fine)


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    """By how much the way from a to c turns at b, in radians."""
    ux, uy, vx, vy = b[0] - a[0], b[1] - a[1], c[0] - b[0], c[1] - b[1]
    return math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)


def _short(at: tuple[float, float], v: tuple[float, ...], fine: Fineness) -> _Measured | None:
    """A quadratic or a conic (five values, the last its weight) in a few steps, with the same care; None if few will
    not do."""
    x0, y0 = at
    x1, y1, x2, y2 = v[:4]
    weight = v[4] if len(v) > 4 else 1.0
    n = 1
    while n <= _FEW:
        both = []
        for k in range(2 * n + 1):
            t = k / (2 * n)
            a, b, c = (1 - t) * (1 - t), 2 * weight * (1 - t) * t, t * t
            whole = a + b + c
            both.append(((a * x0 + b * x1 + c * x2) / whole, (a * y0 + b * y1 + c * y2) / whole))
        off = 0.0
        for k in range(0, 2 * n, 2):
            (px, py), (mx, my), (qx, qy) = both[k : k + 3]
            along = math.hypot(qx - px, qy - py)
            if along > 0:
                off = max(off, abs((qx - px) * (my - py) - (qy - py) * (mx - px)) / along)
        turns = (abs(_turn(both[k - 1], both[k], both[k + 1])) for k in range(1, 2 * n))
        if off <= fine.chord and all(turn <= fine.angle / 2 or turn > _CUSP for turn in turns):
            return np.array([*both[2:-1:2], (x2, y2)]), off
        n *= 2
    return None


def _arc(v: tuple[float, ...], fine: Fineness) -> _Measured:
    cx, cy, ux, uy, px, py, start, sweep = v
    n = fine.segments or arc_steps(math.hypot(ux, uy), math.hypot(px, py), sweep, fine)
    points = _turned(start, sweep, n) @ np.array([[ux, uy], [px, py]])
    points += (cx, cy)
    off = max(math.hypot(ux, uy), math.hypot(px, py)) * (1 - math.cos(sweep / n / 2))
    return points, off


@lru_cache(maxsize=512)
def _turned(start: float, sweep: float, n: int) -> Points:
    """Cosine and sine at n equal steps, the start left out; not to be changed. Drawings are full of whole circles."""
    angles = start + sweep * np.arange(1, n + 1) / n
    return np.stack([np.cos(angles), np.sin(angles)], axis=1)


def arc_steps(one: float, other: float, sweep: float, fine: Fineness) -> int:
    """Segments along the angle `sweep` of an ellipse with these half axes, both bounds kept."""
    large, small = max(one, other), min(one, other)
    if large <= 0 or not math.isfinite(large):
        return 1
    # r (1 - cos(s/2)) is 2 r sin(s/4)^2, which keeps its digits where the chord error is next to nothing.
    step = 4 * math.asin(math.sqrt(fine.chord / large / 2)) if 0 < fine.chord < 2 * large else math.pi
    # Where an ellipse bends most, its direction turns by up to the ratio of its axes faster than the angle.
    step = min(step, fine.angle * max(small / large, 0.02), math.pi / 2)
    return max(1, math.ceil(min(abs(sweep) / max(step, 1e-300), float(_MOST)) - 1e-9))


def _wang(control: Points, chord: float) -> int:
    degree = len(control) - 1
    bend = float(np.linalg.norm(np.diff(control, n=2, axis=0), axis=1).max(initial=0.0))
    # The middle of an S lies on its chord: what bends at all is looked at in two halves.
    least = 2 if bend > 1e-9 * float(np.ptp(control, axis=0).max()) else 1
    return min(max(least, math.ceil(math.sqrt(degree * (degree - 1) / 8 * bend / chord))), _MOST)


def _bezier(control: Points, t: Points) -> Points:
    u = 1 - t
    if len(control) == 3:
        basis = np.stack([u * u, 2 * u * t, t * t])
    else:
        basis = np.stack([u**3, 3 * u * u * t, 3 * u * t * t, t**3])
    return basis.T @ control


def _conic(control: Points, weight: float, t: Points) -> Points:
    u = 1 - t
    basis = np.stack([u * u, 2 * weight * u * t, t * t])
    return (basis.T @ control) / basis.sum(axis=0)[:, None]


def _sampled(curve: Callable[[Points], Points], n: int, fine: Fineness) -> _Measured:
    """At n equal steps of its parameter, doubled until chord and angle hold."""
    while True:
        both = curve(np.linspace(0.0, 1.0, 2 * n + 1))
        points = both[::2]
        off = float(_from_chords(both[1::2], points).max())
        if fine.segments or 2 * n > _MOST or (off <= fine.chord and _largest_turn(both) <= fine.angle / 2):
            return points[1:], off
        n *= 2


def _largest_turn(points: Points) -> float:
    steps = np.diff(points, axis=0)
    steps = steps[np.abs(steps).max(axis=1) > 0]
    if len(steps) < 2:
        return 0.0
    a, b = steps[:-1], steps[1:]
    across = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    turns = np.abs(np.arctan2(across, (a * b).sum(axis=1)))
    return float(turns[turns < _CUSP].max(initial=0.0))


def _from_chords(middles: Points, points: Points) -> Points:
    """How far each middle is from the chord it lies over."""
    start, along = points[:-1], np.diff(points, axis=0)
    away = middles - start
    lengths = np.maximum(np.linalg.norm(along, axis=1), 1e-300)
    return np.abs(along[:, 0] * away[:, 1] - along[:, 1] * away[:, 0]) / lengths


def _spline(v: tuple[float, ...], fine: Fineness) -> _Measured:
    from scipy.interpolate import BSpline

    degree, n = int(v[0]), int(v[1])
    first = 2 + n + degree + 1
    knots = np.asarray(v[2:first])
    weights = np.asarray(v[first + 2 * n :])
    control = np.asarray(v[first : first + 2 * n]).reshape(-1, 2)
    curve = BSpline(knots, np.column_stack([control * weights[:, None], weights]), degree)
    low, high = knots[degree], knots[n]
    breaks = np.unique(knots[degree : n + 1])

    def at(t: Points) -> Points:
        found = curve(np.clip(t, low, high))
        return np.asarray(found[:, :2] / found[:, 2:])

    if fine.segments:
        return _sampled(lambda t: at(low + (high - low) * t), fine.segments, fine)
    pieces = []
    for a, b in pairwise(breaks.tolist()):
        pieces.append(_sampled(lambda t, a=a, b=b: at(a + (b - a) * t), 2, fine))  # type: ignore[misc]
    if not pieces:
        return control[-1:], 0.0
    return np.concatenate([points for points, _ in pieces]), max(off for _, off in pieces)
