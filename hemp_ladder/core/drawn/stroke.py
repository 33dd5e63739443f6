"""A pen's line as an area. Skia does the stroking (through skia-pathops); we bring it curves and take curves home.

It counts in 32 bit numbers and approximates offset curves to a quarter of a
unit or better, so the line is drawn so large that this is a fourth of the
chord error asked for, and no larger: each of its pieces is a segment at least.
"""

import math

import numpy as np
import pathops

from hemp_ladder.core.drawn.curves import Segment, Subpath, bounds, end_of
from hemp_ladder.core.drawn.flatten import Fineness, flatten
from hemp_ladder.core.drawn.shape import Stroke

_LEAST_ACROSS, _MOST_ACROSS = 1024.0, 131_072.0
_OFF = 0.25
#: Ends nearer than this, in those units, are one.
_NEAR = 0.01
#: What a pen may draw of dashes before it draws the line whole: a bomb of dashes is no picture.
_MOST_DASHES = 50_000
_CAPS = {
    "butt": pathops.LineCap.BUTT_CAP,
    "round": pathops.LineCap.ROUND_CAP,
    "square": pathops.LineCap.SQUARE_CAP,
}
_JOINS = {
    "miter": pathops.LineJoin.MITER_JOIN,
    "round": pathops.LineJoin.ROUND_JOIN,
    "bevel": pathops.LineJoin.BEVEL_JOIN,
}


def stroked(subpaths: tuple[Subpath, ...], pen: Stroke, width: float, chord: float) -> tuple[Subpath, ...]:
    """Closed subpaths, in the pen's own space, that the line of this width fills by the nonzero rule, a fourth of
    the chord error off at the most."""
    box = bounds(subpaths)
    size = float(np.ptp(box, axis=0).max()) + width * max(1.0, pen.miter if pen.join == "miter" else 1.0)
    if size <= 0 or width <= 0 or not math.isfinite(size):
        return ()
    scale = min(max(4 * _OFF / max(chord, 1e-300), _LEAST_ACROSS / size), _MOST_ACROSS / size)
    middle = box.mean(axis=0).tolist()
    there = (scale, 0.0, -scale * middle[0], 0.0, scale, -scale * middle[1])
    path = pathops.Path()
    for item in subpaths:
        if pen.cap == "butt" and _is_dot(item):
            continue
        _draw(path, item.moved(there), scale)
    dashes = [float(value * scale) for value in pen.dashes]
    if dashes and (sum(dashes) <= 0 or _length(subpaths) * scale / sum(dashes) > _MOST_DASHES):
        dashes = []
    path.stroke(
        width * scale, _CAPS[pen.cap], _JOINS[pen.join], max(1.0, pen.miter), dashes or None, pen.dash_offset * scale
    )
    back = (1 / scale, 0.0, middle[0], 0.0, 1 / scale, middle[1])
    return tuple(item.moved(back) for item in _home(path))


def _length(subpaths: tuple[Subpath, ...]) -> float:
    """About how long the line is."""
    fine = Fineness(math.inf, math.pi / 4)
    points = [flatten(path, fine) for path in subpaths]
    return float(sum(np.linalg.norm(np.diff(run, axis=0), axis=1).sum() for run in points))


def _is_dot(item: Subpath) -> bool:
    """Whether it goes nowhere: a line without length."""
    return all(
        verb in "LQC" and set(zip(v[::2], v[1::2], strict=True)) <= {item.start} for verb, v in item.segments
    )  # fmt: skip


def _draw(path: pathops.Path, item: Subpath, scale: float) -> None:
    path.moveTo(*item.start)
    if _is_dot(item):
        # A dot, as round and square caps draw it (SVG 2, 13.5.4); the pen needs a direction for that.
        path.lineTo(item.start[0] + _NEAR, item.start[1])
        return
    at = item.start
    for verb, v in _shut(item) if item.closed else item.segments:
        if verb == "L":
            for i in range(0, len(v), 2):
                path.lineTo(v[i], v[i + 1])
        elif verb == "Q":
            path.quadTo(*v)
        elif verb == "C":
            path.cubicTo(*v)
        elif verb == "K":
            path.conicTo(*v)
        elif verb == "A":
            pieces = cubics(v)
            for control in pieces[:-1]:
                path.cubicTo(*control)
            first, end = pieces[-1][:4], pieces[-1][4:]
            # A circle ends where it began, to the last digit, or the pen draws a corner there.
            path.cubicTo(*first, *(item.start if item.closed and math.dist(end, item.start) < _NEAR else end))
        else:
            for x, y in flatten(Subpath(at, ((verb, v),), False), Fineness(0.05, 0.1))[1:]:
                path.lineTo(x, y)
        at = end_of((verb, v))
    if item.closed:
        path.close()


def _shut(item: Subpath) -> list[Segment]:
    """Segments that end exactly at the start where they end next to it: the pen would draw a corner between."""
    *rest, (verb, v) = item.segments or (("L", item.start),)
    if verb in "LQC" and 0 < math.dist(v[-2:], item.start) < _NEAR:
        v = (*v[:-2], *item.start)
    elif verb == "K" and 0 < math.dist(v[2:4], item.start) < _NEAR:
        v = (*v[:2], *item.start, v[4])
    return [*rest, (verb, v)]


#: Of a full turn. The distance of such a piece from its arc is under a hundred-millionth of the radius.
_PIECES = 16


def cubics(v: tuple[float, ...]) -> list[tuple[float, ...]]:
    """An arc as cubic Beziers, by the usual 4/3 tan of a quarter of the angle.

    Conics would be exact, but skia-pathops 0.9.2 takes every second of
    those that follow each other for a straight line when it strokes.
    """
    cx, cy, ux, uy, px, py, start, sweep = v
    n = max(1, math.ceil(abs(sweep) / (2 * math.pi) * _PIECES - 1e-9))
    step = sweep / n
    reach = 4 / 3 * math.tan(step / 4)
    found = []
    for k in range(n):
        a, b = start + k * step, start + (k + 1) * step
        ca, sa, cb, sb = math.cos(a), math.sin(a), math.cos(b), math.sin(b)
        spots = ((ca - reach * sa, sa + reach * ca), (cb + reach * sb, sb - reach * cb), (cb, sb))
        found.append(tuple(w for x, y in spots for w in (cx + ux * x + px * y, cy + uy * x + py * y)))
    return found


def _home(path: pathops.Path) -> list[Subpath]:
    found: list[Subpath] = []
    start: tuple[float, float] | None = None
    segments: list[Segment] = []
    kinds = {
        pathops.PathVerb.LINE: "L", pathops.PathVerb.QUAD: "Q", pathops.PathVerb.CUBIC: "C", pathops.PathVerb.CONIC: "K",
    }  # fmt: skip
    for verb, points in path:
        if verb == pathops.PathVerb.MOVE:
            if start is not None and segments:
                found.append(Subpath(start, tuple(segments), True))
            start, segments = points[0], []
        elif verb in kinds:
            flat = [float(v) for item in points for v in (item if isinstance(item, tuple) else (item,))]
            segments.append((kinds[verb], tuple(flat)))
    if start is not None and segments:
        found.append(Subpath(start, tuple(segments), True))
    return found
