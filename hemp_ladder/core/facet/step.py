"""The first step of an exact body: triangles within a chord error and an angle of its surfaces."""

from collections.abc import Sequence
from typing import ClassVar, Literal

from pydantic import Field

from hemp_ladder.core.chain.steps import First, Job, Operation
from hemp_ladder.core.mend.rounding.rounding import Round
from hemp_ladder.core.mesh.mesh import Mesh


class Facet(First):
    """How densely the curves of an exact body become triangles."""

    version: ClassVar[int] = 11
    does: Literal["facet"] = "facet"
    chord: float = Field(gt=0, description="largest distance to the true surface, in source coordinates")
    angle: float = Field(gt=0, description="largest angle between facets, in radians")

    rounding: float = Field(0.0, ge=0, description="radius of sharp convex edges, in source coordinates; 0 for sharp")

    @property
    def fineness(self) -> tuple[float, float]:
        return self.chord, self.angle

    @classmethod
    def make(cls, jobs: Sequence[Job["Facet"]]) -> list[Mesh]:
        """All together, which for parts of few faces is half the work."""
        from hemp_ladder.core.facet.tessellate import tessellate_all

        return tessellate_all(
            [(job.bodies[0], job.step.chord, job.step.angle) for job in jobs], [job.step.rounding for job in jobs]
        )

    def with_operation(self, operation: Operation) -> "Facet | None":
        """Exact edges are rounded before there are triangles, by the kernel."""
        return self.model_copy(update={"rounding": operation.width}) if isinstance(operation, Round) else None

    def bare(self) -> "Facet":
        return self.model_copy(update={"rounding": 0.0}) if self.rounding else self

    def seconds(self, faces: int) -> float:
        return 0.01 * faces + (0.2 * faces if self.rounding else 0.0)
