"""Shading normals: as they came, smooth up to a crease angle, weighted by flats, or flat."""

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
from hemp_ladder.core.mesh.edges import Edges, Numbers, components, following
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import cross, dot, lengths, numbered
from hemp_ladder.core.settings import Range
from hemp_ladder.core.units import parse_angle

#: Triangles that lean less than this are one flat, in radians.
_ONE_FLAT = math.radians(0.2)
_KINDS = ("crease", "weighted")


class Normals(Operation):
    """How shading goes over the edges between triangles."""

    version: ClassVar[int] = 2
    option: ClassVar[Option] = Option(
        "HOW",
        "shading: source (as the surfaces are), crease=40deg (smooth up to that angle between triangles), "
        "weighted=30deg (the same, led by flat faces), flat",
    )
    ranges: ClassVar[Mapping[str, Range]] = {"degrees": Range(1, 180, 40)}
    does: Literal["normals"] = "normals"
    kind: Literal["crease", "weighted", "flat"] = "crease"
    degrees: Annotated[float, Field(ge=0, le=180)] = Field(
        ranges["degrees"].start, description="edges between triangles that lean more than this stay sharp, in degrees"
    )

    @classmethod
    def from_option(cls, text: str) -> Self | None:
        kind, _, angle = text.partition("=")
        if kind in _KINDS and angle:
            return cls.model_validate({"kind": kind, "degrees": float(np.degrees(parse_angle(angle)))})
        if text not in ("source", "flat"):
            raise SettingsError(
                f"“{text[:40]}” is no kind of normals. Write source, crease=40deg, weighted=30deg or flat."
            )
        return cls(kind="flat") if text == "flat" else None

    def apply(self, mesh: Mesh) -> Mesh:
        return shade(mesh, self)


def shade(mesh: Mesh, settings: Normals) -> Mesh:
    """Give every corner the normal of its smooth fan; corners of one place and one normal share a vertex.

    A fan is what hangs together around a vertex by edges that lean less than
    the crease angle. Its normal is the mean of its triangles', weighted by
    the angle at the corner (G. Thürmer and C. A. Wüthrich, "Computing vertex
    normals from polygonal facets", 1998) and by area: the triangle's own, or
    where flats lead, the square of the area of the flat it lies in, so that
    a flat face shades flat up to its rounded edges. Open, over-shared and
    wrongly wound edges are sharp. No normal looks away from the side that
    its triangle shows. No triangle is added or moved. `effects["normals"]`
    counts the edges that stay sharp.
    """
    if not len(mesh.triangles):
        return mesh
    corners = mesh.corners
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    double = lengths(across)
    flat = np.divide(across, double[:, None], out=np.zeros_like(across), where=double[:, None] > 0)
    edges = edges_of(mesh)
    one, two = edges.pairs
    across_ok = edges.start(one) == edges.end(two)
    alike = dot(flat[one // 3], flat[two // 3])
    # A hair more, so that an edge of just the angle is smooth whatever the rounding.
    limit = math.cos(min(math.radians(settings.degrees) + 1e-6, math.pi)) - 1e-12
    smooth = across_ok & (alike >= limit) if settings.kind != "flat" else np.zeros(len(one), bool)
    fan = fans(len(flat), one[smooth], two[smooth])
    weight: NDArray[np.float64] = double
    if settings.kind == "weighted":
        level = across_ok & (alike >= math.cos(_ONE_FLAT))
        count, of = components(len(flat), one[level] // 3, two[level] // 3)
        weight = np.square(np.bincount(of, double, count)[of].astype(float))
    told = (weight[:, None] * _angles(corners, double)).reshape(-1)
    total = np.stack([np.bincount(fan, np.repeat(flat[:, axis], 3) * told) for axis in range(3)], axis=1).astype(float)
    sharp = len(edges.uses) - int(np.count_nonzero(smooth))
    return _dressed(mesh, edges.places, flat, fan, total, {**mesh.figures.effects, settings.does: float(sharp)})


def edges_of(mesh: Mesh) -> Edges:
    """The edges between a mesh's triangles: by vertices in the very same place where the surface closes by those, else
    near ones count too."""
    edges = Edges.of(mesh.same[mesh.triangles])
    return Edges.of(mesh.welded[mesh.triangles]) if len(edges.borders) else edges


def leans(flat: NDArray[np.float64], one: Numbers, two: Numbers) -> NDArray[np.float64]:
    """The angle in radians between the triangles on both sides of edges, given by sides (e,) and normals (m, 3)."""
    first, second = flat[one // 3], flat[two // 3]
    return np.asarray(np.arctan2(lengths(cross(first, second)), dot(first, second)))


def fans(count: int, one: Numbers, two: Numbers) -> Numbers:
    """For every corner of so many triangles the number of its fan, (3 m,), given the two sides of every smooth edge."""
    # The corner at the other end of each side is the next of its triangle.
    return components(3 * count, np.concatenate([one, following(one)]), np.concatenate([following(two), two]))[1]


def _dressed(
    mesh: Mesh, places: Numbers, flat: NDArray[np.float64], fan: Numbers, total: NDArray[np.float64],
    effects: Mapping[str, float],
) -> Mesh:  # fmt: skip
    """The mesh with the normal of its fan for every corner, and as few vertices as those need.

    places (m, 3), flat (m, 3), fan (3 m,), total (f, 3): the fans' normals, of any length.
    """
    size = lengths(total)
    normal = np.divide(total, size[:, None], out=np.zeros_like(total), where=size[:, None] > 0)
    # Where a mean looks away from one of its triangles, that corner is as its triangle.
    own = np.flatnonzero(dot(normal[fan], np.repeat(flat, 3, axis=0)) <= 1e-3)
    fan = fan.copy()
    fan[own] = len(normal) + np.arange(len(own))
    told = np.concatenate([normal, flat[own // 3]]).astype(np.float32)
    place = np.zeros(len(told), np.int64)
    place[fan] = places.reshape(-1)
    # Fans of one place that ended up with one normal are one.
    vertex = numbered([place, row_codes("normal", told)])[0][fan]
    corners = mesh.triangles.reshape(-1)
    others = [row_codes(name, values)[corners] for name, values in mesh.attributes.items() if name != "normal"]
    if others:
        vertex, first = numbered([vertex, *others])
    else:
        first = np.zeros(int(vertex.max()) + 1, np.int64)
        first[vertex[::-1]] = np.arange(len(vertex))[::-1]
    attributes = {name: values[corners[first]] for name, values in mesh.attributes.items()}
    return replace(
        mesh,
        positions=mesh.positions[corners[first]],
        triangles=vertex.reshape(-1, 3).astype(np.int32),
        attributes={**attributes, "normal": told[fan[first]]},
        figures=replace(mesh.figures, effects=effects, open_edges=None, bad_normals={}),
        places=mesh.same[corners[first]],
    )


def _angles(corners: NDArray[np.float64], double: NDArray[np.float64]) -> NDArray[np.float64]:
    """The angle at every corner of triangles (m, 3, 3) in radians, (m, 3); `double` (m,) is twice the area of each, the
    length of the cross product at any of its corners."""
    sides = [corners[:, (k + 1) % 3] - corners[:, k] for k in range(3)]
    angles = np.empty((len(corners), 3))
    for k in range(2):
        angles[:, k] = np.arctan2(double, -dot(sides[k], sides[k - 1]))
    angles[:, 2] = math.pi - angles[:, 0] - angles[:, 1]
    return np.maximum(angles, 0.0)
