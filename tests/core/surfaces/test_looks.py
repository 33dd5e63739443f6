"""Looks and pictures from file to file: what comes in with a material goes out with it, in its slot, pixel by pixel."""

import io
import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from hemp_ladder.core.climb import climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.findings import Finding, Offer
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Finish, Map, finish_from_dict, finish_to_dict
from hemp_ladder.core.model.join import as_joined
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.model.references import name_parts
from hemp_ladder.core.offers import is_settled, take_offer
from hemp_ladder.core.receive.meshed.colours import from_specular
from hemp_ladder.core.receive.meshed.habits import read_name, sisters
from hemp_ladder.core.receive.reader import ROOM
from hemp_ladder.core.receive.readers import need_reader
from hemp_ladder.core.receive.report import Kept
from hemp_ladder.core.receive.review import review
from hemp_ladder.core.ship.deliver import Shipped, climb_ship
from hemp_ladder.core.ship.settings import Target
from tests.support import FolderCase, FollowedHere

SQUARE = "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n"


def picture(colour: tuple[int, ...], size: tuple[int, int] = (8, 8), form: str = "PNG") -> bytes:
    out = io.BytesIO()
    Image.new("RGBA" if len(colour) == 4 else "RGB", size, colour).save(out, form)
    return out.getvalue()


def spotted(size: int = 16) -> bytes:
    """Half of it is not there."""
    pixels = np.full((size, size, 4), (40, 120, 40, 255), np.uint8)
    pixels[:, : size // 2, 3] = 0
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


class SurfaceCase(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.folder = self.folder / ROOM
        self.folder.mkdir()

    def lay(self, **files: bytes | str) -> None:
        for name, data in files.items():
            path = self.folder / name.replace("__", "/").replace("_dot_", ".")
            path.parent.mkdir(exist_ok=True)
            path.write_bytes(data if isinstance(data, bytes) else data.encode())

    def read(self, name: str) -> Model:
        self.kept = Kept()
        path = self.folder / name
        model = name_parts(need_reader(path).read(path, self.kept))
        model.findings = review(model)
        return model

    def seat(self, mtl: str, **files: bytes) -> Model:
        self.lay(seat_dot_obj=f"mtllib seat.mtl\nusemtl Larch\n{SQUARE}f 1/1 2/2 3/3 4/4\n", seat_dot_mtl=mtl, **files)
        return self.read("seat.obj")

    def found(self, model: Model, code: str) -> Finding:
        return next(item for item in model.findings if item.code == code)

    def take(self, model: Model, decisions: Decisions, code: str, number: int = 0) -> Decisions:
        """After an offer of a finding, which is settled then."""
        finding = self.found(model, code)
        after = take_offer(as_joined(model), decisions, finding.offers[number])
        self.assertFalse(is_settled(as_joined(model), decisions, finding))
        self.assertTrue(is_settled(as_joined(model), after, finding))
        return after

    def ship(self, model: Model, decisions: Decisions, name: str, **target: Any) -> Shipped:
        result = climb(model, decisions, FollowedHere(self.kept.shapes))
        told = Target.model_validate({"format": name.rpartition(".")[2], **target})
        shipped = climb_ship(result, told, self.folder / name, picture=self.kept.blobs.get("textures", {}).__getitem__)
        self.assertEqual([check for check in shipped.receipt.checks if not check.ok], [])
        return shipped

    def gltf(self, path: Path) -> tuple[dict[str, Any], bytes]:
        data = path.read_bytes()
        length = struct.unpack_from("<I", data, 12)[0]
        return json.loads(data[20 : 20 + length]), data[28 + length :]

    def pixels(self, path: Path, told: dict[str, Any]) -> Image.Image:
        """What a texture of a GLB shows."""
        document, binary = self.gltf(path)
        image = document["images"][document["textures"][told["index"]]["source"]]
        view = document["bufferViews"][image["bufferView"]]
        return Image.open(io.BytesIO(binary[view["byteOffset"] : view["byteOffset"] + view["byteLength"]]))


class Names(FolderCase):
    def test_names_tell_surface_and_slot(self) -> None:
        for name, surface, slot in (
            ("Larch Boards.png", "larch boards", None), ("larch_boards_rough_2k.png", "larch boards", "roughness"),
            ("LarchBoards_Normal.jpg", "larch boards", "normal"), ("larch-boards-AO.png", "larch boards", "occlusion"),
            ("rusty_metal_diff.jpg", "rusty metal", "base colour"), ("wood_n.png", "wood", "normal"), ("metal.png", "metal", None),
            ("T_Wood_AmbientOcclusion.png", "t wood", "occlusion"),
        ):  # fmt: skip
            words, told = read_name(name)
            self.assertEqual((" ".join(words), told and told.slots[0][0]), (surface, slot), name)
        self.assertTrue(read_name("plank_gloss.png")[1].inverted)  # type: ignore[union-attr]
        self.assertEqual(dict(read_name("plank_ORM.png")[1].slots)["metalness"], "b")  # type: ignore[union-attr]

    def test_sisters_are_of_the_same_surface(self) -> None:
        found = [
            name for name, _ in sisters("oak_diff.png", ["oak_nrm.png", "oak2_nrm.png", "pine_nrm.png", "oak.png"])
        ]
        self.assertEqual(found, ["oak_nrm.png"])


class Colours(FolderCase):
    def test_specular_to_metallic_by_the_published_conversion(self) -> None:
        """KHR_materials_pbrSpecularGlossiness: specular 0.04 is no metal, none of it diffuse is all metal."""
        base, metal = from_specular((0.5, 0.25, 0.1), (0.04, 0.04, 0.04))
        self.assertAlmostEqual(metal, 0, places=6)
        np.testing.assert_allclose(base, (0.5, 0.25, 0.1), atol=1e-6)
        base, metal = from_specular((0.0, 0.0, 0.0), (0.9, 0.6, 0.3))
        self.assertAlmostEqual(metal, 1, places=6)
        np.testing.assert_allclose(base, (0.9, 0.6, 0.3), atol=1e-6)

    def test_a_finish_survives_json(self) -> None:
        finish = Finish(
            Colour(0.2, 0.4, 0.6, 0.5),
            0.3,
            coat=0.5,
            mode="cut-out",
            maps=(("normal", Map("a" * 64, scale=(2.0, 2.0))),),
        )
        self.assertEqual(finish_from_dict(json.loads(json.dumps(finish_to_dict(finish)))), finish)
        self.assertEqual(finish_to_dict(Finish()), {})


class Maps(SurfaceCase):
    def test_options_lay_the_picture(self) -> None:
        """MTL: u' = s u + o from the lower left; a map's transform counts from the upper left."""
        model = self.seat("newmtl Larch\nmap_Kd -s 2 4 1 -o 0.25 0.5 0 a.png\n", a_dot_png=picture((9, 9, 9)))
        worn = model.looks["Larch"].map("base colour")
        assert worn is not None
        self.assertEqual((worn.scale, worn.offset), ((2.0, 4.0), (0.25, -3.5)))
        u, v = 0.3, 0.7
        self.assertAlmostEqual(1 - (worn.scale[1] * (1 - v) + worn.offset[1]), 4 * v + 0.5)
        self.assertAlmostEqual(worn.scale[0] * u + worn.offset[0], 2 * u + 0.25)
        kept = self.kept
        self.ship(model, Decisions(), "out.glb")
        (look,) = self.read("out.glb").looks.values()
        again, self.kept = look.map("base colour"), kept
        assert again is not None
        np.testing.assert_allclose((*again.scale, *again.offset), (2, 4, 0.25, -3.5), atol=1e-9)
        # Readers of OBJ pass over its options: there the UV themselves are moved.
        text = self.ship(model, Decisions(), "out.obj").paths[0].read_text()
        moved = {tuple(map(float, line.split()[1:])) for line in text.splitlines() if line.startswith("vt")}
        self.assertEqual(moved, {(0.25, 0.5), (2.25, 0.5), (2.25, 4.5), (0.25, 4.5)})

    def test_guessed_sisters_are_taken_by_one_click_and_ship_in_their_slots(self) -> None:
        model = self.seat(
            "newmtl Larch\nKd 1 1 1\nNs 600\nmap_Kd larch_diff.png\n", maps__larch_diff_dot_png=picture((160, 120, 80)),
            maps__larch_gloss_dot_png=picture((200, 200, 200), (4, 4)), maps__larch_nrm_dot_png=picture((128, 128, 255)),
            maps__larch_metal_dot_png=picture((0, 0, 0)), maps__pine_nrm_dot_png=picture((128, 128, 250)),
        )  # fmt: skip
        self.assertEqual(set(model.guesses["Larch"]), {"normal", "roughness", "metalness"})
        self.assertEqual([t.name for t in model.textures if t.role is None], ["pine_nrm.png"])
        taken = self.take(model, Decisions(), "maps-guessed")
        shipped = self.ship(model, taken, "out.glb")
        document, _ = self.gltf(shipped.paths[0])
        (entry,) = document["materials"]
        shine = entry["pbrMetallicRoughness"]
        self.assertEqual((shine["roughnessFactor"], shine["metallicFactor"]), (1, 1))
        packed = self.pixels(shipped.paths[0], shine["metallicRoughnessTexture"])
        self.assertEqual((packed.size, packed.getpixel((3, 3))), ((8, 8), (255, 55, 0)), "gloss is turned over")
        self.assertEqual(self.pixels(shipped.paths[0], entry["normalTexture"]).getpixel((0, 0)), (128, 128, 255))

    def test_an_offer_about_a_material_that_is_no_more_settles_nothing(self) -> None:
        model = self.seat("newmtl Larch\nKd 1 1 1\nNs 9000\n")
        other = self.seat("newmtl Pine\n")
        self.assertFalse(is_settled(as_joined(other), Decisions(), self.found(model, "too-shiny")))

    def test_a_missing_map_is_noted_and_a_picture_put_into_its_slot(self) -> None:
        model = self.seat("newmtl Larch\nKd 0.5 0.5 0.5\nmap_Kd C:\\x\\gone.png\n", spare_dot_png=picture((1, 2, 3)))
        self.assertEqual(model.lacking, {"Larch": {"base colour": "C:\\x\\gone.png"}})
        (spare,) = model.textures
        offer = self.found(model, "missing-beside")
        self.assertIn("gone.png", offer.message)
        values = {"style": "Larch", "slot": "base colour", "picture": spare.sha256}
        after = take_offer(as_joined(model), Decisions(), Offer("", "wear", values))
        (own,) = after.sort.materials
        self.assertEqual((own.id, own.colour, own.maps["base colour"].picture), ("look:Larch", "#ffffff", spare.sha256))
        self.assertEqual(len(self.ship(model, after, "out.glb").scene.pictures), 1)

    def test_pictures_inside_beside_nowhere_and_no_larger_than_the_limit(self) -> None:
        model = self.seat("newmtl Larch\nmap_Kd a.jpg\n", a_dot_jpg=picture((10, 200, 30), (64, 32), "JPEG"))
        inside = self.ship(model, Decisions(), "in.glb")
        self.assertEqual(inside.paths[0], inside.paths[-1])
        beside = self.ship(model, Decisions(), "by.glb", textures="beside", texture_limit=16)
        self.assertEqual([path.name for path in beside.paths], ["by.glb", "by-picture-1.jpg"])
        with Image.open(beside.paths[1]) as small:
            self.assertEqual(small.size, (16, 8))
        none = self.ship(model, Decisions(), "none.glb", textures="none")
        self.assertNotIn("images", self.gltf(none.paths[0])[0])
        with self.assertRaisesRegex(ValueError, "beside"):
            Target.model_validate({"format": "obj", "textures": "inside"})


class Opacity(SurfaceCase):
    def test_leaves_on_solid_cards_are_cut_out(self) -> None:
        model = self.seat("newmtl Larch\nmap_Kd leaf.png\n", leaf_dot_png=spotted())
        self.assertEqual(self.found(model, "opaque-picture").offers[0].label, "Cut out by the picture's opacity")
        shipped = self.ship(model, self.take(model, Decisions(), "opaque-picture"), "out.glb")
        self.assertEqual(self.gltf(shipped.paths[0])[0]["materials"][0]["alphaMode"], "MASK")
        turned = self.take(model, Decisions(), "opaque-picture", 2)
        shipped = self.ship(model, turned, "turned.glb")
        entry = self.gltf(shipped.paths[0])[0]["materials"][0]["pbrMetallicRoughness"]
        leaf = self.pixels(shipped.paths[0], entry["baseColorTexture"])
        self.assertEqual([leaf.getpixel((x, 0))[3] for x in (0, 15)], [255, 0])

    def test_glass_and_what_is_not_there(self) -> None:
        model = self.seat("newmtl Larch\nd 0\n")
        self.assertEqual(
            self.take(model, Decisions(), "invisible").sort.materials[0].material.finish.opacity_mode, "opaque"
        )
        self.lay(
            lamp_dot_obj=f"mtllib lamp.mtl\nusemtl Lamp glass\n{SQUARE}f 1/1 2/2 3/3\n",
            lamp_dot_mtl="newmtl Lamp glass\n",
        )
        lamp = self.read("lamp.obj")
        shipped = self.ship(lamp, self.take(lamp, Decisions(), "opaque-glass"), "lamp.glb")
        document, _ = self.gltf(shipped.paths[0])
        self.assertEqual(document["extensionsUsed"], ["KHR_materials_transmission"])
        faint = self.take(lamp, Decisions(), "opaque-glass", 1)
        self.assertEqual(faint.sort.materials[0].colour[7:], "40")

    def test_at_most_this_shiny_also_where_a_map_says_more(self) -> None:
        model = self.seat(
            "newmtl Larch\nKd 1 1 1\nNs 9000\nmap_Kd a.png\n", a_dot_png=picture((9, 9, 9)),
            a_roughness_dot_png=picture((10, 10, 10)),
        )  # fmt: skip
        tamed = self.take(model, Decisions(), "too-shiny")
        entry = self.gltf(self.ship(model, tamed, "out.glb").paths[0])[0]["materials"][0]
        self.assertEqual(entry["pbrMetallicRoughness"]["roughnessFactor"], 0.4)
        both = self.take(model, tamed, "maps-guessed")
        shipped = self.ship(model, both, "both.glb")
        shine = self.gltf(shipped.paths[0])[0]["materials"][0]["pbrMetallicRoughness"]
        self.assertEqual(self.pixels(shipped.paths[0], shine["metallicRoughnessTexture"]).getpixel((0, 0))[1], 102)

    def test_gloss_and_false_normal_maps_are_put_right(self) -> None:
        model = self.seat(
            "newmtl Larch\nmap_Pr a_gloss.png\nnorm a_nrm.png\n", a_gloss_dot_png=picture((0, 0, 0)),
            a_nrm_dot_png=picture((200, 100, 20)),
        )  # fmt: skip
        turned = self.take(model, Decisions(), "gloss-for-roughness").sort.materials[0]
        self.assertTrue(turned.maps["roughness"].inverted)
        moved = self.take(model, Decisions(), "no-normal-map").sort.materials[0]
        self.assertEqual(set(moved.maps), {"roughness", "height"})
        self.assertEqual(set(self.take(model, Decisions(), "no-normal-map", 1).sort.materials[0].maps), {"roughness"})

    def test_too_few_pixels_and_too_many_times(self) -> None:
        model = self.seat("newmtl Larch\nmap_Kd a.png\n", a_dot_png=picture((9, 9, 9)))
        self.assertIn("8 pixels across", self.found(model, "picture-small").message)
        model = self.seat("newmtl Larch\nmap_Kd -s 60 60 60 a.png\n", a_dot_png=picture((9, 9, 9)))
        self.assertIn("60 times", self.found(model, "picture-repeats").message)
        larger = self.take(model, Decisions(), "picture-repeats").sort.materials[0]
        self.assertEqual(larger.maps["base colour"].scale, (30.0, 30.0))


class Extensions(SurfaceCase):
    def test_what_glTF_says_of_a_surface_comes_in_and_goes_out(self) -> None:
        entry = {
            "name": "Lens", "alphaMode": "BLEND", "doubleSided": True, "emissiveFactor": [1, 0.5, 0],
            "pbrMetallicRoughness": {"baseColorFactor": [0.5, 0.5, 1, 0.5], "metallicFactor": 0.25, "roughnessFactor": 0.75},
            "extensions": {
                "KHR_materials_transmission": {"transmissionFactor": 0.9},
                "KHR_materials_ior": {"ior": 1.8},
                "KHR_materials_volume": {"thicknessFactor": 0.02, "attenuationColor": [1, 0.5, 0.25], "attenuationDistance": 0.5},
                "KHR_materials_specular": {"specularFactor": 0.5, "specularColorFactor": [1, 1, 0.5]},
                "KHR_materials_clearcoat": {"clearcoatFactor": 0.5, "clearcoatRoughnessFactor": 0.25},
                "KHR_materials_sheen": {"sheenColorFactor": [0.5, 0, 0], "sheenRoughnessFactor": 0.5, "sheenColorTexture": {"index": 0}},
                "KHR_materials_emissive_strength": {"emissiveStrength": 12.5},
            },
        }  # fmt: skip
        corners = struct.pack("<9f", 0, 0, 0, 1, 0, 0, 0, 1, 0)
        document = {
            "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0, 1]}], "materials": [entry],
            "nodes": [{"mesh": 0}, {"name": "Pier", "camera": 0, "translation": [1, 2, 3]}],
            "cameras": [{"type": "perspective", "perspective": {"yfov": 0.6, "aspectRatio": 1.5, "znear": 0.1}}],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "material": 0}]}],
            "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
            "bufferViews": [{"buffer": 0, "byteLength": 36}], "buffers": [{"byteLength": 36, "uri": "a.bin"}],
        }  # fmt: skip
        self.lay(a_dot_gltf=json.dumps(document), a_dot_bin=corners)
        model = self.read("a.gltf")
        (out,) = self.gltf(self.ship(model, Decisions(), "out.glb").paths[0])[0]["materials"]
        self.assertEqual((out["alphaMode"], out["doubleSided"]), ("BLEND", True))
        np.testing.assert_allclose(out["emissiveFactor"], [1, 0.5, 0], atol=1e-6)
        for name, values in entry["extensions"].items():  # type: ignore[attr-defined]
            for key, value in ((key, value) for key, value in values.items() if "Texture" not in key):
                np.testing.assert_allclose(out["extensions"][name][key], value, atol=1e-6, err_msg=name)
        self.assertIn("sheen of Lens", self.found(model, "map-without-slot").message)
        (view,) = model.lookouts
        self.assertEqual((view.name, view.tall, view.wide, view.matrix[3::4]), ("Pier", 0.6, 1.5, (1, 2, 3, 1)))
