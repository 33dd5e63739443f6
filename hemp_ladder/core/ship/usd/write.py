"""A scene as a USD stage. Shapes that stand in several places are written once and referred to, as instances."""

import math
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np
from pxr import Gf, Sdf, Tf, Usd, UsdGeom, UsdShade, Vt

from hemp_ladder.core.mesh.mesh import unit_normals
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.ship.dressing import Applied, OutSlot
from hemp_ladder.core.ship.format import Written
from hemp_ladder.core.ship.gltf_look import picture_file
from hemp_ladder.core.ship.names import label
from hemp_ladder.core.ship.polygons import faces_in
from hemp_ladder.core.ship.scene import Scene, Surface
from hemp_ladder.core.units import UNITS

#: What of a preview surface a slot feeds: its input, the channel of the picture, and whether that is colour.
_FEEDS: dict[OutSlot, tuple[str, str, bool]] = {
    "base colour": ("diffuseColor", "rgb", True), "opacity": ("opacity", "r", False),
    "normal": ("normal", "rgb", False), "roughness": ("roughness", "r", False), "metalness": ("metallic", "r", False),
    "occlusion": ("occlusion", "r", False), "emission": ("emissiveColor", "rgb", True),
}  # fmt: skip


def write(scene: Scene, path: Path) -> Written:
    """Write the stage at `path`, and the pictures beside it."""
    pictures = {sha: picture_file(path, number, data) for number, (sha, data) in enumerate(scene.pictures.items(), 1)}
    for sha, picture in pictures.items():
        picture.write_bytes(scene.pictures[sha])
    path.unlink(missing_ok=True)
    stage = Usd.Stage.CreateNew(str(path))
    UsdGeom.SetStageMetersPerUnit(stage, float(UNITS[scene.unit].metres))
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z if scene.up == "z" else UsdGeom.Tokens.y)
    layer = stage.GetRootLayer()
    layer.comment = f"Hemp Ladder, {scene.note}"
    if any(scene.offset):
        layer.customLayerData = {"offset": Vt.DoubleArray(list(scene.offset))}
    called = _Stage(stage, scene, {sha: picture.name for sha, picture in pictures.items()}).write()
    layer.Save()
    return Written([path, *pictures.values()], called)


class _Stage:
    """Fills a stage: /Model with Looks, Shapes that are referred to, and the tree."""

    def __init__(self, stage: Any, scene: Scene, pictures: dict[str, str]) -> None:
        self._stage, self._scene, self._pictures = stage, scene, pictures
        self._looks: dict[str, Any] = {}
        self._uses = Counter(place.surface for place in scene.places if place.surface >= 0)

    def write(self) -> dict[str, str]:
        """What each material is called."""
        stage, scene = self._stage, self._scene
        root = UsdGeom.Xform.Define(stage, "/Model")
        stage.SetDefaultPrim(root.GetPrim())
        Usd.ModelAPI(root.GetPrim()).SetKind("component")
        UsdGeom.Scope.Define(stage, "/Model/Looks")
        taken: set[str] = set()
        called = {id_: label(material.name, taken) for id_, material in scene.materials.items()}
        for number, (id_, material) in enumerate(scene.materials.items()):
            self._looks[id_] = self._look(f"/Model/Looks/look_{number}", called[id_], id_, material)
        shared = [number for number, uses in sorted(self._uses.items()) if uses > 1]
        if shared:
            stage.CreateClassPrim("/Shapes")
        for number in shared:
            self._mesh(f"/Shapes/shape_{number}/mesh_{number}", scene.surfaces[number])
            UsdGeom.Xform.Define(stage, f"/Shapes/shape_{number}")
        self._places()
        return called

    def _places(self) -> None:
        paths: list[str] = []
        siblings: dict[str, set[str]] = {}
        names: set[str] = set()
        for place in self._scene.places:
            above = paths[place.parent] if place.parent >= 0 else "/Model"
            told = label(place.name, names)
            of = self._scene.places[place.parent].surface if place.parent >= 0 else -1
            taken = siblings.setdefault(above, {"Looks", "shape", f"mesh_{of}"})
            path = f"{above}/{_identifier(told, taken)}"
            paths.append(path)
            node = UsdGeom.Xform.Define(self._stage, path)
            node.GetPrim().SetDisplayName(told)
            matrix = place.matrix
            if place.surface >= 0:
                surface = self._scene.surfaces[place.surface]
                matrix = matrix.copy()
                matrix[:3, 3] += matrix[:3, :3] @ surface.origin
                if self._uses[place.surface] > 1:
                    shape = UsdGeom.Xform.Define(self._stage, f"{path}/shape").GetPrim()
                    shape.GetReferences().AddInternalReference(f"/Shapes/shape_{place.surface}")
                    shape.SetInstanceable(True)
                else:
                    self._mesh(f"{path}/mesh_{place.surface}", surface)
            if not np.array_equal(matrix, np.eye(4)):
                # Rows for columns: points are rows there.
                node.AddTransformOp().Set(Gf.Matrix4d(*matrix.T.reshape(-1).tolist()))

    def _mesh(self, path: str, surface: Surface) -> None:
        mesh = UsdGeom.Mesh.Define(self._stage, path)
        mesh.GetPrim().SetDisplayName(surface.name)
        mesh.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
        points = np.ascontiguousarray(surface.positions, np.float32)
        mesh.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(points))
        mesh.CreateExtentAttr(Vt.Vec3fArray.FromNumpy(np.stack([points.min(axis=0), points.max(axis=0)])))
        mesh.CreateNormalsAttr(Vt.Vec3fArray.FromNumpy(unit_normals(surface.attributes["normal"])))
        mesh.SetNormalsInterpolation(UsdGeom.Tokens.vertex)
        sizes, corners, ends = [], [], []
        for number, (_, triangles) in enumerate(surface.runs):
            for faces in faces_in(triangles, surface.sizes[number] if surface.sizes else None):
                sizes.append(np.full(len(faces), faces.shape[1], np.int32))
                corners.append(faces.reshape(-1).astype(np.int32))
            ends.append(sum(map(len, sizes)))
        mesh.CreateFaceVertexCountsAttr(Vt.IntArray.FromNumpy(np.concatenate(sizes)))
        mesh.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(np.concatenate(corners)))
        self._primvars(mesh, surface)
        if len(surface.runs) == 1:
            self._bind(mesh.GetPrim(), surface.runs[0][0])
            return
        start = 0
        for number, ((id_, _), end) in enumerate(zip(surface.runs, ends, strict=True)):
            subset = UsdGeom.Subset.CreateGeomSubset(
                mesh, f"run_{number}", UsdGeom.Tokens.face, Vt.IntArray.FromNumpy(np.arange(start, end, dtype=np.int32)),
                UsdShade.Tokens.materialBind, UsdGeom.Tokens.partition,
            )  # fmt: skip
            self._bind(subset.GetPrim(), id_)
            start = end

    def _primvars(self, mesh: Any, surface: Surface) -> None:
        reached = UsdGeom.PrimvarsAPI(mesh)
        for name, values in surface.attributes.items():
            if name.startswith("uv"):
                told = reached.CreatePrimvar(f"st{name[2:]}", Sdf.ValueTypeNames.TexCoord2fArray, UsdGeom.Tokens.vertex)
                told.Set(Vt.Vec2fArray.FromNumpy(np.ascontiguousarray(values, np.float32)))
            elif name == "colour":
                told = reached.CreatePrimvar("displayColor", Sdf.ValueTypeNames.Color3fArray, UsdGeom.Tokens.vertex)
                told.Set(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(values[:, :3], np.float32)))

    def _bind(self, prim: Any, id_: str) -> None:
        UsdShade.MaterialBindingAPI.Apply(prim).Bind(self._looks[id_])

    def _look(self, path: str, name: str, id_: str, material: Material) -> Any:
        """A material as the preview surface that every reader knows."""
        finish = material.finish
        look = UsdShade.Material.Define(self._stage, path)
        look.GetPrim().SetDisplayName(name)
        surface = UsdShade.Shader.Define(self._stage, f"{path}/surface")
        surface.CreateIdAttr("UsdPreviewSurface")
        look.CreateSurfaceOutput().ConnectToSource(surface.ConnectableAPI(), "surface")
        opacity = 1.0 if finish.opacity_mode == "opaque" else finish.colour.alpha
        opacity *= 1 - 0.8 * finish.transmission
        values: dict[str, tuple[Any, Any]] = {
            "diffuseColor": (Sdf.ValueTypeNames.Color3f, Gf.Vec3f(*finish.colour.linear)),
            "emissiveColor": (Sdf.ValueTypeNames.Color3f, Gf.Vec3f(*finish.emission.linear)),
            "roughness": (Sdf.ValueTypeNames.Float, finish.roughness),
            "metallic": (Sdf.ValueTypeNames.Float, finish.metalness),
            "opacity": (Sdf.ValueTypeNames.Float, opacity), "ior": (Sdf.ValueTypeNames.Float, finish.ior),
        }  # fmt: skip
        if finish.opacity_mode == "cut-out":
            values["opacityThreshold"] = (Sdf.ValueTypeNames.Float, 0.5)
        for told, (kind, value) in values.items():
            surface.CreateInput(told, kind).Set(value)
        for slot, worn in self._scene.worn.get(id_, {}).items():
            if slot in _FEEDS:
                self._picture(path, surface, slot, worn)
        return look

    def _picture(self, path: str, surface: Any, slot: OutSlot, worn: Applied) -> None:
        told, channel, colour = _FEEDS[slot]
        own = f"{path}/{told}"
        reader = UsdShade.Shader.Define(self._stage, f"{own}_uv")
        reader.CreateIdAttr("UsdPrimvarReader_float2")
        reader.CreateInput("varname", Sdf.ValueTypeNames.String).Set(f"st{worn.uv or ''}")
        source = reader
        if worn.lies != Applied("").lies:
            source = UsdShade.Shader.Define(self._stage, f"{own}_lies")
            source.CreateIdAttr("UsdTransform2d")
            source.CreateInput("in", Sdf.ValueTypeNames.Float2).ConnectToSource(reader.ConnectableAPI(), "result")
            (aside, down), (across, along), turn = worn.lies
            # From the upper left, as ours is told, to the lower left.
            moved = math.sin(turn) * along + aside, 1 - math.cos(turn) * along - down
            source.CreateInput("scale", Sdf.ValueTypeNames.Float2).Set(Gf.Vec2f(across, along))
            source.CreateInput("rotation", Sdf.ValueTypeNames.Float).Set(math.degrees(turn))
            source.CreateInput("translation", Sdf.ValueTypeNames.Float2).Set(Gf.Vec2f(*moved))
        texture = UsdShade.Shader.Define(self._stage, f"{own}_picture")
        texture.CreateIdAttr("UsdUVTexture")
        texture.CreateInput("file", Sdf.ValueTypeNames.Asset).Set(f"./{self._pictures[worn.picture]}")
        texture.CreateInput("st", Sdf.ValueTypeNames.Float2).ConnectToSource(source.ConnectableAPI(), "result")
        for way in ("wrapS", "wrapT"):
            texture.CreateInput(way, Sdf.ValueTypeNames.Token).Set("repeat")
        texture.CreateInput("sourceColorSpace", Sdf.ValueTypeNames.Token).Set("sRGB" if colour else "raw")
        if slot == "normal":
            texture.CreateInput("scale", Sdf.ValueTypeNames.Float4).Set(Gf.Vec4f(2, 2, 2, 1))
            texture.CreateInput("bias", Sdf.ValueTypeNames.Float4).Set(Gf.Vec4f(-1, -1, -1, 0))
        kind = Sdf.ValueTypeNames.Float if channel == "r" else Sdf.ValueTypeNames.Float3
        texture.CreateOutput(channel, kind)
        fed = surface.GetInput(told)
        if not fed:
            wanted = Sdf.ValueTypeNames.Normal3f if slot == "normal" else Sdf.ValueTypeNames.Float
            fed = surface.CreateInput(told, wanted)
        fed.ConnectToSource(texture.ConnectableAPI(), channel)


def _identifier(name: str, taken: set[str]) -> str:
    """A name of prims, which are letters, digits and underscores, that no sibling has."""
    plain = Tf.MakeValidIdentifier(name) or "node"
    told, number = plain, 1
    while told in taken:
        number += 1
        told = f"{plain}_{number}"
    taken.add(told)
    return told
