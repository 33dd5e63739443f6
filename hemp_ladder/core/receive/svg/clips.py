"""Clip paths: what they leave of an element, as areas on the sheet (CSS Masking 1, chapter 5)."""

from collections import Counter
from typing import Any
from xml.etree import ElementTree

from hemp_ladder.core.drawn.curves import Affine, Subpath, bounds
from hemp_ladder.core.drawn.shape import Area, shift, times
from hemp_ladder.core.receive.svg.document import Document, local
from hemp_ladder.core.receive.svg.here import Clips, Here
from hemp_ladder.core.receive.svg.paths import DRAWS, outline
from hemp_ladder.core.receive.svg.place import length, transform
from hemp_ladder.core.receive.svg.style import Styles, cascade, reference

Element = ElementTree.Element


class Clipping:
    """Looks clip paths up in a document; counts those that are not there."""

    def __init__(self, document: Document, styles: Styles, noticed: Counter[str]) -> None:
        self._document, self._styles, self._noticed = document, styles, noticed

    def own_map(self, element: Element, at: Here) -> Affine:
        """An element's own transform."""
        declared = self._styles.declared(element)
        return transform(declared.get("transform"), at.port, declared.get("transform-origin"))

    def of(self, text: str, element: Element, at: Here) -> Clips:
        """What clips the element: all around it, its own clip path, and what clips that."""
        clips, met = at.clips, set[str]()
        while (name := reference(text)) not in met:
            met.add(name)
            target = self._document.by_id.get(name)
            if target is None or local(target) != "clipPath":
                self._noticed["clip that is not in the file"] += 1
                break
            areas = self._areas(target, element, at)
            if areas is None:
                break
            clips = (*clips, areas)
            text = self._styles.declared(target).get("clip-path", "none")
            if text == "none":
                break
        return clips

    def _areas(self, target: Element, element: Element, at: Here) -> tuple[Area, ...] | None:
        to_sheet = at.to_sheet
        if target.get("clipPathUnits") == "objectBoundingBox":
            box = _box_of(element, at)
            if box is None:
                return None
            to_sheet = times(to_sheet, (box[2], 0.0, box[0], 0.0, box[3], box[1]))
        to_sheet = times(to_sheet, self.own_map(target, at))
        areas: list[Area] = []
        for child in target:
            name = local(child)
            inner, own = child, times(to_sheet, self.own_map(child, at))
            if name == "use":
                _, referred = self._document.referred(child)
                if referred is None:
                    continue
                own = times(own, shift(length(child.get("x"), at.port.width), length(child.get("y"), at.port.height)))
                inner, own = referred, times(own, self.own_map(referred, at))
                name = local(inner)
            declared = self._styles.declared(inner)
            style = cascade(at.style, declared)
            if name not in DRAWS or declared.get("display") == "none" or style["visibility"] != "visible":
                continue
            paths, _ = outline(inner, name, at.port)
            rule: Any = "evenodd" if style["clip-rule"] == "evenodd" else "nonzero"
            areas.append(Area(tuple(p.moved(own) for p in paths), rule))
        return tuple(areas)


def _box_of(element: Element, at: Here) -> tuple[float, float, float, float] | None:
    paths: list[Subpath] = []
    for child in element.iter():
        name = local(child)
        if name in DRAWS:
            paths += outline(child, name, at.port)[0]
    box = bounds(paths)
    wide, high = (box[1] - box[0]).tolist()
    return (box[0, 0], box[0, 1], wide, high) if wide > 0 and high > 0 else None
