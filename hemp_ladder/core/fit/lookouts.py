"""Lookouts: the sources' cameras and views that a person keeps, by name and in an order of their own."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.matrix import Fitted
from hemp_ladder.core.fit.settings import CameraRef, FitSettings, OwnLookout, Point
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.fit.way import Way
from hemp_ladder.core.model.model import Lookout, Matrix
from hemp_ladder.core.settings import Settings

Vector = tuple[float, float, float]


@dataclass(frozen=True)
class View:
    """A lookout as it stands: eye in metres, Z up; unit vectors; angles in radians. `camera` is it of the source's own."""

    name: str
    eye: Vector
    way: Vector
    up: Vector
    tall: float
    wide: float
    reach: float
    camera: bool = False


def lookouts_of(fitted: Fitted, settings: FitSettings) -> list[View]:
    """All of a job, in their order, where they stand after Fit; those whose source or camera is gone are left out."""
    entries = settings.lookouts if settings.lookouts is not None else all_cameras(fitted)
    return [view for entry in entries if (view := _view(fitted, entry)) is not None]


def all_cameras(fitted: Fitted) -> tuple[OwnLookout, ...]:
    """The sources' cameras as they came."""
    return tuple(
        OwnLookout(name=item.name[:200] or "Camera", camera=CameraRef(source=piece.ref, number=number))
        for piece in fitted.model.members
        for number, item in enumerate(piece.model.lookouts)
    )


def _view(fitted: Fitted, entry: OwnLookout) -> View | None:
    ref = entry.camera.source if entry.camera else entry.source
    placed = fitted.matrix_of(ref) if ref is not None else None
    if placed is None:
        return None
    item: Lookout | OwnLookout = entry
    if entry.camera is not None:
        known = next(piece.model.lookouts for piece in fitted.model.members if piece.ref == ref)
        if entry.camera.number >= len(known):
            return None
        item = known[entry.camera.number]
    if item.matrix is None:
        return None
    matrix = placed @ np.array(item.matrix).reshape(4, 4)
    way, up = -matrix[:3, 2], matrix[:3, 1]
    if not np.isfinite(matrix).all() or not np.linalg.norm(way) or not np.linalg.norm(up):
        return None
    scale = float(np.cbrt(abs(np.linalg.det(placed[:3, :3]))))
    return View(
        entry.name, _vector(matrix[:3, 3]), _vector(way / np.linalg.norm(way)), _vector(up / np.linalg.norm(up)),
        item.tall, item.wide, item.reach * scale, entry.camera is not None,
    )  # fmt: skip


def _vector(values: Matrix) -> Vector:
    x, y, z = values.tolist()
    return x, y, z


class Seen(Settings):
    """What the stage sees: eye and directions in metres, Z up; `reach` the height seen where lines are parallel."""

    eye: Point
    way: Point
    up: Point
    tall: float = Field(ge=0, lt=3.15)
    wide: float = Field(0.0, ge=0, le=100)
    reach: float = Field(0.0, ge=0, le=1e9)


class LookoutWay(Way):
    """Keep what the stage sees as a lookout, or have one that is there see this from now on. It goes along with the first
    source, whatever Fit does."""

    does: Literal["lookout"] = "lookout"
    name: str = Field(min_length=1, max_length=200)
    at: int | None = Field(None, ge=0, le=500, description="the lookout to change; none: a further one")
    seen: Seen

    def apply(self, standing: Standing) -> Standing:
        ref = standing.refs[0]
        placed = standing.fitted.matrix_of(ref)
        assert placed is not None
        way, up = np.array(self.seen.way), np.array(self.seen.up)
        side = np.cross(way, up)
        if not np.linalg.norm(side):
            raise SettingsError(
                "A lookout that looks straight up its own up has no picture.", "Turn the view a little."
            )
        way, side = way / np.linalg.norm(way), side / np.linalg.norm(side)
        camera = np.eye(4)
        camera[:3, 0], camera[:3, 1], camera[:3, 2], camera[:3, 3] = side, np.cross(side, way), -way, self.seen.eye
        matrix = np.linalg.solve(placed, camera)
        scale = float(np.cbrt(abs(np.linalg.det(placed[:3, :3]))))
        entry = OwnLookout(
            name=self.name, source=ref, matrix=tuple(matrix.reshape(-1).tolist()), tall=self.seen.tall,
            wide=self.seen.wide, reach=self.seen.reach / scale,
        )  # fmt: skip
        now = list(_entries(standing))
        if self.at is None:
            now.append(entry)
        elif self.at < len(now):
            now[self.at] = entry
        else:
            raise SettingsError("There is no such lookout any more.")
        return standing.with_(lookouts=tuple(now))


class LookoutsWay(Way):
    """Have the lookouts in this order, by their numbers now, with these names; what is not named goes."""

    does: Literal["lookouts"] = "lookouts"
    order: tuple[int, ...] = Field(max_length=500)
    names: tuple[str, ...] = Field((), max_length=500)

    def apply(self, standing: Standing) -> Standing:
        now = _entries(standing)
        if any(not 0 <= number < len(now) for number in self.order) or len(set(self.order)) < len(self.order):
            raise SettingsError("There is no such lookout any more.")
        named = [*self.names, *([""] * len(self.order))]
        kept = [
            now[number].model_copy(update={"name": name[:200]}) if name else now[number]
            for number, name in zip(self.order, named, strict=False)
        ]
        return standing.with_(lookouts=tuple(kept))


def _entries(standing: Standing) -> Sequence[OwnLookout]:
    known = standing.settings.lookouts
    return known if known is not None else all_cameras(standing.fitted)
