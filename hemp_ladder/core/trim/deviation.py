"""How far two surfaces lie from each other, measured: from points spread over each to the nearest place on the other."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.tree import Tree
from hemp_ladder.core.mesh.triangles import cross, dot, lengths

#: Points measured in all, half from each side: the most, and the fewest; between them so many for each triangle.
SAMPLES, _FEWEST, _EACH = 100_000, 6000, 2


@dataclass(frozen=True)
class Deviation:
    """Between a full mesh and a lighter one; lengths in source coordinates.

    there   largest distance from the full to the light: what is gone
    back    largest distance from the light to the full: what bulges
    mean    of all distances
    turned  mean angle between their normals at the same places, degrees
    shifted distance between their UV at the same places, as a share of the picture; of 98 of 100 places no larger; 0
            without UV
    """

    there: float
    back: float
    mean: float
    turned: float
    shifted: float

    @property
    def largest(self) -> float:
        return max(self.there, self.back)


def samples_for(mesh: Mesh) -> int:
    """How many points measure a full mesh well."""
    return int(np.clip(_EACH * len(mesh.triangles), _FEWEST, SAMPLES))


def deviation(full: Mesh, light: Mesh, samples: int = SAMPLES, known: Tree | None = None) -> Deviation:
    """Between two meshes with triangles; `known` is the full one's tree, where there is one already.

    A largest distance over points is a lower bound; so many find 98 of 100 parts of it or more (measured).
    """
    one, two = known or Tree(full), Tree(light)
    from_full, full_of, vertices = one.points(samples // 2)
    there, at, foot = two.nearest(from_full)
    back = one.nearest(two.points(samples - samples // 2)[0])[0]
    # Vertices lie on edges, where the nearest triangle may be that beyond it.
    there_of, at, foot, points = full_of[vertices:], at[vertices:], foot[vertices:], from_full[vertices:]
    turned = _angles(_at(full, "normal", there_of, points), _at(light, "normal", at, foot))
    shifted = 0.0
    for name in full.attributes:
        if name.startswith("uv") and name in light.attributes:
            apart = _at(full, name, there_of, points) - _at(light, name, at, foot)
            # Next to a seam the nearest place may be that beyond it.
            shifted = max(shifted, float(np.quantile(np.hypot(*apart.T), 0.98)))
    mean = float(np.concatenate([there, back]).mean())
    return Deviation(float(there.max()), float(back.max()), mean, float(np.degrees(turned.mean())), shifted)


def _at(mesh: Mesh, name: str, triangles: NDArray[np.int64], points: NDArray[np.float64]) -> NDArray[np.float64]:
    """An attribute at points (n, 3) on triangles (n,), between those of the corners."""
    a, b, c = mesh.corners[triangles].transpose(1, 0, 2)
    across = cross(b - a, c - a)
    square = np.maximum(dot(across, across), 1e-300)
    second = dot(cross(points - a, c - a), across) / square
    third = dot(cross(b - a, points - a), across) / square
    shares = np.stack([1 - second - third, second, third], axis=1).clip(0, 1)
    values: Any = mesh.attributes[name][mesh.triangles[triangles]]
    return np.asarray(np.einsum("ni,nik->nk", shares, values.astype(np.float64)))


def _angles(one: NDArray[np.float64], two: NDArray[np.float64]) -> NDArray[np.float64]:
    long = np.maximum(lengths(one) * lengths(two), 1e-300)
    return np.arccos(np.clip(dot(one, two) / long, -1, 1))
