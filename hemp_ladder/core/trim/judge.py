"""What a trimming did to a mesh, measured: kept with the mesh among its figures."""

from dataclasses import replace
from functools import cached_property

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.tree import Tree
from hemp_ladder.core.trim.deviation import deviation, samples_for
from hemp_ladder.core.trim.shape import Outlines, Shape


class Judge:
    """Holds lighter meshes against one full mesh; what is slow is worked out once."""

    def __init__(self, full: Mesh) -> None:
        self.full = full
        self.shape = Shape.of(full)

    @cached_property
    def surface(self) -> Tree:
        return Tree(self.full)

    @cached_property
    def _outlines(self) -> Outlines:
        return Outlines(self.full)

    def largest(self, light: Mesh) -> float:
        """The largest distance between both, either way."""
        return deviation(self.full, light, samples_for(self.full), self.surface).largest

    def told(self, light: Mesh) -> dict[str, float]:
        """The full mesh's figures, the light one's with `_now` behind their names, and what lies between both.

        Deviations of earlier trimmings of the same part are added: by the triangle inequality no more can be between
        the first and the last.
        """
        apart = deviation(self.full, light, samples_for(self.full), self.surface)
        now = Shape.of(light)
        before = dict(self.full.figures.trimmed)
        told: dict[str, float] = {"triangles": len(self.full.triangles), "vertices": len(self.full.positions)}
        for name in ("shells", "handles", "rings", "border", "volume", "area"):
            told[name] = getattr(self.shape, name)
        told.update({name: before[name] for name in told if name in before})
        for name in ("shells", "handles", "rings", "border", "volume", "area"):
            told[f"{name}_now"] = getattr(now, name)
        for name in ("there", "back", "mean", "turned", "shifted"):
            told[name] = getattr(apart, name) + before.get(name, 0.0)
        told["silhouette"] = self._outlines.changed(light) + before.get("silhouette", 0.0)
        return {name: float(value) for name, value in told.items()}


def judged(light: Mesh, full: Mesh, operation: str, told: dict[str, float]) -> Mesh:
    """The light mesh with what is told of it, and how many triangles of the full one the operation took away as its
    effect."""
    effects = {**light.figures.effects, operation: float(len(full.triangles) - len(light.triangles))}
    return replace(light, figures=replace(light.figures, trimmed=told, effects=effects, open_edges=None))
