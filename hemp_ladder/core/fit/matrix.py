"""One double-precision matrix a source, from unit, up axis, turns, place and origin."""

from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from hemp_ladder.core.fit.settings import FitSettings, SourceFit, Spot
from hemp_ladder.core.fit.turning import turned_by
from hemp_ladder.core.model.join import Joined, Member, as_joined
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.units import UNITS

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
    """A model with one matrix a source. `offset` (3,) is what was taken from all places, in metres, Z up, to bring the
    origin where it is: to be added to have them where the sources said. `into_mesh` are indices of the parts whose place
    goes into the mesh; all where it is None."""

    model: Joined
    sources: list[FittedSource]
    offset: tuple[float, float, float] = (0.0, 0.0, 0.0)
    into_mesh: frozenset[int] | None = frozenset()

    def scale_of(self, part: int) -> Fraction:
        """Metres of one coordinate of the part with this index."""
        return self.sources[int(self.model.member_of_part[part])].scale

    def placements(self) -> Matrix:
        """World placement of every node in metres, Z up: (n, 4, 4) float64."""
        world = self.model.standing.copy()
        for piece, source in zip(self.model.members, self.sources, strict=True):
            run = slice(piece.nodes.start, piece.nodes.stop)
            world[run] = source.matrix @ world[run]
        # Behind the sources' own nodes stand those of parts that were split or joined.
        last = self.model.members[-1].nodes.stop if self.model.members else 0
        if last < len(world):
            own = np.array([source.matrix for source in self.sources])[self.model.member_of_node[last:]]
            world[last:] = own @ world[last:]
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

    def matrix_of(self, ref: str) -> Matrix | None:
        """The matrix of the source that decisions call so; None where there is none."""
        for piece, source in zip(self.model.members, self.sources, strict=True):
            if piece.ref == ref:
                return source.matrix
        return None

    def where(self, spot: Spot) -> Matrix | None:
        """(3,) where a picked point stands, in metres, Z up; None where its source is no more."""
        matrix = self.matrix_of(spot.source)
        return None if matrix is None else matrix[:3, :3] @ np.array(spot.at) + matrix[:3, 3]


def metres_in(model: Model, unit: str) -> Fraction:
    """Metres of one coordinate of a source whose numbers are in a unit. Readers may have turned them into another."""
    declared = UNITS[model.unit].metres if model.unit else model.metres_per_coordinate
    return model.metres_per_coordinate * UNITS[unit].metres / declared


def moved_box(box: Matrix, matrix: Matrix) -> Matrix:
    """The box (2, 3) that holds a box's eight corners after the matrix (4, 4)."""
    moved = corners_of(box) @ matrix[:3, :3].T + matrix[:3, 3]
    return np.array([moved.min(axis=0), moved.max(axis=0)])


def corners_of(box: Matrix) -> Matrix:
    """The eight corners (8, 3) of a box (2, 3)."""
    grid = np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T
    return np.stack([box[grid[:, axis], axis] for axis in range(3)], axis=1)


def turn_to_z(axis: str) -> Matrix:
    """The 4x4 rotation that brings `axis` to +Z."""
    turn = np.eye(4)
    turn[:3, :3] = _TURNS[axis]
    return turn


def turn_from_z(axis: str) -> Matrix:
    """The 4x4 rotation that brings +Z to `axis`."""
    return turn_to_z(axis).T


def climb_fit(model: Model, settings: FitSettings) -> Fitted:
    """One matrix a source: size, up axis, mirror, turns and move, and the origin last.

    A stated unit replaces the declared one: numbers written in the file as
    one of the declared unit count as one of the stated unit. The origin is
    a point of a source, so that it stays the same point when sizes change.
    """
    joined = as_joined(model)
    own = settings.into_mesh_parts
    placed = Fitted(
        joined, [_fit(piece.model, settings, settings.sources.get(piece.ref)) for piece in joined.members],
        into_mesh=None if settings.into_mesh else frozenset(i for i, part in enumerate(joined.parts) if part.ref in own)
        if own else frozenset(),
    )  # fmt: skip
    offset = _offset(placed, settings)
    if not offset.any():
        return placed
    sources = []
    for source in placed.sources:
        matrix = source.matrix.copy()
        matrix[:3, 3] -= offset
        sources.append(FittedSource(matrix, source.scale, source.unit, source.up))
    x, y, z = offset.tolist()
    return replace(placed, sources=sources, offset=(x, y, z))


def _offset(placed: Fitted, settings: FitSettings) -> Matrix:
    """(3,) what is taken from all places."""
    at = placed.where(settings.origin.spot) if settings.origin else None
    offset = np.array(settings.datum) if at is None else at
    lowest = placed.where(settings.ground) if settings.ground else None
    if lowest is not None:
        offset[2] = lowest[2]
    offset[2] -= settings.lift
    return offset


def _fit(model: Model, settings: FitSettings, own: SourceFit | None) -> FittedSource:
    own = own or SourceFit()
    unit = own.unit or settings.unit
    scale = model.metres_per_coordinate if unit is None else metres_in(model, unit)
    if own.each is not None:
        scale, unit = Fraction(own.each), None
    if own.width is not None:
        box = model.page if own.measured == "page" and model.page is not None else model.box
        across = float(box[1, 0] - box[0, 0])
        scale = Fraction(own.width) / Fraction(across) if across > 0 else scale
    up = own.up or settings.up or model.up or "z"
    matrix = turn_to_z(up)
    if own.mirrored:
        matrix[0] = -matrix[0]
    turn = turned_by(*own.tip, own.turn)
    matrix[:3, :3] = turn @ matrix[:3, :3] * float(scale)
    matrix[:3, 3] = own.move
    named = unit or (model.unit if own.each is None else None)
    return FittedSource(matrix, scale, named, up)
