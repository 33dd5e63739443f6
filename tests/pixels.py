"""Areas against a renderer of other people: the same picture, once as it came and once as our polygons."""

import io
from pathlib import Path

import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image

from hemp_ladder.core.drawn.area import Sheet
from hemp_ladder.core.drawn.flatten import Fineness
from hemp_ladder.core.drawn.shape import read_drawn
from hemp_ladder.core.drawn.solid import Solid
from tests.support import read_kept

#: Pixels along a side.
SIDE = 192


def rendered(svg: str) -> NDArray[np.float64]:
    """How much of each pixel is covered, 0 to 1, whatever its colour."""
    data = resvg_py.svg_to_bytes(svg_string=svg, width=SIDE, skip_system_fonts=True, dpi=96)
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGBA"), dtype=np.float64)[:, :, 3] / 255


def ours(path: Path) -> NDArray[np.float64]:
    """The same of all shapes that we read, united, as polygons."""
    model, kept = read_kept(path)
    assert model.page is not None
    (_, _), (wide, high) = model.page
    rings = []
    for node in model.nodes:
        if node.part < 0:
            continue
        part = model.parts[node.part]
        assert part.drawn is not None
        shape = read_drawn(kept.shapes[part.key])
        sheet = Sheet(shape, Solid(), Fineness(wide * 1e-4, 0.1))
        for ring in sheet.polygons(sheet.area(shape)):
            points = ring + np.array([part.drawn.x, part.drawn.y])
            rings.append("M" + "L".join(f"{x:.5f} {high - y:.5f}" for x, y in points) + "Z")
    return rendered(
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}"><path d="{" ".join(rings)}"/></svg>'
    )


def disagreement(path: Path) -> tuple[float, float]:
    """Share of the picture's pixels that differ, weighted by how much, and share that is covered."""
    theirs = rendered(path.read_text())
    return float(np.abs(theirs - ours(path)).mean()), float(theirs.mean())
