"""Stand-ins: a box, a hull or a closed shell in the place of a part, for where only its bulk is seen."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from hemp_ladder.core.chain.steps import Operation
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.tree import Tree
from hemp_ladder.core.mesh.triangles import cross, folded, lengths, means
from hemp_ladder.core.settings import Range
from hemp_ladder.core.trim.judge import Judge, judged
from hemp_ladder.core.trim.simplifier import remesh

Corners = NDArray[np.float64]
#: Directions tried for the least box, beside those of the hull's own faces.
_FACES = 400
#: A box is turned out of the axes only where it gets smaller than this share.
_ALONG = 0.9
#: Corners of a hull, about.
_OUTERMOST = 200
#: Shading between faces of a hull or shell goes on up to this angle, in degrees.
_CREASE = 40.0


class StandIn(Operation):
    """What stands for the part. Textures do not go over to it: it wears its materials' plain colours."""

    ranges: ClassVar[Mapping[str, Range]] = {"cells": Range(8, 128, 32)}
    optional: ClassVar[bool] = True
    does: Literal["stand-in"] = "stand-in"
    kind: Literal["box", "hull", "shell"] = "box"
    cells: Annotated[int, Field(ge=4, le=256)] = Field(
        int(ranges["cells"].start), description="of a shell: cells along its longest side"
    )

    def apply(self, mesh: Mesh) -> Mesh:
        return stand_in(mesh, self)

    def seconds(self, triangles: int) -> float:
        return 3e-6 * triangles


def stand_in(mesh: Mesh, settings: StandIn) -> Mesh:
    """The box, hull or shell of a mesh. Each triangle takes its face and material from the nearest of the part.

    Raises SettingsError where it would not be lighter than the part, or the part has no bulk.
    """
    if not len(mesh.triangles):
        return mesh
    corners = _MAKE[settings.kind](mesh, settings)
    if len(corners) >= len(mesh.triangles):
        raise SettingsError(
            f"A {settings.kind} in its place would have {len(corners):,} triangles; the part has {len(mesh.triangles):,}."
        )
    judge = Judge(mesh)
    light = _dressed(mesh, corners, judge.surface, settings)
    return judged(light, mesh, settings.does, judge.told(light))


def _box(mesh: Mesh, settings: StandIn) -> Corners:
    """The least box with one side on a face of the hull: an optimal one has a side on a face or three edges on its faces
    (J. O'Rourke, 1985); this looks at the faces, and rotates within each by rotating calipers' edges."""
    points = _convex(mesh, len(mesh.positions)).reshape(-1, 3)
    faces = points.reshape(-1, 3, 3)
    across = cross(faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0])
    size = lengths(across)
    # The largest faces first: small ones of a rounded hull give nearly the same boxes.
    some = np.argsort(-size, kind="stable")[:_FACES]
    spots = folded(points)[1]
    best, found, axes = np.inf, None, True
    middle = spots.mean(axis=0)
    frames = [
        np.eye(3),
        *(_frame(across[k] / size[k], faces[k, 1] - faces[k, 0]) for k in some.tolist() if size[k] > 0),
    ]
    for frame in frames:
        told = (spots - middle) @ frame.T
        room = float(np.prod(np.ptp(told, axis=0)))
        # Along the axes where that is nearly as small: so it stands in no neighbour's way.
        if room < best * (_ALONG if axes else 1 - 1e-6):
            axes = found is None
            best, found = room, (frame, told.min(axis=0), told.max(axis=0))
    assert found is not None
    frame, low, high = found
    grid = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)
    eight = (low + grid * (high - low)) @ frame + middle
    return np.asarray(eight[_SIDES])


#: Two triangles for each side of a box whose corners are counted by x, y, z.
_SIDES = np.array([
    [0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1], [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4],
    [1, 5, 7], [1, 7, 3],
])  # fmt: skip


def _frame(normal: Corners, along: Corners) -> Corners:
    """Three directions, the first along an edge of a face, the last its normal."""
    first = along / max(float(np.linalg.norm(along)), 1e-300)
    return np.stack([first, np.cross(normal, first), normal])


def _hull(mesh: Mesh, settings: StandIn) -> Corners:
    return _convex(mesh, _OUTERMOST)


def _convex(mesh: Mesh, most: int) -> Corners:
    """The convex hull; of one with more corners than that, the hull of those that lie farthest out in so many directions."""
    from scipy.spatial import ConvexHull, QhullError

    spots = folded(mesh.positions)[1]
    try:
        hull = ConvexHull(spots)
        if len(hull.vertices) > most:
            outer = spots[hull.vertices]
            spots = outer[np.unique((outer @ _directions(most).T).argmax(axis=0))]
            hull = ConvexHull(spots)
    except (QhullError, ValueError) as error:
        raise SettingsError("The part is flat: no box and no hull has any bulk there.", "It stays as it is.") from error
    corners = spots[hull.simplices]
    across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    inward = np.einsum("ij,ij->i", across, hull.equations[:, :3]) < 0
    corners[inward] = corners[inward][:, ::-1]
    return np.asarray(corners)


def _directions(count: int) -> Corners:
    """Directions spread evenly, (count, 3), on a spiral by the golden angle."""
    height = 1 - (2 * np.arange(count) + 1) / count
    turn = np.pi * (3 - np.sqrt(5)) * np.arange(count)
    wide = np.sqrt(1 - height**2)
    return np.asarray(np.stack([wide * np.cos(turn), wide * np.sin(turn), height], axis=1))


def _shell(mesh: Mesh, settings: StandIn) -> Corners:
    middle = (mesh.positions.min(axis=0) + mesh.positions.max(axis=0)) / 2
    found = remesh(mesh.triangles, (mesh.positions - middle).astype(np.float32), settings.cells)
    if len(found) < 4:
        raise SettingsError("So few cells see nothing of the part.", "Ask for more.")
    return np.asarray(found.astype(np.float64) + middle)


_MAKE = {"box": _box, "hull": _hull, "shell": _shell}


def _dressed(mesh: Mesh, corners: Corners, surface: Tree, settings: StandIn) -> Mesh:
    """Triangles (m, 3, 3) as a mesh, with the runs of the nearest triangles, shaded flat or by crease."""
    from hemp_ladder.core.mend.normals import Normals, shade

    index, spots = folded(corners.reshape(-1, 3))
    near = surface.nearest(np.ascontiguousarray(means(corners)))[1]
    order = (
        np.argsort(mesh.runs["face"].labels[near], kind="stable") if "face" in mesh.runs else np.arange(len(corners))
    )
    near, triangles = near[order], index.reshape(-1, 3)[order].astype(np.int32)
    bare = replace(
        mesh, positions=spots, triangles=triangles, places=None,
        attributes={"normal": np.tile(np.array([0, 0, 1], np.float32), (len(spots), 1))},
        runs={name: Runs.labelled(runs.labels[near], runs.count) for name, runs in mesh.runs.items()},
    )  # fmt: skip
    shading = Normals(kind="flat") if settings.kind == "box" else Normals(degrees=_CREASE)
    return replace(shade(bare, shading), figures=mesh.figures)
