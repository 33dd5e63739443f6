"""How a pen draws, by an element's stroke properties (SVG 2, chapter 13)."""

import math
from typing import Any

import numpy as np

from hemp_ladder.core.drawn.curves import IDENTITY, Affine, Subpath
from hemp_ladder.core.drawn.flatten import Fineness, flatten
from hemp_ladder.core.drawn.shape import Shape, Stroke
from hemp_ladder.core.receive.svg.here import Here
from hemp_ladder.core.receive.svg.place import length
from hemp_ladder.core.receive.svg.style import Style, number


def penned(
    paths: list[Subpath], width: float, declared: Style, at: Here, root: Affine, told: float = 0.0
) -> tuple[Shape, float]:
    """A line of the pen along paths, and how wide it is on the sheet.

    `root` is the outermost viewport's map to it, `told` how long the file says the path is: dashes count in that.
    """
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
    if dashes and told > 0:
        a_told = sum(map(_long, paths)) / told
        dashes, offset = [v * a_told for v in dashes], offset * a_told
    if declared.get("vector-effect") == "non-scaling-stroke":
        # The pen draws on the outermost viewport, in its pixels (SVG 2, 8.13).
        host = math.sqrt(abs(root[0] * root[4] - root[1] * root[3]))
        paths, to_sheet, stretch = [p.moved(to_sheet) for p in paths], IDENTITY, 1.0
        width, offset, dashes = width * host, offset * host, [v * host for v in dashes]
    limit = number(style, "stroke-miterlimit", 4.0)
    join: Any = style["stroke-linejoin"] if style["stroke-linejoin"] in ("round", "bevel") else "miter"
    cap: Any = style["stroke-linecap"] if style["stroke-linecap"] in ("round", "square") else "butt"
    pen = Stroke(width, join, cap, limit if limit >= 1 else 4.0, tuple(dashes), offset, to_sheet)
    return Shape(tuple(paths), "nonzero", pen, at.clips), width * stretch


def _long(path: Subpath) -> float:
    points = flatten(path, Fineness(math.inf, math.radians(3)))
    if path.closed:
        points = np.concatenate([points, points[:1]])
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
