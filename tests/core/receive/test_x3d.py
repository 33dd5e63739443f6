"""Nodes of X3D and VRML97 (ISO/IEC 19775-1, 19776-1, 14772-1): what each says of a shape comes in, and in its place."""

import math

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Map
from hemp_ladder.core.model.laying import laid
from hemp_ladder.core.model.model import Model
from tests.core.receive.test_scene_files import SceneCase, red_wall

#: A corner of a cube of 1: a third of half its base is its volume. Counterclockwise from outside.
SPOTS = "0 0 0 1 0 0 0 1 0 0 0 1"
CORNER = ((0, 2, 1), (0, 1, 3), (0, 3, 2), (1, 2, 3))
SIXTH = 1 / 6


def document(inner: str, head: str = "") -> bytes:
    return f'<X3D version="4.0"><head>{head}</head><Scene>{inner}</Scene></X3D>'.encode()


def spelt(faces: tuple[tuple[int, ...], ...], end: str = "-1") -> str:
    return " ".join(f"{' '.join(map(str, face))} {end}" for face in faces)


def loose(faces: tuple[tuple[int, ...], ...]) -> str:
    """The points of each face for themselves."""
    told = np.array(SPOTS.split()).reshape(-1, 3)
    return " ".join(" ".join(told[corner]) for face in faces for corner in face)


def squares(indexed: bool) -> tuple[str, str]:
    """A cube of 2 as four-sided faces: points, and indices."""
    spots = np.array([[x, y, z] for x in (0, 2) for y in (0, 2) for z in (0, 2)])
    faces = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    points = spots if indexed else spots[np.array(faces).ravel()]
    return " ".join(map(str, points.ravel())), " ".join(str(corner) for face in faces for corner in face)


class NodeCase(SceneCase):
    def one(self, geometry: str, look: str = "") -> Mesh:
        return self.several(f"<Shape>{look}{geometry}</Shape>")[1][0]

    def several(self, inner: str, head: str = "") -> tuple[Model, list[Mesh]]:
        return self.read("a.x3d", document(inner, head))


class Shapes(NodeCase):
    def test_every_way_to_list_triangles_and_squares_gives_the_same_solid(self) -> None:
        point = f'<Coordinate point="{SPOTS}"/>'
        apart = f'<Coordinate point="{loose(CORNER)}"/>'
        # As a strip: 0 1 2 3 of the format is (0 1 2), (2 1 3), and so on by turns. As a fan about the first.
        strip = ((1, 0, 2, 3, 1, 0), (2, 1, 3))[:1]
        cube, index = squares(True)
        for told, volume in (
            (f'<IndexedFaceSet coordIndex="{spelt(CORNER)}">{point}</IndexedFaceSet>', SIXTH),
            # The last -1 may be left out (13.3.6).
            (f'<IndexedFaceSet coordIndex="{spelt(CORNER)[:-3]}">{point}</IndexedFaceSet>', SIXTH),
            (f'<IndexedTriangleSet index="{spelt(CORNER, "")}">{point}</IndexedTriangleSet>', SIXTH),
            (f"<TriangleSet>{apart}</TriangleSet>", SIXTH),
            (f'<IndexedTriangleFanSet index="0 2 1 3 2 -1 1 2 3 -1">{point}</IndexedTriangleFanSet>', SIXTH),
            (f'<IndexedTriangleStripSet index="{spelt(strip)}">{point}</IndexedTriangleStripSet>', SIXTH),
            (f'<TriangleStripSet stripCount="6"><Coordinate point="{loose(strip)}"/></TriangleStripSet>', SIXTH),
            (f'<TriangleFanSet fanCount="5 3"><Coordinate point="{loose(((0, 2, 1, 3, 2), (1, 2, 3)))}"/></TriangleFanSet>', SIXTH),
            (f'<IndexedQuadSet index="{index}"><Coordinate point="{cube}"/></IndexedQuadSet>', 8),
            (f'<QuadSet><Coordinate point="{squares(False)[0]}"/></QuadSet>', 8),
            (f'<QuadSet><CoordinateDouble point="{squares(False)[0]}"/></QuadSet>', 8),
        ):  # fmt: skip
            with self.subTest(told[:60]):
                self.assertAlmostEqual(self.one(told).volume(), volume, places=9)

    def test_clockwise_ones_are_turned(self) -> None:
        """`ccw` false: seen from outside, points go clockwise (11.2.3)."""
        back = tuple(face[::-1] for face in CORNER)
        told = f'<IndexedFaceSet ccw="false" coordIndex="{spelt(back)}"><Coordinate point="{SPOTS}"/></IndexedFaceSet>'
        self.assertAlmostEqual(self.one(told).volume(), SIXTH)

    def test_corners_that_point_nowhere_take_their_triangle_along_and_no_other(self) -> None:
        bad = (*CORNER[:3], (1, 2, 99))
        mesh = self.one(
            f'<IndexedTriangleSet index="{spelt(bad, "")}"><Coordinate point="{SPOTS}"/></IndexedTriangleSet>'
        )
        self.assertEqual(len(mesh.triangles), 3)

    def test_a_field_of_heights(self) -> None:
        """Rows along X, one behind another along Z (13.3.4); it is seen from above."""
        told = '<ElevationGrid xDimension="3" zDimension="2" xSpacing="2" zSpacing="5" height="0 1 2 0 1 2"/>'
        mesh = self.one(told)
        np.testing.assert_allclose([mesh.positions.min(axis=0), mesh.positions.max(axis=0)], [[0, 0, 0], [4, 2, 5]])
        # A slope of 1 in 2 over 4 by 5.
        self.assertAlmostEqual(mesh.area(), 20 * math.sqrt(1 + 0.25))
        corners = mesh.positions[mesh.triangles]
        up = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 1]
        self.assertTrue((up > 0).all())
        near = self.one('<ElevationGrid xDimension="3" zDimension="2" height="0 0 0 0 0 0"/>')
        np.testing.assert_allclose(np.ptp(near.positions, axis=0), [2, 0, 1])
        short = '<ElevationGrid xDimension="3" zDimension="3" height="0 1 2"/>'
        self.assertEqual(len(self.several(f"<Shape>{short}</Shape><Shape><Box/></Shape>")[0].parts), 1)

    def test_round_ones_may_be_open(self) -> None:
        """Of 48 sides: a side is 2 sin(π/48) wide, the base 24 sin(2π/48) in area."""
        side, base = 2 * math.sin(math.pi / 48), 24 * math.sin(math.pi / 24)
        slant = math.sqrt(math.cos(math.pi / 48) ** 2 + 9)
        for told, area in (
            ("<Cylinder height='3'/>", 48 * 3 * side + 2 * base), ("<Cylinder height='3' top='false'/>", 48 * 3 * side + base),
            ("<Cylinder height='3' top='false' bottom='false'/>", 48 * 3 * side), ("<Cylinder height='3' side='false'/>", 2 * base),
            ("<Cone height='3'/>", 24 * side * slant + base), ("<Cone height='3' bottom='false'/>", 24 * side * slant),
        ):  # fmt: skip
            self.assertAlmostEqual(self.one(told).area(), area, places=6, msg=told)
        flat = self.one("<Cylinder height='3' top='false' side='false'/>")
        self.assertEqual(set(flat.positions[:, 1]), {-1.5})

    def test_what_is_no_surface_is_told(self) -> None:
        for told in (
            '<IndexedLineSet coordIndex="0 1 -1"/>',
            "<Text/>",
            '<PointSet><Coordinate point="0 0 0"/></PointSet>',
        ):
            model, _ = self.several(f"<Shape>{told}</Shape><Shape><Box/></Shape>")
            self.assertEqual((len(model.parts), model.leftovers), (1, {"curve": 1}))
        model, _ = self.several("<Shape><NurbsPatchSurface/></Shape><Shape><Box/></Shape>")
        self.assertEqual(model.leftovers, {"unknown geometry": 1})


class Corners(NodeCase):
    """What hangs on corners."""

    def square(self, fields: str, inner: str) -> Mesh:
        return self.one(
            f'<IndexedFaceSet coordIndex="0 1 2 -1 0 2 3 -1" {fields}><Coordinate point="0 0 0 1 0 0 1 1 0 0 1 0"/>{inner}</IndexedFaceSet>'
        )

    def of_triangles(self, mesh: Mesh, name: str) -> NDArray[np.float32]:
        return mesh.attributes[name][mesh.triangles]

    def test_by_the_points_by_an_index_of_their_own_or_by_the_face(self) -> None:
        uv = '<TextureCoordinate point="0 0 1 0 1 1 0 1"/>'
        np.testing.assert_allclose(self.of_triangles(self.square("", uv), "uv")[1], [[0, 0], [1, 1], [0, 1]])
        turned = self.square('texCoordIndex="1 2 3 -1 1 3 0 -1"', uv)
        np.testing.assert_allclose(
            self.of_triangles(turned, "uv"), [[[1, 0], [1, 1], [0, 1]], [[1, 0], [0, 1], [0, 0]]]
        )
        two = '<Color color="1 0 0 0 0 1"/>'
        for fields in ('colorPerVertex="false"', 'colorPerVertex="false" colorIndex="0 1"'):
            shades = self.of_triangles(self.square(fields, two), "colour")
            np.testing.assert_allclose(shades[0], [[1, 0, 0, 1]] * 3)
            np.testing.assert_allclose(shades[1], [[0, 0, 1, 1]] * 3)
        shades = self.of_triangles(self.square('colorPerVertex="false" colorIndex="1 0"', two), "colour")
        np.testing.assert_allclose(shades[0, 0], [0, 0, 1, 1])
        normal = self.of_triangles(
            self.square('normalPerVertex="false"', '<Normal vector="0 0 1 0 0.6 0.8"/>'), "normal"
        )
        np.testing.assert_allclose(normal[1], [[0, 0.6, 0.8]] * 3, atol=1e-6)

    def test_colours_are_told_as_light_and_keep_what_lets_through(self) -> None:
        """Half of the way in sRGB is 0.2140 of the light (IEC 61966-2-1)."""
        mesh = self.square("", '<ColorRGBA color="0.5 0.5 0.5 0.25 1 1 1 1 1 1 1 1 1 1 1 1"/>')
        np.testing.assert_allclose(self.of_triangles(mesh, "colour")[0, 0], [0.2140, 0.2140, 0.2140, 0.25], atol=1e-4)

    def test_too_few_are_none(self) -> None:
        for fields, inner in (
            ("", '<TextureCoordinate point="0 0 1 0"/>'), ('texCoordIndex="0 1 2 -1"', '<TextureCoordinate point="0 0 1 0 1 1 0 1"/>'),
            ('colorPerVertex="false"', '<Color color="1 0 0"/>'),
        ):  # fmt: skip
            self.assertEqual(set(self.square(fields, inner).attributes) & {"uv", "colour"}, set())


class Places(NodeCase):
    def test_a_transform_turns_and_scales_about_its_centre_along_its_own_axes(self) -> None:
        """P' = T C R SR S -SR -C P (10.4.4), put together here by functions of points."""
        inner = (
            '<Transform translation="10 0 0" center="1 0 0" rotation="0 0 1 1.5707963267948966" scale="2 1 1"'
            ' scaleOrientation="0 0 1 1.5707963267948966"><Shape><Box size="2 2 2"/></Shape></Transform>'
        )
        # About (1, 0, 0): x - 1 is -2 to 0, y -1 to 1. Along Y by 2: y -2 to 2. By a quarter: x' = -y, y' = x - 1.
        model, _ = self.several(inner)
        np.testing.assert_allclose(model.box, [[9, -2, -1], [13, 0, 1]], atol=1e-9)

    def test_of_a_switch_the_chosen_one_and_of_levels_the_first(self) -> None:
        three = "".join(f'<Shape DEF="s{k}"><Box size="{k} 1 1"/></Shape>' for k in (1, 2, 3))
        for told, widths in (
            (f'<Switch whichChoice="1">{three}</Switch>', [2]), (f"<Switch>{three}</Switch>", []),
            (f'<Switch whichChoice="7">{three}</Switch>', []), (f"<LOD>{three}</LOD>", [1]),
            (f"<Group>{three}</Group>", [1, 2, 3]),
            (f'<Collision>{three}<Shape containerField="proxy"><Box size="9 9 9"/></Shape></Collision>', [1, 2, 3]),
        ):  # fmt: skip
            with self.subTest(told[:30]):
                _, meshes = self.several(f"{told}<Shape><Box size='99 1 1'/></Shape>")
                self.assertEqual([round(float(np.ptp(mesh.positions[:, 0]))) for mesh in meshes], [*widths, 99])

    def test_a_length_of_its_own_and_one_that_makes_no_sense(self) -> None:
        for factor, metres in (("0.3048", 0.3048), ("3", 3.0), ("0", 1.0), ("1/0", 1.0), ("x", 1.0)):
            model, _ = self.several(
                "<Shape><Box/></Shape>", f'<unit category="length" name="u" conversionFactor="{factor}"/>'
            )
            self.assertAlmostEqual(float(model.metres_per_coordinate), metres)

    def test_views_that_narrow_and_views_that_do_not(self) -> None:
        model, _ = self.several(
            '<Shape><Box/></Shape><Viewpoint description="Quay" position="0 0 9" fieldOfView="0.5"/>'
            '<OrthoViewpoint DEF="Plan" position="0 8 0" orientation="1 0 0 -1.5707963267948966" fieldOfView="-3 -2 3 2"/>'
        )
        near, above = model.lookouts
        self.assertEqual((near.name, near.tall, above.name, above.reach), ("Quay", 0.5, "Plan", 4.0))

    def test_what_is_not_said_is_as_the_standard_has_it(self) -> None:
        model, _ = self.several(
            '<Transform rotation="0 0 1"><Shape><Box/></Shape><Viewpoint DEF="V"/><OrthoViewpoint DEF="O"/></Transform><DirectionalLight/>'
        )
        np.testing.assert_allclose(model.box, [[-1, -1, -1], [1, 1, 1]])
        near, parallel = model.lookouts
        np.testing.assert_allclose(np.array(near.matrix).reshape(4, 4)[:3, 3], [0, 0, 10])
        self.assertEqual((round(near.tall, 6), parallel.reach, model.sun), (0.785398, 2, (0, 0, -1)))

    def test_what_lies_in_another_file_is_named(self) -> None:
        model, _ = self.several('<Shape><Box/></Shape><Inline url=\'"pier.x3d" "elsewhere.x3d"\'/>')
        self.assertIn("pier.x3d", " ".join(finding.message for finding in model.findings))


class Looks(NodeCase):
    def look(self, appearance: str) -> object:
        model, _ = self.several(f'<Shape><Appearance DEF="A">{appearance}</Appearance><Box/></Shape>')
        return model.looks["A"]

    def test_three_kinds_of_material_and_none(self) -> None:
        physical = self.look(
            '<PhysicalMaterial baseColor="0.2 0.4 0.6" metallic="0.5" roughness="0.3" transparency="0.25" emissiveColor="1 0 0"/>'
        )
        self.assertEqual(
            (physical.colour, physical.metalness, physical.roughness, physical.emission),  # type: ignore[attr-defined]
            (Colour(0.2, 0.4, 0.6, 0.75), 0.5, 0.3, Colour(1, 0, 0)),
        )
        unlit = self.look('<UnlitMaterial emissiveColor="0 1 0"/>')
        self.assertEqual((unlit.unlit, unlit.colour), (True, Colour(0, 1, 0)))  # type: ignore[attr-defined]
        white = self.look("<UnlitMaterial/>")
        self.assertEqual((white.unlit, white.colour), (True, Colour(1, 1, 1)))  # type: ignore[attr-defined]
        plain = self.look("<Material/>")
        self.assertEqual(plain.colour, Colour(0.8, 0.8, 0.8))  # type: ignore[attr-defined]
        # Shininess 0.2 is the exponent 25.6 (17.2.2.4): a roughness of the fourth root of 2 / 27.6 (B. Walter et al., 2007).
        self.assertAlmostEqual(plain.roughness, (2 / 27.6) ** 0.25, places=6)  # type: ignore[attr-defined]
        self.assertTrue(self.look("").unlit)  # type: ignore[attr-defined]

    def worn(self, transform: str) -> Map:
        (self.folder / "wall.png").write_bytes(red_wall())
        look = self.look(f"<Material/><ImageTexture url='\"wall.png\"'/>{transform}")
        placed: Map = look.map("base colour")  # type: ignore[attr-defined]
        return placed

    def test_pictures_are_moved_scaled_and_turned_about_a_centre(self) -> None:
        """Tc' = -C S R C T Tc (18.4.8): moved first, then about the centre turned, then scaled."""
        spots = np.array([[0, 0], [1, 0], [1, 1], [0.25, 0.5]])
        np.testing.assert_allclose(laid(spots.astype(np.float32), self.worn("<TextureTransform/>")), spots)
        for scale, angle, centre, shift in (
            ((1, 1), 0.0, (0, 0), (0.25, 0)), ((2, 3), 0.0, (0.5, 0.5), (0.1, 0.2)), ((2, 2), 0.7, (0.5, 0.25), (0.1, 0.2)),
            ((1, 1), math.pi / 2, (0, 0), (0, 0)), ((2, 3), math.pi / 2, (0.5, 0), (0, 0.3)),
        ):  # fmt: skip
            told = (
                f'<TextureTransform scale="{scale[0]} {scale[1]}" rotation="{angle}" center="{centre[0]} {centre[1]}"'
                f' translation="{shift[0]} {shift[1]}"/>'
            )
            moved = spots + shift + centre
            turned = moved @ np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
            np.testing.assert_allclose(
                laid(spots.astype(np.float32), self.worn(told)), turned * scale - centre, atol=1e-6, err_msg=told
            )
