"""From shapes as they are met to drawn parts: one key, one place, one line of the ledger each."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.drawn.curves import Points, Subpath, bounds, polyline
from hemp_ladder.core.drawn.flatten import Fineness, flatten, tight_bounds
from hemp_ladder.core.drawn.preview import write_preview
from hemp_ladder.core.drawn.shape import Shape, shift, write_drawn
from hemp_ladder.core.keys import content_key
from hemp_ladder.core.model.bodies import BodySink, Drawn
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Colour, Part

#: For a plan, and for which shape lies inside which, a chord error of this share of the shape will do.
_ROUGH_CHORD = 2e-3
#: More pairs of one inside another than this are not told: alternating areas then make no holes on that sheet.
_MOST_PAIRS = 2_000_000
#: So many are looked up together: where all lie on each other, each is inside all others.
_TOGETHER = 64
#: An outline with more numbers than this that is not simple is taken to cross itself: to make sure takes seconds.
_MOST_LOOKED_AT = 200_000


@dataclass
class Sketch:
    """Drawn parts with where each lies on its sheet, and the rings that say what lies inside what."""

    sink: BodySink
    parts: list[Part] = field(default_factory=list)
    crossing: list[int] = field(default_factory=list)
    refs: set[str] = field(default_factory=set)
    _rings: list[list[Points]] = field(default_factory=list)
    _paths: dict[int, tuple[Subpath, ...]] = field(default_factory=dict)
    _lines: list[list[tuple[Points, bool]]] = field(default_factory=list)

    def append(self, part: Part) -> None:
        """A part that is no outline."""
        self.parts.append(part)
        self._rings.append([])
        self._lines.append([])

    def preview(self) -> bytes:
        """All outlines as lines on a plan."""
        return write_preview(self._lines)

    def add(
        self, shape: Shape, name: str, kind: str, layer: str | None, colour: Colour | None, drawn: Drawn
    ) -> tuple[int, tuple[float, float]]:
        """A part for the shape, and where on the sheet its own origin lies: the lowest corner of its box."""
        left = _clipped(shape) if shape.clips else None
        box = tight_bounds(shape.on_sheet if left is None else left)
        x, y = float(box[0, 0]), float(box[0, 1])
        moved = shape.moved(shift(-x, -y))
        data = write_drawn(moved)
        key = content_key(data)
        self.sink(key, data)
        half = drawn.stroke / 2 if left is None else 0.0
        wide, high = float(box[1, 0]) - x, float(box[1, 1]) - y
        flat = np.array([[-half, -half, 0.0], [wide + half, high + half, 0.0]])
        index = len(self.parts)
        self.parts.append(
            Part(
                unique_label(name or f"{kind} {index + 1}", self.refs), name, key,
                replace(drawn, box=flat, x=x, y=y, clipped=left is not None), layer, colour,
            )
        )  # fmt: skip
        encloses = drawn.fill or drawn.closed
        lines = shape.on_sheet if left is None else left
        rough = _roughly(lines, _ROUGH_CHORD * max(wide, high))
        self._rings.append(rough if encloses else [])
        if encloses:
            self._paths[index] = shape.subpaths
        closed = [path.closed or drawn.fill for path in lines]
        corner = box[0]
        self._lines.append([(line - corner, shut) for line, shut in zip(rough, closed, strict=True)])
        return index, (x, y)

    def finish(self, drawn_first: bool = True) -> None:
        """Find out which shapes lie inside which others, and which cross themselves.

        `drawn_first`: only what was drawn before can have something inside, as in a picture that is painted.
        """
        import shapely

        outer = [_largest(rings) for rings in self._rings]
        known = [i for i, ring in enumerate(outer) if ring is not None and len(ring) > 2]
        if not known:
            return
        rings = [ring for i in known for ring in self._rings[i] if len(ring) > 2]
        of = [i for i in known for ring in self._rings[i] if len(ring) > 2]
        simple = shapely.is_simple(_linear(rings))
        self.crossing = sorted({of[k] for k in np.flatnonzero(~simple) if _crosses(self._paths[of[k]])})
        polygons = shapely.polygons(_linear([ring for i in known if (ring := outer[i]) is not None]))
        # One that crosses itself has no clear inside: its hull stands for it, which is quick whatever it looks like.
        wild = ~shapely.is_valid(polygons)
        polygons[wild] = shapely.convex_hull(polygons[wild])
        areas = shapely.area(polygons)
        for sheet in {self.parts[i].drawn.sheet for i in known}:  # type: ignore[union-attr]
            mine = np.array([k for k, i in enumerate(known) if self.parts[i].drawn.sheet == sheet])  # type: ignore[union-attr]
            self._nest(polygons[mine], areas[mine], [known[k] for k in mine], drawn_first)

    def _nest(self, polygons: NDArray[np.object_], areas: Points, numbers: list[int], drawn_first: bool) -> None:
        import shapely

        tree = shapely.STRtree(polygons)
        spots = shapely.point_on_surface(polygons)
        found, many = [], 0
        for start in range(0, len(spots), _TOGETHER):
            some = tree.query(spots[start : start + _TOGETHER], predicate="within")
            found.append(some + np.array([[start], [0]]))
            many += some.shape[1]
            if many > _MOST_PAIRS:
                return
        inner, outer = np.concatenate(found, axis=1)
        keep = areas[inner] < 0.999 * areas[outer]
        if drawn_first:
            keep &= inner > outer
        inner, outer = inner[keep], outer[keep]
        # A point of it lies inside: does all of it?
        whole = shapely.covers(polygons[outer], shapely.buffer(polygons[inner], -1e-9 * np.sqrt(areas[inner])))
        inner, outer = inner[whole], outer[whole]
        order = np.lexsort((-areas[outer], inner))
        inner, outer = inner[order], outer[order]
        starts = np.searchsorted(inner, np.arange(len(numbers) + 1))
        for k, index in enumerate(numbers):
            above = outer[starts[k] : starts[k + 1]]
            if len(above):
                part = self.parts[index]
                assert part.drawn is not None
                part.body = replace(part.drawn, inside=tuple(numbers[j] for j in above))


def _crosses(paths: Sequence[Subpath]) -> bool:
    """Whether any outline covers more, or less, than it goes around once: one that only touches itself does not."""
    from hemp_ladder.core.drawn.area import Sheet, area_of
    from hemp_ladder.core.drawn.solid import Solid

    if sum(len(values) for path in paths for _, values in path.segments) > _MOST_LOOKED_AT:
        return True
    for path in paths:
        alone = Shape((path,))
        size = float(np.ptp(bounds([path]), axis=0).max())
        sheet = Sheet(alone, Solid(), Fineness(1e-5 * max(size, 1e-12), np.radians(12)))
        covered = sheet.filled([path], "nonzero").area()
        around = abs(area_of([flatten(path, Fineness(1e-5 * max(size, 1e-12), np.radians(12)))])) * sheet.scale**2
        if abs(covered - around) > 1e-5 * covered:
            return True
    return False


def _clipped(shape: Shape) -> tuple[Subpath, ...]:
    """The border of what its clips leave of a shape."""
    from hemp_ladder.core.drawn.area import Sheet
    from hemp_ladder.core.drawn.solid import Solid

    size = float(np.ptp(bounds(shape.on_sheet), axis=0).max())
    sheet = Sheet(shape, Solid(), Fineness(_ROUGH_CHORD * max(size, 1e-12), np.radians(12)))
    return tuple(polyline(ring.tolist(), True) for ring in sheet.polygons(sheet.area(shape)))


def _roughly(paths: Sequence[Subpath], chord: float) -> list[Points]:
    """Points along each path: along lines and arcs without asking how far they stray, other curves within a chord error."""
    found: list[Points | None] = [None] * len(paths)
    pieces: list[float] = []
    plain, starts = [], [0]
    for number, path in enumerate(paths):
        if any(verb not in "LA" for verb, _ in path.segments):
            found[number] = flatten(path, Fineness(max(chord, 1e-12), np.radians(12)))
            continue
        pieces += path.start
        for verb, v in path.segments:
            if verb == "L":
                pieces += v
            else:
                x, y, ux, uy, vx, vy, start, sweep = v
                for c, s in _spots(start, sweep):
                    pieces += (x + ux * c + vx * s, y + uy * c + vy * s)
        plain.append(number)
        starts.append(len(pieces) // 2)
    points = np.array(pieces).reshape(-1, 2)
    # A drawing has a hundred thousand of them in one shape, of a few points each: they are looked at all at once.
    first, last = np.array(starts[:-1], np.intp), np.array(starts[1:], np.intp)
    if plain:
        size = np.maximum.reduceat(np.abs(points).max(axis=1), first)
        shut = np.hypot(*(points[last - 1] - points[first]).T) < 1e-9 * size
        last -= shut & (last - first > 3)
    for number, a, b in zip(plain, first.tolist(), last.tolist(), strict=True):
        found[number] = points[a:b]
    return found  # type: ignore[return-value]


@lru_cache(maxsize=1024)
def _spots(start: float, sweep: float) -> tuple[tuple[float, float], ...]:
    """Cosine and sine at a few steps along an arc; most arcs of a drawing are circles and quarters of them."""
    steps = max(2, int(abs(sweep) * 3))
    angles = (start + sweep * k / steps for k in range(1, steps + 1))
    return tuple((math.cos(angle), math.sin(angle)) for angle in angles)


def _largest(rings: Sequence[Points]) -> Points | None:
    """The ring with the largest box."""
    if len(rings) < 2:
        return rings[0] if rings else None
    points, starts = np.concatenate(rings), np.cumsum([0, *map(len, rings[:-1])])
    spans = np.maximum.reduceat(points, starts) - np.minimum.reduceat(points, starts)
    return rings[int(spans.prod(axis=1).argmax())]


def _linear(rings: Sequence[Points]) -> NDArray[np.object_]:
    import shapely

    points = np.concatenate(rings)
    return shapely.linearrings(points, indices=np.repeat(np.arange(len(rings)), [len(ring) for ring in rings]))
