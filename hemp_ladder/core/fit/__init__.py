"""Fit: unit, up axis and place as one double-precision matrix a source."""

import math
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from hemp_ladder.core.fit.settings import Axis, FitSettings, SourceFit
from hemp_ladder.core.model.join import Joined, Member, as_joined
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.units import UNITS

__all__ = [
    "Axis",
    "FitSettings",
    "Fitted",
    "FittedSource",
    "SourceFit",
    "climb_fit",
    "moved_box",
    "turn_from_z",
    "turn_to_z",
]

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
class FittedSource:
    """One source with the matrix that takes its coordinates to metres, Z up.

    `scale` is the metres of one source coordinate, exact.
    """

    matrix: Matrix
    scale: Fraction
    unit: str | None
    up: str


@dataclass(frozen=True)
class Fitted:
    """A model with one matrix a source."""

    model: Joined
    sources: list[FittedSource]

    def scale_of(self, part: int) -> Fraction:
        """Metres of one coordinate of the part with this index."""
        return self.sources[int(self.model.member_of_part[part])].scale

    def placements(self) -> Matrix:
        """World placement of every node in metres, Z up: (n, 4, 4) float64."""
        world = self.model.standing.copy()
        for piece, source in zip(self.model.members, self.sources, strict=True):
            run = slice(piece.nodes.start, piece.nodes.stop)
            world[run] = source.matrix @ world[run]
        return world

    def box(self) -> Matrix:
        """(2, 3) overall box in metres, Z up; zeros when there is no surface at all."""
        boxes = [
            moved_box(piece.model.box, source.matrix)
            for piece, source in zip(self.model.members, self.sources, strict=True)
            if self._stands(piece)
        ]
        if not boxes:
            return np.zeros((2, 3))
        return np.array([np.min(boxes, axis=0)[0], np.max(boxes, axis=0)[1]])

    def _stands(self, piece: Member) -> bool:
        """Whether anything of a source has a surface."""
        nodes = self.model.columns.node
        return bool(np.searchsorted(nodes, piece.nodes.start) < np.searchsorted(nodes, piece.nodes.stop))


def moved_box(box: Matrix, matrix: Matrix) -> Matrix:
    """The box (2, 3) that holds a box's eight corners after the matrix (4, 4)."""
    grid = np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T
    corners = np.stack([box[grid[:, axis], axis] for axis in range(3)], axis=1)
    moved = corners @ matrix[:3, :3].T + matrix[:3, 3]
    return np.array([moved.min(axis=0), moved.max(axis=0)])


def turn_to_z(axis: str) -> Matrix:
    """The 4x4 rotation that brings `axis` to +Z."""
    turn = np.eye(4)
    turn[:3, :3] = _TURNS[axis]
    return turn


def turn_from_z(axis: str) -> Matrix:
    """The 4x4 rotation that brings +Z to `axis`."""
    return turn_to_z(axis).T


def climb_fit(model: Model, settings: FitSettings) -> Fitted:
    """One matrix a source: unit as declared or stated, up axis, turn and move, and the datum last.

    A stated unit replaces the declared one: numbers written in the file as
    one of the declared unit count as one of the stated unit.
    """
    joined = as_joined(model)
    return Fitted(joined, [_fit(piece.model, settings, settings.sources.get(piece.ref)) for piece in joined.members])


def _fit(model: Model, settings: FitSettings, own: SourceFit | None) -> FittedSource:
    own = own or SourceFit()
    scale, unit = model.metres_per_coordinate, own.unit or settings.unit
    if unit is not None:
        declared = UNITS[model.unit].metres if model.unit else scale
        scale = scale * UNITS[unit].metres / declared
    if own.width is not None:
        box = model.page if own.measured == "page" and model.page is not None else model.box
        across = float(box[1, 0] - box[0, 0])
        scale = Fraction(own.width) / Fraction(across) if across > 0 else scale
    up = own.up or settings.up or model.up or "z"
    matrix = turn_to_z(up)
    matrix[:3, :3] *= float(scale)
    place = np.eye(4)
    if own.turn:
        angle = math.radians(own.turn)
        place[:2, :2] = [[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]]
    place[:3, 3] = np.array(own.move) - np.array(settings.datum)
    return FittedSource(place @ matrix, scale, unit or model.unit, up)
