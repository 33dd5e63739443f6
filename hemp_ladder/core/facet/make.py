"""A part's triangles from whatever its exact shape is: a kernel's shape, a drawn one, or triangles as they came."""

from collections.abc import Sequence

from hemp_ladder.core.drawn import meshed, shape
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.facet.cut import cut_mesh
from hemp_ladder.core.mesh import Mesh
from hemp_ladder.core.model import Cut


def make_mesh(shapes: Sequence[bytes], chord: float, angle: float, cut: Cut | None, solid: Solid | None) -> Mesh:
    """Mesh the first of `shapes` within chord (source coordinates) and angle (radians), and cut it where asked.

    The others are those that `solid` takes away from it or joins to it.
    """
    data = shapes[0]
    if data.startswith(shape.MAGIC):
        from hemp_ladder.core.drawn.make import make_solid

        mesh = make_solid(data, solid or Solid(), shapes[1:], chord, angle)
    elif data.startswith(meshed.MAGIC):
        mesh = meshed.read_meshed(data)
    else:
        from hemp_ladder.core.facet.tessellate import tessellate

        mesh = tessellate(data, chord, angle)
    return cut_mesh(mesh, cut) if cut else mesh
