"""What sources share and placements stretch: sizes, normals, and receipts that see when these are wrong."""

import unittest
from dataclasses import replace
from fractions import Fraction
from unittest import mock

import numpy as np
import trimesh

from demo import shapes
from hemp_ladder.core.climb import Made, Result, climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Model, Node, Part
from hemp_ladder.core.ship import glb, gltf_validator, scene
from hemp_ladder.core.ship.costs import Load, cost_of
from hemp_ladder.core.ship.deliver import climb_ship
from hemp_ladder.core.ship.format import Facets
from hemp_ladder.core.ship.receipt import write_receipt
from hemp_ladder.core.ship.settings import Target
from tests.core.test_ship import glb_json
from tests.support import FolderCase, FollowedHere

BALL = {"ball": write_shape(shapes.sphere(10))}
RELATIVE = {"facet": {"chord": {"kind": "relative", "share": 0.01}, "degrees": 30}}


def source(unit: str, metres: Fraction, *matrices: np.ndarray) -> Model:
    """A source with one ball of radius 10, placed once or more."""
    part = Part("Ball", "Ball", "ball", Exact(np.array([[-10.0] * 3, [10.0] * 3]), faces=1))
    nodes = [Node("Ball", -1, 0) for _ in matrices or (0,)]
    local = np.array(matrices or [np.eye(4)])
    return Model("STEP", "", "", unit, "z", metres, [part], nodes, local, part.box)


def moved(x: float, *stretch: float) -> np.ndarray:
    matrix = np.diag([*(stretch or (1.0, 1, 1)), 1.0])
    matrix[0, 3] = x
    return matrix


def result(model: Joined, **decided: object) -> Result:
    return climb(model, Decisions.model_validate({**RELATIVE, **decided}), FollowedHere(BALL))


class Shared(FolderCase):
    def test_a_mesh_of_two_units_is_written_in_each_size(self) -> None:
        """One geometry, one key; a ball of 20 mm and one of 20 inches."""
        mm, inch = source("mm", Fraction(1, 1000)), source("in", Fraction(254, 10_000), moved(50))
        both = result(join([Given("mm", "mm", mm), Given("in", "in", inch)]))
        self.assertEqual(len({chain.key for chain in both.chains if chain}), 1)
        for form, unit in (("glb", 1.0), ("obj", 1.0), ("stl", 1e-3)):
            target = Target.model_validate({"format": form, "group": "one" if form == "stl" else "part"})
            shipped = climb_ship(both, target, self.folder / f"a.{form}")
            self.assertEqual([check for check in shipped.receipt.checks if not check.ok], [], form)
            points = trimesh.load_scene(shipped.paths[0]).to_mesh().vertices * unit
            near = points[:, 0] < 0.1
            sizes = [float(np.ptp(points[mask], axis=0).max()) for mask in (near, ~near)]
            np.testing.assert_allclose(sizes, [0.02, 20 * 0.0254], rtol=1e-2)


class Separate(FolderCase):
    """Instances kept and made separate, as another library counts meshes and vertices in the file."""

    def counts(self, found: Result, **target: object) -> tuple[int, int, int]:
        path = self.folder / "a.glb"
        shipped = climb_ship(found, Target.model_validate({"format": "glb", **target}), path)
        self.assertEqual([check for check in shipped.receipt.checks if not check.ok], [])
        scene_ = trimesh.load_scene(path)
        return len(scene_.geometry), len(scene_.graph.nodes_geometry), path.stat().st_size

    def test_all_of_some_parts_or_of_none(self) -> None:
        two = source("mm", Fraction(1, 1000), moved(0), moved(50), moved(0, 1, 1, -1))
        two.parts[0].name = two.parts[0].label = "Float"
        whole = join(
            [Given("a", "a", two), Given("b", "b", source("in", Fraction(254, 10_000), moved(500), moved(900)))]
        )
        found = result(whole)
        kept, separate = self.counts(found), self.counts(found, instances="separate")
        self.assertEqual((kept[:2], separate[:2]), ((2, 5), (5, 5)))
        some = self.counts(found, separate=[whole.parts[0].decided_as])
        self.assertEqual(some[:2], (4, 5))
        self.assertTrue(kept[2] < some[2] < separate[2])
        load = Load(
            found.chains, found.figures, found.times, found.sorted, {}, None, [p.decided_as for p in whole.parts]
        )
        guess = cost_of(load, Target.model_validate({"format": "glb", "instances": "separate"})).bytes
        self.assertLess(abs(guess - separate[2]), 0.15 * separate[2])

    def test_names_are_fitted_to_the_target_and_none_is_lost(self) -> None:
        five = source("mm", Fraction(1, 1000), *(moved(50 * k) for k in range(5)))
        for node, name in zip(
            five.nodes, ("Kugel/größer", "Kugel/grosser", "Kugel größer", "אור", "B" * 300), strict=True
        ):
            node.name = name
        found = result(join([Given("a", "a", five)]))
        for target in ({"plain_names": True}, {"longest_name": 8}, {"longest_name": 10, "plain_names": True}):
            self.counts(found, **target)
            names = [node["name"] for node in glb_json(self.folder / "a.glb")["nodes"]]
            self.assertEqual(len(set(names)), len(names))
            for name in names:
                self.assertLessEqual(len(name), target.get("longest_name", 200))
                if "plain_names" in target:
                    self.assertRegex(name, r"^[A-Za-z0-9_-]+$")


class Standing(FolderCase):
    """Where things stand in what is written, for every up axis, and far from where a part was designed."""

    def test_every_up_axis_of_a_source_brings_it_upright(self) -> None:
        """A ball stretched by 2, 3 and 4 along x, y, z, its axis up: that axis comes out along Z, and nothing is mirrored."""
        for axis, tall in (("x", 40), ("-x", 40), ("y", 60), ("-y", 60), ("z", 80), ("-z", 80)):
            whole = join([Given("a", "a", source("m", Fraction(1), moved(0, 2, 3, 4)))])
            found = result(whole, fit={"up": axis})
            turn = found.fitted.sources[0].matrix[:3, :3]
            np.testing.assert_allclose(np.linalg.det(turn), 1, err_msg=axis)
            side = "xyz".index(axis[-1])
            np.testing.assert_array_equal(turn @ (np.eye(3)[side] * (-1 if axis[0] == "-" else 1)), [0, 0, 1], axis)
            shipped = climb_ship(found, Target.model_validate({"format": "stl"}), self.folder / "a.stl")
            self.assertTrue(shipped.receipt.ok, axis)
            mesh = trimesh.load_mesh(shipped.paths[0])
            self.assertAlmostEqual(mesh.extents[2] / 1000, tall, delta=tall * 0.02, msg=axis)
            self.assertGreater(mesh.volume, 0)

    def test_every_up_axis_of_a_target(self) -> None:
        whole = result(join([Given("a", "a", source("m", Fraction(1), moved(0, 2, 3, 4)))]))
        for axis in ("x", "-x", "y", "-y", "z", "-z"):
            shipped = climb_ship(whole, Target.model_validate({"format": "glb", "up": axis}), self.folder / "a.glb")
            self.assertTrue(shipped.receipt.ok, axis)
            scene_read = trimesh.load_scene(shipped.paths[0])
            self.assertAlmostEqual(scene_read.extents["xyz".index(axis[-1])], 80, delta=1, msg=axis)

    def test_a_part_designed_far_away_keeps_its_place_and_its_digits(self) -> None:
        """Its mesh has an origin of its own, which writing in place must not forget."""
        far = write_shape(shapes.box(2, 2, 2, (500_000, 300_000, 0)))
        box = np.array([[499_999.0, 299_999, 0], [500_001, 300_001, 2]])
        part = Part("Box", "Box", "far", Exact(box, faces=6))
        model = Model("STEP", "", "", "m", "z", Fraction(1), [part], [Node("Box", -1, 0)], np.eye(4)[None], box)
        found = climb(join([Given("a", "a", model)]), Decisions.model_validate(RELATIVE), FollowedHere({"far": far}))
        for group in ("part", "one"):
            target = Target.model_validate({"format": "glb", "up": "z", "group": group})
            shipped = climb_ship(found, target, self.folder / "a.glb")
            self.assertTrue(shipped.receipt.ok, group)
            np.testing.assert_allclose(trimesh.load_scene(shipped.paths[0]).bounds, box, atol=1e-6)


class Stretched(FolderCase):
    """A ball stretched 1 : 2 is an ellipsoid; its normals go as the gradient of x²/a² + y²/b² + z²/c²."""

    def setUp(self) -> None:
        super().setUp()
        places = (moved(0, 1, 1, 2), moved(80, -1, 2, 1))
        self.result = result(join([Given("a", "a", source("m", Fraction(1), *places))]))

    def test_normals_stand_upright_on_what_is_stretched(self) -> None:
        shipped = climb_ship(self.result, Target(format="obj", up="z"), self.folder / "a.obj")
        self.assertEqual([check for check in shipped.receipt.checks if not check.ok], [])
        lines = shipped.paths[0].read_text().splitlines()
        points, normals = (
            np.array([line.split()[1:] for line in lines if line.startswith(f"{word} ")], float) for word in ("v", "vn")
        )
        for middle, sizes in ((0, (1, 1, 2)), (80, (1, 2, 1))):
            mine = np.abs(points[:, 0] - middle) < 40
            gradient = (points[mine] - [middle, 0, 0]) / np.square(sizes)
            gradient /= np.linalg.norm(gradient, axis=1, keepdims=True)
            np.testing.assert_allclose(normals[mine], gradient, atol=2e-3)
        np.testing.assert_allclose(np.linalg.norm(normals, axis=1), 1, atol=1e-6)

    def test_a_receipt_sees_normals_that_the_matrix_turned(self) -> None:
        """32 degrees off at 1 : 2, none of them against the winding: signs alone would not tell."""
        right = scene.turned_normals
        self.addCleanup(setattr, scene, "turned_normals", right)
        scene.turned_normals = lambda normals, matrix: normals @ matrix[:3, :3].T.astype(np.float32)
        shipped = climb_ship(self.result, Target(format="obj"), self.folder / "a.obj")
        (bad,) = [check for check in shipped.receipt.checks if not check.ok]
        self.assertEqual(bad.name, "normals off, degrees")
        self.assertGreater(bad.found, 30)

    def test_glb_leaves_stretching_to_its_reader(self) -> None:
        shipped = climb_ship(self.result, Target(), self.folder / "a.glb")
        self.assertTrue(shipped.receipt.ok)
        lost = [replace(item) for item in shipped.written[0][0].surfaces]
        lost[0] = replace(lost[0], attributes={"normal": lost[0].attributes["normal"][::-1].copy()})
        glb.write_glb(replace(shipped.scene, surfaces=lost), shipped.paths[0])
        again = write_receipt(self.result, shipped.scene, Target(), shipped.written)
        self.assertIn("normals off, degrees", [check.name for check in again.checks if not check.ok])


class Limits(FolderCase):
    def test_what_does_not_fit_into_a_glb_is_told_before_it_is_written(self) -> None:
        self.addCleanup(setattr, glb, "_MOST_BYTES", glb._MOST_BYTES)
        glb._MOST_BYTES = 2_000
        whole = result(join([Given("a", "a", source("m", Fraction(1)))]))
        with self.assertRaisesRegex(SettingsError, "format ends"):
            climb_ship(whole, Target(), self.folder / "a.glb")
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_nothing_to_write_is_told(self) -> None:
        whole = result(join([Given("a", "a", source("m", Fraction(1)))]), receive={"without": ["a"]})
        with (
            mock.patch.object(gltf_validator, "_waiting", []) as waiting,
            self.assertRaisesRegex(SettingsError, "Nothing solid"),
        ):
            climb_ship(whole, Target(), self.folder / "a.glb")
        self.assertEqual(waiting, [], "no validator was loaded for it")

    def test_a_part_that_could_not_be_made_fails_the_receipt(self) -> None:
        whole = result(join([Given("a", "a", source("m", Fraction(1), moved(0), moved(30)))]))
        (key,) = whole.made.meshes
        lost = replace(whole, made=Made(whole.made.meshes, {key: "It could not be made."}))
        shipped = climb_ship(lost, Target(), self.folder / "a.glb")
        self.assertIn("parts that could not be made", [c.name for c in shipped.receipt.checks if not c.ok])


class Directions(unittest.TestCase):
    def test_the_order_of_a_reader_does_not_matter(self) -> None:
        from hemp_ladder.core.ship.directions import largest_turn

        dice = np.random.default_rng(4)
        centres, normals = dice.normal(size=(2, 500, 3))
        mixed = dice.permutation(500)
        self.assertLess(largest_turn([Facets(centres, normals)], [Facets(centres[mixed], normals[mixed])]), 1e-3)
        normals_off = normals[mixed].copy()
        normals_off[7] = np.roll(normals_off[7], 1)
        self.assertGreater(largest_turn([Facets(centres, normals)], [Facets(centres[mixed], normals_off)]), 1)
        self.assertEqual(largest_turn([Facets(centres, normals)], [Facets(centres + 9, normals)]), 180.0)

    def test_what_lies_back_to_back_or_over_another_mesh_is_told_apart(self) -> None:
        from hemp_ladder.core.ship.directions import largest_turn

        dice = np.random.default_rng(5)
        centres, normals = dice.normal(size=(2, 200, 3))
        both, ways = np.concatenate([centres, centres]), np.concatenate([normals, -normals])
        mixed = dice.permutation(400)
        self.assertLess(largest_turn([Facets(both, ways)], [Facets(both[mixed], ways[mixed])]), 1e-3)
        # Six meshes in one place of a file, their triangles in another order.
        meant = [Facets(centres, dice.normal(size=(200, 3))) for _ in range(6)]
        found = [Facets(item.centres[::-1], item.normals[::-1]) for item in meant]
        self.assertLess(largest_turn(meant, found), 1e-3)
        found[3] = Facets(found[3].centres, -found[3].normals)
        self.assertGreater(largest_turn(meant, found), 100)


if __name__ == "__main__":
    unittest.main()
