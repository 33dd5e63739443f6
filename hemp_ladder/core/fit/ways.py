"""Ways to fit: what a person does at Fit in one move, each a validated request that gives the settings after it.

The screen, the command line and the remedies of findings all go through
these. To add one: a class with `does` and `apply`, and its place in `AnyWay`.
"""

from fractions import Fraction
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, TypeAdapter

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit.lookouts import LookoutsWay, LookoutWay
from hemp_ladder.core.fit.notes import MeasureWay
from hemp_ladder.core.fit.pairs import Alignment, aligned
from hemp_ladder.core.fit.settings import Anchor, FitSettings, Origin, Point, SourceFit, Spot
from hemp_ladder.core.fit.standing import Standing, rounded
from hemp_ladder.core.fit.turning import angles_of, turned_about, turned_around, turned_by, turned_onto, unit_vector
from hemp_ladder.core.fit.way import Way
from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.model.model import Matrix
from hemp_ladder.core.refs import SourceRef
from hemp_ladder.core.settings import Settings
from hemp_ladder.core.units import UNITS, say_metric

_NUMBER = {"x": 0, "y": 1, "z": 2}
#: Models smaller than a grain of sand or larger than a city are asked about (common practice).
SAND, CITY = 1e-4, 5e4


class TurnWay(Way):
    """Turn about an axis through a point: a picked one, or the origin."""

    does: Literal["turn"] = "turn"
    axis: Literal["x", "y", "z"] | None = "z"
    along: Spot | None = Field(None, description="in place of an axis: a picked edge or circle, whose axis it is")
    degrees: float = Field(ge=-36_000, le=36_000)
    about: Spot | None = None
    around: Point | None = Field(None, description="in place of a picked point: one in metres, Z up")

    def apply(self, standing: Standing) -> Standing:
        spot = self.about or self.along
        centre = standing.where(spot) if spot is not None else np.array(self.around or (0, 0, 0), float)
        if self.along is not None:
            turn = turned_around(standing.direction(self.along), self.degrees)
        else:
            turn = turned_about(_NUMBER[self.axis or "z"], self.degrees)
        return standing.turned(self.sources, turn, centre)


class PoseWay(Way):
    """Have sources turned by exactly these angles, each about the middle of its foot."""

    does: Literal["pose"] = "pose"
    degrees: Point = Field(description="about X, then Y, then Z of the job")

    def apply(self, standing: Standing) -> Standing:
        for ref in standing.chosen(self.sources):
            own = standing.own(ref)
            low, high = standing.box([ref])
            foot = np.array([*((low + high) / 2)[:2], low[2]])
            turn = turned_by(*self.degrees) @ turned_by(*own.tip, own.turn).T
            standing = standing.turned([ref], turn, foot)
        return standing


class LayWay(Way):
    """Lay a picked face on the ground: it looks down then, and the lowest point lies at height 0."""

    does: Literal["lay"] = "lay"
    face: Spot | None = None
    way: Point | None = Field(None, description="in place of a face: what looks this way, Z up")

    def apply(self, standing: Standing) -> Standing:
        sources = standing.chosen(self.sources or ((self.face.source,) if self.face else ()))
        if self.face is not None:
            way, about = standing.direction(self.face), standing.where(self.face)
        else:
            way, about = unit_vector(np.array(self.way or (0, 0, 0))), standing.box(sources).mean(axis=0)
        after = standing.turned(sources, turned_onto(way, np.array([0.0, 0.0, -1.0])), about)
        return GroundWay(sources=tuple(sources)).apply(after)


class AlongWay(Way):
    """Turn a picked edge, or a circle's axis, to an axis of the job by the smallest turn."""

    does: Literal["along"] = "along"
    edge: Spot
    axis: Literal["x", "y", "z"]

    def apply(self, standing: Standing) -> Standing:
        way = standing.direction(self.edge)
        wanted = np.eye(3)[_NUMBER[self.axis]]
        turn = turned_onto(way, wanted if way @ wanted >= 0 else -wanted)
        return standing.turned(self.sources or (self.edge.source,), turn, standing.where(self.edge))


class MirrorWay(Way):
    """Turn left and right over along an axis, through a picked point or the middle; what was outside stays outside."""

    does: Literal["mirror"] = "mirror"
    axis: Literal["x", "y", "z"] = "x"
    about: Spot | None = None

    def apply(self, standing: Standing) -> Standing:
        chosen = standing.chosen(self.sources)
        centre = standing.where(self.about) if self.about else standing.box(chosen).mean(axis=0)
        over = np.eye(3)
        over[_NUMBER[self.axis], _NUMBER[self.axis]] = -1
        sources = dict(standing.settings.sources)
        for ref in chosen:
            sources[ref] = _mirrored(standing, ref, over, np.asarray(centre))
        return standing.with_(sources=sources).settled()


def _mirrored(standing: Standing, ref: str, over: Matrix, centre: Matrix) -> SourceFit:
    """A source stands by R.X^m, R its turn and X its mirror along X. X undoes itself, so over.R.X^m is R'.X^(1-m) with
    the turn R' = over.R.X."""
    own = standing.own(ref)
    x, y, z = angles_of(over @ turned_by(*own.tip, own.turn) @ np.diag([-1.0, 1.0, 1.0]))
    middle = centre + standing.offset
    move = over @ (np.array(own.move) - middle) + middle
    changed = {"mirrored": not own.mirrored, "tip": (x, y), "turn": z, "move": rounded(move)}
    return SourceFit.model_validate({**own.model_dump(), **changed})


class MoveWay(Way):
    """Move by an amount, in metres."""

    does: Literal["move"] = "move"
    by: Point

    def apply(self, standing: Standing) -> Standing:
        return standing.moved(self.sources, np.array(self.by))


class OriginWay(Way):
    """Choose the origin of all; or of named sources, which point of them lies where (`to`, in metres)."""

    does: Literal["origin"] = "origin"
    named: Anchor | Literal["as received", "typed"]
    side: tuple[Literal[-1, 0, 1], Literal[-1, 0, 1], Literal[-1, 0, 1]] = (0, 0, 0)
    spot: Spot | None = None
    to: Point = Field((0.0, 0.0, 0.0), description="of all: the point, as it was received, that is the origin")

    def apply(self, standing: Standing) -> Standing:
        if self.sources and set(standing.chosen(self.sources)) != set(standing.refs):
            return self._own(standing)
        if self.named in ("as received", "typed"):
            return standing.with_(origin=None, ground=None, lift=0.0, datum=self.to)
        if self.named == "picked":
            spot = _needed(self.spot)
            standing.where(spot)
            return standing.with_(
                origin=Origin(named="picked", spot=spot), ground=None, lift=0.0, datum=(0.0, 0.0, 0.0)
            )
        return standing.with_(ground=None, lift=0.0).anchored(self.named, self.side)

    def _own(self, standing: Standing) -> Standing:
        if self.named == "as received":
            return standing.with_own({ref: {"move": (0.0, 0.0, 0.0)} for ref in self.sources})
        if self.named == "picked":
            point = standing.where(_needed(self.spot))
        else:
            side = {"centre": (0, 0, 0), "base centre": (0, 0, -1), "typed": (0, 0, -1)}.get(self.named, self.side)
            low, high = standing.box(self.sources)
            point = (low + high) / 2 + np.array(side) * (high - low) / 2
        return standing.moved(self.sources, np.array(self.to) - point)


class GroundWay(Way):
    """Stand on the ground by the lowest point, then lifted by so much."""

    does: Literal["ground"] = "ground"
    lift: float = Field(0.0, ge=-1e8, le=1e8, description="metres")

    def apply(self, standing: Standing) -> Standing:
        chosen = standing.chosen(self.sources)
        if set(chosen) == set(standing.refs):
            return standing.with_(ground=standing.lowest(), lift=self.lift)
        low = standing.where(standing.lowest(chosen))[2]
        return standing.moved(chosen, np.array([0, 0, self.lift - low]))


class TrueWay(Way):
    """Make a distance between two points as long as it should be, by a unit where one explains it, else by a factor."""

    does: Literal["true"] = "true"
    first: Spot
    second: Spot
    length: Metres
    unit: str | None = Field(None, description="have it in this unit, which explains the factor")
    sure: bool = Field(False, description="also where it becomes smaller than a grain of sand or larger than a city")

    def apply(self, standing: Standing) -> Standing:
        factor = factor_for(standing, self.first, self.second, self.length)
        chosen = standing.chosen(self.sources or (self.first.source,))
        size = float(np.ptp(standing.box(chosen), axis=0).max()) * factor
        if not self.sure and not SAND <= size <= CITY:
            told = "smaller than a grain of sand" if size < SAND else "larger than a city"
            raise AskedAgain(f"It would be {say_metric(size)} large, {told}.")
        if self.unit is not None:
            return standing.with_own(
                {ref: {"unit": self.unit, "each": None, "width": None} for ref in chosen}
            ).settled()
        changes: dict[str, dict[str, Any]] = {}
        for ref in chosen:
            scale = float(standing.fitted.sources[standing.refs.index(ref)].scale) * factor
            changes[ref] = {"each": scale, "width": None}
        return standing.with_own(changes).settled()


class AskedAgain(SettingsError):
    """What is possible and unlikely: to be said again by one who is sure."""

    code = "asked-again"

    def __init__(self, message: str) -> None:
        super().__init__(message, "If that is what you want, say so once more.")


class Pair(Settings):
    """A picked point, and where it belongs: another picked point, or typed coordinates in metres."""

    point: Spot
    onto: Spot | Point


class AlignWay(Way):
    """Bring a source onto others by pairs of points."""

    does: Literal["align"] = "align"
    pairs: tuple[Pair, ...] = Field(min_length=1, max_length=50)
    upright: bool = Field(True, description="two pairs turn about the up axis only")

    def apply(self, standing: Standing) -> Standing:
        found = alignment(standing, self)
        sources = standing.chosen(self.sources or (self.pairs[0].point.source,))
        centre = standing.where(self.pairs[0].point)
        turned = standing.turned(sources, found.turn, centre) if not np.array_equal(found.turn, np.eye(3)) else standing
        away = found.turn @ centre + found.move - turned.where(self.pairs[0].point)
        return turned.moved(sources, away)


class LikeWay(Way):
    """Give all sources the turns and the place of one, so that they share its datum."""

    does: Literal["like"] = "like"
    source: SourceRef

    def apply(self, standing: Standing) -> Standing:
        (ref,) = standing.chosen((self.source,))
        own = standing.own(ref)
        told = {"tip": own.tip, "turn": own.turn, "move": own.move, "mirrored": own.mirrored}
        return standing.with_own(dict.fromkeys(standing.refs, told)).settled()


#: Any of them, told apart by what it does.
AnyWay = Annotated[
    TurnWay | PoseWay | LayWay | AlongWay | MirrorWay | MoveWay | OriginWay | GroundWay | TrueWay | AlignWay | LikeWay
    | LookoutWay | LookoutsWay | MeasureWay,
    Field(discriminator="does"),
]  # fmt: skip
_ANY: TypeAdapter[Any] = TypeAdapter(AnyWay)


def way_from(values: Any) -> Way:
    """The way that plain values ask for. Raises ValidationError for none."""
    way: Way = _ANY.validate_python(values)
    return way


def fit_by(standing: Standing, way: Way) -> FitSettings:
    """The settings after a way, checked as a whole."""
    return FitSettings.model_validate(way.apply(standing).settings.model_dump())


def alignment(standing: Standing, way: AlignWay) -> Alignment:
    """How pairs fit, with what stays between the points of each, in metres."""
    points = np.array([standing.where(pair.point) for pair in way.pairs])
    onto = np.array([
        standing.where(pair.onto) if isinstance(pair.onto, Spot) else pair.onto for pair in way.pairs
    ])  # fmt: skip
    if any(isinstance(pair.onto, Spot) and pair.onto.source == pair.point.source for pair in way.pairs):
        raise SettingsError("Both points of a pair are of the same source.", "Pick the second on another source.")
    return aligned(points, onto, way.upright)


def factor_for(standing: Standing, first: Spot, second: Spot, length: float) -> float:
    """By what the source grows when the two points are to be so many metres apart. Raises SettingsError for points of two
    sources, or one and the same, and lengths that nothing has."""
    if first.source != second.source:
        raise SettingsError(
            "The two points are of different sources.", "Pick both on the source that is to be made true."
        )
    if not np.isfinite(length) or not 0 < length <= 1e8:
        raise SettingsError("A length is more than nothing, and less than 100,000 km.", "Type the true length.")
    apart = float(np.linalg.norm(standing.where(first) - standing.where(second)))
    size = float(np.ptp(standing.placed(first.source), axis=0).max())
    if apart <= 1e-9 * max(size, 1e-12):
        raise SettingsError("Both points are the same.", "Pick the second point elsewhere.")
    return length / apart


def number_metres(standing: Standing, source: str) -> Fraction:
    """Metres of one number as the file has it, which its reader may have turned into another unit."""
    member = standing.refs.index(source)
    model, scale = standing.model.members[member].model, standing.fitted.sources[member].scale
    return scale * UNITS[model.unit].metres / model.metres_per_coordinate if model.unit else scale


def _needed(spot: Spot | None) -> Spot:
    if spot is None:
        raise SettingsError("No point is picked.", "Pick one on the stage.")
    return spot


__all__ = ["AlignWay", "AnyWay", "AskedAgain", "Way", "alignment", "fit_by", "number_metres", "way_from"]
