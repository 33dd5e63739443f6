"""Merge flats: what lies in one plane is covered by as few triangles as its outline needs, and nothing moves."""

from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation, Option
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.lengths import Metres, parse_length
from hemp_ladder.core.mesh.edges import Mask, Numbers
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import lengths
from hemp_ladder.core.settings import Range
from hemp_ladder.core.trim.judge import Judge, judged
from hemp_ladder.core.trim.loops import Loops, anew, loops_of
from hemp_ladder.core.trim.prepare import Prepared, prepare
from hemp_ladder.core.trim.regions import Regions, flat_regions

#: How often regions that cannot be covered anew are set aside and the rest tried again.
_TRIES = 6


class Flats(Operation):
    """How flat is flat."""

    option: ClassVar[Option] = Option(
        "LENGTH",
        "merge what is flat into as few triangles as its outline needs; off plane by 0.001mm at most",
        "0.001mm",
    )
    ranges: ClassVar[Mapping[str, Range]] = {"tolerance": Range(1e-9, 1e-3, 1e-6)}
    optional: ClassVar[bool] = True
    does: Literal["flats"] = "flats"
    tolerance: Annotated[Metres, Field(gt=0, le=1e3)] = Field(
        ranges["tolerance"].start, description="largest distance from its plane of what is merged, in metres"
    )

    @classmethod
    def from_option(cls, text: str) -> Self:
        return cls(tolerance=float(parse_length(text)))

    def in_coordinates(self, metres: float) -> Self:
        return self.model_copy(update={"tolerance": self.tolerance / metres})

    def apply(self, mesh: Mesh) -> Mesh:
        return merge_flats(mesh, self)

    def seconds(self, triangles: int) -> float:
        return 4e-6 * triangles


def merge_flats(mesh: Mesh, settings: Flats) -> Mesh:
    """The mesh with every flat covered anew: a polygon of n corners with h holes by n + 2 h - 2 triangles, the least there
    can be. A corner stays where any outline turns; where one goes straight on and its neighbours' do too, it goes.

    Flats end where faces, materials, UV maps, colours or shading do. `effects["flats"]` counts triangles that went.
    """
    if not len(mesh.triangles):
        return mesh
    size = float(np.linalg.norm(np.ptp(mesh.positions, axis=0)))
    # What is rounded to 32 bits lies no flatter than that.
    tolerance = max(settings.tolerance, size * 2e-7)
    if tolerance >= 0.1 * size:
        raise SettingsError(
            "Flats may be off their plane by a tenth of the part; nothing would be left of it.", "Say less."
        )
    light = covered(mesh, tolerance)
    if light is None:
        return mesh
    return judged(light, mesh, settings.does, Judge(mesh).told(light))


def covered(mesh: Mesh, tolerance: float) -> Mesh | None:
    """The mesh with its flats covered anew, with nothing measured; None where that takes no triangle away."""
    ready = prepare(mesh)
    merged = _covered(ready, flat_regions(ready, tolerance), tolerance)
    if merged is None:
        return None
    triangles, labels = merged
    return ready.finished(ready.positions, triangles, labels, dict(ready.attributes))


def _covered(ready: Prepared, regions: Regions, tolerance: float) -> tuple[NDArray[np.int64], Numbers] | None:
    """Triangles with their labels, regions covered anew where that takes fewer; None where there are none."""
    loops = loops_of(ready, regions, ready.edges)
    aside = np.zeros(regions.count, bool)
    for _ in range(_TRIES):
        kept = _kept(ready, loops, aside, tolerance)
        fewer = _fewer(regions, loops, kept) & ~aside
        stuck = np.bincount(loops.region[~kept], minlength=regions.count) > 0
        stuck &= ~fewer & ~aside
        if stuck.any():
            aside |= stuck
            continue
        if not fewer.any():
            return None
        found, failed = _cover(ready, regions, loops, kept, np.flatnonzero(fewer))
        if not failed:
            old = ~fewer[regions.of]
            own = np.repeat(regions.label[[number for number, _ in found]], [len(item) for _, item in found])
            return (
                np.concatenate([ready.triangles[old].astype(np.int64), *(item for _, item in found)]),
                np.concatenate([ready.labels[old], own]),
            )
        aside[failed] = True
    return None


def _kept(ready: Prepared, loops: Loops, aside: Mask, tolerance: float) -> Mask:
    """For each entry of the loops, whether its corner stays: by place, so that neighbours agree."""
    spots, count = ready.positions, int(ready.places.max()) + 1
    before, after = loops.before, loops.after
    here = spots[loops.vertex]
    needed = np.zeros(count, bool)
    needed[ready.places[ready.triangles[aside[loops.region_of_triangle]]].reshape(-1)] = True
    off = _off(here, spots[loops.vertex[before]], spots[loops.vertex[after]])
    turned = off > tolerance
    needed[ready.places[loops.vertex[turned]]] = True
    # A place that one region's outline passes twice, or of which two kept ones are left, stays.
    while True:
        keep = needed[ready.places[loops.vertex]]
        worst = loops.worst_between(keep, spots, tolerance)
        if not len(worst):
            return keep
        needed[ready.places[loops.vertex[worst]]] = True


def _off(points: NDArray[np.float64], one: NDArray[np.float64], two: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far points lie from the straight piece between two others each; as far as can be where they turn back."""
    along, across = two - one, points - one
    square = np.einsum("ij,ij->i", along, along)
    share = np.divide(np.einsum("ij,ij->i", along, across), square, out=np.full(len(points), -1.0), where=square > 0)
    off = lengths(across - share[:, None] * along)
    return np.where((share > 0) & (share < 1), off, np.inf)


def _fewer(regions: Regions, loops: Loops, kept: Mask) -> Mask:
    """Which regions need fewer triangles than they have, (r,)."""
    corners = np.bincount(loops.region[kept], minlength=regions.count)
    holes = loops.count_by_region - 1
    return np.asarray((corners + 2 * holes - 2 < regions.triangles) & (corners >= 3) & (loops.count_by_region > 0))


def _cover(
    ready: Prepared, regions: Regions, loops: Loops, kept: Mask, wanted: Numbers
) -> tuple[list[tuple[int, Numbers]], list[int]]:
    """For each wanted region its new triangles over the prepared vertices; and those that could not be covered."""
    import shapely

    outlines = loops.outlines(kept, wanted, ready, regions)
    told = [(number, item) for number, item in zip(wanted.tolist(), outlines, strict=True) if item is not None]
    polygons = np.array([shapely.Polygon(item.shell, item.holes) for _, item in told], object)
    valid = shapely.is_valid(polygons) if len(polygons) else np.zeros(0, bool)
    good = [item for item, ok in zip(told, valid.tolist(), strict=True) if ok]
    new = anew([item for _, item in good], polygons[valid]) if good else []
    found = [(number, triangles) for (number, _), triangles in zip(good, new, strict=True) if triangles is not None]
    return found, sorted(set(wanted.tolist()) - {number for number, _ in found})
