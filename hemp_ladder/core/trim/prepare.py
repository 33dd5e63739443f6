"""Making a mesh ready to be made lighter: what lies in one place is one, and what must not mix is apart."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mend.weld import row_codes
from hemp_ladder.core.mesh.edges import Edges, Mask, Numbers
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.triangles import count_open_edges, cross, dot, in_use, lengths, numbered

#: Vertices for each triangle from which a mesh is a loose heap of triangles rather than a net.
_LOOSE = 2.5
#: Cosine of the angle between a normal and its triangle's below which shading is not flat.
_FLAT = 0.9995
#: So many triangles tell whether shading is flat.
_LOOKED_AT = 50_000


@dataclass(frozen=True, eq=False)
class Prepared:
    """
    positions   (n, 3) float64, the very same where vertices share a place
    places      (n,) the number of each vertex's place
    triangles   (m, 3) over them, those with an area
    labels      (m,) which faces, materials and other runs a triangle belongs to, in one number; no vertex serves two
    keys        by the name of the runs, for each label its number there
    attributes  as in `Mesh`, without normals where shading is flat
    flat        every triangle shades flat, and is to again
    joined      vertices that were joined
    """

    mesh: Mesh
    positions: NDArray[np.float64]
    places: Numbers
    triangles: NDArray[np.int32]
    labels: Numbers
    keys: dict[str, Numbers]
    attributes: dict[str, NDArray[np.float32]]
    flat: bool
    joined: int

    @cached_property
    def edges(self) -> Edges:
        """Its edges, by places."""
        return Edges.of(self.places[self.triangles])

    def finished(
        self, positions: NDArray[np.float64], triangles: NDArray[np.integer], labels: Numbers,
        attributes: dict[str, NDArray[np.float32]],
    ) -> Mesh:  # fmt: skip
        """A mesh of triangles with labels over vertices, of which some may not be in use; shaded as it was."""
        from hemp_ladder.core.mend.normals import Normals, shade

        if (labels[1:] < labels[:-1]).any():
            order = np.argsort(labels, kind="stable")
            triangles, labels = triangles[order], labels[order]
        used, rank = in_use(triangles, len(positions))
        kept = {name: values[used] for name, values in attributes.items()}
        if self.flat:
            kept["normal"] = np.tile(np.array([0, 0, 1], np.float32), (len(used), 1))
        mesh = replace(
            self.mesh, positions=positions[used], triangles=rank[triangles].astype(np.int32), attributes=kept, places=None,
            runs={
                name: Runs.labelled(self.keys[name][labels], runs.count) for name, runs in self.mesh.runs.items()
            },
            figures=replace(self.mesh.figures, open_edges=None),
        )  # fmt: skip
        return replace(shade(mesh, Normals(kind="flat")), figures=mesh.figures) if self.flat else mesh


def prepare(mesh: Mesh) -> Prepared:
    """Vertices in one place with the same attributes joined, and split where a triangle of another label uses them."""
    place = mesh.same
    if count_open_edges(place[mesh.triangles]):
        place = mesh.welded
    spots = np.zeros((int(place.max()) + 1, 3))
    spots[place[::-1]] = mesh.positions[::-1]
    a, b, c = place[mesh.triangles].T
    whole = (a != b) & (b != c) & (c != a)
    corners = mesh.triangles[whole]
    flat = len(mesh.positions) > _LOOSE * len(corners) and shades_flat(mesh, whole)
    attributes = {name: values for name, values in mesh.attributes.items() if not (flat and name == "normal")}
    labels, keys = _labels(mesh, whole)
    used, rank = in_use(corners, len(place))
    number, first = _alike(place[used], {name: values[used] for name, values in attributes.items()})
    corners = number[rank[corners]]
    kept = used[first]
    corners, source = _split(corners, labels, len(kept))
    kept = kept[source]
    return Prepared(
        mesh, spots[place[kept]], place[kept], corners.astype(np.int32), labels, keys,
        {name: values[kept] for name, values in attributes.items()}, flat, len(used) - len(first),
    )  # fmt: skip


def _alike(place: Numbers, attributes: dict[str, NDArray[np.float32]]) -> tuple[Numbers, Numbers]:
    """For each vertex the number of those that share its place and its attributes, and where the first of each stands;
    what is in a place by itself is compared with nothing."""
    crowded = np.bincount(place)[place] > 1
    if not attributes:
        first = np.full(int(place.max(initial=-1)) + 1, -1, np.int64)
        first[place[::-1]] = np.arange(len(place))[::-1]
        leader = first[place]
    else:
        leader = np.arange(len(place))
        some = np.flatnonzero(crowded)
        columns = [place[some], *(row_codes(name, values[some]) for name, values in attributes.items())]
        number, first = numbered(columns)
        leader[some] = some[first][number]
    own = leader == np.arange(len(place))
    return (np.cumsum(own) - 1)[leader], np.flatnonzero(own)


def shades_flat(mesh: Mesh, whole: Mask) -> bool:
    """Whether nearly all corners of these triangles have their triangle's own normal; of many some are looked at."""
    at = np.flatnonzero(whole)
    some = mesh.triangles[at[:: max(1, len(at) // _LOOKED_AT)]]
    points = mesh.positions[some]
    own = cross(points[:, 1] - points[:, 0], points[:, 2] - points[:, 0])
    size = lengths(own)
    told = mesh.normals[some].astype(np.float64)
    agree = [dot(told[:, k], own) > _FLAT * size for k in range(3)]
    return bool(np.mean(agree) > 0.98)


def _labels(mesh: Mesh, whole: Mask) -> tuple[Numbers, dict[str, Numbers]]:
    """One number for each triangle from all its runs, and what each number stands for in each of them."""
    columns = {name: runs.labels[whole].astype(np.int64) for name, runs in mesh.runs.items()}
    varied = [column for column in columns.values() if len(column) and (column != column[0]).any()]
    count = int(np.count_nonzero(whole))
    label, first = numbered(varied) if varied else (np.zeros(count, np.int64), np.zeros(min(count, 1), np.int64))
    return label, {name: column[first] for name, column in columns.items()}


def _split(corners: Numbers, labels: Numbers, vertices: int) -> tuple[Numbers, Numbers]:
    """Corners (m, 3) with a vertex of its own for each label that uses one, and for each vertex which it was."""
    if not labels.any():
        return corners, np.arange(vertices)
    owner = np.full(vertices, -1, np.int64)
    owner[corners.reshape(-1)] = np.repeat(labels, 3)
    shared = np.flatnonzero(owner[corners.reshape(-1)] != np.repeat(labels, 3))
    if not len(shared):
        return corners, np.arange(vertices)
    flat = corners.reshape(-1).copy()
    number, first = numbered([flat[shared], labels[shared // 3]])
    source = np.concatenate([np.arange(vertices), flat[shared][first]])
    flat[shared] = vertices + number
    return flat.reshape(-1, 3), source
