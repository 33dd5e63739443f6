"""The first step of a drawn body: a prism over its area, a flat sheet, or a line stood up."""

from collections.abc import Sequence
from typing import ClassVar, Literal, Self

from pydantic import Field

from hemp_ladder.core.chain.steps import First, Job
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.mesh.mesh import Mesh


class Solidify(First):
    """What of a drawn body is solid, and how densely its curves become sides."""

    version: ClassVar[int] = 5
    #: Made again as quickly as it is fetched.
    kept: ClassVar[bool] = False
    does: Literal["solidify"] = "solidify"
    chord: float = Field(gt=0, description="largest distance to the true curve, in source coordinates")
    angle: float = Field(gt=0, description="largest angle between sides, in radians")
    solid: Solid = Solid()
    shortest: float | None = Field(None, gt=0, description="sides of curves give way to, in source coordinates")

    def with_sides(self, shortest: float) -> Self:
        return self.model_copy(update={"shortest": shortest})

    def bare(self) -> Self:
        return self.model_copy(update={"shortest": None})

    @property
    def others(self) -> tuple[str, ...]:
        return tuple(other.key for other in self.solid.others)

    @property
    def fineness(self) -> tuple[float, float]:
        return self.chord, self.angle

    @classmethod
    def make(cls, jobs: Sequence[Job["Solidify"]]) -> list[Mesh]:
        """All together, which for small shapes is half the work."""
        from hemp_ladder.core.drawn.make import make_solids

        return make_solids(jobs)

    def seconds(self, faces: int) -> float:
        return 1e-3
