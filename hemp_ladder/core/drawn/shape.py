"""A shape as it was drawn, and as bytes: what a drawn part keeps instead of a kernel's solid."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from hemp_ladder.core.drawn.curves import IDENTITY, Affine, Subpath

Rule = Literal["nonzero", "evenodd"]
MAGIC = b"drawn/1\n"


@dataclass(frozen=True, slots=True)
class Stroke:
    """How a pen draws along the subpaths, in their own space; `matrix` takes what it drew to the sheet.

    Joins, caps, miter limit and dashes as SVG 2 defines them (chapter 13).
    """

    width: float
    join: Literal["miter", "round", "bevel"] = "miter"
    cap: Literal["butt", "round", "square"] = "butt"
    miter: float = 4.0
    dashes: tuple[float, ...] = ()
    dash_offset: float = 0.0
    matrix: Affine = IDENTITY


@dataclass(frozen=True, slots=True)
class Area:
    """What subpaths enclose by a fill rule."""

    subpaths: tuple[Subpath, ...]
    rule: Rule = "nonzero"


@dataclass(frozen=True, slots=True)
class Shape:
    """Subpaths with the rule that fills them, or the pen that draws along them, and areas that it is clipped to.

    Each clip is a union of areas; the shape is what lies in all clips.
    """

    subpaths: tuple[Subpath, ...]
    rule: Rule = "nonzero"
    stroke: Stroke | None = None
    clips: tuple[tuple[Area, ...], ...] = ()

    def moved(self, by: Affine) -> "Shape":
        """The same shape after the map; a pen's line is stretched with it."""
        clips = tuple(tuple(Area(_all(a.subpaths, by), a.rule) for a in clip) for clip in self.clips)
        if self.stroke is None:
            return replace(self, subpaths=_all(self.subpaths, by), clips=clips)
        stroke = replace(self.stroke, matrix=times(by, self.stroke.matrix))
        return replace(self, stroke=stroke, clips=clips)

    @property
    def on_sheet(self) -> tuple[Subpath, ...]:
        """The subpaths where they lie, whatever their pen's own space."""
        return self.subpaths if self.stroke is None else _all(self.subpaths, self.stroke.matrix)


def times(first: Affine, then: Affine) -> Affine:
    """The map that does `then` and after it `first`, as a product of matrices."""
    a, b, c, d, e, f = first
    g, h, i, j, k, m = then
    return (a * g + b * j, a * h + b * k, a * i + b * m + c, d * g + e * j, d * h + e * k, d * i + e * m + f)


def shift(x: float, y: float) -> Affine:
    return (1.0, 0.0, x, 0.0, 1.0, y)


def _all(subpaths: Sequence[Subpath], by: Affine) -> tuple[Subpath, ...]:
    return tuple(subpaths) if by == IDENTITY else tuple(path.moved(by) for path in subpaths)


def write_drawn(shape: Shape) -> bytes:
    """The shape as bytes: JSON behind a mark. Numbers keep every digit."""
    stroke = shape.stroke
    document: dict[str, Any] = {"paths": [path.as_list() for path in shape.subpaths], "rule": shape.rule}
    if stroke is not None:
        document["stroke"] = [
            stroke.width, stroke.join, stroke.cap, stroke.miter, stroke.dashes, stroke.dash_offset, stroke.matrix,
        ]  # fmt: skip
    if shape.clips:
        document["clips"] = [[[[p.as_list() for p in a.subpaths], a.rule] for a in clip] for clip in shape.clips]
    return MAGIC + json.dumps(document, separators=(",", ":")).encode()


def read_drawn(data: bytes) -> Shape:
    """The shape that `write_drawn` wrote."""
    document = json.loads(data[len(MAGIC) :])
    stroke = None
    if "stroke" in document:
        width, join, cap, miter, dashes, offset, matrix = document["stroke"]
        stroke = Stroke(width, join, cap, miter, tuple(dashes), offset, tuple(matrix))
    clips = tuple(tuple(Area(_paths(p), rule) for p, rule in clip) for clip in document.get("clips", ()))
    return Shape(_paths(document["paths"]), document["rule"], stroke, clips)


def _paths(data: list[Any]) -> tuple[Subpath, ...]:
    return tuple(Subpath.from_list(item) for item in data)
