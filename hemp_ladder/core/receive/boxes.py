"""The box of a whole model from its parts' own boxes, for formats without a kernel."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.model import Model


def whole_box(model: Model) -> NDArray[np.float64]:
    """(2, 3) lowest and highest corner of every placed part with a surface; zeros for none."""
    rows = [(i, model.nodes[i].part) for i in model.placements]
    if not rows:
        return np.zeros((2, 3))
    nodes, parts = np.array(rows).T
    grid = np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T
    boxes = np.array([part.box for part in model.parts])[parts]
    corners = np.stack([boxes[:, grid[:, axis], axis] for axis in range(3)], axis=-1)
    world = model.world()[nodes]
    placed = corners @ world[:, :3, :3].transpose(0, 2, 1) + world[:, None, :3, 3]
    flat = placed.reshape(-1, 3)
    return np.array([flat.min(axis=0), flat.max(axis=0)])
