"""Turn: shells and faces that a person turned by hand."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.mend.facing import turn
from hemp_ladder.core.mend.normals import edges_of, leans
from hemp_ladder.core.mesh.edges import Edges, Mask, components
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.nearest import Point, nearest_triangle
from hemp_ladder.core.mesh.triangles import cross, lengths

#: Triangles that lean less than this are one flat face, in radians: where a mesh has no faces of its own.
_ONE_FACE = np.radians(1.0)


class Turn(Operation):
    """Turn the shells, or the faces, that some points lie on."""

    version: ClassVar[int] = 1
    does: Literal["turn"] = "turn"
    shells: tuple[Point, ...] = Field((), description="points on shells, in source coordinates")
    faces: tuple[Point, ...] = Field((), description="points on faces, in source coordinates")

    def apply(self, mesh: Mesh) -> Mesh:
        if not len(mesh.triangles):
            return mesh
        edges = edges_of(mesh)
        turned = np.zeros(len(mesh.triangles), bool)
        label = edges.shells[1]
        for point in self.shells:
            turned ^= label == label[nearest_triangle(mesh, point)]
        for point in self.faces:
            turned ^= _face_at(mesh, edges, nearest_triangle(mesh, point))
        made = turn(mesh, turned)
        effects = {**mesh.figures.effects, "turn": float(turned.sum())}
        return replace(made, figures=replace(made.figures, effects=effects))


def _face_at(mesh: Mesh, edges: Edges, triangle: int) -> Mask:
    """The triangles of the face that one belongs to: of the exact shape, or the flat region around it."""
    if mesh.faces.count > 1:
        same = mesh.faces.labels == mesh.faces.labels[triangle]
        # A group of a mesh is no face: only what hangs together there.
        own = edges.shells[1]
        if mesh.figures.off_by:
            return np.asarray(same & (own == own[triangle]))
    corners = mesh.corners
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    flat = across / np.maximum(lengths(across), 1e-300)[:, None]
    one, two = edges.pairs
    lean = leans(flat, one, two)
    # Neighbours that are wound against each other lie in one flat too.
    level = np.minimum(lean, np.pi - lean) <= _ONE_FACE
    _, region = components(len(flat), one[level] // 3, two[level] // 3)
    return np.asarray(region == region[triangle])
