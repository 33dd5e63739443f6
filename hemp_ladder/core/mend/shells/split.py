"""Split: which loose shell every triangle belongs to."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.mend.normals import edges_of
from hemp_ladder.core.mesh.mesh import Mesh, Runs


class Split(Operation):
    """Tell loose shells apart, as runs of triangles."""

    version: ClassVar[int] = 1
    does: Literal["split"] = "split"

    def apply(self, mesh: Mesh) -> Mesh:
        return split(mesh)


def split(mesh: Mesh) -> Mesh:
    """The mesh with the run `shell`: what hangs together by edges, in the order of the first triangles. Triangles stand
    shell by shell inside each face. `effects["split"]` is how many shells there are."""
    if not len(mesh.triangles):
        return mesh
    count, label = edges_of(mesh).shells
    order = np.lexsort((label, mesh.faces.labels))
    runs = {name: Runs.labelled(run.labels[order], run.count) for name, run in mesh.runs.items()}
    runs["shell"] = Runs.labelled(label[order], count)
    effects = {**mesh.figures.effects, "split": float(count)}
    return replace(
        mesh, triangles=np.ascontiguousarray(mesh.triangles[order]), runs=runs,
        figures=replace(mesh.figures, effects=effects, open_edges=None),
    )  # fmt: skip
