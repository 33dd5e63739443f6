"""Reduce: fewer triangles by collapsing edges, with the deviation measured."""

import math
from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from hemp_ladder.core.chain.steps import Operation, Option
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.settings import Range
from hemp_ladder.core.trim.goal import parse_goal
from hemp_ladder.core.trim.judge import Judge, judged
from hemp_ladder.core.trim.lost import lost
from hemp_ladder.core.trim.prepare import Prepared, prepare
from hemp_ladder.core.trim.simplifier import ANY, LOCK_BORDER, simplify

#: What a difference of one in an attribute weighs against the same in lengths; normals by what their loss is seen as.
_WEIGHTS = {"normal": 0.5, "colour": 0.5}
#: The library's own error is a mean of a kind; the largest distance is two to four times it (measured).
_ASKED = 1 / 3
#: An asked error is looked for in so many goes, and found when the measured one is this near below it.
_GOES, _NEAR = 8, 0.85
#: How often the aim is doubled to keep the shape.
_DOUBLED = 8
#: No part is made to deviate by more than this share of its diagonal by an asked error.
_MOST = 0.05


class Reduce(Operation):
    """How far a part is reduced: to a share of its triangles, to a count of them, or as far as an error allows."""

    option: ClassVar[Option] = Option(
        "GOAL", "fewer triangles: 25%% of them, a count of them in all, a file size (2MB), or error=0.5mm"
    )
    ranges: ClassVar[Mapping[str, Range]] = {
        "share": Range(0.001, 1, 0.25), "error": Range(1e-5, 0.1, 5e-4), "count": Range(4, 5_000_000, 10_000),
        "hold": Range(0.005, 0.5, 0.05),
    }  # fmt: skip
    optional: ClassVar[bool] = True
    does: Literal["reduce"] = "reduce"
    share: Annotated[float, Field(gt=0, le=1)] | None = Field(None, description="of the part's triangles")
    count: Annotated[int, Field(ge=1, le=1_000_000_000)] | None = Field(None, description="triangles of the part")
    error: Annotated[Metres, Field(gt=0, le=1e9)] | None = Field(
        None, description="largest distance from the full mesh, measured, in metres"
    )
    hold: Annotated[float, Field(gt=0, le=1)] | None = Field(
        None, description="reduce no farther than the shape holds: volume and outline change by no more than this share"
    )
    borders: bool = Field(False, description="where the surface ends, nothing moves at all")

    @model_validator(mode="after")
    def _one_goal(self) -> Self:
        if sum(goal is not None for goal in (self.share, self.count, self.error)) != 1:
            raise ValueError("say one of a share, a count and an error to reduce to")
        return self

    @classmethod
    def from_option(cls, text: str) -> Self:
        goal = parse_goal(text)
        # A count or a size is of all parts together: which share that is, is known only once they are made.
        return cls.model_validate({goal.by: goal.value} if goal.by in ("share", "error") else {"share": 1.0})

    def in_coordinates(self, metres: float) -> Self:
        return self if self.error is None else self.model_copy(update={"error": self.error / metres})

    def apply(self, mesh: Mesh) -> Mesh:
        return reduce(mesh, self)

    def seconds(self, triangles: int) -> float:
        return 8e-6 * triangles


def reduce(mesh: Mesh, settings: Reduce) -> Mesh:
    """A lighter mesh. Borders, seams of UV and shading, and borders between materials and faces stay what they are: their
    vertices move only along them. What every vertex carries is moved with it. `effects["reduce"]` counts triangles that went.

    An asked error is kept as measured; a share or a count is reached where the seams allow. Raises SettingsError where
    nothing would be left, or the error is as large as the part.
    """
    if not len(mesh.triangles):
        return mesh
    count = len(mesh.triangles)
    size = float(np.linalg.norm(np.ptp(mesh.positions, axis=0)))
    if settings.error is not None and settings.error >= size:
        raise SettingsError("The error to reduce by is as large as the part.", "Ask for less, or except this part.")
    goal = settings.count if settings.count is not None else math.ceil((settings.share or 0) * count)
    if settings.error is None and goal >= count:
        return mesh
    judge, ready = Judge(mesh), prepare(mesh)
    if settings.error is not None:
        light = _within(ready, judge, min(settings.error, _MOST * size), settings.borders)
    else:
        light = _to(ready, goal, ANY, settings.borders)
    if light is None:
        raise SettingsError("Of so few triangles nothing would be left of the part.", "Ask for more of them.")
    told = judge.told(light)
    if settings.hold is not None:
        for _ in range(_DOUBLED):
            if not lost(told, settings.hold):
                break
            goal = 2 * len(light.triangles)
            if goal >= count:
                light = mesh
                break
            light = _to(ready, goal, ANY, settings.borders) or mesh
            told = judge.told(light)
        if light is mesh or lost(told, settings.hold):
            raise SettingsError("It cannot be reduced without losing its shape.", "It stays as it is.")
    told["joined"] = float(ready.joined)
    return judged(light, mesh, settings.does, told)


def to(mesh: Mesh, count: int) -> Mesh | None:
    """Reduced to about a count of triangles, with nothing measured; None where nothing is left."""
    return _to(prepare(mesh), count, ANY, False)


def _to(ready: Prepared, count: int, error: float, borders: bool) -> Mesh | None:
    """Reduced to a count of triangles or by an error as the library understands it; None where nothing is left."""
    names = sorted(ready.attributes)
    told = [ready.attributes[name] for name in names]
    weights = [_WEIGHTS.get(name, 1.0) for name in names]
    columns = np.concatenate([np.zeros((len(ready.positions), 0), np.float32), *told], axis=1)
    weighed = np.repeat(weights, [item.shape[1] for item in told]).astype(np.float32)
    middle = (ready.positions.min(axis=0) + ready.positions.max(axis=0)) / 2
    done = simplify(
        ready.triangles, (ready.positions - middle).astype(np.float32), columns, weighed, count, error,
        LOCK_BORDER if borders else 0,
    )  # fmt: skip
    if len(done.triangles) < 2:
        return None
    vertex_label = np.zeros(len(ready.positions), np.int64)
    vertex_label[ready.triangles.reshape(-1)] = np.repeat(ready.labels, 3)
    ends = np.cumsum([0, *(item.shape[1] for item in told)])
    attributes = {
        name: done.attributes[:, ends[k] : ends[k + 1]] for k, name in enumerate(names)
    }  # fmt: skip
    return ready.finished(
        done.positions.astype(np.float64) + middle, done.triangles, vertex_label[done.triangles[:, 0]], attributes
    )


def _within(ready: Prepared, judge: Judge, error: float, borders: bool) -> Mesh | None:
    """The lightest found whose measured deviation keeps to an error: the library is asked for a third of it, and then for
    more or less by what was measured."""
    asked, best = error * _ASKED, None
    low, high = 0.0, math.inf
    for _ in range(_GOES):
        light = _to(ready, 0, asked, borders)
        found = judge.largest(light) if light is not None else math.inf
        if found <= error and light is not None:
            low = asked
            if best is None or len(light.triangles) < len(best.triangles):
                best = light
            if found >= _NEAR * error:
                break
            asked *= min(2.5, max(1.15, 0.95 * error / max(found, 0.2 * error)))
        else:
            high = asked
            asked *= 0.5 if found == math.inf else max(0.25, min(0.85, 0.9 * error / found))
        if not low < asked < high:
            asked = (low + high) / 2
        if high < low * 1.05:
            break
    if best is None:
        raise SettingsError(
            "No triangle can be spared within the error asked for.", "Ask for a larger one, or merge flats."
        )
    return best
