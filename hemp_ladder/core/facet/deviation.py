"""How far triangles lie from the surface they stand for, from their normals alone.

Along an edge whose ends carry the true normals n0 and n1, with chord d and
the angle p between the normals, a surface of constant normal curvature
stands off by |(n1 - n0) . d| / (8 cos^2(p / 4)): exact on sphere and
cylinder, where (n1 - n0) . d = 4 r sin^2(p / 2) and the sagitta is
r (1 - cos(p / 2)). It costs no question to the kernel.
"""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def edge_sag(positions: Floats, normals: NDArray[np.float32], triangles: NDArray[np.int32]) -> Floats:
    """Signed distance of each triangle's edge middles from the surface, (m, 3).

    Column k belongs to the edge from corner k to corner k + 1; positive where
    the surface bulges outward. Where a vertex has no normal the value is 0.
    """
    ends = (triangles[:, [0, 1, 2]].reshape(-1), triangles[:, [1, 2, 0]].reshape(-1))
    return pair_sag(positions, normals, *ends).reshape(-1, 3)


def edge_reach(positions: Floats, normals: NDArray[np.float32], triangles: NDArray[np.int32]) -> Floats:
    """Largest distance along each triangle's edges, (m, 3), in the order of `edge_sag`."""
    ends = (triangles[:, [0, 1, 2]].reshape(-1), triangles[:, [1, 2, 0]].reshape(-1))
    return pair_reach(positions, normals, *ends).reshape(-1, 3)


def pair_sag(
    positions: Floats, normals: NDArray[np.float32], start: NDArray[np.integer], end: NDArray[np.integer]
) -> Floats:
    """The same for the edges from vertices `start` to vertices `end`, (k,)."""
    first, last, rise, fall = _slopes(positions, normals, start, end)
    cosine = np.einsum("ij,ij->i", first, last).clip(-1, 1)
    # cos^2(p/4) from cos p by the half-angle formula, twice.
    quarter = (1 + np.sqrt((1 + cosine) / 2)) / 2
    return np.nan_to_num((rise - fall) / (8 * quarter), nan=0.0)


def pair_reach(
    positions: Floats, normals: NDArray[np.float32], start: NDArray[np.integer], end: NDArray[np.integer]
) -> Floats:
    """Largest distance along the edges, (k,), S-shaped curves included.

    Where a curve changes sides between the ends, its middle may lie on the
    chord while its quarters do not; the cubic with the slopes of both ends
    (Hermite) shows it.
    """
    _, _, rise, fall = _slopes(positions, normals, start, end)
    quarters = np.maximum(np.abs(9 * rise - 3 * fall), np.abs(3 * rise - 9 * fall)) / 64
    return np.maximum(np.abs(pair_sag(positions, normals, start, end)), np.nan_to_num(quarters, nan=0.0))


def _slopes(
    positions: Floats, normals: NDArray[np.float32], start: NDArray[np.integer], end: NDArray[np.integer]
) -> tuple[Floats, Floats, Floats, Floats]:
    """Normals at both ends, and how steeply the surface leaves the chord at each."""
    chord = positions[end] - positions[start]
    first, last = normals[start].astype(np.float64), normals[end].astype(np.float64)
    return first, last, -np.einsum("ij,ij->i", first, chord), -np.einsum("ij,ij->i", last, chord)


def centre_sag(sags: Floats) -> Floats:
    """Signed distance at each triangle's middle, (m,): a quadric through the six points of `edge_sag`."""
    return sags.sum(axis=1) * (4 / 9)
