"""COLLADA and USD, whose trees refer to shapes: as their own libraries read them, as we read them back, and receipts that
must fail."""

import io
import math
from collections import Counter
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import collada
import numpy as np
from PIL import Image
from pxr import Usd, UsdGeom, UsdShade

from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Finish
from hemp_ladder.core.model.join import Given, join
from hemp_ladder.core.model.laying import laid
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.ship.deliver import climb_ship
from hemp_ladder.core.ship.dressing import Applied
from hemp_ladder.core.ship.formats import FORMATS
from hemp_ladder.core.ship.receipt import write_receipt
from hemp_ladder.core.ship.scene import Place, Scene, Surface
from hemp_ladder.core.ship.settings import Target
from tests.core.test_ship import demo
from tests.core.test_ship_shared import moved, result, source
from tests.support import FolderCase, read_kept

TREES = ("dae", "usdc")


def square(path: Path, form: str, worn: Applied | None = None, name: str = "A <wall> & “more”") -> Scene:
    """Write one square of two triangles in a material of that name, and its picture where it wears one."""
    scene = Scene("cm", "z", "part")
    scene.materials["m"] = Material("m", name, Finish(colour=Colour(0.5, 0.25, 0.125)))
    positions = np.array([(0.0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)])
    attributes = {"normal": np.tile(np.float32([0, 0, 1]), (4, 1)), "uv": positions[:, :2].astype(np.float32)}
    triangles = np.array([(0, 1, 2), (0, 2, 3)], np.int32)
    scene.surfaces = [Surface(name, "g", positions, attributes, [("m", triangles)], np.array([100.0, 0, 0]), False)]
    scene.places = [Place(name, -1, np.eye(4), 0)]
    if worn is not None:
        told = io.BytesIO()
        Image.new("RGB", (4, 2), (200, 100, 50)).save(told, "PNG")
        scene.pictures["p"] = told.getvalue()
        scene.worn["m"] = {"base colour": replace(worn, picture="p")}
    FORMATS[form].write(scene, path)
    return scene


class Delivered(FolderCase):
    def bad(self, target: dict[str, object], name: str) -> list[object]:
        shipped = climb_ship(demo(), Target.model_validate(target), self.folder / name)
        return [check for check in shipped.receipt.checks if not check.ok]

    def test_every_grouping_and_polygon_has_a_good_receipt(self) -> None:
        for form in TREES:
            for group in ("part", "material", "one"):
                for told in ({}, {"polygons": True, "quads": True}):
                    with self.subTest(form, group=group, **told):
                        self.assertEqual(self.bad({"format": form, "group": group, **told}, f"a.{form}"), [])
        for told in ({"unit": "ft", "up": "z"}, {"instances": "separate"}):
            for form in TREES:
                with self.subTest(form, **told):
                    self.assertEqual(self.bad({"format": form, **told}, f"b.{form}"), [])

    def test_shapes_are_written_once_and_faces_are_polygons(self) -> None:
        """So many corners a face stand for two triangles less."""
        target = {"polygons": True, "quads": True}
        for form in TREES:
            shipped = climb_ship(demo(), Target.model_validate({"format": form, **target}), self.folder / f"a.{form}")
            sizes: Counter[int] = Counter()
            if form == "dae":
                document = collada.Collada(str(shipped.paths[0]))
                shapes, places = len(document.geometries), len(list(document.scene.objects("geometry")))
                for geometry in document.geometries:
                    for run in geometry.primitives:
                        sizes.update(run.vcounts.tolist() if hasattr(run, "vcounts") else [3] * run.ntriangles)
            else:
                stage = Usd.Stage.Open(str(shipped.paths[0]))
                meshes = [prim for prim in stage.Traverse(Usd.TraverseInstanceProxies()) if prim.IsA(UsdGeom.Mesh)]
                own = {
                    str((prim.GetPrimInPrototype() if prim.IsInstanceProxy() else prim).GetPath()): prim
                    for prim in meshes
                }
                shapes, places = len(own), len(meshes)
                for prim in own.values():
                    sizes.update(UsdGeom.Mesh(prim).GetFaceVertexCountsAttr().Get())
            self.assertEqual((shapes, places), (len(shipped.scene.surfaces), len(list(shipped.scene.standing()))))
            self.assertLess(shapes, places / 5)
            self.assertGreater(sizes[4], 100, "quads")
            self.assertGreater(sum(count for size, count in sizes.items() if size > 4), 20, "flats")
            triangles = sum(surface.triangles for surface in shipped.scene.surfaces)
            self.assertEqual(sum((size - 2) * count for size, count in sizes.items()), triangles)

    def test_a_mirrored_and_stretched_place_stays_outside_out(self) -> None:
        both = result(join([Given("a", "a", source("mm", Fraction(1, 1000), moved(0), moved(50, -1, 1, 2)))]))
        for form in (*TREES, "obj", "ply"):
            for quads in (False, True):
                shipped = climb_ship(both, Target(format=form, quads=quads), self.folder / f"a.{form}")
                self.assertEqual([check for check in shipped.receipt.checks if not check.ok], [], form)

    def test_what_we_wrote_comes_back_as_it_was(self) -> None:
        for form in TREES:
            shipped = climb_ship(demo(), Target(format=form), self.folder / f"a.{form}")
            model, _ = read_kept(shipped.paths[0])
            self.assertEqual(float(model.metres_per_coordinate), 1.0)
            self.assertEqual(model.up, "y")
            named = {place.name for place, _, _ in shipped.scene.standing()}
            found = {node.name for node in model.nodes}
            self.assertGreater(len(named & found), 0.9 * len(named), form)

    def test_receipts_fail_where_files_are_wrong(self) -> None:
        for form in TREES:
            target = Target(format=form)
            shipped = climb_ship(demo(), target, self.folder / f"a.{form}")
            path = shipped.paths[0]
            whole = path.read_bytes()
            if form == "dae":
                broken = {
                    "cut short": whole[: len(whole) // 2],
                    "moved": whole.replace(b"<matrix>", b"<matrix>2 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1</matrix><matrix>", 1),
                    "a material gone": whole.replace(b'target="#material0"', b'target="#material1"'),
                    "a normal turned": whole.replace(b'semantic="NORMAL"', b'semantic="TANGENT"'),
                }  # fmt: skip
            else:
                broken = {"cut short": whole[: len(whole) // 2], **self.turned(path)}
            for name, data in broken.items():
                self.assertNotEqual(data, whole, name)
                path.write_bytes(data)
                receipt = write_receipt(demo(), shipped.scene, target, shipped.written)
                self.assertFalse(receipt.ok, f"{form}, {name}")

    def turned(self, path: Path) -> dict[str, bytes]:
        """The stage with all normals turned over, and with a point moved out."""
        found = {}
        for name in ("normals", "points"):
            stage = Usd.Stage.Open(str(path))
            prim = next(prim for prim in stage.TraverseAll() if prim.IsA(UsdGeom.Mesh))
            told = prim.GetAttribute(name)
            values = np.array(told.Get())
            told.Set(-values if name == "normals" else values * 50)
            other = path.with_name(f"{name}.usdc")
            stage.GetRootLayer().Export(str(other))
            found[name] = other.read_bytes()
        return found


class Written(FolderCase):
    def test_unit_axis_names_and_place_are_said(self) -> None:
        square(self.folder / "a.dae", "dae")
        document = collada.Collada(str(self.folder / "a.dae"))
        self.assertEqual((float(document.assetInfo.unitmeter), document.assetInfo.upaxis), (0.01, "Z_UP"))
        self.assertEqual([material.name for material in document.materials], ["A <wall> & “more”"])
        (bound,) = document.scene.objects("geometry")
        corners = np.concatenate([part.vertex for part in bound.primitives()])
        self.assertEqual(corners[:, 0].tolist(), [100, 101, 101, 100])
        square(self.folder / "a.usdc", "usdc")
        stage = Usd.Stage.Open(str(self.folder / "a.usdc"))
        self.assertAlmostEqual(UsdGeom.GetStageMetersPerUnit(stage), 0.01)
        self.assertEqual(UsdGeom.GetStageUpAxis(stage), "Z")
        box = UsdGeom.BBoxCache(0, ["default"]).ComputeWorldBound(stage.GetDefaultPrim()).ComputeAlignedRange()
        self.assertEqual((list(box.GetMin()), list(box.GetMax())), ([100, 0, 0], [101, 1, 0]))
        (look,) = [UsdShade.Material(prim) for prim in stage.Traverse() if prim.IsA(UsdShade.Material)]
        self.assertEqual(look.GetPrim().GetDisplayName(), "A <wall> & “more”")
        told = look.ComputeSurfaceSource()[0].GetInput("diffuseColor").Get()
        np.testing.assert_allclose(told, Colour(0.5, 0.25, 0.125).linear, rtol=1e-6)

    def test_the_same_scene_is_the_same_document(self) -> None:
        square(self.folder / "a.dae", "dae")
        square(self.folder / "b.dae", "dae")
        self.assertEqual((self.folder / "a.dae").read_bytes(), (self.folder / "b.dae").read_bytes())

    def test_pictures_lie_as_they_were_told_to(self) -> None:
        """UsdTransform2d is in * scale, turned counter-clockwise, + translation, from the lower left (UsdPreviewSurface
        specification); ours is told from the upper left (KHR_texture_transform)."""
        worn = Applied("p", offset=(0.3, -0.2), scale=(2.0, 0.5), turn=0.4)
        scene = square(self.folder / "a.usdc", "usdc", worn)
        stage = Usd.Stage.Open(str(self.folder / "a.usdc"))
        (lies,) = [
            UsdShade.Shader(prim) for prim in stage.Traverse()
            if prim.IsA(UsdShade.Shader) and UsdShade.Shader(prim).GetIdAttr().Get() == "UsdTransform2d"
        ]  # fmt: skip
        scale, moved_by = (np.array(lies.GetInput(name).Get()) for name in ("scale", "translation"))
        turn = math.radians(lies.GetInput("rotation").Get())
        uv = scene.surfaces[0].attributes["uv"].astype(float)
        turned = (uv * scale) @ np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
        np.testing.assert_allclose(turned + moved_by, laid(uv.astype(np.float32), worn), atol=1e-6)
        self.assertEqual((self.folder / "a-picture-1.png").read_bytes(), scene.pictures["p"])

    def test_a_tree_two_hundred_deep_is_written(self) -> None:
        scene = square(self.folder / "a.dae", "dae", name="Wall")
        above = [Place(f"Box {n}", n - 1, np.eye(4)) for n in range(200)]
        scene.places = [*above, Place("Wall", 199, np.eye(4), 0)]
        for form in TREES:
            path = self.folder / f"deep.{form}"
            FORMATS[form].write(scene, path)
            self.assertEqual(FORMATS[form].proof([path]).placements, 1, form)
