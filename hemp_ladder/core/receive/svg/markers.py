"""Markers: what is drawn at the vertices of a line, its arrowheads and dots (SVG 2, 13.7 "Markers")."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from xml.etree import ElementTree

from hemp_ladder.core.drawn.curves import Affine, Segment, Subpath, end_of, polyline
from hemp_ladder.core.drawn.shape import shift, times
from hemp_ladder.core.receive.svg.place import Viewport, angle, fit, length, view_box

#: A shape with more vertices than this is marked at its ends alone.
MOST_MARKED = 2000
_Way = tuple[float, float]


@dataclass(frozen=True)
class Spot:
    """A vertex, which of `marker-start`, `marker-mid` and `marker-end` it takes, and where the line goes there."""

    x: float
    y: float
    which: str
    turn: float


@dataclass(frozen=True)
class Stamp:
    """A marker at one spot: its viewport's map to the line's own space, its content's map into that, its frame."""

    outer: Affine
    inner: Affine
    port: Viewport
    frame: Subpath


def spots(paths: Sequence[Subpath]) -> list[Spot]:
    """All vertices in the order they are drawn. The direction at one is halfway between the line's that comes and the
    line's that goes on, in radians; a closed subpath goes on where it began."""
    if sum(len(values) for path in paths for _, values in path.segments) > 2 * MOST_MARKED:
        ends = spots([_shortened(path) for path in (paths[0], paths[-1])])
        return [ends[0], ends[-1]]
    found: list[Spot] = []
    for path in paths:
        steps = list(_steps(path))
        ways = [step for step in steps if step[0] is not None]
        first, last = (ways[0][0], ways[-1][1]) if ways else (None, None)
        comes = last if path.closed else None
        x, y = path.start
        for leaves, arrives, (nx, ny) in steps:
            found.append(Spot(x, y, "marker-mid", _between(comes, leaves or comes or first)))
            comes, x, y = arrives or comes, nx, ny
        found.append(Spot(x, y, "marker-mid", _between(comes, first if path.closed else None)))
    if found:
        found[-1] = Spot(found[-1].x, found[-1].y, "marker-end", found[-1].turn)
        # A lone point takes both; the start is drawn first.
        found = [Spot(found[0].x, found[0].y, "marker-start", found[0].turn), *(found[1:] or found)]
    return found


def _shortened(path: Subpath) -> Subpath:
    """With the same ends, and the same ways there."""
    segments = path.segments if len(path.segments) < 9 else (*path.segments[:4], *path.segments[-4:])
    cut = tuple((verb, v if verb != "L" or len(v) < 33 else (*v[:16], *v[-16:])) for verb, v in segments)
    return Subpath(path.start, cut, path.closed)


def _between(comes: _Way | None, leaves: _Way | None) -> float:
    a, b = comes or leaves or (1.0, 0.0), leaves or comes or (1.0, 0.0)
    x, y = a[0] + b[0], a[1] + b[1]
    # Where it turns right back, the way it comes has the say.
    return math.atan2(y, x) if math.hypot(x, y) > 1e-9 else math.atan2(a[1], a[0])


def _steps(path: Subpath) -> Iterator[tuple[_Way | None, _Way | None, tuple[float, float]]]:
    """For each piece between two vertices the ways it leaves and arrives, of length 1 (None without length), and its
    end."""
    at = path.start
    for verb, v in path.segments:
        if verb == "L":
            for end in zip(v[::2], v[1::2], strict=True):
                yield _way(at, end), _way(at, end), end
                at = end
            continue
        end = end_of((verb, v))
        yield *_ends((verb, v), at), end
        at = end
    if path.closed and math.dist(at, path.start) > 1e-9 * (1 + abs(at[0]) + abs(at[1])):
        yield _way(at, path.start), _way(at, path.start), path.start


def _ends(segment: Segment, at: tuple[float, float]) -> tuple[_Way | None, _Way | None]:
    verb, v = segment
    if verb == "A":
        _, _, ux, uy, wx, wy, start, sweep = v
        sign = math.copysign(1.0, sweep)
        along = [(sign * (wx * math.cos(t) - ux * math.sin(t)), sign * (wy * math.cos(t) - uy * math.sin(t)))
                 for t in (start, start + sweep)]  # fmt: skip
        return _way((0, 0), along[0]), _way((0, 0), along[1])
    points = [at, *zip(v[::2], v[1::2], strict=False)]
    leaves = next((way for p in points[1:] if (way := _way(at, p))), None)
    arrives = next((way for p in points[-2::-1] if (way := _way(p, points[-1]))), None)
    return leaves, arrives


def _way(a: tuple[float, float], b: tuple[float, float]) -> _Way | None:
    x, y = b[0] - a[0], b[1] - a[1]
    far = math.hypot(x, y)
    return (x / far, y / far) if far > 0 else None


def stamp(marker: ElementTree.Element, spot: Spot, width: float, port: Viewport) -> Stamp | None:
    """How a marker lies at a spot of a line of this width; None for one without size."""
    wide = length(marker.get("markerWidth"), port.width, 3.0)
    high = length(marker.get("markerHeight"), port.height, 3.0)
    if not (0 < wide < 1e9 and 0 < high < 1e9):
        return None
    box = view_box(marker.get("viewBox")) or (0.0, 0.0, wide, high)
    inner = fit(box, wide, high, marker.get("preserveAspectRatio"))
    x = _reference(marker.get("refX"), ("left", "center", "right"), box[0], box[2])
    y = _reference(marker.get("refY"), ("top", "center", "bottom"), box[1], box[3])
    size = 1.0 if marker.get("markerUnits") == "userSpaceOnUse" else width
    c, s = size * math.cos(_turn(marker, spot)), size * math.sin(_turn(marker, spot))
    outer = times(shift(spot.x, spot.y), (c, -s, 0.0, s, c, 0.0))
    outer = times(outer, shift(-(inner[0] * x + inner[2]), -(inner[4] * y + inner[5])))
    frame = polyline([(0, 0), (wide, 0), (wide, high), (0, high)], True)
    return Stamp(outer, inner, Viewport(box[2], box[3]), frame)


def _reference(text: str | None, words: tuple[str, str, str], low: float, size: float) -> float:
    if text in words:
        return low + size * words.index(text) / 2
    return length(text, size)


def _turn(marker: ElementTree.Element, spot: Spot) -> float:
    how = (marker.get("orient") or "0").strip()
    if how == "auto-start-reverse" and spot.which == "marker-start":
        return spot.turn + math.pi
    return spot.turn if how.startswith("auto") else angle(how)
