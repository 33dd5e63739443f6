"""Shading normals: smooth up to a crease angle, or flat, where the surface's own are missing or not wanted."""

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation, Option
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mend.weld import row_codes
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, facing_as_wound, numbered
from hemp_ladder.core.settings import Range
from hemp_ladder.core.units import parse_angle


class Normals(Operation):
    """How shading goes over the edges between triangles."""

    version: ClassVar[int] = 1
    option: ClassVar[Option] = Option(
        "HOW", "shading: source (as the surfaces are), crease=40deg (smooth up to that angle between triangles), flat"
    )
    ranges: ClassVar[Mapping[str, Range]] = {"degrees": Range(1, 180, 40)}
    does: Literal["normals"] = "normals"
    kind: Literal["crease", "flat"] = "crease"
    degrees: Annotated[float, Field(ge=0, le=180)] = Field(
        ranges["degrees"].start, description="edges between triangles that lean more than this stay sharp, in degrees"
    )

    @classmethod
    def from_option(cls, text: str) -> Self | None:
        kind, _, angle = text.partition("=")
        if kind == "crease" and angle:
            return cls(degrees=float(np.degrees(parse_angle(angle))))
        if text not in ("source", "flat"):
            raise SettingsError(f"“{text[:40]}” is no kind of normals. Write source, crease=40deg or flat.")
        return cls(kind="flat") if text == "flat" else None

    def apply(self, mesh: Mesh) -> Mesh:
        return shade(mesh, self)


def shade(mesh: Mesh, settings: Normals) -> Mesh:
    """Give every corner the normal of its smooth fan; corners of one place and one normal share a vertex.

    A fan is what hangs together around a vertex by edges that lean less than
    the crease angle. Its normal is the mean of its triangles', weighted by
    area and by the angle at the corner (G. Thürmer and C. A. Wüthrich,
    "Computing vertex normals from polygonal facets", 1998, for the angle).
    Open, over-shared and wrongly wound edges are sharp. No normal looks away
    from the side that its triangle shows. `effects["normals"]` counts the
    edges that stay sharp.
    """
    if not len(mesh.triangles):
        return mesh
    across = cross(*(mesh.corners[:, k] - mesh.corners[:, 0] for k in (1, 2)))
    long = np.linalg.norm(across, axis=1)
    flat = np.divide(across, long[:, None], out=np.zeros_like(across), where=long[:, None] > 0)
    limit = math.radians(settings.degrees) if settings.kind == "crease" else -1.0
    fans, sharp = _fans(mesh.welded[mesh.triangles], flat, limit)
    weight = (long[:, None] * _angles(mesh.corners)).reshape(-1)
    around = np.repeat(flat, 3, axis=0) * weight[:, None]
    total = np.stack([np.bincount(fans, weights=around[:, axis]) for axis in range(3)], axis=1)
    size = np.linalg.norm(total, axis=1, keepdims=True)
    mean = np.divide(total, size, out=np.zeros_like(total), where=size > 0)[fans]
    return _dressed(mesh, mean, float(sharp), settings)


def _dressed(mesh: Mesh, normals: NDArray[np.float64], sharp: float, settings: Normals) -> Mesh:
    """The mesh with a normal for every corner (3 m, 3), and as few vertices as those need."""
    corners = mesh.triangles.reshape(-1)
    loose = np.arange(len(corners), dtype=np.int32).reshape(-1, 3)
    # Where a mean looks away from one of its triangles, that corner is as its triangle.
    positions, told, triangles = facing_as_wound(mesh.positions[corners], normals.astype(np.float32), loose)
    # New vertices stand last, in the order of the corners they were made for.
    old = np.append(corners, corners[np.flatnonzero(triangles.reshape(-1) >= len(corners))])
    others = [row_codes(name, values)[old] for name, values in mesh.attributes.items() if name != "normal"]
    used, index = np.unique(triangles, return_inverse=True)
    number, first = numbered([column[used] for column in (mesh.same[old], row_codes("normal", told), *others)])
    kept = used[first]
    attributes = {name: values[old[kept]] for name, values in mesh.attributes.items()}
    effects = {**mesh.figures.effects, settings.does: sharp}
    return replace(
        mesh,
        positions=positions[kept],
        triangles=number[index].reshape(-1, 3).astype(np.int32),
        attributes={**attributes, "normal": told[kept]},
        figures=replace(mesh.figures, effects=effects, open_edges=None),
        places=None,
    )


def _fans(places: NDArray[np.integer], flat: NDArray[np.float64], limit: float) -> tuple[NDArray[np.integer], int]:
    """For every corner (3 m,) the number of its smooth fan, and how many edges are sharp.

    places (m, 3), numbers of positions; flat (m, 3), the triangles' normals; limit in radians, negative for none smooth.
    """
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    count = places.size
    start, end = places.reshape(-1).astype(np.int64), places[:, [1, 2, 0]].reshape(-1).astype(np.int64)
    low, high = np.minimum(start, end), np.maximum(start, end)
    codes = low * (int(places.max()) + 1) + high
    order = np.argsort(codes, kind="stable")
    ranked = codes[order]
    fresh = np.flatnonzero(np.concatenate([[True], ranked[1:] != ranked[:-1]]))
    sides = np.diff(np.append(fresh, count))
    pairs = fresh[sides == 2]
    one, two = order[pairs], order[pairs + 1]
    lean = np.arctan2(
        np.linalg.norm(cross(flat[one // 3], flat[two // 3]), axis=1),
        np.einsum("ij,ij->i", flat[one // 3], flat[two // 3]),
    )
    # A hair more, so that an edge of just the angle is smooth whatever the rounding.
    smooth = (start[one] == end[two]) & (start[one] != end[one]) & (lean <= limit + 1e-6)
    one, two = one[smooth], two[smooth]
    # The corner at the other end of each side is the next of its triangle.
    first = np.concatenate([one, one - one % 3 + (one + 1) % 3])
    second = np.concatenate([two - two % 3 + (two + 1) % 3, two])
    graph = coo_array((np.ones(len(first), bool), (first, second)), shape=(count, count))
    _, fans = connected_components(graph, directed=False)
    return fans, len(fresh) - len(one)


def _angles(corners: NDArray[np.float64]) -> NDArray[np.float64]:
    """The angle at every corner of triangles (m, 3, 3), in radians: (m, 3)."""
    angles = []
    for k in range(3):
        one, two = corners[:, (k + 1) % 3] - corners[:, k], corners[:, (k + 2) % 3] - corners[:, k]
        angles.append(np.arctan2(np.linalg.norm(cross(one, two), axis=1), np.einsum("ij,ij->i", one, two)))
    return np.stack(angles, axis=1)
