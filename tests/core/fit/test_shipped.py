"""What Fit decides arrives: read back by a library that shares no code with what wrote it."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import trimesh
from scipy.spatial import cKDTree

from hemp_ladder.core.chain.came import write_meshed
from hemp_ladder.core.climb import Result, climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.fit.ways import way_from
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Model, Node, Part
from hemp_ladder.core.refit import fitted_by, standing_after
from hemp_ladder.core.ship.deliver import Shipped, climb_ship
from hemp_ladder.core.ship.settings import Target
from tests.support import FolderCase, FollowedHere

SHIFT = 5e6


def wedge(at: tuple[float, float, float], mirrored: bool = False, name: str = "Wedge") -> tuple[Model, bytes]:
    """A block with a step of a tenth of a millimetre, in millimetres, placed twice: beside itself, perhaps mirrored."""
    block = trimesh.creation.box((100, 60, 20))
    step = trimesh.creation.box((100, 60, 0.1))
    step.apply_translation((0, 0, 10.05))
    positions = np.concatenate([block.vertices, step.vertices]) + at
    triangles = np.concatenate([block.faces, step.faces + len(block.vertices)])
    body = write_meshed(positions, triangles)
    box = np.array([positions.min(axis=0), positions.max(axis=0)])
    part = Part(name, name, f"{name} {at}", Meshed(box, triangles=len(triangles)))
    beside = np.eye(4)
    beside[0, 3] = 300 + (2 * at[0] if mirrored else 0)
    if mirrored:
        beside[0, 0] = -1
    whole = np.array([box.min(axis=0), box.max(axis=0) + np.array([300, 0, 0])])
    nodes = [Node("Group", -1), Node(name, 0, 0), Node(f"{name} beside", 0, 0)]
    local = np.array([np.eye(4), np.eye(4), beside])
    return Model("STL", "", "", "mm", "z", Fraction(1, 1000), [part], nodes, local, whole), body


class Climbing(FolderCase):
    def climbed(
        self, decisions: Decisions | None = None, *ways: dict[str, object], **sources: tuple[Model, bytes]
    ) -> Result:
        model: Joined = join([Given(ref, ref, given) for ref, (given, _) in sources.items()])
        shelf = FollowedHere({part.key: body for given, body in sources.values() for part in given.parts})
        decisions = decisions or Decisions()
        result = climb(model, decisions, shelf)
        for way in ways:
            decisions = fitted_by(decisions, standing_after(result, decisions), way_from(way))
            result = climb(model, decisions, shelf)
        return result

    def shipped(self, result: Result, name: str = "a", **target: object) -> Shipped:
        told = Target.model_validate(target)
        shipped = climb_ship(result, told, self.folder / f"{name}{told.written_format.suffix}")
        self.assertTrue(shipped.receipt.ok, [check for check in shipped.receipt.checks if not check.ok])
        return shipped

    def read(self, shipped: Shipped) -> trimesh.Scene:
        return trimesh.load_scene(shipped.paths[0], process=False)


class Places(Climbing):
    def test_a_house_at_map_coordinates_comes_near_and_loses_nothing(self) -> None:
        """5 km out and with 0.1 mm features: errors under 0.01 mm, also where a reader counts in single precision."""
        for target in ({}, {"format": "obj"}, {"format": "stl", "unit": "mm"}):
            result = self.climbed(
                None, {"does": "origin", "named": "base centre"}, a=wedge((SHIFT, SHIFT, 0)),
            )  # fmt: skip
            shipped = self.shipped(result, **target)
            unit = 1000 if target.get("unit") == "mm" else 1
            scene = self.read(shipped)
            found = np.unique(np.round(np.abs(scene.to_geometry().vertices[:, 2 if unit == 1000 else 1]), 9))
            meant = np.array([0, 0.02, 0.0201]) * unit
            for height in meant:
                self.assertLess(np.abs(found - height).min(), 1e-5 * unit)
            # What a receiver multiplies in single precision is small: no node stands kilometres away.
            moves = [np.linalg.norm(scene.graph.transforms.edge_data[edge].get("matrix", np.eye(4))[:3, 3])
                     for edge in scene.graph.transforms.edge_data]  # fmt: skip
            self.assertLess(max(moves), 10 * unit)
            self.assertAlmostEqual(result.fitted.offset[0], SHIFT / 1000 + 0.15, places=9)
            names = [check.name for check in shipped.receipt.checks]
            self.assertTrue(any(name.startswith("offset in every file") for name in names))
            lost = shipped.receipt.told["single_precision_mm"]
            self.assertGreater(lost["as received"], 0.1)
            self.assertLess(lost["as shipped"], 1e-4)
            self.assertEqual(shipped.receipt.told["offset_m"], list(result.fitted.offset))

    def test_files_shipped_separately_stand_in_place_when_loaded_together(self) -> None:
        both = {"a": wedge((SHIFT, SHIFT, 0)), "b": wedge((SHIFT + 700, SHIFT + 90, 40), name="Other")}
        at = {"does": "origin", "named": "typed", "to": (SHIFT / 1000, SHIFT / 1000, 0)}
        whole = self.read(self.shipped(self.climbed(None, at, **both), "whole"))
        pieces = []
        for ref, given in both.items():
            pieces.append(self.read(self.shipped(self.climbed(None, at, **{ref: given}), ref)))
        together = np.concatenate([piece.to_geometry().vertices for piece in pieces])
        meant = whole.to_geometry().vertices
        apart = cKDTree(together).query(meant)[0].max()
        self.assertLess(apart, 1e-6 * np.ptp(meant, axis=0).max())

    def test_an_offset_too_long_for_a_header_is_left_to_the_receipt(self) -> None:
        at = {"does": "origin", "named": "typed", "to": (4123.4567890123, -2382.0912345678, 4.1234567890123)}
        shipped = self.shipped(self.climbed(None, at, a=wedge((SHIFT, 0, 0))), format="stl", unit="ft")
        self.assertEqual(shipped.receipt.told["offset_m"], [4123.4567890123, -2382.0912345678, 4.1234567890123])
        self.assertNotIn(b"offset", shipped.paths[0].read_bytes()[:80])

    def test_a_damaged_offset_fails_the_receipt(self) -> None:
        from hemp_ladder.core.ship.receipt import write_receipt

        result = self.climbed(None, {"does": "origin", "named": "centre"}, a=wedge((SHIFT, 0, 0)))
        shipped = self.shipped(result)
        told = replace(shipped.scene, offset=(1.0, 2.0, 3.0))
        again = write_receipt(result, told, Target(), [(told, shipped.written[0][1])])
        self.assertFalse(again.ok)


class IntoMesh(Climbing):
    def test_every_node_has_unit_scale_and_mirrored_placements_keep_their_outside_out(self) -> None:
        plain = self.climbed(a=wedge((0, 0, 0), mirrored=True))
        baked = self.climbed(
            Decisions.model_validate({"fit": {"into_mesh": True, "up": "y"}}), a=wedge((0, 0, 0), mirrored=True)
        )
        apart = self.read(self.shipped(baked, "baked"))
        self.assertEqual((len(self.read(self.shipped(plain)).geometry), len(apart.geometry)), (1, 2))
        for node in apart.graph.nodes_geometry:
            np.testing.assert_array_equal(apart.graph.get(node)[0], np.eye(4))
        for mesh in apart.geometry.values():
            # Block and step are closed, and their volumes add up: both wound outward, also in the mirror.
            self.assertAlmostEqual(mesh.volume, 100 * 60 * 20.1e-9, places=10)

    def test_of_one_part_only_its_own_place_goes_in(self) -> None:
        settings = {"fit": {"into_mesh_parts": ["Wedge"]}}
        scene = self.read(
            self.shipped(self.climbed(Decisions.model_validate(settings), a=wedge((0, 0, 0), mirrored=True)))
        )
        for node in scene.graph.nodes_geometry:
            self.assertAlmostEqual(np.linalg.det(scene.graph.get(node)[0][:3, :3]), 1, places=12)

    def test_left_handed_axes_are_a_mirror_with_the_outside_out(self) -> None:
        result = self.climbed(None, {"does": "turn", "axis": "x", "degrees": 20}, a=wedge((0, 0, 0)))
        right = self.read(self.shipped(result, "r", format="obj")).to_geometry()
        left = self.read(self.shipped(result, "l", format="obj", hand="left")).to_geometry()
        np.testing.assert_allclose(left.vertices * [1, 1, -1], right.vertices, atol=1e-9)
        self.assertAlmostEqual(left.volume, right.volume)
        self.assertGreater(left.volume, 0)
        with self.assertRaisesRegex(ValueError, "right-handed"):
            Target.model_validate({"format": "glb", "hand": "left"})

    def test_axes_as_the_standards_have_them(self) -> None:
        """glTF 2.0 section 3.3: +Y up, metres. A source whose X is up has its X there."""
        result = self.climbed(Decisions.model_validate({"fit": {"up": "x"}}), a=wedge((0, 0, 0)))
        scene = self.read(self.shipped(result))
        np.testing.assert_allclose(scene.extents, [0.0201, 0.4, 0.06], atol=1e-6)
