"""A job as Fit sees it: its model, its settings, and the outermost points of what stands."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.hulls import Hulls
from hemp_ladder.core.fit.matrix import Fitted, climb_fit, corners_of
from hemp_ladder.core.fit.settings import FitSettings, Origin, SourceFit, Spot
from hemp_ladder.core.fit.turning import angles_of, turned_by, unit_vector
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.model import Matrix

#: Below a nanometre a move is rounding.
_NANO = 9


@dataclass(frozen=True)
class Standing:
    """What the ways to fit work on: settings before, and after each step of theirs.

    `hulls` are the outermost points of what entered the job; where they are not known, the sources' boxes stand for them.
    """

    model: Joined
    settings: FitSettings
    hulls: Hulls = field(default_factory=dict)

    @cached_property
    def fitted(self) -> Fitted:
        return climb_fit(self.model, self.settings)

    @property
    def refs(self) -> list[str]:
        return [piece.ref for piece in self.model.members]

    @property
    def offset(self) -> Matrix:
        return np.array(self.fitted.offset)

    def with_(self, **changes: Any) -> "Standing":
        """After a change of the settings."""
        return replace(self, settings=self.settings.model_copy(update=changes))

    def chosen(self, refs: Sequence[str]) -> list[str]:
        """The sources that are named; all for none. Raises SettingsError for one that is not there."""
        lost = [ref for ref in refs if ref not in self.refs]
        if lost:
            raise SettingsError(
                f"There is no source “{lost[0][:40]}” in the job.", f"There are: {', '.join(self.refs)}."
            )
        return list(refs) or self.refs

    def own(self, ref: str) -> SourceFit:
        return self.settings.sources.get(ref, SourceFit())

    def with_own(self, changes: Mapping[str, Mapping[str, Any]]) -> "Standing":
        """After changes of single sources, by what decisions call them."""
        sources = dict(self.settings.sources)
        for ref, change in changes.items():
            sources[ref] = SourceFit.model_validate({**self.own(ref).model_dump(), **change})
        return self.with_(sources=sources)

    def points(self, ref: str) -> Matrix:
        """(n, 3) outermost points of a source in its own coordinates."""
        found = self.hulls.get(ref)
        if found is None:
            found = corners_of(self.model.members[self.refs.index(ref)].model.box)
        return found

    def placed(self, ref: str) -> Matrix:
        """(n, 3) the same where they stand, in metres, Z up."""
        matrix = self.fitted.matrix_of(ref)
        assert matrix is not None
        return self.points(ref) @ matrix[:3, :3].T + matrix[:3, 3]

    def box(self, refs: Sequence[str] = ()) -> Matrix:
        """(2, 3) what the sources fill, in metres, Z up; of those that entered the job, where some did."""
        wanted = self.chosen(refs)
        there = [ref for ref in wanted if ref in self.hulls] or wanted
        points = np.concatenate([self.placed(ref) for ref in there])
        return np.array([points.min(axis=0), points.max(axis=0)])

    def lowest(self, refs: Sequence[str] = ()) -> Spot:
        """The lowest point of the sources."""
        wanted = self.chosen(refs)
        there = [ref for ref in wanted if ref in self.hulls] or wanted
        ref = min(there, key=lambda one: float(self.placed(one)[:, 2].min()))
        at = self.points(ref)[int(self.placed(ref)[:, 2].argmin())]
        return Spot(source=ref, at=tuple(at.tolist()), kind="corner")

    def spot_at(self, point: Matrix, ref: str | None = None) -> Spot:
        """A place in metres, Z up, as a point of a source: the first where none is named."""
        ref = ref or self.refs[0]
        matrix = self.fitted.matrix_of(ref)
        assert matrix is not None
        at = np.linalg.solve(matrix[:3, :3], np.asarray(point, float) - matrix[:3, 3])
        return Spot(source=ref, at=tuple(at.tolist()), kind="box")

    def where(self, spot: Spot) -> Matrix:
        """(3,) in metres, Z up. Raises SettingsError for a spot of a source that is no more."""
        found = self.fitted.where(spot)
        if found is None:
            raise SettingsError("The source that this was picked on is not in the job any more.", "Pick it again.")
        return found

    def direction(self, spot: Spot) -> Matrix:
        """(3,) unit vector, Z up, of what was picked: along an edge, a circle's axis, off a face. Raises SettingsError for
        what has none."""
        matrix = self.fitted.matrix_of(spot.source)
        if matrix is None or spot.way is None:
            raise SettingsError("What was picked has no direction.", "Pick a straight edge, a flat face, or a circle.")
        linear = matrix[:3, :3]
        if spot.kind in ("face centre", "surface"):
            # What stands off a face goes by the inverse transpose, which for turns and even scales is the matrix itself.
            linear = np.asarray(np.linalg.inv(linear).T, float)
        return unit_vector(linear @ np.array(spot.way))

    def turned(self, refs: Sequence[str], turn: Matrix, about: Matrix) -> "Standing":
        """After a turn (3, 3) about a point (3,), metres, Z up; named origins and the ground are found anew."""
        centre = np.asarray(about, float) + self.offset
        changes = {}
        for ref in self.chosen(refs):
            own = self.own(ref)
            x, y, z = angles_of(turn @ turned_by(*own.tip, own.turn))
            move = turn @ (np.array(own.move) - centre) + centre
            changes[ref] = {"tip": (x, y), "turn": z, "move": rounded(move)}
        return self.with_own(changes).settled()

    def moved(self, refs: Sequence[str], by: Matrix) -> "Standing":
        """After a move of some sources, in metres, Z up. Of all of them, it is the origin that moves."""
        chosen = self.chosen(refs)
        if set(chosen) == set(self.refs):
            return self.with_(datum=rounded(self.offset - by), origin=None, ground=None, lift=0.0)
        return self.with_own({ref: {"move": rounded(np.array(self.own(ref).move) + by)} for ref in chosen})

    def settled(self) -> "Standing":
        """With the origin, where it is a place of the overall box, and the lowest point found anew."""
        now = self
        origin = now.settings.origin
        if origin is not None and origin.named != "picked":
            now = now.anchored(origin.named, origin.side)
        return now.with_(ground=now.lowest()) if now.settings.ground is not None else now

    def anchored(self, named: str, side: tuple[int, int, int] = (0, 0, 0)) -> "Standing":
        """With a place of the overall box as the origin: its centre, that of its base, or a corner, edge or side."""
        side = {"centre": (0, 0, 0), "base centre": (0, 0, -1)}.get(named, side)
        low, high = self.box()
        # To the micrometre, so that the offset can be read: triangles are rounded to 32 bit numbers anyway.
        point = np.round((low + high) / 2 + np.array(side) * (high - low) / 2 + self.offset, 6) - self.offset
        origin = Origin.model_validate({"named": named, "side": side, "spot": self.spot_at(point).model_dump()})
        return self.with_(origin=origin, datum=(0.0, 0.0, 0.0), ground=None if side[2] == -1 else self.settings.ground)


def rounded(values: Matrix) -> tuple[float, float, float]:
    x, y, z = (float(np.round(value, _NANO)) + 0.0 for value in values)
    return x, y, z
