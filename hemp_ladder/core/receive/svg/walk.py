"""Walks an SVG as a renderer does: uses, symbols, nested viewports, clips and inherited style, down to shapes.

A stack of its own, not recursion, and a count of shapes: how deep a file
nests and how often it uses itself is the file's choice.
"""

import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any
from xml.etree import ElementTree

from hemp_ladder.core.drawn.curves import IDENTITY, Affine, Subpath, polyline
from hemp_ladder.core.drawn.shape import Area, Shape, Stroke, shift, times
from hemp_ladder.core.model import Colour
from hemp_ladder.core.receive.svg.document import Document, local
from hemp_ladder.core.receive.svg.paths import outline
from hemp_ladder.core.receive.svg.place import Viewport, fit, length, transform, view_box
from hemp_ladder.core.receive.svg.style import INHERITED, Style, Styles, cascade, css_colour, number, paint

Element = ElementTree.Element
Clips = tuple[tuple[Area, ...], ...]
#: Shapes that come of uses of uses: so many, or four times the file's own elements. More is a bomb.
MOST_SHAPES = 10_000
_DRAWS = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"}
_GROUPS = {"g", "a", "switch"}
#: What draws nothing where it stands.
_APART = {"defs", "symbol", "clipPath", "mask", "marker", "pattern", "linearGradient", "radialGradient", "filter",
          "style", "script", "title", "desc", "metadata", "view"}  # fmt: skip


@dataclass(frozen=True)
class Found:
    """One shape on the sheet: what it is called, its group in the tree, its look, and whether it is a line."""

    shape: Shape
    name: str
    kind: str
    group: int
    colour: Colour
    width: float = 0.0


@dataclass
class Group:
    name: str
    parent: int
    named: bool


@dataclass(frozen=True)
class _Here:
    """Where the walk stands: the map to the sheet, style, what clips, and the viewport."""

    to_sheet: Affine
    style: Style
    opacity: float
    clips: Clips
    port: Viewport
    group: int
    uses: tuple[str, ...] = ()


@dataclass
class Walk:
    document: Document
    styles: Styles
    root: Affine
    port: Viewport
    groups: list[Group] = field(default_factory=list)
    noticed: Counter[str] = field(default_factory=Counter)
    texts: list[str] = field(default_factory=list)
    hidden: list[str] = field(default_factory=list)
    outside: list[str] = field(default_factory=list)
    circles: list[str] = field(default_factory=list)
    broken: list[str] = field(default_factory=list)
    too_many: bool = False

    def run(self) -> Iterator[Found]:
        """Every shape that is seen, in drawing order."""
        root = self.document.root
        style = cascade(INHERITED, self.styles.declared(root))
        here = _Here(self.root, style, number(self.styles.declared(root), "opacity", 1.0), (), self.port, -1)
        stack: list[tuple[Element, _Here]] = [(child, here) for child in reversed(root)]
        count, most = 0, max(MOST_SHAPES, 4 * self.document.elements)
        while stack:
            element, at = stack.pop()
            name = local(element)
            if name is None or name in _APART:
                continue
            declared = self.styles.declared(element)
            if declared.get("display") == "none":
                self.hidden.append(_called(element) or name)
                continue
            at = self._enter(element, declared, at)
            if name in _DRAWS:
                for found in self._draw(element, name, declared, at):
                    count += 1
                    if count > most:
                        self.too_many = True
                        return
                    yield found
            elif name in _GROUPS:
                below = self._group(element, at)
                children = list(element) if name != "switch" else [c for c in element if local(c)][:1]
                stack += [(child, below) for child in reversed(children)]
            elif name == "svg":
                stack += self._viewport(element, self._group(element, at), element)
            elif name == "use":
                stack += self._use(element, at)
            else:
                self._notice(element, name, at)

    def _enter(self, element: Element, declared: Style, at: _Here) -> _Here:
        """Inside the element: its own map, style and clip."""
        to_sheet = times(at.to_sheet, transform(element.get("transform") or declared.get("transform")))
        style = cascade(at.style, declared)
        for name in ("mask", "filter"):
            if declared.get(name, "none") != "none":
                self.noticed[name] += 1
        here = replace(at, to_sheet=to_sheet, style=style, opacity=at.opacity * number(declared, "opacity", 1.0))
        clip = declared.get("clip-path", "none")
        return here if clip == "none" else replace(here, clips=self._clipped(clip, element, here))

    def _clipped(self, text: str, element: Element, at: _Here) -> Clips:
        target = self.document.by_id.get(text.partition("(")[2].partition(")")[0].strip(" '\"#"))
        if target is None or local(target) != "clipPath":
            self.noticed["clip that is not in the file"] += 1
            return at.clips
        to_sheet = at.to_sheet
        if target.get("clipPathUnits") == "objectBoundingBox":
            box = self._box_of(element, at)
            if box is None:
                return at.clips
            to_sheet = times(to_sheet, (box[2], 0.0, box[0], 0.0, box[3], box[1]))
        to_sheet = times(to_sheet, transform(target.get("transform")))
        areas: list[Area] = []
        for child in target:
            name = local(child)
            inner, own = child, times(to_sheet, transform(child.get("transform")))
            if name == "use":
                _, referred = self.document.referred(child)
                if referred is None:
                    continue
                own = times(own, shift(length(child.get("x"), at.port.width), length(child.get("y"), at.port.height)))
                inner, own = referred, times(own, transform(referred.get("transform")))
                name = local(inner)
            if name in _DRAWS:
                paths, _ = outline(inner, name, at.port)
                declared = cascade(at.style, self.styles.declared(inner))
                rule: Any = "evenodd" if declared["clip-rule"] == "evenodd" else "nonzero"
                areas.append(Area(tuple(p.moved(own) for p in paths), rule))
        # A clip may itself be clipped.
        outer = self.styles.declared(target).get("clip-path", "none")
        clips = at.clips
        if outer != "none" and outer != text:
            clips = self._clipped(outer, element, at)
        return (*clips, tuple(areas))

    def _box_of(self, element: Element, at: _Here) -> tuple[float, float, float, float] | None:
        from hemp_ladder.core.drawn.curves import bounds

        paths: list[Subpath] = []
        for child in element.iter():
            name = local(child)
            if name in _DRAWS:
                paths += outline(child, name, at.port)[0]
        box = bounds(paths)
        wide, high = (box[1] - box[0]).tolist()
        return (box[0, 0], box[0, 1], wide, high) if wide > 0 and high > 0 else None

    def _group(self, element: Element, at: _Here) -> _Here:
        called = _called(element)
        self.groups.append(Group(called or f"group {len(self.groups) + 1}", at.group, bool(called)))
        return replace(at, group=len(self.groups) - 1)

    def _viewport(self, element: Element, at: _Here, sized: Element) -> list[tuple[Element, _Here]]:
        """Into a nested `svg`, or a `symbol` that a use gives its size."""
        port = at.port
        width = length(sized.get("width"), port.width, length(element.get("width"), port.width, port.width))
        height = length(sized.get("height"), port.height, length(element.get("height"), port.height, port.height))
        if not (width > 0 and height > 0):
            return []
        corner = IDENTITY
        if sized is element:
            corner = shift(length(element.get("x"), port.width), length(element.get("y"), port.height))
        outer = times(at.to_sheet, corner)
        box = view_box(element.get("viewBox"))
        inner = times(outer, fit(box, width, height, element.get("preserveAspectRatio"))) if box else outer
        clips = at.clips
        if self.styles.declared(element).get("overflow", "hidden") in ("hidden", "scroll"):
            frame = polyline([(0, 0), (width, 0), (width, height), (0, height)], True).moved(outer)
            clips = (*clips, (Area((frame,)),))
        below = replace(
            at, to_sheet=inner, clips=clips, port=Viewport(box[2], box[3]) if box else Viewport(width, height)
        )
        return [(child, below) for child in reversed(element)]

    def _use(self, element: Element, at: _Here) -> list[tuple[Element, _Here]]:
        href, target = self.document.referred(element)
        if target is None:
            if href and not href.startswith("#"):
                self.outside.append(href)
            elif href:
                self.noticed["use of what is not in the file"] += 1
            return []
        if href in at.uses:
            self.circles.append(href)
            return []
        if len(at.uses) > 50:
            self.circles.append(href)
            return []
        place = shift(length(element.get("x"), at.port.width), length(element.get("y"), at.port.height))
        below = self._group(element, replace(at, to_sheet=times(at.to_sheet, place), uses=(*at.uses, href)))
        if local(target) in ("symbol", "svg"):
            declared = self.styles.declared(target)
            return self._viewport(target, self._enter(target, declared, below), element)
        return [(target, below)]

    def _draw(self, element: Element, name: str, declared: Style, at: _Here) -> Iterator[Found]:
        if at.style["visibility"] in ("hidden", "collapse"):
            self.hidden.append(_called(element) or name)
            return
        paths, whole = outline(element, name, at.port)
        if not whole:
            self.broken.append(_called(element) or name)
        if not paths:
            return
        if not all(abs(value) < 1e12 for value in at.to_sheet):
            self.broken.append(_called(element) or name)
            return
        a, b, _, d, e, _ = at.to_sheet
        if abs(a * e - b * d) < 1e-30:
            self.noticed["shape scaled to nothing"] += 1
            return
        for marker in ("marker-start", "marker-mid", "marker-end"):
            if declared.get(marker, "none") != "none":
                self.noticed["marker"] += 1
                break
        called = _called(element)
        fill = paint(at.style, "fill", self._gradient, at.opacity)
        stroke = paint(at.style, "stroke", self._gradient, at.opacity)
        width = length(at.style["stroke-width"], at.port.diagonal, 1.0)
        filled = fill is not None and fill.alpha > 0 and any(map(_goes_around, paths))
        both = filled and stroke is not None and width > 0
        if filled and fill is not None:
            rule: Any = "evenodd" if at.style["fill-rule"] == "evenodd" else "nonzero"
            shape = Shape(tuple(path.moved(at.to_sheet) for path in paths), rule, None, at.clips)
            yield Found(shape, called, name, at.group, fill)
        if stroke is not None and stroke.alpha > 0 and width > 0:
            shape, wide = self._stroked(paths, width, declared, at)
            yield Found(shape, f"{called} line" if called and both else called, f"{name} line" if both else name,
                        at.group, stroke, wide)  # fmt: skip

    def _stroked(self, paths: list[Subpath], width: float, declared: Style, at: _Here) -> tuple[Shape, float]:
        style = at.style
        to_sheet = at.to_sheet
        a, b, _, d, e, _ = to_sheet
        stretch = math.sqrt(abs(a * e - b * d))
        dashes = [length(item, at.port.diagonal) for item in style["stroke-dasharray"].replace(",", " ").split()]
        if style["stroke-dasharray"] == "none" or any(v < 0 for v in dashes) or sum(dashes) <= 0:
            dashes = []
        if len(dashes) % 2:
            dashes *= 2
        offset = length(style["stroke-dashoffset"], at.port.diagonal)
        if declared.get("vector-effect") == "non-scaling-stroke":
            # The pen draws on the outermost viewport, in its pixels (SVG 2, 8.13).
            r = self.root
            host = math.sqrt(abs(r[0] * r[4] - r[1] * r[3]))
            paths, to_sheet, stretch = [p.moved(to_sheet) for p in paths], IDENTITY, 1.0
            width, offset, dashes = width * host, offset * host, [v * host for v in dashes]
        limit = number(style, "stroke-miterlimit", 4.0)
        join: Any = style["stroke-linejoin"] if style["stroke-linejoin"] in ("round", "bevel") else "miter"
        cap: Any = style["stroke-linecap"] if style["stroke-linecap"] in ("round", "square") else "butt"
        pen = Stroke(width, join, cap, limit if limit >= 1 else 4.0, tuple(dashes), offset, to_sheet)
        return Shape(tuple(paths), "nonzero", pen, at.clips), width * stretch

    def _gradient(self, name: str) -> Colour | None:
        """The first colour of a gradient, grey for a pattern; None for what is not there."""
        for _ in range(8):
            target = self.document.by_id.get(name)
            kind = local(target) if target is not None else None
            if target is None or kind not in ("linearGradient", "radialGradient", "pattern"):
                return None
            self.noticed["gradient or pattern"] += 1
            if kind == "pattern":
                return Colour(0.5, 0.5, 0.5)
            stop = next((child for child in target if local(child) == "stop"), None)
            if stop is not None:
                declared = self.styles.declared(stop)
                return css_colour(declared.get("stop-color", "black"), declared.get("color", "black"))
            name = self.document.referred(target)[0].removeprefix("#")
        return None

    def _notice(self, element: Element, name: str, at: _Here) -> None:
        if name == "text":
            self.texts.append(" ".join("".join(element.itertext()).split()))
        elif name == "image":
            href = self.document.referred(element)[0]
            self.noticed["image"] += 1
            if href and not href.startswith(("data:", "#")):
                self.outside.append(href)
        else:
            self.noticed[name] += 1


def _goes_around(path: Subpath) -> bool:
    """Whether it can enclose anything: a straight line is filled by nothing, though its fill be black."""
    corners = sum(len(values) // 2 for verb, values in path.segments if verb == "L")
    return corners > 1 or any(verb != "L" for verb, _ in path.segments)


def _called(element: Element) -> str:
    """What a person called it: a label of any editor, its title, or its id."""
    for key, value in element.items():
        if key.rpartition("}")[2] in ("label", "aria-label") and value.strip():
            return value.strip()
    title = next((child for child in element if local(child) == "title"), None)
    text = "".join(title.itertext()).strip() if title is not None else ""
    return text or (element.get("id") or "").strip()
