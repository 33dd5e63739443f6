"""What is shown of one part at Mend: flaws where they lie, loose shells, the curve of welding; and what a person turns."""

import base64
import json
import unittest
from dataclasses import replace

import numpy as np
import trimesh
from numpy.typing import NDArray

from hemp_ladder.core.mend.curve import weld_curve
from hemp_ladder.core.mend.flaws import flaws_of
from hemp_ladder.core.mend.shells.loose import shells_of
from hemp_ladder.core.mend.shells.turned import Turn
from hemp_ladder.core.mend.study import study, study_curve
from hemp_ladder.core.mend.weld import Weld
from hemp_ladder.core.mesh.mesh import Mesh
from tests.core.mend import meshes


def sides(points: NDArray[np.float64]) -> set[frozenset[tuple[float, ...]]]:
    """Lines by their ends, whichever comes first."""
    return {frozenset(map(tuple, pair)) for pair in points.round(6).reshape(-1, 2, 3).tolist()}


def around(mesh: Mesh, rows: list[int]) -> set[frozenset[tuple[float, ...]]]:
    """The sides of triangles, by another way."""
    corners = mesh.corners[rows]
    return sides(np.stack([corners, np.roll(corners, -1, axis=1)], axis=2).reshape(-1, 3))


def facing(mesh: Mesh) -> NDArray[np.float64]:
    """Where triangles face, as long as twice their area, (m, 3)."""
    corners = mesh.corners
    return np.asarray(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]))


def turned_ones(before: Mesh, after: Mesh) -> list[int]:
    return np.flatnonzero(np.einsum("ij,ij->i", facing(before), facing(after)) < 0).tolist()


def rounded(mesh: Mesh) -> Mesh:
    """One of which rounding says that it left edges sharp."""
    return replace(mesh, figures=replace(mesh.figures, effects={"round.sharp": 1.0}))


class Flaws(unittest.TestCase):
    def test_what_is_sound_has_none(self) -> None:
        for sound in (meshes.box(), meshes.ball(), meshes.soup(meshes.box())):
            self.assertEqual(flaws_of(sound), {})
        self.assertEqual(flaws_of(meshes.mesh_of([(0, 0, 0)], [])), {})

    def test_each_kind_where_it_was_planted(self) -> None:
        cube = meshes.box()
        missing = around(cube, [3])
        for kind, mesh, lines in (
            ("holes", meshes.without(cube, [3]), missing),
            ("duplicate", meshes.also(cube, cube.triangles[3:4]), missing),
            ("against", meshes.mesh_of(cube.positions, np.vstack([np.delete(cube.triangles, 3, 0), cube.triangles[3:4, ::-1]])), missing),
        ):  # fmt: skip
            self.assertEqual(sides(flaws_of(mesh)[kind]), lines, kind)
        fins = meshes.mesh_of(
            [(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1), (0, -1, 0)], [(0, 1, 2), (0, 1, 3), (0, 1, 4)]
        )
        self.assertEqual(sides(flaws_of(fins)["over-shared"]), {frozenset({(0, 0, 0), (1, 0, 0)})})
        needle = meshes.also(cube, [[0, 1, 1]])
        self.assertEqual(len(flaws_of(needle)["degenerate"]), 6)
        inward = meshes.together(cube, meshes.box(at=(3, 0, 0)).flipped())
        self.assertEqual(sides(flaws_of(inward)["inward"]), around(inward, list(range(12, 24))))

    def test_a_seam_that_meets_the_middle_of_a_side_has_a_cross_there(self) -> None:
        """One long side above, two short ones below."""
        spots = [(0, 0, 0), (2, 0, 0), (1, 1, 0), (1, 0, 0), (1, -1, 0)]
        found = flaws_of(meshes.mesh_of(spots, [(0, 1, 2), (0, 4, 3), (3, 4, 1)]))["t-joints"]
        # Three lines through the point, along the axes, a fiftieth of the mesh in length.
        np.testing.assert_allclose(found.reshape(-1, 2, 3).mean(axis=1), [[1, 0, 0]] * 3, atol=1e-9)
        np.testing.assert_allclose(np.linalg.norm(found[1::2] - found[::2], axis=1), [0.04] * 3)

    def test_triangles_that_cross_others(self) -> None:
        flat = meshes.mesh_of([(0, 0, 0), (2, 0, 0), (0, 2, 0)], [(0, 1, 2)])
        stuck = meshes.mesh_of([(0.5, 0.5, -1), (0.6, 0.5, 1), (0.5, 0.7, 1)], [(0, 1, 2)])
        both = meshes.together(flat, stuck, meshes.box(at=(5, 5, 5)))
        self.assertEqual(sides(flaws_of(both)["crossing"]), around(both, [0, 1]))

    def test_what_rounding_left_sharp(self) -> None:
        """Twelve edges of a box bend outward; of a notch in it the inner one does not."""
        cube = meshes.box(10, 20, 30)
        self.assertNotIn("sharp", flaws_of(cube))
        self.assertEqual(len(sides(flaws_of(rounded(cube))["sharp"])), 12)
        inside_out = flaws_of(rounded(cube.flipped()))
        self.assertNotIn("sharp", inside_out)
        low = meshes.from_library(trimesh.creation.icosphere(3, 5.0))
        self.assertNotIn("sharp", flaws_of(rounded(low)))


class Shells(unittest.TestCase):
    def test_the_largest_first_with_a_point_that_finds_it_again(self) -> None:
        mesh = meshes.together(
            meshes.box(1, 1, 1), meshes.box(2, 3, 4, at=(5, 0, 0)), meshes.box(1, 1, 2, at=(0, 5, 0))
        )
        found = shells_of(mesh)
        self.assertEqual([(round(shell.area, 6), shell.triangles) for shell in found], [(52, 12), (10, 12), (6, 12)])
        self.assertEqual((found[0].low, found[0].high), ((5, 0, 0), (7, 3, 4)))
        self.assertEqual(len(shells_of(mesh, 2)), 2)
        for number, shell in zip((1, 2, 0), found, strict=True):
            turned = turned_ones(mesh, Turn(shells=(shell.at,)).apply(mesh))
            self.assertEqual(turned, list(range(12 * number, 12 * number + 12)))
        self.assertEqual(shells_of(meshes.mesh_of([(0, 0, 0)], [])), [])


class Turned(unittest.TestCase):
    def test_a_flat_face_is_turned_whole_and_nothing_else(self) -> None:
        cube = meshes.box(1, 1, 1)
        turned = Turn(faces=((0.3, 0.2, 1.0),)).apply(cube)
        changed = turned_ones(cube, turned)
        self.assertTrue((cube.corners[changed][:, :, 2] == 1).all())
        self.assertEqual((len(changed), turned.figures.effects["turn"]), (2, 2.0))

    def test_twice_at_one_place_is_as_before(self) -> None:
        cube = meshes.box()
        for again in (Turn(faces=((0.3, 0.2, 1.0),) * 2), Turn(shells=((0.3, 0.2, 1.0),) * 2)):
            np.testing.assert_array_equal(again.apply(cube).triangles, cube.triangles)

    def test_faces_that_bend_more_than_a_degree_are_others(self) -> None:
        for degrees, turned in ((0.5, 2), (2.0, 1)):
            bend = np.radians(degrees)
            roof = meshes.mesh_of(
                [(0, 0, 0), (0, 1, 0), (-1, 0, 0), (np.cos(bend), 0, np.sin(bend))], [(0, 1, 2), (0, 3, 1)]
            )
            made = Turn(faces=((-0.2, 0.2, 0),)).apply(roof)
            self.assertEqual(made.figures.effects["turn"], turned, degrees)

    def test_neighbours_wound_against_each_other_lie_in_one_face(self) -> None:
        flat = meshes.mesh_of([(0, 0, 0), (9, 0, 0), (9, 9, 0), (0, 9, 0)], [(0, 1, 2), (0, 3, 2)])
        self.assertEqual(turned_ones(flat, Turn(faces=((8, 1, 0),)).apply(flat)), [0, 1])

    def test_of_an_exact_shape_its_own_face_is_turned_however_it_bends(self) -> None:
        """A box of which four sides are one face, top and bottom each another; and the same once more beside it."""
        pair = meshes.together(meshes.box(), meshes.box(at=(3, 0, 0)))
        upright = np.abs(facing(pair)[:, 2]) < 0.5
        order = np.argsort(~upright, kind="stable")
        exact = Mesh.of(
            pair.positions, np.tile(np.float32([0, 0, 1]), (16, 1)), pair.triangles[order], np.array([0, 16, 24])
        )
        exact = replace(exact, figures=replace(exact.figures, off_by=0.1))
        turned = turned_ones(exact, Turn(faces=((0.5, 0, 0.5),)).apply(exact))
        self.assertEqual(len(turned), 8)
        self.assertTrue((exact.corners[turned][:, :, 0] < 2).all(), "the other box has a face of its own")


class Curve(unittest.TestCase):
    def cracked(self, crack: float) -> Mesh:
        """A strip of ten squares whose halves lie apart by so much."""
        spots = [(x, y, 0) for x in range(6) for y in (0, 1)] + [
            (5 + crack + x, y, 0) for x in range(6) for y in (0, 1)
        ]
        squares = [(2 * k, 2 * k + 2, 2 * k + 3, 2 * k + 1) for k in (*range(5), *range(6, 11))]
        return meshes.mesh_of(spots, [triangle for a, b, c, d in squares for triangle in ((a, b, c), (a, c, d))])

    def test_places_join_at_the_width_of_the_crack_and_collapse_at_the_length_of_a_side(self) -> None:
        curve = weld_curve(self.cracked(0.01))
        self.assertEqual((curve.places, curve.watertight), (24, False))
        for tolerance, left in zip(curve.tolerances, curve.left, strict=True):
            if tolerance < 0.0099:
                self.assertEqual(left, 24)
            elif 0.0101 < tolerance < 0.99:
                self.assertEqual(left, 22)
        assert curve.collapse is not None
        # Steps of a third: the first at which a side of 1 is gone.
        self.assertTrue(1 <= curve.collapse <= 1.34, curve.collapse)
        # It ends where more than half has collapsed: the triangles of a strip all do at once.
        self.assertLessEqual(curve.tolerances[-1], 1.34)
        # What the curve says is what welding does.
        at = next(k for k, tolerance in enumerate(curve.tolerances) if tolerance > 0.02)
        welded = Weld(tolerance=curve.tolerances[at]).apply(self.cracked(0.01))
        self.assertEqual(len(np.unique(welded.positions.round(9), axis=0)), curve.left[at])

    def test_nothing_collapses_where_sides_are_long(self) -> None:
        self.assertIsNone(weld_curve(meshes.box(3, 3, 3)).collapse)
        # What has no area already does not count.
        self.assertIsNone(weld_curve(meshes.also(meshes.box(3, 3, 3), [[0, 1, 1], [2, 0, 2], [3, 3, 1]])).collapse)
        self.assertEqual(weld_curve(meshes.mesh_of(np.zeros((0, 3)), [])).places, 0)
        self.assertEqual(weld_curve(meshes.box(2, 3, 4)).volume, 24)
        self.assertTrue(weld_curve(meshes.box()).watertight)


class Told(unittest.TestCase):
    def test_a_study_is_read_back_as_it_was_found(self) -> None:
        far = meshes.without(meshes.box(2, 2, 2, at=(1000, 0, 0)), [0])
        told = json.loads(study(far))
        self.assertEqual(told["origin"], [1001, 1, 1])
        lines = np.frombuffer(base64.b64decode(told["flaws"]["holes"]), "<f4").reshape(-1, 3) + told["origin"]
        self.assertEqual(sides(lines), around(meshes.box(2, 2, 2, at=(1000, 0, 0)), [0]))
        self.assertEqual(([shell["triangles"] for shell in told["shells"]], told["crossing"]), ([11], 0))
        self.assertEqual(json.loads(study_curve(far))["places"], 8)


if __name__ == "__main__":
    unittest.main()
