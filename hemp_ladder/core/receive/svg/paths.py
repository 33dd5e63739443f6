"""Path data and basic shapes as subpaths (SVG 2, chapters 9 and 10).

Where path data is in error, all before the error is drawn (9.5.4). Written
here because the parsers at hand either give arcs away as Beziers or take 20
microseconds a segment; this one takes two.
"""

import math
import re
from xml.etree import ElementTree

import numpy as np

from hemp_ladder.core.drawn.curves import Segment, Subpath, circle, polyline
from hemp_ladder.core.receive.svg.place import NUMBER, Viewport, length, numbers

_INSIDE = "[^MmZzLlHhVvCcSsQqTtAa]*"
#: A command with what it is given. The same one again goes on as its own repeats would.
_COMMAND = re.compile(rf"([LlHhVvCcSsQqTtAa])({_INSIDE}(?:\1{_INSIDE})*)|([MmZz])({_INSIDE})")
_NUMBER = re.compile(NUMBER)
_ALL = re.compile(rf"(?:[\s,]*{NUMBER})*+[\s,]*")
_ARC = re.compile(rf"\s*,?\s*({NUMBER})\s*,?\s*({NUMBER})\s*,?\s*({NUMBER})\s*,?\s*([01])\s*,?\s*([01])\s*,?\s*({NUMBER})\s*,?\s*({NUMBER})")  # fmt: skip
#: Numbers whose sum is beyond this are none of a drawing.
_REASON = 1e18
#: So many numbers are taken together.
_MANY = 64
#: Elements that are a shape.
DRAWS = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"}
_TAKES = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2}
_Point = tuple[float, float]


def path_data(text: str) -> tuple[list[Subpath], bool]:
    """Subpaths of a `d` attribute, and whether all of it could be read."""
    pen = _Pen()
    at = 0
    for found in _COMMAND.finditer(text):
        if text[at : found.start()].strip() and pen.begun:
            return pen.done(), False
        at = found.end()
        command, inside = (found[1], found[2].replace(found[1], " ")) if found[1] else (found[3], found[4])
        values, whole = (_arcs if command in "Aa" else _numbers)(inside)
        if not pen.draw(command, values) or not whole:
            return pen.done(), False
    return pen.done(), pen.sound and not text[at:].strip()


def _numbers(inside: str) -> tuple[list[float], bool]:
    if _ALL.fullmatch(inside):
        return [float(item) for item in _NUMBER.findall(inside)], True
    values: list[float] = []
    end = 0
    for found in _NUMBER.finditer(inside):
        if inside[end : found.start()].strip(" \t\r\n,"):
            return values, False
        values.append(float(found[0]))
        end = found.end()
    return values, not inside[end:].strip(" \t\r\n,")


def _arcs(inside: str) -> tuple[list[float], bool]:
    """Flags need no space after them: `a1 1 0 01.5.5`."""
    values: list[float] = []
    end = 0
    while found := _ARC.match(inside, end):
        values += [float(item) for item in found.groups()]
        end = found.end()
    return values, not inside[end:].strip(" \t\r\n,")


class _Pen:
    def __init__(self) -> None:
        self.begun = False
        self._paths: list[Subpath] = []
        self._start: _Point = (0.0, 0.0)
        self._at: _Point = (0.0, 0.0)
        self._segments: list[Segment] = []
        self._line: list[float] = []
        self._moved = False
        self._handle: tuple[str, _Point] = ("", (0.0, 0.0))

    def draw(self, command: str, v: list[float]) -> bool:
        """Do one command with all its repeats; False for one in error."""
        verb, relative = command.upper(), command.islower()
        if not self.begun and verb != "M":
            return False
        self.begun = True
        if verb == "Z":
            self._close()
            return not v
        if verb == "A":
            for i in range(0, len(v), 7):
                self._arc(v[i : i + 7], relative)
            return bool(v)
        takes = _TAKES[verb]
        good = len(v) - len(v) % takes
        if verb == "L" and good > _MANY:
            self._run(v[:good], relative)
            return good == len(v)
        for i in range(0, good, takes):
            self._one(verb, v[i : i + takes], relative)
            if verb == "M":
                verb = "L"  # further pairs are lines
        return bool(v) and good == len(v)

    def _one(self, verb: str, v: list[float], relative: bool) -> None:
        x0, y0 = self._at
        if verb == "H":
            self._to(v[0] + x0 if relative else v[0], y0)
            return
        if verb == "V":
            self._to(x0, v[0] + y0 if relative else v[0])
            return
        if relative:
            v = [value + (y0 if i % 2 else x0) for i, value in enumerate(v)]
        if verb == "L":
            self._to(v[0], v[1])
        elif verb == "M":
            self._end(False)
            self._start = self._at = (v[0], v[1])
            self._moved, self._handle = True, ("", self._at)
        elif verb in "CS":
            if verb == "S":
                v = [*self._reflected("C"), *v]
            self._curve("C", v)
        else:
            if verb == "T":
                v = [*self._reflected("Q"), *v]
            self._curve("Q", v)

    def _run(self, v: list[float], relative: bool) -> None:
        """Many straight lines at once."""
        if relative:
            v = (np.cumsum(np.array(v).reshape(-1, 2), axis=0) + self._at).reshape(-1).tolist()
        self._line += v
        self._at = (v[-2], v[-1])
        self._handle = ("", self._at)

    def _reflected(self, kind: str) -> _Point:
        last, (x, y) = self._handle
        return (2 * self._at[0] - x, 2 * self._at[1] - y) if last == kind else self._at

    def _to(self, x: float, y: float) -> None:
        self._line += (x, y)
        self._at = (x, y)
        self._handle = ("", self._at)

    def _curve(self, kind: str, v: list[float]) -> None:
        self._flush()
        self._segments.append((kind, tuple(v)))
        self._at = (v[-2], v[-1])
        self._handle = (kind, (v[-4], v[-3]))

    def _arc(self, v: list[float], relative: bool) -> None:
        x, y = (v[5] + self._at[0], v[6] + self._at[1]) if relative else (v[5], v[6])
        segment = arc_between(self._at, (x, y), v[0], v[1], v[2], v[3] != 0, v[4] != 0)
        if segment is None:
            self._to(x, y)
            return
        self._flush()
        self._segments.append(segment)
        self._at = (x, y)
        self._handle = ("", self._at)

    def _flush(self) -> None:
        if self._line:
            self._segments.append(("L", tuple(self._line)))
            self._line = []

    def _end(self, closed: bool) -> None:
        self._flush()
        if self._segments or (closed and self._moved):
            self._paths.append(Subpath(self._start, tuple(self._segments), closed))
        self._segments, self._moved = [], False

    def _close(self) -> None:
        self._end(True)
        self._at = self._start
        self._handle = ("", self._at)

    def done(self) -> list[Subpath]:
        self._end(False)
        return [path for path in self._paths if _finite(path)]

    @property
    def sound(self) -> bool:
        """Whether all numbers were those of a drawing."""
        return all(map(_finite, self._paths))


def _finite(path: Subpath) -> bool:
    """Whether all numbers are those of a drawing. A sum with what is not a number is none either."""
    return sum(map(abs, path.start)) + sum(sum(map(abs, values)) for _, values in path.segments) < _REASON


def arc_between(
    start: _Point, end: _Point, rx: float, ry: float, degrees: float, large: bool, sweep: bool
) -> Segment | None:
    """From end points to centre and angles (SVG 2, B.2.4); None for an arc that is a straight line."""
    rx, ry = abs(rx), abs(ry)
    if not (rx > 0 and ry > 0) or start == end:
        return None
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    dx, dy = (start[0] - end[0]) / 2, (start[1] - end[1]) / 2
    x, y = (c * dx + s * dy) / rx, (c * dy - s * dx) / ry
    far = x * x + y * y
    if far > 1:
        rx, ry, x, y, far = rx * math.sqrt(far), ry * math.sqrt(far), x / math.sqrt(far), y / math.sqrt(far), 1.0
    # On the unit circle: the middle of the chord is 0, and the centre lies across it.
    reach = math.sqrt(max(0.0, 1 - far) / far) * (1 if large != sweep else -1)
    ux, uy = -y * reach, x * reach
    centre_x, centre_y = -ux, -uy
    first = math.atan2(y - centre_y, x - centre_x)
    last = math.atan2(-y - centre_y, -x - centre_x)
    turn = (last - first) % (2 * math.pi)
    if not sweep:
        turn -= 2 * math.pi
    cx = c * rx * centre_x - s * ry * centre_y + (start[0] + end[0]) / 2
    cy = s * rx * centre_x + c * ry * centre_y + (start[1] + end[1]) / 2
    return "A", (cx, cy, rx * c, rx * s, -ry * s, ry * c, first, turn)


def outline(element: ElementTree.Element, name: str, port: Viewport) -> tuple[list[Subpath], bool]:
    """Subpaths of any element that draws one, and whether all of it could be read."""

    def across(key: str, otherwise: float = 0.0) -> float:
        return length(element.get(key), port.width, otherwise)

    def down(key: str, otherwise: float = 0.0) -> float:
        return length(element.get(key), port.height, otherwise)

    if name == "path":
        return path_data(element.get("d") or "")
    if name == "circle":
        r = length(element.get("r"), port.diagonal)
        return _kept([circle(across("cx"), down("cy"), r)] if r > 0 else [])
    if name == "ellipse":
        rx, ry = across("rx", -1.0), down("ry", -1.0)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        return _kept([circle(across("cx"), down("cy"), rx, ry)] if rx > 0 and ry > 0 else [])
    if name == "rect":
        rx, ry = across("rx", -1.0), down("ry", -1.0)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        return _kept(_rect(across("x"), down("y"), across("width"), down("height"), max(rx, 0.0), max(ry, 0.0)))
    if name == "line":
        return _kept([polyline([(across("x1"), down("y1")), (across("x2"), down("y2"))], False)])
    if name in ("polyline", "polygon"):
        values = numbers(element.get("points") or "")
        points = [(values[i], values[i + 1]) for i in range(0, len(values) - 1, 2)]
        paths, sound = _kept([polyline(points, name == "polygon")] if len(points) > 1 else [])
        return paths, sound and len(values) % 2 == 0
    return [], True


def _kept(paths: list[Subpath]) -> tuple[list[Subpath], bool]:
    found = [path for path in paths if _finite(path)]
    return found, len(found) == len(paths)


def _rect(x: float, y: float, w: float, h: float, rx: float, ry: float) -> list[Subpath]:
    if not (w > 0 and h > 0):
        return []
    rx, ry = min(rx, w / 2), min(ry, h / 2)
    if not (rx > 0 and ry > 0):
        return [polyline([(x, y), (x + w, y), (x + w, y + h), (x, y + h)], True)]
    quarter = math.pi / 2

    def corner(cx: float, cy: float, start: float) -> Segment:
        return "A", (cx, cy, rx, 0.0, 0.0, ry, start, quarter)

    return [
        Subpath(
            (x + rx, y),
            (
                ("L", (x + w - rx, y)), corner(x + w - rx, y + ry, -quarter),
                ("L", (x + w, y + h - ry)), corner(x + w - rx, y + h - ry, 0.0),
                ("L", (x + rx, y + h)), corner(x + rx, y + h - ry, quarter),
                ("L", (x, y + ry)), corner(x + rx, y + ry, 2 * quarter),
            ),
            True,
        )
    ]  # fmt: skip
