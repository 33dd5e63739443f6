"""Pick: one loose shell alone, or all but some."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.mend.repair.edit import only
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.nearest import Point, nearest_triangle


class Pick(Operation):
    """Keep the shells that some points lie on, or the rest. The step before has told shells apart."""

    version: ClassVar[int] = 1
    does: Literal["pick"] = "pick"
    points: tuple[Point, ...] = Field(description="a point on each shell, in source coordinates")
    rest: bool = Field(False, description="what is left without them is kept")

    def apply(self, mesh: Mesh) -> Mesh:
        if not len(mesh.triangles):
            return mesh
        label = mesh.runs["shell"].labels
        wanted = np.unique([label[nearest_triangle(mesh, point)] for point in self.points])
        return only(mesh, np.isin(label, wanted) ^ self.rest)
