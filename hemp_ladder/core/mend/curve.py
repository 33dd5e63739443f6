"""How many vertices are left at every weld tolerance, and where detail would begin to collapse."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mend.weld import nearest_kept
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import folded

#: Tolerances as shares of the box's diagonal, evenly on a logarithmic scale: each a third more than the one before.
_SHARES = np.geomspace(1e-7, 0.1, 49)


@dataclass(frozen=True)
class WeldCurve:
    """Tolerances in source coordinates, the places left at each, and the tolerance at which the first triangle with an
    area would collapse, None where none does; the places as they are, and whether the mesh is watertight before, and its volume."""

    tolerances: list[float]
    left: list[int]
    collapse: float | None
    places: int
    watertight: bool
    volume: float


def weld_curve(mesh: Mesh) -> WeldCurve:
    """The curve as far as the part holds together."""
    index, spots = folded(mesh.positions)
    size = float(np.linalg.norm(np.ptp(mesh.positions, axis=0))) if len(spots) else 0.0
    corners = index[mesh.triangles]
    whole = corners[_apart(corners)]
    tolerances: list[float] = []
    left: list[int] = []
    collapse = None
    for tolerance in (_SHARES * size).tolist():
        try:
            owner = nearest_kept(spots, tolerance)
        except SettingsError:
            break
        tolerances.append(tolerance)
        left.append(len(np.unique(owner)))
        gone = len(whole) - int(_apart(owner[whole]).sum())
        if gone and collapse is None:
            collapse = tolerance
        if gone > 0.5 * len(whole):
            break
    return WeldCurve(tolerances, left, collapse, len(spots), mesh.watertight, mesh.volume())


def _apart(corners: NDArray[np.int64]) -> NDArray[np.bool_]:
    return np.asarray(
        (corners[:, 0] != corners[:, 1]) & (corners[:, 1] != corners[:, 2]) & (corners[:, 2] != corners[:, 0])
    )
