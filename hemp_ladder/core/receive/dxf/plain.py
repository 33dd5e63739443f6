"""Lines, circles, arcs and polylines of model space that say nothing unusual, straight from their lines in the file.

In a drawing of a hundred thousand entities nearly all are such, and for each the library makes a tag of every value, sorts
these by subclass, and lays them into an object of its own: three quarters of what reading took. Whatever else an entity
says, or how else it is written, it is the library's.

Group codes after the DXF reference: "common group codes for entities" and the entities' own.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from ezdxf.lldxf.types import DXFTag
from ezdxf.lldxf.validator import is_valid_aci_color, is_valid_layer_name

from hemp_ladder.core.receive.dxf.curves import arc_at, circle_at, line_between
from hemp_ladder.core.receive.dxf.looks import BYLAYER
from hemp_ladder.core.receive.dxf.plane import Flat, level_plane
from hemp_ladder.core.receive.dxf.polylines import wide

#: The subclasses of each kind, in their order.
KINDS = {
    "LINE": ["AcDbEntity", "AcDbLine"],
    "CIRCLE": ["AcDbEntity", "AcDbCircle"],
    "ARC": ["AcDbEntity", "AcDbCircle", "AcDbArc"],
    "LWPOLYLINE": ["AcDbEntity", "AcDbPolyline"],
}
_HANDLE, _OWNER, _MARKER, _LAYER, _COLOUR, _RGB = 5, 330, 100, 8, 62, 420
#: What is read of every entity, and what changes nothing here: line type and its scale, line weight, plot style,
#: material, visual style, shadow.
_COMMON = {_LAYER, _COLOUR, _RGB, 6, 48, 370, 380, 390, 347, 348, 284}
_ELEVATION, _THICKNESS, _EXTRUSION = 38, 39, (210, 220, 230)
_UP = [0.0, 0.0, 1.0]
_OWN = {
    "LINE": {10, 20, 30, 11, 21, 31, _THICKNESS, *_EXTRUSION},
    "CIRCLE": {10, 20, 30, 40, _THICKNESS, *_EXTRUSION},
    "ARC": {10, 20, 30, 40, 50, 51, _THICKNESS, *_EXTRUSION},
    "LWPOLYLINE": {90, 70, 43, _ELEVATION, _THICKNESS, *_EXTRUSION},
}
_NEEDED = {"LINE": {10, 20, 11, 21}, "CIRCLE": {10, 20, 40}, "ARC": {10, 20, 40, 50, 51}, "LWPOLYLINE": set[int]()}
#: Of a polyline's vertex: x and y, widths where it starts and ends, bulge; and a number that means nothing here.
_VERTEX, _ID = (10, 20, 40, 41, 42), 91
#: Sequences of codes that are kept, and how long they may be.
_MOST_PLANS, _LONGEST = 1024, 400


class Unplain(ValueError):
    """Some entities of the drawing cannot be told apart from the library's: all must be read by it."""


@dataclass(slots=True)
class Plain:
    """An entity: its place among all of its section, and what it says."""

    place: int
    kind: str
    handle: str
    layer: str
    colour: int
    rgb: int | None
    flat: Flat


@dataclass(slots=True)
class _Plan:
    """Where in a sequence of codes an entity's values stand; -1 where it has none."""

    owner: int
    layer: int
    colour: int
    rgb: int
    thickness: int
    #: With what each must be.
    markers: list[tuple[int, str]]
    extrusion: list[int]
    own: dict[int, int]
    #: A row of places for each vertex of a polyline.
    rows: list[list[int]]


class Plains:
    """Takes entities of a section as they come, and has them again among those that the library reads."""

    def __init__(self) -> None:
        self.owners: set[str] = set()
        self._found: list[Plain] = []
        self._places: dict[str, int] = {}
        self._plans: dict[tuple[str, tuple[int, ...]], _Plan | None] = {}
        self._layers: dict[str, bool] = {}
        self._count = 0

    def take(self, kind: str, codes: list[int], values: list[str]) -> bool:
        """Whether the entity is plain, and was taken; each value is a line of the file.

        Raises Unplain for one that has no handle of its own.
        """
        plan = self._plan(kind, codes)
        if _HANDLE not in codes:
            raise Unplain("no handle of its own")
        handle = _line(values[codes.index(_HANDLE)])
        place = self._put(handle)
        if plan is None or any(_line(values[at]) != name for at, name in plan.markers):
            return False
        try:
            layer, colour = _line(values[plan.layer]), _number(int, values, plan.colour, BYLAYER)
            rgb = _number(int, values, plan.rgb, None)
            up = [float(values[at]) for at in plan.extrusion] or _UP
            flat = _flat(kind, plan, values, _number(float, values, plan.thickness, 0.0))
        except (ValueError, ArithmeticError):
            # Numbers are written in more ways, and what is none the library finds out.
            return False
        if flat is None or up != _UP or not self._is_layer(layer) or not is_valid_aci_color(colour):
            return False
        if plan.owner >= 0:
            self.owners.add(_line(values[plan.owner]))
        self._found.append(Plain(place, kind, handle, layer, colour, rgb, flat))
        return True

    def pass_by(self, first: DXFTag) -> None:
        """An entity of another kind, by its first tag. Raises Unplain where that is not a handle of its own."""
        if first.code != _HANDLE:
            raise Unplain("no handle of its own")
        self._put(first.value)

    def _put(self, handle: str) -> int:
        """The next place in the section, for an entity with this handle."""
        if handle in self._places:
            raise Unplain("a handle twice")
        self._places[handle] = place = self._count
        self._count += 1
        return place

    def among(self, entities: Iterable[Any]) -> Iterator[Any]:
        """The library's entities of model space and those taken, in the order of the file."""
        left = iter(self._found)
        following = next(left, None)
        for entity in entities:
            place = self._places.get(entity.dxf.handle, self._count)
            while following is not None and following.place < place:
                yield following
                following = next(left, None)
            yield entity
        if following is not None:
            yield following
            yield from left

    def _is_layer(self, name: str) -> bool:
        known = self._layers.get(name)
        if known is None:
            known = self._layers[name] = is_valid_layer_name(name)
        return known

    def _plan(self, kind: str, codes: list[int]) -> _Plan | None:
        if len(codes) > _LONGEST:
            return _planned(kind, codes)
        key = (kind, tuple(codes))
        if key not in self._plans:
            if len(self._plans) >= _MOST_PLANS:
                self._plans.clear()
            self._plans[key] = _planned(kind, codes)
        return self._plans[key]


def _planned(kind: str, codes: list[int]) -> _Plan | None:
    """Where the values stand; None for what says anything that is not known here, or says it twice."""
    names = KINDS[kind]
    markers = [at for at, code in enumerate(codes) if code == _MARKER]
    if len(markers) != len(names):
        return None
    first, second = markers[:2]
    head, common, rest = codes[:first], codes[first + 1 : second], codes[second + 1 :]
    if len({*head}) < len(head) or not {*head} <= {_HANDLE, _OWNER} or _HANDLE not in head:
        return None
    if len({*common}) < len(common) or not {*common} <= _COMMON or _LAYER not in common:
        return None
    own: dict[int, int] = {}
    rows: list[list[int]] = []
    for at, code in enumerate(rest, second + 1):
        if code == _MARKER:
            continue
        if kind == "LWPOLYLINE" and code == _ID and rows:
            continue
        if kind == "LWPOLYLINE" and code in _VERTEX:
            if code == _VERTEX[0]:
                rows.append([at, -1, -1, -1, -1])
            elif not rows or rows[-1][_VERTEX.index(code)] >= 0:
                return None
            rows[-1][_VERTEX.index(code)] = at
            # A coordinate follows the one before it.
            if code == _VERTEX[1] and rows[-1][0] != at - 1:
                return None
        elif code in own or code not in _OWN[kind]:
            return None
        else:
            own[code] = at
    if not _NEEDED[kind] <= own.keys() or not all(row[1] >= 0 for row in rows):
        return None
    for code, at in own.items():
        follows = code in (20, 30, 21, 31, *_EXTRUSION[1:])
        if follows and own.get(code - 10) != at - 1:
            return None
    extrusion = [own[code] for code in _EXTRUSION if code in own]
    where = {code: at for at, code in enumerate(codes[:second])}
    return _Plan(
        where.get(_OWNER, -1), where[_LAYER], where.get(_COLOUR, -1), where.get(_RGB, -1),
        own.get(_THICKNESS, -1), list(zip(markers, names, strict=True)), extrusion, own, rows,
    )  # fmt: skip


def _flat(kind: str, plan: _Plan, values: list[str], thickness: float) -> Flat | None:
    """What it draws; None for what draws nothing, or not in a plane."""
    own = plan.own
    if kind == "LWPOLYLINE":
        rows = [[float(values[at]) if at >= 0 else 0.0 for at in row] for row in plan.rows]
        closed = bool(_number(int, values, own.get(70, -1), 0) & 1)
        plane = level_plane(_number(float, values, own.get(_ELEVATION, -1), 0.0))
        return wide(rows, closed, plane, thickness, _number(float, values, own.get(43, -1), 0.0))
    x, y = float(values[own[10]]), float(values[own[20]])
    z = _number(float, values, own.get(30, -1), 0.0)
    if kind == "LINE":
        end = float(values[own[11]]), float(values[own[21]]), _number(float, values, own.get(31, -1), 0.0)
        return line_between((x, y, z), end, level_plane(z), thickness)
    radius = float(values[own[40]])
    if kind == "CIRCLE":
        return circle_at(x, y, radius, level_plane(z), thickness)
    return arc_at(x, y, radius, float(values[own[50]]), float(values[own[51]]), level_plane(z), thickness)


def _number(typed: Callable[[str], Any], values: list[str], at: int, default: float | None) -> Any:
    return typed(values[at]) if at >= 0 else default


def _line(value: str) -> str:
    return value.rstrip("\n")
