"""Mesh files: STL, PLY, OBJ with MTL, glTF and GLB, against files that another library wrote and files made by hand."""

import base64
import io
import json
import struct
import zlib
from pathlib import Path
from unittest import mock

import numpy as np
import trimesh
from PIL import Image

from hemp_ladder.core.chain.came import read_meshed
from hemp_ladder.core.climb import climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.model.references import name_parts
from hemp_ladder.core.receive.meshed.colours import roughness_of_exponent
from hemp_ladder.core.receive.meshed.pictures import Pictures
from hemp_ladder.core.receive.meshed.polygons import strips, triangulated
from hemp_ladder.core.receive.obj.maps import map_name
from hemp_ladder.core.receive.reader import ROOM
from hemp_ladder.core.receive.readers import need_reader
from hemp_ladder.core.receive.report import Kept
from hemp_ladder.core.ship.deliver import climb_ship
from hemp_ladder.core.ship.glb import GlbWriter
from hemp_ladder.core.ship.settings import Target
from tests.support import PUBLIC, FolderCase, FollowedHere


class MeshCase(FolderCase):
    def read(self, name: str, data: bytes | str) -> tuple[Model, list[Mesh]]:
        path = self.folder / name
        path.write_bytes(data if isinstance(data, bytes) else data.encode())
        return self.read_file(path)

    def read_file(self, path: Path) -> tuple[Model, list[Mesh]]:
        kept = Kept()
        model = need_reader(path).read(path, kept)
        return model, [read_meshed(kept.shapes[part.key]) for part in model.parts]

    def refused(self, name: str, data: bytes | str) -> str:
        with self.assertRaises(UnreadableSource) as caught:
            self.read(name, data)
        return caught.exception.message


class AgainstAnotherLibrary(MeshCase):
    """What trimesh wrote is read to the same box, area and count."""

    def test_all_formats_and_kinds(self) -> None:
        ball = trimesh.creation.icosphere(subdivisions=3, radius=10)
        ball.apply_translation([1000.5, 0, 0])
        for name, options in (
            ("ball.stl", {}), ("text.stl", {"file_type": "stl_ascii"}), ("ball.ply", {}), ("text.ply", {"encoding": "ascii"}),
            ("ball.obj", {}), ("ball.glb", {}),
        ):  # fmt: skip
            with self.subTest(name):
                path = self.folder / name
                ball.export(path, **options)
                model, (mesh,) = self.read_file(path)
                self.assertEqual(len(mesh.triangles), len(ball.faces))
                np.testing.assert_allclose(model.box, ball.bounds, atol=1e-4)
                self.assertAlmostEqual(mesh.area(), ball.area, delta=ball.area * 1e-5)
                self.assertGreater(mesh.volume(), 0)

    def test_a_public_file(self) -> None:
        path = PUBLIC / "cube-10x10mm" / "Cube 10x10.stl"
        model, (mesh,) = self.read_file(path)
        np.testing.assert_allclose(np.ptp(model.box, axis=0), [10, 10, 10], atol=1e-5)
        self.assertAlmostEqual(mesh.volume(), 1000, places=3)
        self.assertEqual((model.unit, model.up), (None, None))


class Polygons(MeshCase):
    def test_convex_dented_and_flat_ones_keep_their_area(self) -> None:
        """The area of a polygon by the shoelace formula."""
        arrow = np.array([[0, 0, 0], [4, 0, 0], [4, 4, 0], [2, 1, 0], [0, 4, 0]], float)
        square = np.array([[0, 0, 5], [0, 1, 5], [0, 1, 6], [0, 0, 6]], float)
        spots = np.concatenate([arrow, square])
        at, of = triangulated(spots, np.arange(9), np.array([5, 4]))
        corners = spots[np.arange(9)[at]]
        areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
        np.testing.assert_allclose(np.bincount(of, areas), [10, 1])
        turned = np.cross(corners[:3, 1] - corners[:3, 0], corners[:3, 2] - corners[:3, 0])
        self.assertTrue((turned[:, 2] > 0).all(), "all are wound as the polygon is")

    def test_strips_and_fans_are_wound_as_the_standard_says(self) -> None:
        """glTF 2.0, 3.7.2.1."""
        self.assertEqual(strips(np.arange(5), False).tolist(), [[0, 1, 2], [1, 3, 2], [2, 3, 4]])
        self.assertEqual(strips(np.arange(5), True).tolist(), [[1, 2, 0], [2, 3, 0], [3, 4, 0]])
        self.assertEqual(strips(np.arange(2), False).tolist(), [])


class Obj(MeshCase):
    MTL = "newmtl Red paint\nKd 1 0 0\nNs 6\nd 0.5\nnewmtl steel\nKd .5 .5 .5\nPr 0.25\nPm 1\n"
    OBJ = (
        "# made by hand\nmtllib looks.mtl\no Bench\ng Seat\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\n"
        "usemtl Red paint\nf 1/1 2/2 3/3\nusemtl steel\nf -4/1 -2/3 \\\n -1/2\ng Leg\nv 0 0 -1\nf 1 2 5\no Lamp\nf 1 3 5\nl 1 2\n"
    )

    def test_objects_groups_materials_and_relative_numbers(self) -> None:
        (self.folder / "looks.mtl").write_text(self.MTL)
        model, meshes = self.read("bench.obj", self.OBJ)
        self.assertEqual([part.label for part in model.parts], ["Seat", "Leg", "Lamp"])
        self.assertEqual(
            [(node.name, node.parent) for node in model.nodes], [("Bench", -1), ("Seat", 0), ("Leg", 0), ("Lamp", -1)]
        )
        seat = model.parts[0]
        self.assertEqual(sorted(seat.face_styles.values()), ["Red paint", "steel"])
        np.testing.assert_allclose(meshes[0].attributes["uv"][:3], [[0, 0], [1, 0], [1, 1]])
        np.testing.assert_allclose(meshes[0].positions[meshes[0].triangles[1]], [[0, 0, 0], [1, 1, 0], [0, 1, 0]])
        self.assertNotIn("uv", meshes[1].attributes)
        red, steel = model.looks["Red paint"], model.looks["steel"]
        self.assertEqual((red.colour.hex, red.metalness), ("#ff000080", 0.0))
        self.assertEqual((steel.metalness, steel.roughness), (1.0, 0.25))
        self.assertEqual(model.leftovers, {"curve": 1})

    def test_shine_by_the_published_formula(self) -> None:
        """alpha = sqrt(2 / (n + 2)), and roughness its root: n = 0 is rough all over, n = 30 gives alpha 1/4."""
        self.assertEqual([roughness_of_exponent(n) for n in (0, 30, -5)], [1.0, 0.5, 1.0])

    def test_a_missing_library_is_said_and_numbers_out_of_range_are_left_out(self) -> None:
        model, meshes = self.read(
            "alone.obj", "mtllib gone.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\nf 1 2 9\nf 1 2 -9\nv nan 1 x\n"
        )
        self.assertEqual([item.code for item in model.findings], ["missing-beside", "unreadable-entity"])
        self.assertEqual(len(meshes[0].triangles), 1)

    def test_faces_without_a_single_corner_say_so(self) -> None:
        self.assertIn("no triangles", self.refused("none.obj", "f 1 2 3\nf 1 2 3 4\n"))
        head = "ply\nformat ascii 1.0\nelement vertex 0\nproperty float x\nproperty float y\nproperty float z\n"
        head += "element face 1\nproperty list uchar int vertex_indices\nend_header\n4 0 1 2 3\n"
        self.assertIn("no triangles", self.refused("none.ply", head))

    def test_colours_of_vertices_become_linear_light(self) -> None:
        _, (mesh,) = self.read("c.obj", "v 0 0 0 1 0.5 0\nv 1 0 0 1 0.5 0\nv 0 1 0 1 0.5 0\nf 1 2 3\n")
        np.testing.assert_allclose(mesh.attributes["colour"][0], [1, 0.21404, 0, 1], atol=1e-5)


def png(width: int = 4, height: int = 2, kind: str = "PNG") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (width, height), (200, 30, 30)).save(out, kind)
    return out.getvalue()


class PicturesOfSurfaces(MeshCase):
    def pictures(self, name: str) -> tuple[str | None, Pictures, Kept]:
        kept = Kept()
        found = Pictures(kept, self.folder / "model" / "a.obj")
        return found.beside(name), found, kept

    def setUp(self) -> None:
        super().setUp()
        self.folder = self.folder / ROOM
        for path, data in {"maps/Wood.PNG": png(), "other/wood.png": png(8, 8), "model/a.obj": b""}.items():
            (self.folder / path).parent.mkdir(parents=True, exist_ok=True)
            (self.folder / path).write_bytes(data)

    def test_found_by_path_else_by_name_whatever_its_case_and_machine(self) -> None:
        for name, width in (
            ("maps/wood.png", 4), ("..\\OTHER\\wood.png", 8), ("C:\\somebody\\maps\\WOOD.png", 4), ("/home/x/other/Wood.png", 8),
        ):  # fmt: skip
            sha256, found, kept = self.pictures(name)
            self.assertEqual((found.textures[0].width, list(kept.blobs["textures"])), (width, [sha256]), name)
        for name in ("gone.png", "../../../etc/passwd", ""):
            sha256, found, _ = self.pictures(name)
            self.assertEqual((sha256, [item.code for item in found.findings]), (None, ["missing-beside"]), name)

    def test_other_kinds_become_png_and_bombs_stay_out(self) -> None:
        found = Pictures(Kept(), self.folder / "a.obj")
        self.assertEqual(found.take(png(kind="JPEG"), "a.jpg"), found.textures[0].sha256)
        for kind in ("WEBP", "BMP", "TIFF", "TGA"):
            kept = Kept()
            sha256 = Pictures(kept, self.folder / "a.obj").take(png(kind=kind), "a")
            self.assertTrue(kept.blobs["textures"][str(sha256)].startswith(b"\x89PNG"), kind)
        head = png()
        size = b"IHDR" + struct.pack(">II", 100_000, 100_000) + head[24:29]
        bomb = head[:12] + size + struct.pack(">I", zlib.crc32(size)) + head[33:]
        for data, why in (
            (bomb, "claims more"),
            (b"<svg/>", "no picture"),
            (head[:20], "no picture"),
            (b"", "no picture"),
        ):
            self.assertIsNone(found.take(data, "bad.png"))
            self.assertIn(why, found.findings[-1].message)

    def test_options_of_maps_are_passed_over(self) -> None:
        for rest, name in {
            " wood.png": "wood.png", " -s 2 2 1 -clamp on old wood.png": "old wood.png", " -o 0.5 wood.png": "wood.png",
            " -bm 0.2 -mm 0 1 a b.jpg": "a b.jpg", " -s": "-s", ' "quoted.png"': "quoted.png",
        }.items():  # fmt: skip
            self.assertEqual(map_name(rest), name)

    def test_a_number_beside_a_map_counts_unless_it_is_nothing(self) -> None:
        """Nothing times a map would be nothing: so some programs write what they do not say (common practice)."""
        (self.folder / "wood.png").write_bytes(png())
        for told, seen in (
            ("Kd 0.5 0.5 0.5\nmap_Kd wood.png", ("#808080", "#000000", 0.0)),
            ("Kd 0 0 0\nmap_Kd wood.png\nKe 0 0 0\nmap_Ke wood.png\nPm 0\nmap_Pm wood.png", ("#ffffff", "#ffffff", 1.0)),
            ("Ke 1 0 0\nmap_Ke wood.png\nPm 0.25\nmap_Pm wood.png", ("#cccccc", "#ff0000", 0.25)),
            # What is not there takes nothing away, and gives no light.
            ("Kd 1 0 0\nmap_Kd gone.png\nmap_Ke gone.png\nmap_Pm gone.png", ("#ff0000", "#000000", 0.0)),
        ):  # fmt: skip
            (self.folder / "a.mtl").write_text(f"newmtl Wood\n{told}\n")
            (self.folder / "a.obj").write_text(
                "mtllib a.mtl\nusemtl Wood\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nf 1/1 2/1 3/1\n"
            )
            look = need_reader(self.folder / "a.obj").read(self.folder / "a.obj", Kept()).looks["Wood"]
            self.assertEqual((look.colour.hex[:7], look.emission.hex[:7], look.metalness), seen, told)


class PicturesShipped(MeshCase):
    def test_a_receipt_finds_another_picture_than_was_meant(self) -> None:
        """As it came it holds; with other pixels in the file, or in the wrong place, it does not."""
        (self.folder / "a.mtl").write_text("newmtl Wood\nKd 1 1 1\nmap_Kd wood.png\n")
        (self.folder / "wood.png").write_bytes(png())
        path = self.folder / "a.obj"
        path.write_text("mtllib a.mtl\nusemtl Wood\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nf 1/1 2/2 3/3\n")
        kept = Kept()
        model = name_parts(need_reader(path).read(path, kept))
        result = climb(model, Decisions(), FollowedHere(kept.shapes))
        pictures = kept.blobs["textures"]
        block = GlbWriter.block
        for form in ("glb", "obj"):
            target = Target.model_validate({"format": form})
            self.assertTrue(
                climb_ship(result, target, self.folder / f"out.{form}", picture=pictures.__getitem__).receipt.ok
            )
        with mock.patch.object(GlbWriter, "block", lambda writer, data: block(writer, png(9, 9))):
            shipped = climb_ship(result, Target(), self.folder / "bad.glb", picture=pictures.__getitem__)
        self.assertEqual([check.name for check in shipped.receipt.checks if not check.ok], ["pictures by material"])


class Ply(MeshCase):
    def test_lists_of_several_lengths_and_colours_in_bytes(self) -> None:
        head = (
            "ply\nformat binary_little_endian 1.0\ncomment by hand\nelement vertex 5\nproperty float x\nproperty float y\n"
            "property float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face 2\n"
            "property list uchar int vertex_indices\nend_header\n"
        )
        spots = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0), (0, 0, 1)]
        body = b"".join(struct.pack("<3f3B", *spot, 255, 0, 0) for spot in spots)
        body += struct.pack("<B4i", 4, 0, 1, 2, 3) + struct.pack("<B3i", 3, 0, 1, 4)
        model, (mesh,) = self.read("p.ply", head.encode() + body)
        self.assertEqual(
            (model.parts[0].style, model.looks["Colours of vertices"].colour.hex), ("Colours of vertices", "#ffffff")
        )
        self.assertEqual((len(mesh.triangles), model.writer), (3, "by hand"))
        self.assertAlmostEqual(mesh.area(), 1.5, places=6)
        np.testing.assert_array_equal(mesh.attributes["colour"][0], [1, 0, 0, 1])
        cut, (rest,) = self.read("cut.ply", head.encode() + body[:-3])
        self.assertEqual(([item.code for item in cut.findings], len(rest.triangles)), (["cut-short"], 2))

    def test_counts_that_promise_a_billion_and_points_alone(self) -> None:
        head = "ply\nformat ascii 1.0\nelement vertex %d\nproperty float x\nproperty float y\nproperty float z\nend_header\n"
        self.assertIn("no room", self.refused("many.ply", head % 2_000_000_000))
        self.assertIn("no triangles", self.refused("points.ply", head % 2 + "0 0 0\n1 1 1\n"))


def gltf(**more: object) -> dict[str, object]:
    """A triangle, with a second of another material in the same mesh, standing twice."""
    spots = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], "<f4")
    data = spots.tobytes() + np.array([0, 1, 2], "<u2").tobytes()
    uri = "data:application/octet-stream;base64," + base64.b64encode(data).decode()
    primitive = {"attributes": {"POSITION": 0}, "indices": 1}
    return {
        "asset": {"version": "2.0", "generator": "by hand"},
        "buffers": [{"uri": uri, "byteLength": len(data)}],
        "bufferViews": [{"buffer": 0, "byteLength": 36}, {"buffer": 0, "byteOffset": 36, "byteLength": 6}],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"},
            {"bufferView": 1, "componentType": 5123, "count": 3, "type": "SCALAR"},
        ],
        "materials": [
            {"name": "glaze", "alphaMode": "BLEND",
             "pbrMetallicRoughness": {"baseColorFactor": [0, 0.2158605, 1, 0.5], "metallicFactor": 0, "roughnessFactor": 0.1}},
            {},
        ],
        "meshes": [{"name": "Tile", "primitives": [{**primitive, "material": 0}, {**primitive, "material": 1}]}],
        "nodes": [
            {"name": "Wall", "children": [1, 2], "translation": [1234567.891, 0, 0]},
            {"name": "left", "mesh": 0, "scale": [-1, 1, 1]},
            {"name": "right", "mesh": 0, "rotation": [0, 0, 0.70710678, 0.70710678]},
            {"camera": 0},
        ],
        "scenes": [{"nodes": [0, 3]}],
        **more,
    }  # fmt: skip


class Gltf(MeshCase):
    def test_tree_instances_materials_and_double_precision(self) -> None:
        model, (mesh,) = self.read("wall.gltf", json.dumps(gltf()))
        self.assertEqual((model.unit, model.up, model.writer), ("m", "y", "by hand"))
        self.assertEqual(
            [(node.name, node.parent, node.part) for node in model.nodes][:3],
            [("Wall", -1, -1), ("left", 0, 0), ("right", 0, 0)],
        )
        self.assertEqual(model.world()[1][0, 3], 1234567.891)
        self.assertLess(np.linalg.det(model.world()[1][:3, :3]), 0)
        np.testing.assert_allclose(model.world()[2][:3, 0], [0, 1, 0], atol=1e-7)
        self.assertEqual((len(mesh.triangles), mesh.faces.count), (2, 2))
        glaze = model.looks["glaze"]
        self.assertEqual((glaze.colour.hex, glaze.metalness, glaze.roughness), ("#0080ff80", 0.0, 0.1))
        self.assertEqual((model.looks["Material 2"].metalness, model.looks["Material 2"].colour.hex), (1.0, "#ffffff"))
        self.assertEqual((model.leftovers, model.lookouts), ({}, []), "a node that names no camera there is")

    def test_normalised_interleaved_and_turned_uv(self) -> None:
        rows = np.zeros(3, np.dtype([("p", "<f4", 3), ("t", "<u2", 2)]))
        rows["p"] = [[0, 0, 0], [1, 0, 0], [0, 1, 0]]
        rows["t"] = [[0, 0], [65535, 0], [0, 65535]]
        data = rows.tobytes()
        document = gltf(
            buffers=[{"uri": "data:;base64," + base64.b64encode(data).decode(), "byteLength": len(data)}],
            bufferViews=[{"buffer": 0, "byteLength": len(data), "byteStride": 16}],
            accessors=[
                {"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"},
                {"bufferView": 0, "byteOffset": 12, "componentType": 5123, "normalized": True, "count": 3, "type": "VEC2"},
            ],
            meshes=[{"primitives": [{"attributes": {"POSITION": 0, "TEXCOORD_0": 1}}]}],
            extensionsRequired=["KHR_mesh_quantization"],
        )  # fmt: skip
        _, (mesh,) = self.read("q.gltf", json.dumps(document))
        np.testing.assert_allclose(mesh.attributes["uv"], [[0, 1], [1, 1], [0, 0]], atol=1e-6)

    def test_what_is_damaged_or_not_read_says_why(self) -> None:
        for says, more in (
            ("KHR_not_known", {"extensionsRequired": ["KHR_not_known"]}),
            ("version 2", {"asset": {"version": "1.0"}}),
            ("circle", {"nodes": [{"children": [1]}, {"children": [0]}], "scenes": [{"nodes": [0]}]}),
            ("circle", {"nodes": [{"children": [k + 1, k + 1]} for k in range(30)] + [{"mesh": 0}]}),
            ("not there", {"buffers": [{"uri": "../../etc/passwd", "byteLength": 42}]}),
            ("shorter", {"bufferViews": [{"buffer": 0, "byteLength": 1 << 40}, {"buffer": 0, "byteLength": 6}]}),
            ("claims", {"accessors": [{"componentType": 5126, "count": 2_000_000_000, "type": "VEC3"}] * 2}),
            ("not there", {"nodes": [{"mesh": 7}], "scenes": [{"nodes": [0]}]}),
        ):
            with self.subTest(says=says, more=str(more)[:60]):
                self.assertIn(says, self.refused("bad.gltf", json.dumps(gltf(**more))))
        _, (mesh,) = self.read(
            "range.gltf", json.dumps(gltf(meshes=[{"primitives": [{"attributes": {"POSITION": 0}}]}]))
        )
        self.assertEqual(len(mesh.triangles), 1)


class Damaged(MeshCase):
    """Files cut short and with bytes flipped end as a sentence or a model, never otherwise."""

    def test_cut_short_and_flipped(self) -> None:
        ball = trimesh.creation.icosphere(subdivisions=2)
        rng = np.random.default_rng(12)
        whole: dict[str, bytes] = {"a.obj": Obj.OBJ.encode(), "a.gltf": json.dumps(gltf()).encode()}
        for name, kind in (("a.stl", "stl"), ("b.stl", "stl_ascii"), ("a.ply", "ply"), ("a.glb", "glb")):
            out = io.BytesIO()
            ball.export(out, file_type=kind)
            whole[name] = out.getvalue()
        for name, data in whole.items():
            spoiled = [data[: len(data) * k // 11] for k in range(1, 11)]
            for _ in range(40):
                flipped = bytearray(data)
                for at in rng.integers(0, len(data), 6):
                    flipped[at] ^= 1 << int(rng.integers(8))
                spoiled.append(bytes(flipped))
            for number, bad in enumerate(spoiled):
                with self.subTest(name=name, number=number):
                    try:
                        model, meshes = self.read(name, bad)
                    except UnreadableSource as error:
                        self.assertTrue(error.message.endswith("."), error.message)
                    else:
                        self.assertTrue(np.isfinite(model.box).all())
                        self.assertTrue(all(np.isfinite(mesh.positions).all() for mesh in meshes))
