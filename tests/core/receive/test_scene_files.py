"""OFF, 3MF, AMF, COLLADA, X3D, VRML97 and USD: the same scene in each comes in the same; damage ends as a sentence."""

import io
import random
import shutil
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import collada
import numpy as np
import trimesh
from PIL import Image

from hemp_ladder.core.chain.came import read_meshed
from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.readers import need_reader, reader_for
from hemp_ladder.core.receive.report import Kept
from hemp_ladder.core.receive.x3d.geometry import polygons
from hemp_ladder.core.receive.x3d.scene import SceneNode
from hemp_ladder.work.children import Crew
from hemp_ladder.work.receiving.reading import Ears, SourceRefused, receive_files
from house.places import WEB
from tests.core.receive import scene_files as made
from tests.support import FolderCase


def red_wall() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (4, 4), (255, 0, 0)).save(out, "PNG")
    return out.getvalue()


class SceneCase(FolderCase):
    def read(self, name: str, data: bytes) -> tuple[Model, list[Mesh]]:
        path = self.folder / name
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(data)
        self.kept = Kept()
        model = need_reader(path).read(path, self.kept)
        return model, [read_meshed(self.kept.shapes[part.key]) for part in model.parts]

    def all_kinds(self) -> dict[str, bytes]:
        return {
            "box.3mf": made.threemf(), "box.amf": made.amf(), "zipped.amf": made.zipped({"box.amf": made.amf()}),
            "box.dae": made.collada(), "box.x3d": made.x3d(), "box.wrl": made.vrml(), "box.usda": made.usda(),
            "box.usdc": made.usdc(self.folder), "box.usdz": made.usdz(self.folder, red_wall()),
        }  # fmt: skip


class TheSameScene(SceneCase):
    def test_tree_instances_unit_axis_material_and_camera(self) -> None:
        (self.folder / "maps").mkdir()
        (self.folder / "maps" / "RED wall.PNG").write_bytes(red_wall())
        units = {"3mf": ("cm", "z"), "amf": ("in", "z"), "dae": ("cm", "z"), "x3d": ("cm", "y"), "wrl": ("m", "y")}
        for name, data in self.all_kinds().items():
            with self.subTest(name):
                model, (mesh,) = self.read(name, data)
                kind = name.rpartition(".")[2]
                self.assertEqual((model.unit, model.up), units.get(kind, ("cm", "z")))
                # One box lies along Y, the other, turned about Z by a quarter, along -X.
                np.testing.assert_allclose(model.box, [[8, 0, 0], [11, 2, 3]], atol=1e-6)
                self.assertEqual((len(model.parts), len(model.placements)), (1, 2))
                self.assertEqual(len(mesh.triangles), 12)
                self.assertAlmostEqual(mesh.volume(), 6, places=6)
                self.assertIn("Pair", [node.name for node in model.nodes])
                (look,) = model.looks.values()
                base = look.map("base colour")
                if kind in ("dae", "usda", "usdc", "usdz"):
                    assert base is not None
                    self.assertEqual(self.kept.blobs["textures"][base.picture], red_wall())
                    self.assertEqual(sorted(mesh.attributes), ["normal", "uv"])
                    self.assertEqual(np.ptp(mesh.attributes["uv"], axis=0).tolist(), [1, 1])
                else:
                    self.assertEqual((look.colour.hex, base), ("#ff0000", None))
                if kind in ("dae", "x3d", "wrl"):
                    self.assertAlmostEqual(look.roughness, 0.5, places=6)
                if kind not in ("3mf", "amf"):
                    (eye,) = model.lookouts
                    self.assertEqual(eye.name, "Eye")
                    wanted = {"dae": 0.7344, "x3d": 0.6, "wrl": 0.6}.get(kind, 2 * np.arctan(12 / 50))
                    self.assertAlmostEqual(eye.tall, wanted, places=3)

    def test_the_sun_goes_where_the_file_says(self) -> None:
        """A directional light goes along its -Z (KHR_lights_punctual; COLLADA 1.4.1, 5; USD's DistantLight), in X3D where
        its field says."""
        turned = '<node name="Sun"><rotate>1 0 0 -90</rotate><instance_light url="#sun"/></node>'
        light = '<library_lights><light id="sun"><technique_common><directional><color>1 1 1</color></directional></technique_common></light></library_lights>'
        dae = made.collada().replace(b"<library_visual_scenes>", f"{light}<library_visual_scenes>".encode())
        dae = dae.replace(b'<node name="Eye">', f'{turned}<node name="Eye">'.encode())
        x3d = made.x3d().replace(b"<Viewpoint", b'<DirectionalLight direction="0 -2 0"/><Viewpoint')
        usd = (
            made.usda().rstrip()
            + b'\ndef DistantLight "Sun" {\n  float xformOp:rotateX = -90\n  uniform token[] xformOpOrder = ["xformOp:rotateX"]\n}\n'
        )
        for name, data, way in (("a.dae", dae, (0, -1, 0)), ("a.x3d", x3d, (0, -1, 0)), ("a.usda", usd, (0, -1, 0))):
            with self.subTest(name):
                sun = self.read(name, data)[0].sun
                assert sun is not None
                np.testing.assert_allclose(sun, way, atol=1e-6)

    def test_off_with_colours_and_several_counts(self) -> None:
        model, (mesh,) = self.read("box.off", made.off())
        self.assertEqual((len(mesh.triangles), round(mesh.volume(), 9), model.unit), (12, 6, None))
        _, (mesh,) = self.read("c.off", b"COFF\n4 2 0\n0 0 0 255 0 0 255\n1 0 0 255 0 0 255\n1 1 0 0 0 255 128\n0 1 0 0 0 255 128\n"
                               b"3 0 1 2\n3 0 2 3\n")  # fmt: skip
        np.testing.assert_allclose(mesh.attributes["colour"][0], [1, 0, 0, 1], atol=1e-6)
        path = self.folder / "ball.off"
        ball = trimesh.creation.icosphere(subdivisions=2)
        ball.export(path)
        kept = Kept()
        read = need_reader(path).read(path, kept)
        np.testing.assert_allclose(read.box, ball.bounds, atol=1e-6)

    def test_round_shapes_have_the_volumes_of_geometry_books(self) -> None:
        """Of regular prisms and pyramids with 48 sides: the area of the base is n/2 r² sin(2π/n)."""
        base = 24 * np.sin(2 * np.pi / 48)
        for kind, fields, volume in (
            ("Box", {"size": "1 2 3"}, 6.0), ("Cylinder", {"radius": "1", "height": "2"}, 2 * base),
            ("Cone", {"bottomRadius": "1", "height": "3"}, base), ("Sphere", {"radius": "1"}, 4 / 3 * np.pi),
        ):  # fmt: skip
            shape = polygons(SceneNode(kind, "", fields), None)
            corners = shape.positions[shape.triangles]
            found = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
            self.assertAlmostEqual(found, volume, delta=0.01 * volume if kind == "Sphere" else 1e-9, msg=kind)


class PublicFiles(SceneCase):
    """Of packages from the registries and of several systems, read by us and by a library that shares no code with us."""

    def both(self, path: Path) -> tuple[Model, list[Mesh], trimesh.Scene]:
        self.kept = Kept()
        model = need_reader(path).read(path, self.kept)
        return (
            model,
            [read_meshed(self.kept.shapes[part.key]) for part in model.parts],
            trimesh.load_scene(path, process=False),
        )

    def test_objects_with_uv_and_materials(self) -> None:
        modules = WEB / "node_modules"
        package = modules / "wavefront-obj-parser"
        tree = self.folder / "tree.obj"
        for part in ("test/fixture/tree.obj", "demo/asset/tree.mtl", "demo/asset/tree-texture.jpg"):
            shutil.copy(package / part, self.folder)
        cube = package / "test" / "fixture" / "checkercube.obj"
        for path in (modules / "utah-teapot" / "teapot.obj", tree, cube):
            with self.subTest(path.name):
                model, meshes, theirs = self.both(path)
                found = trimesh.util.concatenate(list(theirs.geometry.values()))
                np.testing.assert_allclose(model.box, found.bounds, atol=1e-6)
                corners = found.vertices[found.faces]
                area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
                # Ours leaves out those without area.
                self.assertEqual(sum(len(mesh.triangles) for mesh in meshes), int((area > 0).sum()))
                self.assertAlmostEqual(sum(mesh.area() for mesh in meshes), area.sum() / 2, delta=1e-6 * area.sum())
                if path.name != "teapot.obj":
                    ours = np.concatenate([mesh.attributes["uv"][mesh.triangles].reshape(-1, 2) for mesh in meshes])
                    uv = np.concatenate([g.visual.uv[g.faces].reshape(-1, 2) for g in theirs.geometry.values()])
                    np.testing.assert_allclose(
                        np.unique(ours.round(5), axis=0), np.unique(uv.round(5), axis=0), atol=1e-5
                    )
                if path == tree:
                    (part,), (look,), (theirs_look,) = model.parts, model.looks.items(), theirs.geometry.values()
                    self.assertEqual({part.style, look[0]}, {str(theirs_look.visual.material.name)})
                    # Its picture is named by the path on its maker's machine, and is not there.
                    self.assertEqual(model.lacking[look[0]].keys(), {"base colour"})

    def test_collada_of_another_library(self) -> None:
        ball = trimesh.creation.icosphere(subdivisions=2, radius=3)
        ball.apply_translation([1, 2, 3])
        path = self.folder / "ball.dae"
        path.write_bytes(trimesh.exchange.dae.export_collada(ball))
        model, (mesh,), _ = self.both(path)
        self.assertEqual(len(mesh.triangles), len(ball.faces))
        self.assertAlmostEqual(mesh.volume(), ball.volume, places=4)
        # And ours by hand is read by it to the same boxes.
        path.write_bytes(made.collada())
        read = collada.Collada(str(path), ignore=[collada.common.DaeError])
        spots = np.concatenate(
            [triangle.vertices for geometry in read.scene.objects("geometry") for item in geometry.primitives() for triangle in item.triangleset()]
        )  # fmt: skip
        model, _ = self.read("ours.dae", made.collada())
        np.testing.assert_allclose([spots.min(axis=0), spots.max(axis=0)], model.box, atol=1e-5)


class Details(SceneCase):
    def test_3mf_textures_colours_and_other_parts(self) -> None:
        side = (
            '<model xmlns="x"><resources><object id="9" name="Far"><mesh><vertices><vertex x="0" y="0" z="0"/>'
            '<vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/></vertices><triangles><triangle v1="0" v2="1" v3="2"/>'
            "</triangles></mesh></object></resources></model>"
        )
        main = (
            '<model xmlns="x" xmlns:m="m" xmlns:p="p"><resources><m:texture2d id="2" path="/3D/Textures/wall.png" contenttype="image/png"/>'
            '<m:texture2dgroup id="3" texid="2"><m:tex2coord u="0" v="0"/><m:tex2coord u="1" v="0"/><m:tex2coord u="0" v="1"/></m:texture2dgroup>'
            '<m:colorgroup id="4"><m:color color="#00FF00"/></m:colorgroup><object id="1" name="Near"><mesh><vertices>'
            '<vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/></vertices><triangles>'
            '<triangle v1="0" v2="1" v3="2" pid="3" p1="0" p2="1" p3="2"/><triangle v1="0" v2="2" v3="1" pid="4" p1="0"/></triangles></mesh></object>'
            '</resources><build><item objectid="1"/><item objectid="9" p:path="/3D/side.model"/><item objectid="77"/></build></model>'
        )
        data = made.zipped({"3D/3dmodel.model": main, "3D/side.model": side, "3D/Textures/wall.png": red_wall()})
        model, (near, _) = self.read("parts.3mf", data)
        self.assertEqual([part.name for part in model.parts], ["Near", "Far"])
        self.assertEqual(model.unit, "mm")
        self.assertEqual({look.colour.hex for look in model.looks.values()}, {"#ffffff", "#00ff00"})
        self.assertEqual(near.attributes["uv"][near.triangles[0]].tolist(), [[0, 0], [1, 0], [0, 1]])
        self.assertIn("refers to what is not there", model.findings[-1].message)

    def test_an_unnamed_unit_of_collada_and_its_fallbacks(self) -> None:
        model, _ = self.read(
            "odd.dae", made.collada().replace(b'meter="0.01"', b'meter="0.42"').replace(b"<up_axis>Z_UP</up_axis>", b"")
        )
        self.assertEqual(
            (model.unit, model.metres_per_coordinate, model.up, model.sized), (None, Fraction(42, 100), "y", True)
        )

    def test_usd_opens_nothing_outside_and_falls_back_as_the_format_says(self) -> None:
        (self.folder / "outside").mkdir()
        (self.folder / "outside" / "secret.usda").write_bytes(made.usda())
        text = f'#usda 1.0\n( subLayers = [@{self.folder}/outside/secret.usda@] )\ndef Mesh "Alone" {{\n point3f[] points = [(0,0,0),(1,0,0),(0,1,0)]\n int[] faceVertexCounts = [3]\n int[] faceVertexIndices = [0,1,2]\n}}\n'
        model, _ = self.read("leads out.usda", text.encode())
        self.assertEqual(([part.name for part in model.parts], model.unit, model.up), (["Alone"], "cm", "y"))
        self.assertEqual([item.code for item in model.findings], ["missing-member", "cage"])

    def test_usd_instancers_subsets_and_shapes(self) -> None:
        text = b"""#usda 1.0
(
  metersPerUnit = 1
  upAxis = "Y"
)
def PointInstancer "Stones" {
  rel prototypes = </Stones/Stone>
  int[] protoIndices = [0, 0, 0]
  point3f[] positions = [(0, 0, 0), (10, 0, 0), (20, 0, 0)]
  def Cube "Stone" {
    double size = 2
  }
}
def Mesh "Tile" {
  uniform token subdivisionScheme = "none"
  point3f[] points = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)]
  int[] faceVertexCounts = [3, 3]
  int[] faceVertexIndices = [0, 1, 2, 0, 2, 3]
  def GeomSubset "half" ( prepend apiSchemas = ["MaterialBindingAPI"] ) {
    uniform token elementType = "face"
    uniform token familyName = "materialBind"
    int[] indices = [1]
    rel material:binding = </Glaze>
  }
}
def Material "Glaze" { }
"""
        model, meshes = self.read("stones.usda", text)
        self.assertEqual(len(model.placements), 4)
        np.testing.assert_allclose(model.box, [[-1, -1, -1], [21, 1, 1]], atol=1e-6)
        self.assertAlmostEqual(meshes[0].volume(), 8, places=6)
        self.assertEqual(model.parts[1].face_styles, {1: "Glaze"})


class Damage(SceneCase):
    """Every end is a model or a sentence, and what can be kept is kept."""

    def tried(self, name: str, data: bytes) -> None:
        path = self.folder / name
        path.write_bytes(data)
        reader = reader_for(path)
        if reader is None:
            return
        try:
            model = reader.read(path, Kept())
        except UnreadableSource as error:
            self.assertTrue(error.message.endswith((".", "”")) or ":" in error.message, error.message)
        else:
            self.assertTrue(np.isfinite(model.box).all())

    def test_cut_short_flipped_and_out_of_range(self) -> None:
        chance = random.Random(4)
        kinds = self.all_kinds() | {"box.off": made.off()}
        for name, data in kinds.items():
            if name.endswith((".usdc", ".usdz")):
                continue  # read by a library of its own that may die of them: below, in processes
            with self.subTest(name):
                for k in range(10):
                    self.tried(f"cut-{name}", data[: len(data) * k // 10])
                    damaged = bytearray(data)
                    for _ in range(6):
                        damaged[chance.randrange(len(data))] = chance.randrange(256)
                    self.tried(f"bent-{name}", bytes(damaged))
                text = data.replace(b"7", b"700000000").replace(b"3 ", b"nan ")
                self.tried(f"far-{name}", text)

    def test_binary_usd_with_a_bit_turned_ends_in_a_model_or_a_sentence_of_ours(self) -> None:
        data, crew = made.usdc(self.folder), Crew(1)
        with crew:
            for seed in range(12):
                chance, bent = random.Random(seed), bytearray(data)
                bent[chance.randrange(len(data))] ^= 1 << chance.randrange(8)
                path = self.folder / "bent.usdc"
                path.write_bytes(bytes(bent))
                room = self.folder / f"room {seed}"
                room.mkdir()
                try:
                    receive_files([("bent.usdc", path)], room, crew, Ears())
                except SourceRefused as refused:
                    self.assertNotIn("pxr", refused.message)
                    self.assertIn(refused.finding.code, ("unreadable-source", "reader-crashed", "reader-limit"))

    def test_circles_doublings_depth_and_entities(self) -> None:
        doubled = "".join(
            f'<object id="{k}"><components><component objectid="{k + 1}"/><component objectid="{k + 1}"/></components></object>'
            for k in range(1, 60)
        )
        bombs: dict[str, Callable[[], bytes]] = {
            "doubled.3mf": lambda: made.zipped({"3D/3dmodel.model": f'<model><resources>{doubled}</resources><build><item objectid="1"/></build></model>'}),
            "circle.3mf": lambda: made.zipped({"3D/3dmodel.model": '<model><resources><object id="1"><components><component objectid="1"/></components></object></resources><build><item objectid="1"/></build></model>'}),
            "circle.dae": lambda: b'<COLLADA><library_visual_scenes><visual_scene id="s"><node id="a"><instance_node url="#a"/></node></visual_scene></library_visual_scenes></COLLADA>',
            "deep.x3d": lambda: b"<X3D><Scene>" + b"<Group>" * 10_000 + b"</Group>" * 10_000 + b"</Scene></X3D>",
            "deep.wrl": lambda: b"#VRML V2.0 utf8\n" + b"Group { children [ " * 10_000,
            "laughs.dae": lambda: b'<!DOCTYPE C [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><COLLADA>&b;</COLLADA>',
            "laughs.amf": lambda: b'<!DOCTYPE C [<!ENTITY a "aaaa">]><amf>&a;</amf>',
            "claims.off": lambda: b"OFF\n1000000000 1000000000 0\n0 0 0\n",
        }  # fmt: skip
        for name, bomb in bombs.items():
            with self.subTest(name):
                path = self.folder / name
                path.write_bytes(bomb())
                with self.assertRaises(UnreadableSource):
                    need_reader(path).read(path, Kept())
