"""What the format's own library finds in a USD stage, opened afresh, and its validators."""

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray
from pxr import Usd, UsdGeom, UsdShade, UsdValidation

from hemp_ladder.core.ship.format import Found, Verdict
from hemp_ladder.core.ship.readback import Builder, piece_of, tally


def read_usd(paths: Sequence[Path]) -> Found:
    """All stages together, meshes in the order of their numbers. Raises whatever the library does."""
    return tally((path, _scene(path)) for path in paths)


def validate(path: Path) -> Verdict:
    """All validators that the library has."""
    name = "USD validators' errors"
    try:
        stage = Usd.Stage.Open(str(path))
    except Exception as error:  # whatever the library raises, the stage cannot be opened
        return Verdict(name, f"it cannot be opened: {error}"[:200])
    registry = UsdValidation.ValidationRegistry()
    context = UsdValidation.ValidationContext(registry.GetOrLoadAllValidators())
    errors = [
        error for error in context.Validate(stage)
        if error.GetType() == UsdValidation.ValidationErrorType.Error
    ]  # fmt: skip
    if errors:
        return Verdict(name, f"{len(errors)}: {errors[0].GetMessage()}"[:200])
    return Verdict(name, 0)


def noted(path: Path) -> tuple[float, ...] | None:
    """The offset that a stage says was taken from all places."""
    told = Usd.Stage.Open(str(path), Usd.Stage.LoadNone).GetRootLayer().customLayerData.get("offset")
    return tuple(told) if told else None


def _scene(path: Path) -> trimesh.Scene:
    stage, built = Usd.Stage.Open(str(path)), Builder()
    places = UsdGeom.XformCache()
    meshes = [
        prim for prim in Usd.PrimRange(stage.GetPseudoRoot(), Usd.TraverseInstanceProxies()) if prim.IsA(UsdGeom.Mesh)
    ]  # fmt: skip
    for prim in sorted(meshes, key=lambda prim: int(prim.GetName().rpartition("_")[2])):
        own = prim.GetPrimInPrototype() if prim.IsInstanceProxy() else prim
        key = str(own.GetPath())
        built.mesh(key, _pieces(UsdGeom.Mesh(prim), path.parent))
        built.place(key, np.array(places.GetLocalToWorldTransform(prim)).T)
    return built.scene


def _pieces(mesh: Any, folder: Path) -> Iterator[trimesh.Trimesh]:
    counts = np.array(mesh.GetFaceVertexCountsAttr().Get())
    triangles, face = _fans(np.array(mesh.GetFaceVertexIndicesAttr().Get()), counts)
    points = np.array(mesh.GetPointsAttr().Get(), np.float64)
    normals = np.array(mesh.GetNormalsAttr().Get(), np.float64)
    told = UsdGeom.PrimvarsAPI(mesh).GetPrimvar("st")
    uv = np.array(told.Get(), np.float64) if told else None
    subsets = UsdGeom.Subset.GetAllGeomSubsets(mesh)
    runs = [(subset.GetPrim(), np.array(subset.GetIndicesAttr().Get())) for subset in subsets]
    for prim, faces in runs or [(mesh.GetPrim(), np.arange(len(counts)))]:
        mine = triangles[np.isin(face, faces)]
        look, _ = UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial()
        yield piece_of(
            points[mine], normals[mine] if len(normals) == len(points) else None, None if uv is None else uv[mine],
            look.GetPrim().GetDisplayName(), _picture(look, folder),
        )  # fmt: skip


def _fans(corners: NDArray[np.integer], counts: NDArray[np.integer]) -> tuple[NDArray[np.integer], NDArray[np.integer]]:
    """Faces cut up from their first corners: triangles (m, 3), and the face of each, in the order of faces."""
    each = np.maximum(counts - 2, 0)
    face = np.repeat(np.arange(len(counts)), each)
    first = (np.cumsum(counts) - counts)[face]
    within = np.arange(len(face)) - np.repeat(np.cumsum(each) - each, each)
    return np.stack([corners[first], corners[first + within + 1], corners[first + within + 2]], axis=1), face


def _picture(look: Any, folder: Path) -> Any:
    """The picture of a material's colour, where it wears one."""
    from PIL import Image

    surface = look.ComputeSurfaceSource()[0]
    sources = surface.GetInput("diffuseColor").GetConnectedSources()[0] if surface else []
    if not sources:
        return None
    file = UsdShade.Shader(sources[0].source.GetPrim()).GetInput("file").Get()
    return Image.open(folder / file.path)
