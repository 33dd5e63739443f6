"""Curves in the plane as they were drawn: exact, moved by any affine map, made into points only when asked.

A subpath is a start and segments that each go on from where the last ended:

L  x, y, x, y ...                straight lines
Q  x1, y1, x, y                  quadratic Bezier
C  x1, y1, x2, y2, x, y          cubic Bezier
K  x1, y1, x, y, w               conic: rational quadratic, weight w in the middle
A  cx, cy, ux, uy, vx, vy, t, s  c + u cos a + v sin a for a from t to t + s: arcs of circle and ellipse
S  degree, n, knots, points, weights   B-spline of n control points, weights of 1 where it is not rational

An affine map of any of these is one of the same kind, so nothing is lost on
the way through nested transforms.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]
Segment = tuple[str, tuple[float, ...]]
#: 2 x 3 by rows: x' = a x + b y + c, y' = d x + e y + f.
Affine = tuple[float, float, float, float, float, float]
#: Up to so many arcs, sums of their own are quicker than arrays.
_FEW = 8
IDENTITY: Affine = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0)


@dataclass(frozen=True, slots=True)
class Subpath:
    """One run of the pen."""

    start: tuple[float, float]
    segments: tuple[Segment, ...]
    closed: bool

    @property
    def end(self) -> tuple[float, float]:
        return end_of(self.segments[-1]) if self.segments else self.start

    @property
    def gap(self) -> float:
        """How far its end is from its start."""
        return math.dist(self.start, self.end)

    def moved(self, by: Affine) -> "Subpath":
        """The same curve after the map."""
        if by[0] == by[4] == 1 and by[1] == by[3] == 0:
            return self._shifted(by[2], by[5])
        return Subpath(_point(self.start, by), tuple(_moved(item, by) for item in self.segments), self.closed)

    def _shifted(self, x: float, y: float) -> "Subpath":
        segments = tuple(_shifted(verb, v, x, y) for verb, v in self.segments)
        return Subpath((self.start[0] + x, self.start[1] + y), segments, self.closed)

    def reversed(self) -> "Subpath":
        """The same curve run the other way."""
        at, back = self.start, list[Segment]()
        for verb, values in self.segments:
            back.append(_reversed(verb, values, at))
            at = end_of((verb, values))
        return Subpath(at, tuple(reversed(back)), self.closed)

    def as_list(self) -> list[object]:
        return [*self.start, int(self.closed), [[verb, *values] for verb, values in self.segments]]

    @staticmethod
    def from_list(data: Sequence[object]) -> "Subpath":
        x, y, closed, segments = data
        return Subpath((x, y), tuple((item[0], tuple(item[1:])) for item in segments), bool(closed))  # type: ignore[attr-defined,arg-type]


def end_of(segment: Segment) -> tuple[float, float]:
    verb, v = segment
    if verb == "A":
        cx, cy, ux, uy, px, py, start, sweep = v
        c, s = math.cos(start + sweep), math.sin(start + sweep)
        return cx + ux * c + px * s, cy + uy * c + py * s
    if verb == "K":
        return v[2], v[3]
    if verb == "S":
        degree, n = int(v[0]), int(v[1])
        last = 2 + n + degree + 1 + 2 * n
        return v[last - 2], v[last - 1]
    return v[-2], v[-1]


def arc(cx: float, cy: float, radius: float, start: float, sweep: float) -> Segment:
    """A circular arc, angles in radians, counter-clockwise when sweep is positive."""
    return "A", (cx, cy, radius, 0.0, 0.0, radius, start, sweep)


def circle(cx: float, cy: float, rx: float, ry: float | None = None) -> Subpath:
    ry = rx if ry is None else ry
    return Subpath((cx + rx, cy), (("A", (cx, cy, rx, 0.0, 0.0, ry, 0.0, 2 * math.pi)),), True)


def polyline(points: Iterable[Sequence[float]], closed: bool) -> Subpath:
    flat = [(float(p[0]), float(p[1])) for p in points]
    rest = tuple(value for point in flat[1:] for value in point)
    return Subpath(flat[0], (("L", rest),) if rest else (), closed)


def _point(p: tuple[float, float], m: Affine) -> tuple[float, float]:
    return m[0] * p[0] + m[1] * p[1] + m[2], m[3] * p[0] + m[4] * p[1] + m[5]


def _pairs(values: Sequence[float], m: Affine) -> list[float]:
    if len(values) > 40:
        many = np.asarray(values).reshape(-1, 2)
        out: list[float] = (many @ np.array([[m[0], m[3]], [m[1], m[4]]]) + [m[2], m[5]]).reshape(-1).tolist()
        return out
    return [v for i in range(0, len(values), 2) for v in _point((values[i], values[i + 1]), m)]


def _shifted(verb: str, v: tuple[float, ...], x: float, y: float) -> Segment:
    """What every drawn part goes through to its own origin, so it is short where most segments are."""
    if verb == "A":
        return verb, (v[0] + x, v[1] + y, *v[2:])
    if verb == "L" and len(v) == 2:
        return verb, (v[0] + x, v[1] + y)
    return _moved((verb, v), (1.0, 0.0, x, 0.0, 1.0, y))


def _moved(segment: Segment, m: Affine) -> Segment:
    verb, v = segment
    if verb == "A":
        turn = (m[0], m[1], 0.0, m[3], m[4], 0.0)
        u, w = _point((v[2], v[3]), turn), _point((v[4], v[5]), turn)
        return verb, (*_point((v[0], v[1]), m), *u, *w, v[6], v[7])
    if verb == "K":
        return verb, (*_pairs(v[:4], m), v[4])
    if verb == "S":
        degree, n = int(v[0]), int(v[1])
        first = 2 + n + degree + 1
        return verb, (*v[:first], *_pairs(v[first : first + 2 * n], m), *v[first + 2 * n :])
    return verb, tuple(_pairs(v, m))


def _reversed(verb: str, v: tuple[float, ...], at: tuple[float, float]) -> Segment:
    """The segment from its end back to `at`, where it began."""
    if verb == "A":
        return verb, (*v[:6], v[6] + v[7], -v[7])
    if verb == "K":
        return verb, (v[0], v[1], *at, v[4])
    if verb == "S":
        degree, n = int(v[0]), int(v[1])
        first = 2 + n + degree + 1
        knots = np.asarray(v[2:first])
        control = np.asarray(v[first : first + 2 * n]).reshape(-1, 2)[::-1].reshape(-1)
        return verb, (v[0], v[1], *(knots[0] + knots[-1] - knots[::-1]), *control, *v[first + 2 * n :][::-1])
    points = [*at, *v]
    back = [value for i in range(len(points) - 4, -1, -2) for value in points[i : i + 2]]
    return verb, tuple(back)


def bounds(subpaths: Iterable[Subpath]) -> Points:
    """(2, 2) lowest and highest corner of the control points, which hold the curves; zeros for none."""
    points: list[tuple[float, float]] = []
    arcs: list[tuple[float, ...]] = []
    for path in subpaths:
        points.append(path.start)
        for verb, v in path.segments:
            if verb == "A":
                arcs.append(v)
            else:
                points += _hull(verb, v)
    if len(arcs) > _FEW:
        low, high = _boxes_of_arcs(np.array(arcs))
        points += [tuple(low.min(axis=0).tolist()), tuple(high.max(axis=0).tolist())]
    else:
        points += (point for v in arcs for point in _arc_extremes(v))
    if not points:
        return np.zeros((2, 2))
    xs, ys = zip(*points, strict=True)
    return np.array([[min(xs), min(ys)], [max(xs), max(ys)]])


def _hull(verb: str, v: tuple[float, ...]) -> Iterable[tuple[float, float]]:
    if verb == "L" and len(v) == 2:
        return (v,)
    if verb == "K":
        v = v[:4]
    elif verb == "S":
        degree, n = int(v[0]), int(v[1])
        v = v[2 + n + degree + 1 : 2 + n + degree + 1 + 2 * n]
    elif len(v) > 40:
        flat = np.asarray(v).reshape(-1, 2)
        return [tuple(flat.min(axis=0)), tuple(flat.max(axis=0))]
    return [(v[i], v[i + 1]) for i in range(0, len(v), 2)]


def _boxes_of_arcs(arcs: Points) -> tuple[Points, Points]:
    """Lowest and highest corner of each arc, both (n, 2), from their values, (n, 8)."""
    start, sweep = arcs[:, 6], arcs[:, 7]
    first, length = np.minimum(start, start + sweep), np.abs(sweep)
    at = [start, start + sweep]
    for along, across in ((arcs[:, 2], arcs[:, 4]), (arcs[:, 3], arcs[:, 5])):
        peak = np.arctan2(across, along)
        for turned in (peak, peak + math.pi):
            # The first time the arc comes to where it reaches farthest; where it never does, its start again.
            met = (turned - first) % (2 * math.pi)
            at.append(np.where(met <= length, first + met, start))
    cos, sin = np.cos(at), np.sin(at)
    reach = np.stack([arcs[:, axis] + arcs[:, 2 + axis] * cos + arcs[:, 4 + axis] * sin for axis in (0, 1)], axis=-1)
    return reach.min(axis=0), reach.max(axis=0)


def _arc_extremes(v: tuple[float, ...]) -> list[tuple[float, float]]:
    cx, cy, ux, uy, px, py, start, sweep = v
    if abs(sweep) >= 2 * math.pi:
        wide, high = math.hypot(ux, px), math.hypot(uy, py)
        return [(cx - wide, cy - high), (cx + wide, cy + high)]
    at = [start, start + sweep]
    low, high = min(at), max(at)
    for along, across in ((ux, px), (uy, py)):
        first = math.atan2(across, along)
        k = math.ceil((low - first) / math.pi)
        while first + k * math.pi < high:
            at.append(first + k * math.pi)
            k += 1
    return [
        (cx + ux * math.cos(a) + px * math.sin(a), cy + uy * math.cos(a) + py * math.sin(a)) for a in at
    ]  # fmt: skip
