"""Cut: what of a part stands over a polygon on the plan."""

from typing import ClassVar, Literal

from pydantic import Field

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.mesh.mesh import Mesh


class Cut(Operation):
    """Keep what stands over a polygon."""

    version: ClassVar[int] = 3
    does: Literal["cut"] = "cut"
    matrix: tuple[float, ...] = Field(
        min_length=16,
        max_length=16,
        description="where the part stands, 4 x 4 by rows: its coordinates to metres, Z up",
    )
    polygon: tuple[tuple[float, float], ...] = Field(description="corners on the plan, in metres")

    def apply(self, mesh: Mesh) -> Mesh:
        from hemp_ladder.core.choose.prism import cut_mesh

        return cut_mesh(mesh, self.matrix, self.polygon)

    def seconds(self, triangles: int) -> float:
        return 5e-6 * triangles
