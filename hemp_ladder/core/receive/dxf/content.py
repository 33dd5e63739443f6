"""What one block holds, once for every look that is handed down into it: parts with their places, and inserts."""

import math
from collections import defaultdict
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.chain.came import write_meshed
from hemp_ladder.core.drawn.curves import Subpath, bounds
from hemp_ladder.core.drawn.flatten import Fineness, flatten
from hemp_ladder.core.keys import content_key
from hemp_ladder.core.model.bodies import NOWHERE, Drawn, Meshed
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Part
from hemp_ladder.core.receive.dxf.bodies import BODIES, FACES, MESHES, body_of, face_corners, fans, mesh_of
from hemp_ladder.core.receive.dxf.chain import chained
from hemp_ladder.core.receive.dxf.curves import flat
from hemp_ladder.core.receive.dxf.looks import Look, Looks
from hemp_ladder.core.receive.dxf.notices import Noticed
from hemp_ladder.core.receive.dxf.plain import Plain
from hemp_ladder.core.receive.dxf.plane import Flat, Plane, frame_of
from hemp_ladder.core.receive.sketch import Sketch

Matrix = NDArray[np.float64]
#: Of one layer and colour in one block: more shapes than this are one part.
MOST_APART = 3000
#: An open outline whose ends are nearer than this share of its length was meant to close.
_NEARLY = 0.02
_REASON = 1e15
#: What draws nothing that could be a surface, as it is told among the leftovers.
_APART = {
    "TEXT": "text", "MTEXT": "text", "ATTRIB": "text", "ATTDEF": "text", "DIMENSION": "dimension",
    "ARC_DIMENSION": "dimension", "LARGE_RADIAL_DIMENSION": "dimension", "LEADER": "leader", "MULTILEADER": "leader",
    "MLEADER": "leader", "TOLERANCE": "dimension", "POINT": "point", "VIEWPORT": "viewport", "XLINE": "construction line",
    "RAY": "construction line", "IMAGE": "bitmap", "WIPEOUT": "wipeout", "UNDERLAY": "underlay", "LIGHT": "light",
    "SUN": "light", "CAMERA": "camera", "SHAPE": "text", "OLE2FRAME": "embedded document",
}  # fmt: skip


@dataclass
class Insert:
    block: str
    matrix: Matrix
    look: Look


@dataclass
class Content:
    """Parts of a block with their placements in it, and the blocks that are inserted in it."""

    parts: list[tuple[int, Matrix]] = field(default_factory=list)
    inserts: list[Insert] = field(default_factory=list)


@dataclass
class _Pile:
    """Shapes of one layer and colour in one plane."""

    #: With the kind and handle of what each was.
    closed: list[tuple[Flat, str, str]] = field(default_factory=list)
    open: dict[float, list[Subpath]] = field(default_factory=lambda: defaultdict(list))


class Collector:
    """Reads blocks; equal shapes are told apart by place, and by key found equal later."""

    def __init__(self, looks: Looks, sketch: Sketch, noticed: Noticed) -> None:
        self._looks, self._sketch, self._noticed = looks, sketch, noticed
        self._sheets: dict[tuple[int, Plane], int] = {}
        self._blocks = 0

    def collect(self, entities: Any, above: Look) -> Content:
        """Everything in a block, or in the drawing itself, under the look that is handed down into it."""
        self._blocks += 1
        content = Content()
        piles: dict[tuple[Look, Plane], _Pile] = {}
        faces: dict[Look, list[list[tuple[float, float, float]]]] = defaultdict(list)
        for entity in entities:
            if isinstance(entity, Plain):
                look = self._looks.of_plain(entity.layer, entity.colour, above, entity.rgb)
                if _sound(entity.flat):
                    _lay(entity.flat, entity.kind, entity.handle, look, piles)
                else:
                    self._noticed.failed.append(f"{entity.kind} {entity.handle} (ValueError)")
                continue
            kind = entity.dxftype()
            if entity.dxf.hasattr("invisible") and entity.dxf.invisible:
                self._noticed.hidden += 1
                continue
            try:
                if kind == "INSERT":
                    self._insert(entity, above, content)
                elif kind in FACES:
                    corners = face_corners(entity)
                    if len(corners) > 2:
                        faces[self._looks.of(entity, above)].append(corners)
                elif kind in BODIES:
                    self._body(entity, above, content)
                elif kind == "MESH" or (kind in MESHES and (entity.is_poly_face_mesh or entity.is_polygon_mesh)):
                    self._mesh(entity, above, content)
                elif kind in _APART:
                    self._noticed.leftovers[_APART[kind]] += 1
                else:
                    self._curve(entity, kind, above, piles)
            except Exception as error:  # of an entity in error the library raises what it likes
                self._noticed.failed.append(f"{kind} {entity.dxf.get('handle', '')} ({type(error).__name__})")
        for look, corners_of in faces.items():
            self._faces(look, corners_of, content)
        for (look, plane), pile in piles.items():
            self._pile(look, plane, pile, content)
        return content

    def _insert(self, entity: Any, above: Look, content: Content) -> None:
        look = self._looks.of(entity, above)
        self._noticed.leftovers["text"] += len(entity.attribs)
        rows, columns = int(entity.dxf.get("row_count", 1)), int(entity.dxf.get("column_count", 1))
        several = entity.multi_insert() if rows > 1 or columns > 1 else (entity,)
        if rows * columns > MOST_APART * 10:
            raise ValueError("an array of absurd size")
        for one in several:
            matrix = np.array(list(one.matrix44())).reshape(4, 4).T
            if not np.abs(matrix).max() < _REASON or abs(np.linalg.det(matrix[:3, :3])) < 1e-30:
                raise ValueError("scaled to nothing")
            content.inserts.append(Insert(entity.dxf.name, matrix, look))

    def _curve(self, entity: Any, kind: str, above: Look, piles: dict[tuple[Look, Plane], _Pile]) -> None:
        found = flat(entity)
        if found is None:
            known = kind in ("CIRCLE", "ARC", "LINE", "ELLIPSE", "SPLINE", "LWPOLYLINE", "POLYLINE", "HATCH")
            self._noticed.leftovers["curve out of plane" if known else kind.lower().rpartition("_")[2]] += 1
            return
        if not _sound(found):
            raise ValueError("numbers beyond reason")
        _lay(found, kind, entity.dxf.handle, self._looks.of(entity, above), piles)

    def _pile(self, look: Look, plane: Plane, pile: _Pile, content: Content) -> None:
        closed = list(pile.closed)
        for thickness, paths in pile.open.items():
            lines: list[Subpath] = []
            runs, doubled = chained(paths)
            self._noticed.doubled += doubled
            for path in runs:
                if path.closed and _encloses(path):
                    closed.append((Flat(plane, (path,), thickness), "outline", ""))
                elif _nearly(path):
                    self._add(Flat(plane, (path,), thickness), "open outline", look, content, path.gap)
                else:
                    lines.append(path)
            if lines:
                many = "1 line" if len(lines) == 1 else f"{len(lines):,} lines"
                self._add(Flat(plane, tuple(lines), thickness), many, look, content, math.inf)
        if len(closed) <= MOST_APART:
            for found, kind, handle in closed:
                name = f"{kind.lower().removeprefix('lw')} {handle or ''}".strip()
                self._add(found, name, look, content)
            return
        together: dict[tuple[float, bool, Any, float], list[Subpath]] = defaultdict(list)
        for found, _, _ in closed:
            together[found.thickness, found.fill, found.rule, found.width] += found.paths
        for (thickness, fill, rule, width), paths in together.items():
            whole = Flat(plane, tuple(paths), thickness, fill, rule, width)
            self._add(whole, f"{len(paths):,} outlines", look, content)

    def _add(self, found: Flat, name: str, look: Look, content: Content, gap: float = 0.0) -> None:
        sheet = self._sheets.setdefault((self._blocks, found.plane), len(self._sheets))
        # JSON knows no infinity: a run of lines that was never meant to close has a gap beyond any tolerance.
        drawn = Drawn(
            NOWHERE,
            fill=found.fill, stroke=found.width, closed=not gap and found.width == 0, gap=min(gap, 1e300),
            thickness=found.thickness, sheet=sheet,
        )  # fmt: skip
        index, (x, y) = self._sketch.add(
            found.shape(), f"{look.layer}: {name}", "outline", look.layer, look.colour, drawn
        )
        place = np.eye(4)
        place[:2, 3] = x, y
        content.parts.append((index, frame_of(found.plane) @ place))

    def _faces(self, look: Look, faces: list[list[tuple[float, float, float]]], content: Content) -> None:
        points = np.array([point for corners in faces for point in corners])
        starts = np.cumsum([0, *(len(corners) for corners in faces)])
        rows = [list(range(a, b)) for a, b in zip(starts[:-1].tolist(), starts[1:].tolist(), strict=True)]
        name = "1 face" if len(faces) == 1 else f"{len(faces):,} faces"
        self._meshed(fans(points, rows), name, look, content)

    def _mesh(self, entity: Any, above: Look, content: Content) -> None:
        triangles, level = mesh_of(entity)
        name = f"mesh {entity.dxf.get('handle') or ''}".strip()
        if level:
            self._noticed.smooth.append(f"{name} (level {level})")
        self._meshed(triangles, name, self._looks.of(entity, above), content)

    def _body(self, entity: Any, above: Look, content: Content) -> None:
        triangles = body_of(entity)
        if triangles is None:
            self._noticed.unread[entity.dxftype()] += 1
            return
        self._meshed(
            triangles, f"body {entity.dxf.get('handle') or ''}".strip(), self._looks.of(entity, above), content
        )

    def _meshed(self, triangles: Any, name: str, look: Look, content: Content) -> None:
        if triangles is None or not np.isfinite(triangles[0]).all() or np.abs(triangles[0]).max() > 1e15:
            raise ValueError("no triangles")
        points, corners = triangles
        used = np.unique(corners)
        low = points[used].min(axis=0)
        data = write_meshed(points - low, corners)
        key = content_key(data)
        self._sketch.sink(key, data)
        box = np.array([np.zeros(3), points[used].max(axis=0) - low])
        index = len(self._sketch.parts)
        full = f"{look.layer}: {name}"
        part = Part(unique_label(full, self._sketch.refs), full, key, Meshed(box), look.layer, look.colour)
        self._sketch.append(part)
        place = np.eye(4)
        place[:3, 3] = low
        content.parts.append((index, place))


def _lay(found: Flat, kind: str, handle: str, look: Look, piles: dict[tuple[Look, Plane], _Pile]) -> None:
    """Onto the pile of its look and plane."""
    pile = piles.get((look, found.plane))
    if pile is None:
        pile = piles[look, found.plane] = _Pile()
    if found.fill or found.width > 0 or found.closed:
        pile.closed.append((found, kind, handle))
    else:
        pile.open[found.thickness] += found.paths


def _encloses(path: Subpath) -> bool:
    """Whether a run that comes back to its start goes around anything, or only there and back."""
    ring = flatten(path, Fineness(math.inf, math.radians(30)))
    if len(ring) < 3:
        return False
    x, y = (ring - ring[0]).T
    around = float(np.abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))) / 2
    return around > 1e-9 * float(np.ptp(ring, axis=0).max()) ** 2


def _nearly(path: Subpath) -> bool:
    """Open, but its ends are near each other for its size."""
    if len(path.segments) < 2 and not (path.segments and len(path.segments[0][1]) > 4):
        return False
    verb, v = path.segments[0]
    if len(path.segments) == 1 and verb == "A" and path.gap > 8 * _NEARLY * sum(map(abs, v[2:6])):
        return False
    around = 2 * float(np.ptp(bounds([path]), axis=0).sum())
    return 0 < path.gap <= _NEARLY * around


def _sound(found: Flat) -> bool:
    """Whether all numbers are those of a drawing. A sum with what is not a number is none either."""
    total = sum(map(abs, found.plane)) + abs(found.thickness) + abs(found.width)
    for path in found.paths:
        total += abs(path.start[0]) + abs(path.start[1])
        for _, values in path.segments:
            total += sum(map(abs, values))
    return total < _REASON
