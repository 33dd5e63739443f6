"""Parts' triangles from whatever their exact shapes are: a kernel's shape, a drawn one, or triangles as they came."""

from collections.abc import Sequence
from typing import NamedTuple

from hemp_ladder.core.drawn import meshed, shape
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.facet.cut import cut_mesh
from hemp_ladder.core.mesh import Mesh
from hemp_ladder.core.model import Cut


class Order(NamedTuple):
    """One part to mesh: its exact shape first, and those that `solid` takes away from it or joins to it; chord in
    source coordinates, angle in radians; what cuts it."""

    shapes: Sequence[bytes]
    chord: float
    angle: float
    cut: Cut | None = None
    solid: Solid | None = None


def make_meshes(orders: Sequence[Order]) -> list[Mesh]:
    """A mesh for each order. Drawn ones are made together, which for small shapes is half the work."""
    drawn = [number for number, order in enumerate(orders) if order.shapes[0].startswith(shape.MAGIC)]
    made: dict[int, Mesh] = {}
    if drawn:
        from hemp_ladder.core.drawn.make import Job, make_solids

        jobs = [
            Job(o.shapes[0], o.solid or Solid(), o.shapes[1:], o.chord, o.angle) for o in (orders[k] for k in drawn)
        ]
        made = dict(zip(drawn, make_solids(jobs), strict=True))
    found = []
    for number, order in enumerate(orders):
        mesh = made[number] if number in made else _exact(order)
        found.append(cut_mesh(mesh, order.cut) if order.cut else mesh)
    return found


def _exact(order: Order) -> Mesh:
    data = order.shapes[0]
    if data.startswith(meshed.MAGIC):
        return meshed.read_meshed(data)
    from hemp_ladder.core.facet.tessellate import tessellate

    return tessellate(data, order.chord, order.angle)
