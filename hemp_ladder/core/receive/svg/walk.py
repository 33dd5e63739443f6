"""Walks an SVG as a renderer does: uses, symbols, nested viewports, clips and inherited style, down to shapes.

A stack of its own, not recursion, and a count of shapes: how deep a file
nests and how often it uses itself is the file's choice.
"""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any
from xml.etree import ElementTree

from hemp_ladder.core.drawn.curves import IDENTITY, Affine, Subpath, polyline
from hemp_ladder.core.drawn.shape import Area, Shape, shift, times
from hemp_ladder.core.model.model import Colour
from hemp_ladder.core.receive.svg import markers
from hemp_ladder.core.receive.svg.clips import Clipping
from hemp_ladder.core.receive.svg.document import Document, applies, first_that_applies, local
from hemp_ladder.core.receive.svg.here import Found, Group, Here
from hemp_ladder.core.receive.svg.paths import DRAWS, outline
from hemp_ladder.core.receive.svg.pens import penned
from hemp_ladder.core.receive.svg.place import Viewport, fit, length, view_box
from hemp_ladder.core.receive.svg.style import (
    INHERITED,
    MARKERS,
    Style,
    Styles,
    cascade,
    css_colour,
    in_context,
    number,
    paint,
    reference,
)  # fmt: skip

Element = ElementTree.Element
#: Shapes that come of uses of uses: so many, or four times the file's own elements. More is a bomb.
MOST_SHAPES = 10_000
_MARKED = {"path", "line", "polyline", "polygon"}
_GROUPS = {"g", "a", "switch"}
#: What draws nothing where it stands.
_APART = {"defs", "symbol", "clipPath", "mask", "marker", "pattern", "linearGradient", "radialGradient", "filter",
          "style", "script", "title", "desc", "metadata", "view"}  # fmt: skip


@dataclass
class Walk:
    document: Document
    styles: Styles
    root: Affine
    port: Viewport
    groups: list[Group] = field(default_factory=list)
    noticed: Counter[str] = field(default_factory=Counter)
    unfollowed: Counter[str] = field(default_factory=Counter)
    texts: list[str] = field(default_factory=list)
    hidden: list[str] = field(default_factory=list)
    outside: list[str] = field(default_factory=list)
    circles: list[str] = field(default_factory=list)
    broken: list[str] = field(default_factory=list)
    too_many: bool = False

    def __post_init__(self) -> None:
        self._clipping = Clipping(self.document, self.styles, self.noticed)

    def run(self) -> Iterator[Found]:
        """Every shape that is seen, in drawing order."""
        root = self.document.root
        style = cascade(INHERITED, self.styles.declared(root))
        here = Here(self.root, style, number(self.styles.declared(root), "opacity", 1.0), (), self.port, -1)
        stack: list[tuple[Element, Here]] = [(child, here) for child in reversed(root)]
        count, most = 0, max(MOST_SHAPES, 4 * self.document.elements)
        while stack:
            element, at = stack.pop()
            name = local(element)
            if name is None or name in _APART or not applies(element):
                continue
            declared = self.styles.declared(element)
            if declared.get("display") == "none":
                self.hidden.append(_called(element) or name)
                continue
            at = self._enter(element, declared, at)
            if name in DRAWS:
                for found in self._draw(element, name, declared, at):
                    count += 1
                    if count > most:
                        self.too_many = True
                        return
                    yield found
                if name in _MARKED and any(at.style[which] != "none" for which in MARKERS):
                    stack += self._marks(element, name, at)
            elif name in _GROUPS:
                below = self._group(element, at)
                children = list(element) if name != "switch" else first_that_applies(element)
                stack += [(child, below) for child in reversed(children)]
            elif name == "svg":
                stack += self._viewport(element, self._group(element, at), element)
            elif name == "use":
                stack += self._use(element, at)
            else:
                self._notice(element, name, at)

    def _enter(self, element: Element, declared: Style, at: Here) -> Here:
        """Inside the element: its own map, style and clip."""
        to_sheet = times(at.to_sheet, self._clipping.own_map(element, at))
        style = cascade(at.style, declared)
        if declared.get("filter", "none") != "none":
            self.noticed["filter"] += 1
        if declared.get("mask", "none") != "none":
            self.unfollowed["mask"] += 1
        here = replace(at, to_sheet=to_sheet, style=style, opacity=at.opacity * number(declared, "opacity", 1.0))
        clip = declared.get("clip-path", "none")
        return here if clip == "none" else replace(here, clips=self._clipping.of(clip, element, here))

    def _group(self, element: Element, at: Here) -> Here:
        called = _called(element)
        self.groups.append(Group(called or f"group {len(self.groups) + 1}", at.group, bool(called)))
        return replace(at, group=len(self.groups) - 1)

    def _viewport(self, element: Element, at: Here, sized: Element) -> list[tuple[Element, Here]]:
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

    def _use(self, element: Element, at: Here) -> list[tuple[Element, Here]]:
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

    def _draw(self, element: Element, name: str, declared: Style, at: Here) -> Iterator[Found]:
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
        called = _called(element)
        style = in_context(at.style, at.context)
        fill = paint(style, "fill", self._gradient, at.opacity)
        stroke = paint(style, "stroke", self._gradient, at.opacity)
        width = length(at.style["stroke-width"], at.port.diagonal, 1.0)
        filled = fill is not None and fill.alpha > 0 and any(map(_goes_around, paths))
        both = filled and stroke is not None and width > 0
        if filled and fill is not None:
            rule: Any = "evenodd" if at.style["fill-rule"] == "evenodd" else "nonzero"
            shape = Shape(tuple(path.moved(at.to_sheet) for path in paths), rule, None, at.clips)
            yield Found(shape, called, name, at.group, fill)
        if stroke is not None and stroke.alpha > 0 and width > 0:
            told = length(element.get("pathLength"), 0.0)
            shape, wide = penned(paths, width, declared, at, self.root, told)
            yield Found(shape, f"{called} line" if called and both else called, f"{name} line" if both else name,
                        at.group, stroke, wide)  # fmt: skip

    def _marks(self, element: Element, name: str, at: Here) -> list[tuple[Element, Here]]:
        """What the markers of a shape draw at its vertices, as they come, on top of it."""
        if at.context is not None or at.style["visibility"] in ("hidden", "collapse"):
            return []  # markers have none of their own
        width = length(at.style["stroke-width"], at.port.diagonal, 1.0)
        found: list[tuple[Element, Here]] = []
        for spot in markers.spots(outline(element, name, at.port)[0]):
            marker = self.document.by_id.get(reference(at.style[spot.which]))
            stamp = markers.stamp(marker, spot, width, at.port) if marker is not None else None
            if marker is None or stamp is None or local(marker) != "marker":
                continue
            outer = times(at.to_sheet, stamp.outer)
            declared = self.styles.declared(marker)
            clips = at.clips
            if declared.get("overflow", "hidden") in ("hidden", "scroll"):
                clips = (*clips, (Area((stamp.frame.moved(outer),)),))
            # What a marker draws looks as where it stands in the file, not as the line.
            style = cascade(cascade(INHERITED, self.styles.declared(self.document.root)), declared)
            here = replace(
                at, to_sheet=times(outer, stamp.inner), style=style, clips=clips, port=stamp.port, context=at.style
            )
            found += [(child, here) for child in marker]
        return found[::-1]

    def _gradient(self, name: str) -> Colour | None:
        """The first colour of a gradient, grey for a pattern; None for what is not there."""
        for _ in range(8):
            target = self.document.by_id.get(name)
            kind = local(target) if target is not None else None
            if target is None or kind not in ("linearGradient", "radialGradient", "pattern"):
                return None
            if kind != "pattern":
                self.noticed["gradient"] += 1
            else:
                self.unfollowed["pattern"] += 1
                return Colour(0.5, 0.5, 0.5)
            stop = next((child for child in target if local(child) == "stop"), None)
            if stop is not None:
                declared = self.styles.declared(stop)
                return css_colour(declared.get("stop-color", "black"), declared.get("color", "black"))
            name = self.document.referred(target)[0].removeprefix("#")
        return None

    def _notice(self, element: Element, name: str, at: Here) -> None:
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
