"""What is wrong with triangles, counted: for many small meshes at once, which is most of what there is."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.edges import Edges, Numbers
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.seams import rings, t_joints
from hemp_ladder.core.mesh.triangles import cross, dot, lengths, weld_tolerance

#: A triangle that is no higher than this share of its mesh's box has no area that 32 bit numbers could hold.
_FLAT = 2.5e-7

#: The square of the sine of five degrees.
_SLENDER = np.sin(np.radians(5.0)) ** 2


def counted(meshes: Sequence[Mesh], places: Sequence[NDArray[np.integer]]) -> list[Figures]:
    """The figures of meshes, with all that can be counted of their edges and triangles.

    `places` has for each mesh the number of every vertex's place, (n,).
    Open edges are those not run along as often one way as the other, so that closed parts that touch along an edge
    stay closed; over-shared ones have more than two triangles. Crossings are not looked for here.
    """
    sizes = np.array([len(mesh.positions) for mesh in meshes])
    rooms = np.array([int(np.max(own, initial=-1)) + 1 for own in places])
    counts = np.array([len(mesh.triangles) for mesh in meshes])
    starts = np.cumsum(sizes) - sizes
    owner = np.repeat(np.arange(len(meshes)), counts)
    positions = np.concatenate([mesh.positions - mesh.positions.mean(axis=0) for mesh in meshes])
    corners = positions[np.concatenate([m.triangles for m in meshes]) + np.repeat(starts, counts)[:, None]]
    numbers = [
        np.asarray(p)[m.triangles] + start for m, p, start in zip(meshes, places, np.cumsum(rooms) - rooms, strict=True)
    ]
    edges = Edges.of(np.concatenate(numbers))

    def per_mesh(triangles: Numbers, weights: NDArray[np.float64] | None = None) -> list[float]:
        told: list[float] = np.bincount(owner[triangles], weights, len(meshes)).tolist()
        return told

    every = np.arange(len(owner))
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    double = lengths(across)
    six = dot(corners[:, 0], cross(corners[:, 1], corners[:, 2]))
    volume, area = per_mesh(every, six / 6), per_mesh(every, double / 2)
    of_edge = edges.sides[edges.first[:-1]] // 3
    open_edges = per_mesh(of_edge[edges.balance != 0])
    against = per_mesh(of_edge[(edges.uses == 2) & (edges.balance != 0)])
    shared = per_mesh(of_edge[edges.uses > 2])
    shells, label = edges.shells
    first = np.full(shells, len(owner))
    np.minimum.at(first, label, every)
    many = per_mesh(first)
    # Of several shells most must face inward: two side by side, of which one does, are not inside out.
    bulk = per_mesh(first, np.abs(np.bincount(label, six, shells)) / 6)
    duplicate = per_mesh(duplicates(edges, label))
    far = np.array([np.abs(mesh.positions - np.array(mesh.origin)).max(initial=0.0) for mesh in meshes])
    degenerate = per_mesh(np.flatnonzero(_flat(corners, double, edges.places, far[owner])))
    slender = per_mesh(np.flatnonzero(slender_triangles(corners, double)))
    inward = per_mesh(first[inward_shells(edges, corners, six, double)]) if shells else [0.0] * len(meshes)
    found = []
    for i, mesh in enumerate(meshes):
        shut = open_edges[i] == 0
        figures = replace(
            mesh.figures, open_edges=int(open_edges[i]), inside_out=shut and volume[i] < -0.5 * bulk[i], volume=volume[i],
            area=area[i], against=int(against[i]), over_shared=int(shared[i]), shells=int(many[i]),
            duplicate=int(duplicate[i]), degenerate=int(degenerate[i]), slender=int(slender[i]), inward=int(inward[i]), holes=0, t_joints=0,
        )  # fmt: skip
        found.append(figures if shut else _bordered(mesh, np.asarray(places[i]), figures))
    return found


def duplicates(edges: Edges, label: Numbers) -> Numbers:
    """Triangles that have the same places as an earlier one and face the same way, (d,).

    Such a triangle lies on edges that are shared too often, or with its like alone is a shell of two.
    """
    suspect = np.zeros(len(edges.places), bool)
    suspect[edges.sides[(edges.uses > 2)[edges.of_side]] // 3] = True
    suspect |= np.bincount(label)[label] <= 2
    rows = np.flatnonzero(suspect)
    if len(rows) < 2:
        return np.zeros(0, np.int64)
    places = edges.places[rows]
    told = np.sort(places, axis=1)
    # Which way round: the order of the corners is that of the sorted ones or the other.
    least = places.argmin(axis=1)
    way = np.take_along_axis(places, (least[:, None] + 1) % 3, 1)[:, 0] == told[:, 1]
    told = np.column_stack([told, way])
    order = np.lexsort([rows, *told.T])
    told = told[order]
    again = np.concatenate([[False], (told[1:] == told[:-1]).all(axis=1)])
    whole = (told[:, 0] != told[:, 1]) & (told[:, 1] != told[:, 2])
    return np.asarray(np.sort(rows[order[again & whole]]))


def inward_shells(
    edges: Edges, corners: NDArray[np.float64], six: NDArray[np.float64], double: NDArray[np.float64]
) -> Numbers:
    """Numbers of closed shells that face inward and lie in no other shell's box, where they might be meant as hollows.

    corners (m, 3, 3); six (m,), six times the signed volume below each triangle; double (m,), twice its area.
    """
    shells, label = edges.shells
    shut = np.ones(shells, bool)
    shut[label[edges.sides[(edges.balance != 0)[edges.of_side]] // 3]] = False
    volume = np.bincount(label, six, shells)
    # Rounding gives a flat shell of two sides some volume.
    bulk = np.bincount(label, double, shells) ** 1.5
    inward = np.flatnonzero(shut & (volume < -1e-7 * bulk))
    if not len(inward) or shells == 1:
        return inward
    low, high = shell_boxes(corners, label, shells)
    other = shut & (volume > 0)
    inside = [((low[other] <= low[i]) & (high[other] >= high[i])).all(axis=1).any() for i in inward]
    return np.asarray(inward[~np.array(inside, bool)])


def shell_boxes(
    corners: NDArray[np.float64], label: Numbers, shells: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Lowest and highest corners of shells, each (s, 3), from the corners of their triangles (m, 3, 3)."""
    order = np.argsort(label, kind="stable")
    starts = np.searchsorted(label[order], np.arange(shells))
    ranked = corners[order]
    return np.minimum.reduceat(ranked.min(axis=1), starts), np.maximum.reduceat(ranked.max(axis=1), starts)


def slender_triangles(corners: NDArray[np.float64], double: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Triangles (m, 3, 3), of which twice the area is known, (m,), whose smallest angle is under five degrees: opposite their
    shortest side, between the other two."""
    squares = [dot(side, side) for k in range(3) for side in [corners[:, k] - corners[:, k - 1]]]
    longer = squares[0] * squares[1] * squares[2] / np.maximum(np.min(squares, axis=0), 1e-300)
    return np.asarray(double * double < _SLENDER * longer)


def flat_triangles(mesh: Mesh, places: NDArray[np.integer]) -> NDArray[np.bool_]:
    """Triangles without an area that could be told from the rounding of what is stored, (m,); `places` as above."""
    corners = mesh.corners
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = float(np.abs(mesh.positions - np.array(mesh.origin)).max(initial=0.0))
    return _flat(corners, lengths(across), places[mesh.triangles], size)


def _flat(
    corners: NDArray[np.float64], double: NDArray[np.float64], places: NDArray[np.integer],
    size: NDArray[np.float64] | float,
) -> NDArray[np.bool_]:  # fmt: skip
    """The same of many meshes: double (m,), twice each triangle's area; size (m,), the farthest coordinate of its mesh."""
    longest = np.sqrt(
        np.max([dot(side, side) for k in range(3) for side in [corners[:, k] - corners[:, k - 1]]], axis=0)
    )
    same = (places[:, 0] == places[:, 1]) | (places[:, 1] == places[:, 2]) | (places[:, 2] == places[:, 0])
    return np.asarray(same | (double <= _FLAT * size * longest))


def _bordered(mesh: Mesh, places: Numbers, figures: Figures) -> Figures:
    """With what is counted only where a surface ends."""
    edges = Edges.of(places[mesh.triangles])
    spots = np.zeros((int(places.max()) + 1, 3))
    spots[places] = mesh.positions
    joints = t_joints(edges, spots, 2 * weld_tolerance(mesh.positions))
    return replace(
        figures, holes=rings(edges)[0], t_joints=None if joints is None else len(np.unique(joints[1]))
    )  # fmt: skip
