"""Round: how wide sharp convex edges are rounded."""

from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hemp_ladder.core.chain.steps import Operation, Option
from hemp_ladder.core.lengths import Metres, parse_length
from hemp_ladder.core.mend.rounding.bevel import bevel
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.settings import Range


class Round(Operation):
    """How wide the rounding of sharp convex edges is; no edge of a render is ever quite sharp (common practice)."""

    version: ClassVar[int] = 1
    option: ClassVar[Option] = Option("LENGTH", "round sharp convex edges by so much: 0.3mm")
    ranges: ClassVar[Mapping[str, Range]] = {"width": Range(1e-5, 0.1, 3e-4), "sharp": Range(5, 90, 30)}
    does: Literal["round"] = "round"
    width: Annotated[Metres, Field(gt=0, le=1e9)] = Field(
        ranges["width"].start, description="radius on exact bodies; on meshes how far each side draws back, in metres"
    )
    sharp: float = Field(30.0, ge=1, le=179, description="edges that lean more than this are sharp, in degrees")

    @classmethod
    def from_option(cls, text: str) -> Self:
        return cls(width=float(parse_length(text)))

    def in_coordinates(self, metres: float) -> Self:
        return self.model_copy(update={"width": self.width / metres})

    def apply(self, mesh: Mesh) -> Mesh:
        return bevel(mesh, self.width, self.sharp)

    def seconds(self, triangles: int) -> float:
        return 5e-6 * triangles
