"""What USD says of meshes, plain shapes and materials (OpenUSD; UsdPreviewSurface specification) comes in."""

import math
import unittest

import numpy as np

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Finish, Map
from hemp_ladder.core.model.laying import laid
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.usd.values import number, rows, vector, wholes
from tests.core.receive.test_scene_files import SceneCase, red_wall

SQUARE = """
  uniform token subdivisionScheme = "none"
  point3f[] points = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)]
  int[] faceVertexCounts = [3, 3]
  int[] faceVertexIndices = [0, 1, 2, 0, 2, 3]
"""


class UsdCase(SceneCase):
    def layer(self, text: str, head: str = 'upAxis = "Z"\n metersPerUnit = 1') -> tuple[Model, list[Mesh]]:
        return self.read("a.usda", f"#usda 1.0\n(\n {head}\n)\n{text}".encode())

    def square(self, fields: str, inner: str = "") -> tuple[Model, Mesh]:
        model, (mesh,) = self.layer(f'def Mesh "Square" {{{SQUARE}{fields}\n{inner}}}')
        return model, mesh


class Meshes(UsdCase):
    def test_what_hangs_on_points_faces_corners_or_the_whole(self) -> None:
        """Interpolation of primvars: vertex, uniform, faceVarying, constant, each with indices of its own or without."""
        four, two, six = (
            "[(0, 0), (1, 0), (1, 1), (0, 1)]",
            "[(0, 0), (1, 1)]",
            "[(0, 0), (1, 0), (1, 1), (5, 5), (6, 6), (7, 7)]",
        )
        for interpolation, values, index, wanted in (
            ("vertex", four, "", [[[0, 0], [1, 0], [1, 1]], [[0, 0], [1, 1], [0, 1]]]),
            ("varying", four, "", [[[0, 0], [1, 0], [1, 1]], [[0, 0], [1, 1], [0, 1]]]),
            ("uniform", two, "", [[[0, 0]] * 3, [[1, 1]] * 3]),
            ("uniform", two, "[1, 0]", [[[1, 1]] * 3, [[0, 0]] * 3]),
            ("faceVarying", six, "", [[[0, 0], [1, 0], [1, 1]], [[5, 5], [6, 6], [7, 7]]]),
            ("faceVarying", two, "[0, 1, 0, 1, 0, 1]", [[[0, 0], [1, 1], [0, 0]], [[1, 1], [0, 0], [1, 1]]]),
            ("constant", "[(3, 4)]", "", [[[3, 4]] * 3] * 2),
        ):  # fmt: skip
            told = f'texCoord2f[] primvars:st = {values} ( interpolation = "{interpolation}" )'
            told += f"\n  int[] primvars:st:indices = {index}" if index else ""
            with self.subTest(told):
                _, mesh = self.square(told)
                np.testing.assert_allclose(mesh.attributes["uv"][mesh.triangles], wanted)

    def test_too_few_or_indices_that_lead_nowhere_are_none(self) -> None:
        for told in (
            'texCoord2f[] primvars:st = [(0, 0), (1, 0)] ( interpolation = "vertex" )',
            'texCoord2f[] primvars:st = [(0, 0)] ( interpolation = "uniform" )\n  int[] primvars:st:indices = [0, 1]',
            'texCoord2f[] primvars:st = [(0, 0)] ( interpolation = "faceVarying" )\n  int[] primvars:st:indices = [0]',
        ):  # fmt: skip
            self.assertNotIn("uv", self.square(told)[1].attributes)

    def test_several_sets_and_normals_of_either_kind(self) -> None:
        _, mesh = self.square(
            'texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1)] ( interpolation = "vertex" )\n'
            'float2[] primvars:uv_light = [(9, 9)] ( interpolation = "constant" )\n'
            'normal3f[] normals = [(0, 0, 1), (0, 0.6, 0.8)] ( interpolation = "uniform" )'
        )
        self.assertEqual(sorted(mesh.attributes), ["normal", "uv", "uv1"])
        np.testing.assert_allclose(mesh.attributes["normal"][mesh.triangles][1], [[0, 0.6, 0.8]] * 3, atol=1e-6)
        # Of both, the primvar counts (UsdGeomPointBased).
        _, mesh = self.square(
            'normal3f[] normals = [(1, 0, 0)] ( interpolation = "constant" )\n'
            'normal3f[] primvars:normals = [(0, 0, 1)] ( interpolation = "constant" )'
        )
        np.testing.assert_allclose(mesh.attributes["normal"], [[0, 0, 1]] * len(mesh.positions), atol=1e-6)

    def test_left_handed_ones_are_turned(self) -> None:
        for told, up in (("", 1), ('uniform token orientation = "leftHanded"', -1)):
            corners = (lambda mesh: mesh.positions[mesh.triangles])(self.square(told)[1])
            normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
            np.testing.assert_allclose(normals, [[0, 0, up]] * 2)

    def test_a_cage_is_told_and_what_moves(self) -> None:
        cage = SQUARE.replace('uniform token subdivisionScheme = "none"', "")
        model, _ = self.layer(
            f'def Mesh "Cage" {{{cage}\n  double3 xformOp:translate.timeSamples = {{ 0: (0, 0, 0), 9: (1, 0, 0) }}\n'
            '  uniform token[] xformOpOrder = ["xformOp:translate"]\n}'
        )
        self.assertEqual({finding.code for finding in model.findings} & {"cage", "at-rest"}, {"cage", "at-rest"})

    def test_only_what_is_shown_comes_in_and_what_is_no_surface_is_counted(self) -> None:
        hidden = (
            'token visibility = "invisible"',
            'uniform token purpose = "proxy"',
            'uniform token purpose = "guide"',
        )
        inner = "".join(f'def Mesh "H{k}" {{{SQUARE}  {told}\n}}\n' for k, told in enumerate(hidden))
        shown = f'def Mesh "Shown" {{{SQUARE}  uniform token purpose = "render"\n}}\n'
        loose = 'def BasisCurves "Rope" { }\ndef Points "Spray" { }\ndef SphereLight "Lamp" { }\n'
        model, _ = self.layer(inner + shown + loose)
        self.assertEqual([part.label for part in model.parts], ["Shown"])
        self.assertEqual(model.leftovers, {"curve": 1, "point": 1, "light": 1})


class Shapes(UsdCase):
    def test_plain_shapes_lie_along_their_axis(self) -> None:
        for kind, fields, low, high in (
            ("Cube", "double size = 3", (-1.5,) * 3, (1.5,) * 3),
            ("Sphere", "double radius = 2", (-2,) * 3, (2,) * 3),
            ("Cylinder", "double radius = 1\n  double height = 6", (-1, -1, -3), (1, 1, 3)),
            ("Cylinder", 'double radius = 1\n  double height = 6\n  uniform token axis = "X"', (-3, -1, -1), (3, 1, 1)),
            ("Cylinder", 'double radius = 1\n  double height = 6\n  uniform token axis = "Y"', (-1, -3, -1), (1, 3, 1)),
            ("Capsule", "double radius = 1\n  double height = 2", (-1, -1, -2), (1, 1, 2)),
            ("Plane", "double width = 2\n  double length = 4", (-1, -2, 0), (1, 2, 0)),
            ("Plane", 'double width = 2\n  double length = 4\n  uniform token axis = "X"', (0, -1, -2), (0, 1, 2)),
        ):  # fmt: skip
            with self.subTest(kind, fields=fields):
                model, (mesh,) = self.layer(f'def {kind} "A" {{\n  {fields}\n}}')
                np.testing.assert_allclose(model.box, [low, high], atol=0.01)
                if kind != "Plane":
                    self.assertGreater(mesh.volume(), 0)

    def test_a_cone_stands_on_its_base(self) -> None:
        _, (mesh,) = self.layer('def Cone "A" {\n  double radius = 1\n  double height = 4\n}')
        self.assertAlmostEqual(float(np.ptp(mesh.positions[mesh.positions[:, 2] < -1.9][:, 0])), 2, places=2)
        self.assertAlmostEqual(mesh.volume(), math.pi * 4 / 3, delta=0.02)


class Looks(UsdCase):
    def look(self, inputs: str, more: str = "") -> Finish:
        model, _ = self.layer(
            f'def Mesh "Square" ( prepend apiSchemas = ["MaterialBindingAPI"] ) {{{SQUARE}\n'
            '  texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1)] ( interpolation = "vertex" )\n'
            '  rel material:binding = </Paint>\n}\ndef Material "Paint" {\n'
            '  token outputs:surface.connect = </Paint/S.outputs:surface>\n'
            f'  def Shader "S" {{\n    uniform token info:id = "UsdPreviewSurface"\n{inputs}\n    token outputs:surface\n  }}\n{more}}}'
        )  # fmt: skip
        return model.looks["Paint"]

    def test_numbers_of_a_surface(self) -> None:
        finish = self.look(
            "color3f inputs:diffuseColor = (1, 0.2158605, 0)\nfloat inputs:metallic = 0.25\nfloat inputs:roughness = 0.75\n"
            "float inputs:opacity = 0.5\nfloat inputs:ior = 1.33\nfloat inputs:clearcoat = 1\nfloat inputs:clearcoatRoughness = 0.2\n"
            "color3f inputs:emissiveColor = (0, 0, 1)"
        )
        # 128 of 255 in sRGB is 0.2159 of the light (IEC 61966-2-1).
        self.assertEqual(finish.colour.hex[:7], "#ff8000")
        self.assertEqual(
            (finish.colour.alpha, finish.metalness, finish.roughness, round(finish.ior, 6)), (0.5, 0.25, 0.75, 1.33)
        )
        self.assertEqual((finish.coat, round(finish.coat_roughness, 6), finish.emission.hex[:7]), (1, 0.2, "#0000ff"))
        cut = self.look("float inputs:opacityThreshold = 0.3")
        self.assertEqual((cut.mode, round(cut.cutoff, 6)), ("cut-out", 0.3))
        # Nothing said: the numbers of the specification.
        plain = self.look("")
        self.assertEqual((plain.roughness, plain.metalness, plain.ior), (0.5, 0, 1.5))
        self.assertEqual(plain.colour.hex[:7], Colour.from_linear(0.18, 0.18, 0.18).hex[:7])

    def worn(self, slot: str, output: str, texture: str = "", lay: str = "") -> tuple[Finish, Map]:
        (self.folder / "wall.png").write_bytes(red_wall())
        more = (
            '  def Shader "T" {\n    uniform token info:id = "UsdUVTexture"\n    asset inputs:file = @wall.png@\n'
            f"    {texture}\n    float2 inputs:st.connect = </Paint/L.outputs:result>\n    float3 outputs:{output}\n  }}\n"
            f'  def Shader "L" {{\n    uniform token info:id = "UsdTransform2d"\n    {lay}\n    float2 outputs:result\n  }}\n'
        )
        finish = self.look(f"float inputs:{slot}.connect = </Paint/T.outputs:{output}>", more)
        slots = {"diffuseColor": "base colour", "metallic": "metalness", "emissiveColor": "emission"}
        placed = finish.map(slots.get(slot, slot))  # type: ignore[arg-type]
        assert placed is not None
        self.assertEqual(placed.channel, output)
        return finish, placed

    def test_a_picture_takes_the_place_of_a_number(self) -> None:
        for slot, output, told in (
            ("diffuseColor", "rgb", lambda finish: finish.colour.hex[:7] == "#ffffff"),
            ("roughness", "g", lambda finish: finish.roughness == 0.5), ("metallic", "b", lambda finish: finish.metalness == 0.5),
            ("opacity", "a", lambda finish: finish.mode == "blended"),
            ("emissiveColor", "rgb", lambda finish: finish.emission.hex[:7] == "#ffffff"),
        ):  # fmt: skip
            finish, _ = self.worn(slot, output, "float4 inputs:scale = (0.5, 0.5, 0.5, 1)")
            self.assertTrue(told(finish), slot)

    def test_a_picture_that_is_not_there_leaves_the_look_as_it_was(self) -> None:
        more = '  def Shader "T" {\n    uniform token info:id = "UsdUVTexture"\n    asset inputs:file = @gone.png@\n    float3 outputs:rgb\n  }\n'
        finish = self.look("color3f inputs:emissiveColor.connect = </Paint/T.outputs:rgb>", more)
        self.assertEqual((finish.maps, finish.emission.hex[:7]), ((), "#000000"))

    def test_a_number_behind_a_picture_does_not_count(self) -> None:
        """A connection has the last word; what is written besides is for those who cannot follow it."""
        (self.folder / "wall.png").write_bytes(red_wall())
        more = '  def Shader "T" {\n    uniform token info:id = "UsdUVTexture"\n    asset inputs:file = @wall.png@\n    float outputs:a\n  }\n'
        finish = self.look(
            "float inputs:opacity = 0.25\nfloat inputs:opacity.connect = </Paint/T.outputs:a>\n"
            "float inputs:roughness = 0.25\nfloat inputs:roughness.connect = </Paint/T.outputs:a>", more,
        )  # fmt: skip
        self.assertEqual((finish.colour.alpha, finish.opacity_mode, finish.roughness), (1, "blended", 1))

    def test_pictures_are_scaled_then_turned_then_moved(self) -> None:
        """UsdTransform2d, in degrees counterclockwise, from the lower left."""
        spots = np.array([[0, 0], [1, 0], [1, 1], [0.25, 0.5]])
        for scale, degrees, shift in (((2, 3), 0, (0.1, 0.2)), ((2, 3), 30, (0.1, 0.2)), ((1, -1), 90, (0, 0))):
            lay = f"float2 inputs:scale = {scale}\n    float inputs:rotation = {degrees}\n    float2 inputs:translation = {shift}"
            _, worn = self.worn("diffuseColor", "rgb", lay=lay)
            c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
            wanted = (spots * scale) @ np.array([[c, s], [-s, c]]) + shift
            np.testing.assert_allclose(laid(spots.astype(np.float32), worn), wanted, atol=1e-6, err_msg=lay)

    def colours(self, model: Model) -> list[tuple[str, float] | None]:
        return [part.colour and (part.colour.hex[:7], part.colour.alpha) for part in model.parts]

    def test_without_a_material_the_display_colour_counts_own_or_inherited(self) -> None:
        own = "color3f[] primvars:displayColor = [(1, 0, 0)]\n  float[] primvars:displayOpacity = [0.5]"
        model, _ = self.square(own)
        self.assertEqual((model.parts[0].style, self.colours(model)), (None, [("#ff0000", 0.5)]))
        above = 'color3f[] primvars:displayColor = [(0, 0, 1)] ( interpolation = "constant" )'
        model, _ = self.layer(f'def Xform "Quay" {{\n  {above}\n  def Mesh "Square" {{{SQUARE}}}\n}}')
        self.assertEqual(self.colours(model), [("#0000ff", 1)])
        # A colour for each face hangs on corners instead.
        each = 'color3f[] primvars:displayColor = [(1, 0, 0), (0, 0, 1)] ( interpolation = "uniform" )'
        model, mesh = self.square(each)
        self.assertEqual(model.parts[0].style, "Colours of vertices")
        np.testing.assert_allclose(mesh.attributes["colour"][mesh.triangles][1], [[0, 0, 1, 1]] * 3)

    def test_colours_that_are_too_few_for_points_or_faces_are_none(self) -> None:
        model, mesh = self.square(
            'color3f[] primvars:displayColor = [(1, 0, 0), (0, 0, 1), (0, 1, 0)] ( interpolation = "vertex" )'
        )
        self.assertEqual((self.colours(model), model.parts[0].style), ([None], None))
        self.assertNotIn("colour", mesh.attributes)

    def test_a_shape_that_is_used_twice_in_two_colours_is_two_parts(self) -> None:
        shape = f'class Xform "Kept" {{\n  def Mesh "Square" {{{SQUARE}}}\n}}\n'
        pair = "".join(
            f'def Xform "At{k}" ( instanceable = true\n references = </Kept> ) {{\n  color3f[] primvars:displayColor = [{colour}]\n}}\n'
            for k, colour in enumerate(("(1, 0, 0)", "(1, 0, 0)", "(0, 0, 1)"))
        )
        model, _ = self.layer(shape + pair)
        self.assertEqual(self.colours(model), [("#ff0000", 1), ("#0000ff", 1)])
        self.assertEqual(len(model.placements), 3)


class Values(unittest.TestCase):
    """The type of a value is whatever the file says."""

    def test_what_is_of_another_kind_is_not_said(self) -> None:
        self.assertEqual(
            [number(value, 7) for value in (2, 0.5, True, None, "2", float("nan"), (1, 2))], [2, 0.5, *[7] * 5]
        )
        for value, told in (
            ((1, 2), (1, 2)), ((1, 2, 3), (1, 2)), ((1,), (0, 0)), (("a", "b"), (0, 0)), (5, (0, 0)), (None, (0, 0)),
            ((1, float("inf")), (0, 0)), ([[1, 2]], (0, 0)), ([[1], [2, 3]], (0, 0)), ((True, False), (0, 0)),
        ):  # fmt: skip
            self.assertEqual(vector(value, (0, 0)), told, value)
        for value, count in (([[1, 2, 3]], 1), ([[1, 2]], 0), ([1, 2, 3], 0), (None, 0), (["a"], 0), (3, 0)):
            self.assertEqual(rows(value, 3).shape, (count, 3), value)
        for value, found in (([1, 2], [1, 2]), ([[1, 2]], []), ([1.5], []), (None, []), ("x", []), (3, [])):
            self.assertEqual(wholes(value).tolist(), found, value)
