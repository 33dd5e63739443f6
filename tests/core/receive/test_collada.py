"""What COLLADA says (1.4.1, ISO/PAS 17506) of meshes, places and materials comes in."""

import math

import numpy as np

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.finish import Finish
from hemp_ladder.core.model.model import Model
from tests.core.receive.test_scene_files import SceneCase, red_wall

#: A corner of a cube of 1, whose volume is a sixth; counterclockwise from outside.
SPOTS = "0 0 0 1 0 0 0 1 0 0 0 1"
CORNER = ((0, 2, 1), (0, 1, 3), (0, 3, 2), (1, 2, 3))
FLAT = " ".join(str(corner) for face in CORNER for corner in face)


def source(id_: str, numbers: str, stride: int, offset: int = 0) -> str:
    return (
        f'<source id="{id_}"><float_array id="{id_}a">{numbers}</float_array><technique_common>'
        f'<accessor source="#{id_}a" stride="{stride}" offset="{offset}"/></technique_common></source>'
    )


def mesh(primitives: str, more: str = "", spots: str = SPOTS) -> str:
    return (
        f'<library_geometries><geometry id="g" name="Corner"><mesh>{source("p", spots, 3)}{more}'
        f'<vertices id="v"><input semantic="POSITION" source="#p"/></vertices>{primitives}</mesh></geometry></library_geometries>'
    )


VERTEX = '<input semantic="VERTEX" source="#v" offset="0"/>'
TRIANGLES = f'<triangles count="4">{VERTEX}<p>{FLAT}</p></triangles>'
HERE = '<node name="Here"><instance_geometry url="#g"/></node>'


class ColladaCase(SceneCase):
    def document(self, libraries: str, nodes: str = HERE, scene: str = "s") -> tuple[Model, list[Mesh]]:
        told = (
            '<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><asset><up_axis>Z_UP</up_axis></asset>'
            f'{libraries}<library_visual_scenes><visual_scene id="s">{nodes}</visual_scene></library_visual_scenes>'
            f'<scene><instance_visual_scene url="#{scene}"/></scene></COLLADA>'
        )
        return self.read("a.dae", told.encode())


class Meshes(ColladaCase):
    def test_every_kind_of_primitive_gives_the_same_solid(self) -> None:
        polygons = "".join(f"<p>{' '.join(map(str, face))}</p>" for face in CORNER)
        for told in (
            TRIANGLES,
            f'<polylist count="4">{VERTEX}<vcount>3 3 3 3</vcount><p>{FLAT}</p></polylist>',
            f'<polygons count="4">{VERTEX}{polygons}</polygons>',
            f'<trifans count="2">{VERTEX}<p>0 2 1 3 2</p><p>1 2 3</p></trifans>',
            f'<tristrips count="1">{VERTEX}<p>1 0 2 3 1 0</p></tristrips>',
            # In two pieces, one of which is lines beside.
            f'<triangles count="2">{VERTEX}<p>{FLAT[:11]}</p></triangles><triangles count="2">{VERTEX}<p>{FLAT[12:]}</p></triangles>'
            f'<lines count="1">{VERTEX}<p>0 1</p></lines>',
        ):
            with self.subTest(told[:40]):
                model, (solid,) = self.document(mesh(told))
                self.assertAlmostEqual(solid.volume(), 1 / 6)
                self.assertEqual(model.leftovers.get("curve", 0), int("<lines" in told))

    def test_numbers_may_begin_later_and_lie_farther_apart(self) -> None:
        wide = "9 9 " + " ".join(f"{spot} 7" for spot in ("0 0 0", "1 0 0", "0 1 0", "0 0 1"))
        told = mesh(TRIANGLES).replace(source("p", SPOTS, 3), source("p", wide, 4, 2))
        self.assertAlmostEqual(self.document(told)[1][0].volume(), 1 / 6)

    def test_what_hangs_on_corners(self) -> None:
        more = source("u", "0 0 1 0 0 1", 2) + source("n", "0 0 1 0 1 0", 3) + source("c", "1 0 0 0 0 1", 3)
        corners = "0 0 0 0 2 2 0 0 1 1 0 0 0 0 0 1 1 1 1 1 3 2 1 1"
        inputs = "".join(
            f'<input semantic="{semantic}" source="#{id_}" offset="{k}"/>'
            for semantic, id_, k in (("TEXCOORD", "u", 1), ("NORMAL", "n", 2), ("COLOR", "c", 3))
        )
        _, (solid,) = self.document(mesh(f'<triangles count="2">{VERTEX}{inputs}<p>{corners}</p></triangles>', more))
        told = {name: values[solid.triangles] for name, values in solid.attributes.items()}
        np.testing.assert_allclose(told["uv"], [[[0, 0], [0, 1], [1, 0]], [[0, 0], [1, 0], [0, 1]]])
        np.testing.assert_allclose(told["normal"], [[[0, 0, 1]] * 3, [[0, 0, 1], [0, 1, 0], [0, 1, 0]]], atol=1e-6)
        # Without opacity they are opaque.
        np.testing.assert_allclose(told["colour"], [[[1, 0, 0, 1]] * 3, [[0, 0, 1, 1]] * 3])

    def test_what_not_all_pieces_have_or_leads_nowhere_hangs_on_none(self) -> None:
        more = source("u", "0 0 1 0 0 1", 2)
        with_uv = f'<triangles count="1">{VERTEX}<input semantic="TEXCOORD" source="#u" offset="1"/><p>0 0 2 2 1 1</p></triangles>'
        for told in (
            with_uv + f'<triangles count="1">{VERTEX}<p>0 1 3</p></triangles>', with_uv.replace("2 2 1 1", "2 2 1 9"),
            with_uv.replace("#u", "#gone"),
        ):  # fmt: skip
            with self.subTest(told[-60:]):
                self.assertNotIn("uv", self.document(mesh(told, more))[1][0].attributes)
        # What of the triangles leads nowhere is left out, and told.
        model, (solid,) = self.document(mesh(TRIANGLES.replace("1 2 3<", "1 2 9<")))
        self.assertEqual(
            (len(solid.triangles), [finding.code for finding in model.findings]), (3, ["unreadable-entity"])
        )

    def test_a_mesh_that_a_skin_or_a_morph_bends_comes_in_at_rest(self) -> None:
        controllers = (
            '<library_controllers><controller id="outer"><skin source="#inner"/></controller>'
            '<controller id="inner"><morph source="#g"/></controller></library_controllers>'
        )
        node = '<node name="Sail"><instance_controller url="#outer"/></node>'
        model, (solid,) = self.document(mesh(TRIANGLES) + controllers, node)
        self.assertAlmostEqual(solid.volume(), 1 / 6)
        self.assertIn("at-rest", [finding.code for finding in model.findings])


class Places(ColladaCase):
    def box(self, transforms: str) -> list[list[float]]:
        node = f'<node name="Here">{transforms}<instance_geometry url="#g"/></node>'
        found: list[list[float]] = self.document(mesh(TRIANGLES), node)[0].box.round(6).tolist()
        return found

    def test_transforms_one_after_the_other_the_last_first(self) -> None:
        """5.2.1 (node): each is multiplied to the right of those before it."""
        for told, box in (
            ("<translate>1 2 3</translate><scale>2 1 1</scale>", [[1, 2, 3], [3, 3, 4]]),
            ("<scale>2 1 1</scale><translate>1 2 3</translate>", [[2, 2, 3], [4, 3, 4]]),
            ("<translate>5 0 0</translate><rotate>0 0 1 90</rotate>", [[4, 0, 0], [5, 1, 1]]),
            ("<matrix>1 0 0 4 0 1 0 5 0 0 1 6 0 0 0 1</matrix>", [[4, 5, 6], [5, 6, 7]]),
            # It stands at (0, 0, 5) and looks at the origin: its axes are those of the whole.
            ("<lookat>0 0 5 0 0 0 0 1 0</lookat>", [[0, 0, 5], [1, 1, 6]]),
            ("<lookat>5 0 0 0 0 0 0 0 1</lookat>", [[5, 0, 0], [6, 1, 1]]),
            # What makes no sense moves nothing.
            ("<lookat>0 0 5 0 0 5 0 1 0</lookat><translate>1 2</translate><matrix>1 0</matrix>", [[0, 0, 0], [1, 1, 1]]),
        ):  # fmt: skip
            with self.subTest(told):
                self.assertEqual(self.box(told), box)

    def test_only_the_scene_that_is_shown_and_all_where_none_is_named_right(self) -> None:
        other = f'</visual_scene><visual_scene id="other">{HERE}{HERE}'
        self.assertEqual(len(self.document(mesh(TRIANGLES), HERE + other)[0].placements), 1)
        self.assertEqual(len(self.document(mesh(TRIANGLES), HERE + other, "gone")[0].placements), 3)

    def test_a_node_with_several_shapes_holds_them(self) -> None:
        two = '<node name="Both"><instance_geometry url="#g"/><instance_geometry url="#g"/></node>'
        model, _ = self.document(mesh(TRIANGLES), two)
        self.assertEqual(
            (len(model.placements), [node.name for node in model.nodes]), (2, ["Both", "Corner", "Corner"])
        )

    def test_what_is_not_there_is_told(self) -> None:
        node = '<node name="A"><instance_node url="#nobody"/><instance_geometry url="#nothing"/></node>'
        model, _ = self.document(mesh(TRIANGLES), HERE + node)
        self.assertIn("#nobody".removeprefix("#"), model.findings[0].message)
        self.assertIn("nothing", model.findings[0].message)

    def test_cameras_of_both_kinds_and_lamps(self) -> None:
        def camera(id_: str, optics: str) -> str:
            return f'<camera id="{id_}"><optics><technique_common>{optics}</technique_common></optics></camera>'

        cameras = "".join(
            (
                camera("tall", "<perspective><yfov>40</yfov><aspect_ratio>1.5</aspect_ratio></perspective>"),
                camera("wide", "<perspective><xfov>90</xfov><aspect_ratio>2</aspect_ratio></perspective>"),
                camera("plan", "<orthographic><ymag>3</ymag></orthographic>"),
                camera("across", "<orthographic><xmag>6</xmag><aspect_ratio>2</aspect_ratio></orthographic>"),
                camera("none", ""),
            )
        )
        nodes = "".join(
            f'<node name="{name}"><instance_camera url="#{name}"/></node>'
            for name in ("tall", "wide", "plan", "across", "none", "gone")
        )
        lamp = '<node name="Lamp"><instance_light url="#l"/></node>'
        model, _ = self.document(mesh(TRIANGLES) + f"<library_cameras>{cameras}</library_cameras>", HERE + nodes + lamp)
        tall, wide, plan, across = model.lookouts
        # At twice as wide as tall, the tangent of half the angle is half.
        self.assertAlmostEqual(tall.tall, math.radians(40))
        self.assertAlmostEqual(wide.tall, 2 * math.atan(0.5))
        # Magnification is from the middle (8.4.2).
        self.assertEqual((plan.reach, across.reach, model.leftovers), (6, 6, {"light": 1}))


class Looks(ColladaCase):
    def look(self, shader: str, params: str = "") -> Finish:
        (self.folder / "wall.png").write_bytes(red_wall())
        libraries = (
            '<library_images><image id="im"><init_from>wall.png</init_from></image>'
            '<image id="lost"><init_from>gone.png</init_from></image></library_images>'
            f'<library_effects><effect id="e"><profile_COMMON>{params}<technique sid="t">{shader}</technique></profile_COMMON></effect></library_effects>'
            '<library_materials><material id="m" name="Paint"><instance_effect url="#e"/></material></library_materials>'
        )
        bound = '<instance_geometry url="#g"><bind_material><technique_common><instance_material symbol="S" target="#m"/></technique_common></bind_material></instance_geometry>'
        dressed = TRIANGLES.replace("<triangles", '<triangles material="S"')
        model, _ = self.document(libraries + mesh(dressed), f"<node>{bound}</node>")
        self.assertEqual(model.parts[0].style, "Paint")
        return model.looks["Paint"]

    def test_transparency_in_all_its_ways(self) -> None:
        """ "Determining transparency (opacity)", chapter 7."""
        half = "<transparency><float>0.5</float></transparency>"
        for told, alpha in (
            ("", 1.0), (half, 0.5), ("<transparency><float>0</float></transparency>", 1.0),
            ("<transparent><color>1 1 1 0.5</color></transparent>", 0.5),
            (f'<transparent opaque="A_ONE"><color>1 1 1 0.5</color></transparent>{half}', 0.25),
            (f'<transparent opaque="RGB_ZERO"><color>1 1 1 1</color></transparent>{half}', 0.5),
            ('<transparent opaque="RGB_ZERO"><color>0 0 0 1</color></transparent>', 1.0),
            ('<transparent opaque="RGB_ZERO"><color>0 1 0 1</color></transparent>', 1 - 0.715160),
            ('<transparent opaque="A_ZERO"><color>1 1 1 0.25</color></transparent>', 0.75),
            ('<transparent opaque="RGB_ONE"><color>1 1 1 1</color></transparent>', 1.0),
        ):  # fmt: skip
            with self.subTest(told):
                finish = self.look(f"<phong><diffuse><color>1 0 0 1</color></diffuse>{told}</phong>")
                self.assertAlmostEqual(finish.colour.alpha, alpha, places=5)
                self.assertEqual(finish.colour.hex[:7], "#ff0000")

    def test_shaders(self) -> None:
        lambert = self.look("<lambert><emission><color>0 0 1 1</color></emission></lambert>")
        self.assertEqual((lambert.roughness, lambert.emission.hex[:7], lambert.unlit), (0.9, "#0000ff", False))
        self.assertTrue(self.look("<constant/>").unlit)
        # Exponent 30: a roughness of the fourth root of 2 / 32 (B. Walter et al., 2007); a share is one of 128.
        shiny = "<phong><shininess><float>{}</float></shininess><index_of_refraction><float>1.33</float></index_of_refraction></phong>"
        for told, exponent in (("30", 30), ("0.234375", 30), ("1", 128)):
            finish = self.look(shiny.format(told))
            self.assertAlmostEqual(finish.roughness, (2 / (exponent + 2)) ** 0.25, places=6)
        self.assertEqual(finish.ior, 1.33)

    def test_a_picture_stands_where_a_colour_would_and_counts(self) -> None:
        sampled = (
            '<newparam sid="sf"><surface type="2D"><init_from>im</init_from></surface></newparam>'
            '<newparam sid="sm"><sampler2D><source>sf</source></sampler2D></newparam>'
        )
        for texture, params in (("sm", sampled), ("im", "")):
            told = f'<texture texture="{texture}" texcoord="U"/>'
            finish = self.look(
                f"<phong><diffuse>{told}</diffuse><emission>{told}</emission><transparent>{told}</transparent></phong>"
                f'<extra><technique profile="other"><bump>{told}</bump></technique></extra>', params,
            )  # fmt: skip
            self.assertEqual({slot for slot, _ in finish.maps}, {"base colour", "emission", "opacity", "height"})
            self.assertEqual(
                (finish.colour.hex[:7], finish.emission.hex[:7], finish.opacity_mode), ("#ffffff", "#ffffff", "blended")
            )

    def test_a_picture_that_is_not_there_leaves_the_look_as_it_was(self) -> None:
        finish = self.look('<phong><emission><texture texture="lost"/></emission></phong>')
        self.assertEqual((finish.maps, finish.emission.hex[:7]), ((), "#000000"))

    def test_an_effect_that_says_nothing(self) -> None:
        self.assertEqual(self.look(""), Finish())


class Trouble(ColladaCase):
    def test_circles_end_as_a_sentence(self) -> None:
        around = '<library_nodes><node id="a"><instance_node url="#b"/></node><node id="b"><instance_node url="#a"/></node></library_nodes>'
        with self.assertRaises(UnreadableSource) as raised:
            self.document(around + mesh(TRIANGLES), '<node><instance_node url="#a"/></node>')
        self.assertIn("circle", raised.exception.message)
