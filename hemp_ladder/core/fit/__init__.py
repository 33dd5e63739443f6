"""Fit: unit and up axis as one double-precision matrix."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from hemp_ladder.core.fit.settings import Axis, FitSettings
from hemp_ladder.core.model import Matrix, Model
from hemp_ladder.core.units import UNITS

__all__ = ["Axis", "FitSettings", "Fitted", "climb_fit", "turn_from_z", "turn_to_z"]

# Rotations that bring the named axis to +Z, by quarter turns only, so that
# they are exact. The y row is the one every Y-up format uses: Z becomes -Y.
_TURNS: dict[str, list[list[int]]] = {
    "z": [[1, 0, 0], [0, 1, 0], [0, 0, 1]],
    "-z": [[1, 0, 0], [0, -1, 0], [0, 0, -1]],
    "y": [[1, 0, 0], [0, 0, -1], [0, 1, 0]],
    "-y": [[1, 0, 0], [0, 0, 1], [0, -1, 0]],
    "x": [[0, 0, -1], [0, 1, 0], [1, 0, 0]],
    "-x": [[0, 0, 1], [0, 1, 0], [-1, 0, 0]],
}


@dataclass(frozen=True)
class Fitted:
    """A model with the matrix that takes source coordinates to metres, Z up.

    `scale` is the metres of one source coordinate, exact.
    """

    model: Model
    matrix: Matrix
    scale: Fraction
    unit: str | None
    up: str

    def placements(self) -> Matrix:
        """World placement of every node in metres, Z up: (n, 4, 4) float64."""
        return self.matrix @ self.model.world()

    def box(self) -> Matrix:
        """(2, 3) overall box in metres, Z up."""
        turned = self.model.box @ self.matrix[:3, :3].T
        return np.array([turned.min(axis=0), turned.max(axis=0)])


def turn_to_z(axis: str) -> Matrix:
    """The 4x4 rotation that brings `axis` to +Z."""
    turn = np.eye(4)
    turn[:3, :3] = _TURNS[axis]
    return turn


def turn_from_z(axis: str) -> Matrix:
    """The 4x4 rotation that brings +Z to `axis`."""
    return turn_to_z(axis).T


def climb_fit(model: Model, settings: FitSettings) -> Fitted:
    """One matrix for the whole model: unit as declared or stated, then up axis.

    A stated unit replaces the declared one: numbers written in the file as
    one of the declared unit count as one of the stated unit.
    """
    scale = model.metres_per_coordinate
    if settings.unit is not None:
        declared = UNITS[model.unit].metres if model.unit else scale
        scale = scale * UNITS[settings.unit].metres / declared
    up = settings.up or model.up or "z"
    matrix = turn_to_z(up)
    matrix[:3, :3] *= float(scale)
    return Fitted(model, matrix, scale, settings.unit or model.unit, up)
