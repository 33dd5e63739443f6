"""Meshes of USD as polygons, with what hangs on points, corners or faces; and the plain shapes that it has."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pxr import Usd, UsdGeom

from hemp_ladder.core.receive.meshed.colours import linear_to_share
from hemp_ladder.core.receive.meshed.parts import Polygons, cornered
from hemp_ladder.core.receive.meshed.polygons import triangulated
from hemp_ladder.core.receive.usd.values import number, rows, wholes

GPRIMS = ("Mesh", "Cube", "Sphere", "Cylinder", "Cone", "Capsule", "Plane")
_Streams = dict[str, tuple[NDArray[np.float32], NDArray[np.int64]]]


def polygons_of(
    prim: Usd.Prim, style: str | None, subset_style: Callable[[Usd.Prim], str | None]
) -> tuple[Polygons, bool]:
    """The triangles of a prim in its material, and whether it is the cage of a subdivision surface."""
    if prim.GetTypeName() != "Mesh":
        positions, corners, counts = _shape(prim)
        places, _ = triangulated(positions, corners, counts)
        return Polygons(positions, corners[places], {}, np.zeros(len(places), np.int64), [style]), False
    mesh = UsdGeom.Mesh(prim)
    when = Usd.TimeCode.EarliestTime()
    positions = rows(mesh.GetPointsAttr().Get(when), 3)
    corners = wholes(mesh.GetFaceVertexIndicesAttr().Get(when))
    counts = np.maximum(wholes(mesh.GetFaceVertexCountsAttr().Get(when)), 0)
    counts = counts[np.cumsum(counts) <= len(corners)]
    corners = corners[: int(counts.sum())]
    if not len(positions) or not len(corners):
        return Polygons(np.zeros((0, 3)), np.zeros((0, 3), np.int64)), False
    inside = (corners >= 0) & (corners < len(positions))
    safe = np.where(inside, corners, 0)
    places, of = triangulated(positions, safe, counts)
    if str(mesh.GetOrientationAttr().Get()) == "leftHanded":
        places = np.ascontiguousarray(places[:, ::-1])
    faces, materials = _groups(mesh, len(counts), style, subset_style)
    spots, vertex, attributes = cornered(positions, safe, _hung(mesh, when, corners, counts, len(positions)))
    triangles = np.where(inside, vertex, -1)[places]
    return Polygons(spots, triangles, attributes, faces[of], materials), _is_cage(mesh, attributes)


def _is_cage(mesh: Any, attributes: dict[str, NDArray[np.float32]]) -> bool:
    """Without normals of its own, and nothing said against subdivision."""
    return str(mesh.GetSubdivisionSchemeAttr().Get()) != "none" and "normal" not in attributes


def _groups(
    mesh: Any, faces: int, style: str | None, subset_style: Callable[[Usd.Prim], str | None]
) -> tuple[NDArray[np.int64], list[str | None]]:
    """For each face the number of its material, and those."""
    materials: list[str | None] = [style]
    groups = np.zeros(faces, np.int64)
    for subset in UsdGeom.Subset.GetAllGeomSubsets(mesh):
        if str(subset.GetElementTypeAttr().Get()) != "face":
            continue
        own = subset_style(subset.GetPrim())
        if own not in materials:
            materials.append(own)
        index = wholes(subset.GetIndicesAttr().Get(Usd.TimeCode.EarliestTime()))
        groups[index[(index >= 0) & (index < faces)]] = materials.index(own)
    return groups, materials


def _hung(mesh: Any, when: Any, corners: NDArray[np.int64], counts: NDArray[np.int64], points: int) -> _Streams:
    found: _Streams = {}
    owner = np.repeat(np.arange(len(counts)), counts)

    def add(name: str, values: NDArray[np.float32], interpolation: str, index: Any) -> None:
        at = {"vertex": corners, "varying": corners, "faceVarying": np.arange(len(corners)), "uniform": owner}.get(
            interpolation, np.zeros(len(corners), np.int64)
        )
        if index is not None and len(index):
            told = np.asarray(index, np.int64)
            if at.max(initial=0) >= len(told):
                return
            at = told[at]
        if len(values) and ((at >= 0) & (at < len(values))).all():
            found[name] = (values, at)

    primvars = UsdGeom.PrimvarsAPI(mesh)
    sets = 0
    for primvar in primvars.GetPrimvarsWithValues():
        kind, name = str(primvar.GetTypeName()), str(primvar.GetPrimvarName())
        interpolation, index = (
            str(primvar.GetInterpolation()),
            primvar.GetIndices(when) if primvar.IsIndexed() else None,
        )
        if kind.startswith("texCoord2") or (kind in ("float2[]", "half2[]") and name.lower().startswith(("st", "uv"))):
            add(f"uv{sets or ''}", rows(primvar.Get(when), 2).astype(np.float32), interpolation, index)
            sets += 1
        elif name == "displayColor":
            colours = rows(primvar.Get(when), 3)
            if len(colours) > 1:
                add("colour", linear_to_share(colours), interpolation, index)
        elif name == "normals":
            add("normal", rows(primvar.Get(when), 3).astype(np.float32), interpolation, index)
    if "normal" not in found:
        values = mesh.GetNormalsAttr().Get(when)
        if values is not None:
            add("normal", rows(values, 3).astype(np.float32), str(mesh.GetNormalsInterpolation()), None)
    return found


def _shape(prim: Usd.Prim) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.int64]]:
    """Plain shapes as the X3D reader makes them, turned to their axis."""
    from hemp_ladder.core.receive.x3d.geometry import round_shape

    kind = prim.GetTypeName()

    def told(name: str, start: float) -> float:
        return number(prim.GetAttribute(name).Get(), start)

    if kind == "Plane":
        wide, long = told("width", 2.0) / 2, told("length", 2.0) / 2
        spots = np.array([[-wide, -long, 0], [wide, -long, 0], [wide, long, 0], [-wide, long, 0]])
        corners, counts, up = np.arange(4), np.array([4]), "Z"
    else:
        size, radius, height = told("size", 2.0), told("radius", 1.0), told("height", 2.0)
        spots, corners, counts = round_shape(kind, (size, size, size), radius, height)
        up = "Y"
    axis = str(prim.GetAttribute("axis").Get()) if kind in ("Cylinder", "Cone", "Capsule", "Plane") else up
    axis = axis if axis in ("X", "Y", "Z") else "Z"
    turns = ("XYZ".index(axis) - "XYZ".index(up)) % 3
    return np.roll(spots, turns, axis=1), corners, counts
