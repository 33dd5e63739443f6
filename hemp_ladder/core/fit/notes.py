"""Measurements that stay with a job: worked out in double precision from what was picked, and held against the drawing."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.marks import Kind, Marks
from hemp_ladder.core.fit.matrix import Fitted, moved_box
from hemp_ladder.core.fit.settings import Note, NoteKind, Spot, SpotKind
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.fit.way import Way
from hemp_ladder.core.model.model import Matrix
from hemp_ladder.core.refs import PartRef

_NUMBER = {"x": 0, "y": 1, "z": 2}
_KINDS: dict[SpotKind, Kind] = {
    "corner": Kind.CORNER, "edge middle": Kind.EDGE_MIDDLE, "centre": Kind.CENTRE, "face centre": Kind.FACE_CENTRE,
}  # fmt: skip
#: A figure on a drawing has about so many digits: nearer than this share it agrees.
AGREES = 0.005
#: A point has moved where its mark is farther off than this share of the part's size.
_STILL = 1e-6
#: The marks of a part by index; None where they are not known yet.
MarksOf = Callable[[int], Marks | None]


class MeasureWay(Way):
    """Keep a measurement, with what it is now."""

    does: Literal["measure"] = "measure"
    kind: NoteKind
    axis: Literal["x", "y", "z"] | None = None
    spots: tuple[Spot, ...] = Field((), max_length=3)
    part: PartRef | None = None

    def apply(self, standing: Standing) -> Standing:
        notes = standing.settings.notes
        id_ = max((note.id for note in notes), default=0) + 1
        note = Note(id=id_, kind=self.kind, axis=self.axis, spots=self.spots, part=self.part)
        value, _, _ = _worked_out(standing, note, list(self.spots))
        return standing.with_(notes=(*notes, note.model_copy(update={"was": value})))


@dataclass(frozen=True)
class Measured:
    """A note as it stands now: metres, or degrees of an angle; three of a box.

    value, box   the figure; of a box its three sides, X, Y and Z
    points       where it is drawn, in metres, Z up
    off          by how much it differs from what it should be, where that is said; agrees: within half a percent
    changed      what it was when it was made, where it is another now
    lost         why there is no figure any more
    """

    note: Note
    value: float = 0.0
    box: tuple[float, float, float] | None = None
    points: tuple[tuple[float, float, float], ...] = ()
    off: float | None = None
    agrees: bool = True
    changed: float | None = None
    lost: str = ""


def measured(standing: Standing, note: Note, marks_of: MarksOf = lambda part: None) -> Measured:
    """A note worked out anew. With marks, each point is where the same corner, edge or centre is now: nearest to where it
    was picked, on the part that is called so now."""
    try:
        spots = [_found(standing, spot, marks_of) for spot in note.spots]
        value, box, points = _worked_out(standing, note, spots)
    except SettingsError as error:
        return Measured(note, lost=error.message)
    changed = (
        note.was if note.was is not None and abs(value - note.was) > 1e-9 * max(abs(note.was), abs(value)) else None
    )
    off = None if note.should is None else value - note.should
    agrees = note.should is None or abs(value - note.should) <= AGREES * note.should
    return Measured(note, value, box, points, off, agrees, changed)


def _worked_out(
    standing: Standing, note: Note, spots: list[Spot]
) -> tuple[float, tuple[float, float, float] | None, tuple[tuple[float, float, float], ...]]:
    if note.kind == "box":
        box = _box(standing, note.part)
        x, y, z = (box[1] - box[0]).tolist()
        return max(x, y, z), (x, y, z), tuple(tuple(corner) for corner in box.tolist())
    needed = {"distance": 2, "along": 2, "angle": 2, "radius": 1}[note.kind]
    if len(spots) != needed:
        raise SettingsError(f"This measurement takes {needed} points.")
    at = [standing.where(spot) for spot in spots]
    points = tuple((float(x), float(y), float(z)) for x, y, z in at)
    if note.kind == "distance":
        return float(np.linalg.norm(at[1] - at[0])), None, points
    if note.kind == "along":
        return abs(float((at[1] - at[0])[_NUMBER[note.axis or "z"]])), None, points
    if note.kind == "angle":
        first, second = (standing.direction(spot) for spot in spots)
        told = float(np.degrees(np.arctan2(np.linalg.norm(np.cross(first, second)), first @ second)))
        return told, None, points
    (spot,) = spots
    if not spot.radius:
        raise SettingsError("What was picked is no circle.", "Pick the rim of a hole or a round end.")
    scale = float(standing.fitted.sources[standing.refs.index(spot.source)].scale)
    return spot.radius * scale, None, points


def _box(standing: Standing, part: str | None) -> Matrix:
    """(2, 3) of everything, or of the first placement of a part."""
    if part is None:
        return standing.box()
    model = standing.model
    index = next((i for i, item in enumerate(model.parts) if item.ref == part), None)
    node = next((i for i, item in enumerate(model.nodes) if item.part == index), None) if index is not None else None
    if index is None or node is None:
        raise SettingsError("Its part is not in the job any more.")
    matrix = standing.fitted.sources[int(model.member_of_node[node])].matrix @ model.standing[node]
    return moved_box(model.parts[index].box, matrix)


def _found(standing: Standing, spot: Spot, marks_of: MarksOf) -> Spot:
    """The same point on the source as it is now. Raises SettingsError where its part is gone."""
    standing.where(spot)
    if spot.part is None or spot.kind not in _KINDS:
        return spot
    model = standing.model
    index = next((i for i, item in enumerate(model.parts) if item.ref == spot.part), None)
    if index is None:
        raise SettingsError("The part that it was picked on is not in the job any more.")
    marks = marks_of(index)
    if marks is None or not (marks.kind == _KINDS[spot.kind]).any():
        return spot
    member = standing.refs.index(spot.source)
    alike = np.flatnonzero(marks.kind == _KINDS[spot.kind])
    nearest: tuple[float, Spot] | None = None
    for node in [i for i, item in enumerate(model.nodes) if item.part == index and model.member_of_node[i] == member][
        :1000
    ]:
        place = model.standing[node]
        at = marks.at[alike] @ place[:3, :3].T + place[:3, 3]
        away = np.linalg.norm(at - np.array(spot.at), axis=1)
        # Concentric circles have one centre: the one as large as it was is meant.
        away = away + np.abs(marks.radius[alike] - spot.radius) if spot.radius else away
        best = int(away.argmin())
        if nearest is None or away[best] < nearest[0]:
            nearest = (float(away[best]), spot_of(spot.source, spot.part, marks, int(alike[best]), place))
    if nearest is None:
        raise SettingsError("The part that it was picked on does not stand in the job any more.")
    away_by, found = nearest
    return spot if away_by <= _STILL * max(model.parts[index].size, 1e-12) else found


def spot_of(source: str, part: str, marks: Marks, number: int, place: Matrix) -> Spot:
    """A mark of a placed part as a spot of its source; `place` (4, 4) is where the part stands in the source."""
    names = {kind: name for name, kind in _KINDS.items()}
    at, way = place[:3, :3] @ marks.at[number] + place[:3, 3], place[:3, :3] @ marks.way[number]
    kind = names[Kind(int(marks.kind[number]))]
    if kind == "face centre":
        way = np.linalg.inv(place[:3, :3]).T @ marks.way[number]
    length = float(np.linalg.norm(way))
    size = float(np.linalg.norm(place[:3, 0]))
    return Spot(
        source=source, part=part, kind=kind, at=tuple(at.tolist()), radius=float(marks.radius[number]) * size,
        way=tuple((way / length).tolist()) if length else None,
    )  # fmt: skip


def disagreeing(figures: list[Measured]) -> list[tuple[int, float]]:
    """Of notes with a length that they should have, those that ask for another scale than the first: their ids and the
    factor each asks for."""
    known = [
        item for item in figures if item.note.should and item.note.kind != "angle" and item.value and not item.lost
    ]
    factors = [(item.note.id, item.note.should / item.value) for item in known if item.note.should]
    if len(factors) < 2:
        return []
    first = factors[0][1]
    apart = [item for item in factors[1:] if abs(item[1] / first - 1) > AGREES]
    return [factors[0], *apart] if apart else []


def single_precision(fitted: Fitted, box: Matrix) -> tuple[float, float]:
    """Metres by which 32 bit numbers round the farthest coordinate: where the sources have it, and where it is now.

    Half the distance between neighbouring numbers (IEEE 754, binary32).
    """
    far = np.abs(box + np.array(fitted.offset)).max(initial=0.0)
    near = np.abs(box).max(initial=0.0)
    return float(np.spacing(np.float32(far))) / 2, float(np.spacing(np.float32(near))) / 2
