"""Entities that are surfaces already: faces, meshes, and bodies as far as they can be read."""

from typing import Any

import manifold3d as m3
import numpy as np
from ezdxf.acis import api as acis
from ezdxf.render import MeshBuilder
from numpy.typing import NDArray

Triangles = tuple[NDArray[np.float64], NDArray[np.int64]]
FACES = {"3DFACE"}
MESHES = {"MESH", "POLYLINE"}
#: In a form of their own; those with flat faces and straight edges can be read.
BODIES = {"3DSOLID", "BODY", "REGION", "SURFACE", "EXTRUDEDSURFACE", "LOFTEDSURFACE", "REVOLVEDSURFACE", "SWEPTSURFACE",
          "PLANESURFACE", "NURBSURFACE"}  # fmt: skip


def face_corners(entity: Any) -> list[tuple[float, float, float]]:
    """Corners of a 3DFACE, three or four, repeated ones left out."""
    corners: list[tuple[float, float, float]] = []
    for k in range(4):
        point = entity.dxf.get(f"vtx{k}")
        if point is not None and tuple(point) not in corners:
            corners.append((float(point[0]), float(point[1]), float(point[2])))
    return corners


def mesh_of(entity: Any) -> tuple[Triangles | None, int]:
    """Triangles of a mesh, a polyface or a polygon mesh, and the level of smoothness it asks for."""
    if entity.dxftype() == "MESH":
        builder = MeshBuilder.from_mesh(entity)
        level = int(entity.dxf.get("subdivision_levels", 0))
    else:
        builder = MeshBuilder.from_polyface(entity)
        level = 1 if int(entity.dxf.get("smooth_type", 0)) else 0
    points = np.array([(v[0], v[1], v[2]) for v in builder.vertices], dtype=np.float64).reshape(-1, 3)
    return fans(points, [list(face) for face in builder.faces]), level


def fans(points: NDArray[np.float64], faces: list[list[int]]) -> Triangles | None:
    """Faces of any number of corners as triangles; those that name corners which are not there are left out."""
    triangles: list[list[int]] = []
    for face in faces:
        ring = [k for i, k in enumerate(face) if k != face[i - 1]]
        if len(ring) < 3 or min(ring) < 0 or max(ring) >= len(points):
            continue
        if len(ring) < 5:
            triangles += [[ring[0], ring[i], ring[i + 1]] for i in range(1, len(ring) - 1)]
        else:
            triangles += [[ring[k] for k in row] for row in _in_plane([points[ring]])]
    if not triangles or not np.isfinite(points).all():
        return None
    return points, np.array(triangles, dtype=np.int64)


def _in_plane(rings: list[NDArray[np.float64]]) -> NDArray[np.int64]:
    """Triangles over rings in one plane, the first the outer one, by numbers into all of their points."""
    whole = np.concatenate(rings)
    outer = rings[0]
    middle = outer.mean(axis=0)
    # Newell's normal: right for any simple polygon, convex or not.
    after = np.roll(outer, -1, axis=0)
    normal = np.array([
        ((outer[:, 1] - after[:, 1]) * (outer[:, 2] + after[:, 2])).sum(),
        ((outer[:, 2] - after[:, 2]) * (outer[:, 0] + after[:, 0])).sum(),
        ((outer[:, 0] - after[:, 0]) * (outer[:, 1] + after[:, 1])).sum(),
    ])  # fmt: skip
    length = float(np.linalg.norm(normal))
    if length <= 0:
        return np.zeros((0, 3), np.int64)
    normal /= length
    along = np.cross(normal, [1.0, 0, 0] if abs(normal[0]) < 0.9 else [0, 1.0, 0])
    along /= np.linalg.norm(along)
    across = np.cross(normal, along)
    size = float(np.ptp(whole - middle, axis=0).max()) or 1.0
    flat = [np.column_stack([(ring - middle) @ along, (ring - middle) @ across]) / size for ring in rings]
    return np.asarray(m3.triangulate(flat)).reshape(-1, 3).astype(np.int64)


def body_of(entity: Any) -> Triangles | None:
    """Triangles of a body that has only flat faces between straight edges; None for any other, or one in error."""
    try:
        bodies = acis.load_dxf(entity)
        rings = [ring for body in bodies for ring in _faces(body)]
    except Exception:  # the library raises what it likes, and a body in error is one that could not be read
        return None
    if not rings or any(face is None for face in rings):
        return None
    points, triangles, at = [], [], 0
    for face in rings:
        assert face is not None
        points += face
        triangles.append(_in_plane(face) + at)
        at += sum(map(len, face))
    return np.concatenate(points), np.concatenate(triangles)


def _faces(body: Any) -> list[list[NDArray[np.float64]] | None]:
    """For every face its loops, outer first; None for a face that is curved."""
    found: list[list[NDArray[np.float64]] | None] = []
    matrix = None if body.transform.is_none else body.transform.matrix
    lump = body.lump
    while not lump.is_none:
        shell = lump.shell
        while not shell.is_none:
            face = shell.face
            while not face.is_none:
                found.append(_loops(face, matrix))
                face = face.next_face
            shell = shell.next_shell
        lump = lump.next_lump
    return found


def _loops(face: Any, matrix: Any) -> list[NDArray[np.float64]] | None:
    if face.surface.type != "plane-surface":
        return None
    loops = []
    loop = face.loop
    while not loop.is_none:
        points, first = [], loop.coedge
        coedge = first
        while not coedge.is_none:
            edge = coedge.edge
            if edge.curve.type != "straight-curve":
                return None
            end = edge.end_vertex if coedge.sense else edge.start_vertex
            points.append(end.point.location)
            coedge = coedge.next_coedge
            if coedge is first:
                break
        if len(points) < 3:
            return None
        if matrix is not None:
            points = list(matrix.transform_vertices(points))
        loops.append(np.array([(p.x, p.y, p.z) for p in points]))
        loop = loop.next_loop
    if not loops:
        return None
    return sorted(loops, key=lambda ring: -float(np.ptp(ring, axis=0).max()))
