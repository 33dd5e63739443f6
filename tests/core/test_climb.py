"""A climb from decisions to triangles: what is made again and what is not, without files or children."""

import math
import unittest
from collections.abc import Sequence
from fractions import Fraction
from typing import Any

import numpy as np
from pydantic import ValidationError

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Made, climb, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.model import Model, Node, Part


def model() -> Model:
    """Two parts, one of them placed twice, far from the origin and once mirrored; a third has no surface."""
    box = np.array([[0.0, 0, 0], [300, 400, 0]])
    parts = [
        Part("A", "A", "ka", Exact(box, faces=1)), Part("B", "B", "kb", Exact(box * 2, faces=1)), Part("Axis", "Axis", "kc", Exact(box))
    ]  # fmt: skip
    local = np.tile(np.eye(4), (4, 1, 1))
    local[1, :3, 3] = [5e6, 0, 0]
    local[1, 0, 0] = -1
    nodes = [Node("", -1, 0), Node("", -1, 0), Node("", -1, 1), Node("", -1, 2)]
    return Model("STEP", "AP242", "", "mm", "z", Fraction(1, 1000), parts, nodes, local, np.zeros((2, 3)))


class Shelf:
    """Gives every mesh as one triangle over the part's box, and counts what it was asked to make."""

    def __init__(self) -> None:
        self.made: list[Chain] = []
        self.known: dict[str, Mesh] = {}

    def meshes(self, chains: Sequence[Chain]) -> Made:
        for chain in chains:
            if chain.key not in self.known:
                self.made.append(chain)
                size = 1 if chain.part == "ka" else 2
                corners = np.array([[0.0, 0, 0], [300, 0, 0], [0, 400, 0]]) * size
                normals = np.tile(np.float32([0, 0, 1]), (3, 1))
                self.known[chain.key] = Mesh.of(corners, normals, np.array([[0, 1, 2]], np.int32), np.array([0, 1]))
        return Made(self.known)


def decisions(**sections: Any) -> Decisions:
    return Decisions.model_validate(sections)


class Climbs(unittest.TestCase):
    def setUp(self) -> None:
        self.model, self.shelf = model(), Shelf()

    def made_by(self, wanted: Decisions) -> list[str]:
        before = len(self.shelf.made)
        climb(self.model, wanted, self.shelf)
        return [chain.part for chain in self.shelf.made[before:]]

    def test_counts_and_box_are_over_placements(self) -> None:
        result = climb(self.model, decisions(), self.shelf)
        self.assertEqual((result.triangles, result.vertices), (3, 9))
        np.testing.assert_allclose(result.box, [[0, 0, 0], [5000, 0.8, 0]])
        self.assertIsNone(result.chains[2])

    def test_each_part_is_meshed_once_and_never_again_without_need(self) -> None:
        self.assertEqual(self.made_by(decisions()), ["ka", "kb"])
        self.assertEqual(self.made_by(decisions()), [])
        rule = {"rules": [{"by": "name", "match": "A", "material": "brass"}]}
        self.assertEqual(self.made_by(decisions(sort=rule, mend={"flipped": ["A"]})), [])
        self.assertEqual(self.made_by(decisions(ship={"target": {"format": "stl"}})), [])

    def test_one_parts_own_setting_makes_that_part_alone(self) -> None:
        self.made_by(decisions())
        own = {"parts": {"B": {"degrees": 5}}}
        self.assertEqual(self.made_by(decisions(facet=own)), ["kb"])

    def test_chord_error_in_the_sources_coordinates(self) -> None:
        """Half a millimetre is 0.5 in a file in millimetres, and 0.5 / 25.4 when its numbers are said to be inches."""
        for unit, length in ((None, 0.5), ("in", 0.5 / 25.4), ("m", 0.0005)):
            found = plan(
                self.model, decisions(fit={"unit": unit}, facet={"chord": {"kind": "absolute", "metres": "0.5mm"}})
            ).chains
            self.assertAlmostEqual(found[0].first.fineness[0], length, places=12, msg=str(unit))  # type: ignore[union-attr]

    def test_a_share_of_the_parts_size(self) -> None:
        found = plan(self.model, decisions(facet={"chord": {"kind": "relative", "share": 0.001}})).chains
        self.assertEqual([round(c.first.fineness[0], 9) for c in found if c], [0.5, 1.0])
        self.assertAlmostEqual(found[0].first.fineness[1], math.radians(20))  # type: ignore[union-attr]

    def test_a_lighter_level_stands_beside_the_full_one(self) -> None:
        """Nine times the chord error and three times the angle (an arc's height goes with its angle's square), for each
        part's own; what the full level made is not made again."""
        own = {
            "chord": {"kind": "relative", "share": 0.001},
            "parts": {"B": {"chord": {"kind": "absolute", "metres": 0.001}}},
        }
        wanted = decisions(facet=own, trim={"levels": [{"name": "light", "coarser": 9}]})
        found = plan(self.model, wanted)
        self.assertEqual(list(found.levels), ["full", "light"])
        for full, light in zip(found.chains, found.levels["light"], strict=True):
            if full is not None and light is not None:
                self.assertAlmostEqual(light.first.fineness[0], 9 * full.first.fineness[0])  # type: ignore[index]
                self.assertAlmostEqual(light.first.fineness[1], 3 * full.first.fineness[1])  # type: ignore[index]
        self.assertEqual(len(found.wanted()), 4)
        self.assertEqual(self.made_by(wanted), ["ka", "kb"])
        result = climb(self.model, wanted, self.shelf, "light")
        self.assertEqual(len(self.shelf.made), 4)
        self.assertEqual(result.chains, found.levels["light"])
        with self.assertRaisesRegex(SettingsError, "no level called “thin”"):
            climb(self.model, wanted, self.shelf, "thin")
        for wrong in ([{"name": "full"}], [{"name": "a"}, {"name": "a"}], [{"coarser": 0.5}]):
            with self.assertRaises(ValidationError):
                decisions(trim={"levels": wrong})

    def test_parts_of_equal_geometry_share_a_mesh(self) -> None:
        self.model.parts[1].key = "ka"
        self.model.parts[1].body = self.model.parts[0].body
        self.assertEqual(self.made_by(decisions()), ["ka"])


class Documents(unittest.TestCase):
    def test_they_survive_being_written(self) -> None:
        given = decisions(
            fit={"unit": "ft", "up": "y"},
            facet={
                "chord": {"kind": "absolute", "metres": "1/32in"},
                "degrees": 12,
                "parts": {"Löt “x”": {"degrees": 5}},
            },
            sort={"rules": [{"by": "layer", "match": "Glass", "material": "brass"}], "keep_source": False},
            mend={"flipped": ["A"]},
            ship={"target": {"format": "stl", "unit": "inches", "group": "part"}},
        )
        again = Decisions.model_validate_json(given.model_dump_json())
        self.assertEqual(again, given)
        self.assertAlmostEqual(again.model_dump()["facet"]["chord"]["metres"], 0.0254 / 32)
        self.assertEqual(again.ship.target.unit, "in")

    def test_what_makes_no_sense_is_refused_where_it_stands(self) -> None:
        for place, document in {
            ("facet", "degrees"): {"facet": {"degrees": 0}},
            ("facet", "chord", "absolute", "metres"): {"facet": {"chord": {"kind": "absolute", "metres": -1}}},
            ("facet", "chord", "relative", "share"): {"facet": {"chord": {"kind": "relative", "share": 2}}},
            ("fit", "up"): {"fit": {"up": "w"}},
            ("mend", "twisted"): {"mend": {"twisted": []}},
        }.items():
            with self.assertRaises(ValidationError) as caught:
                Decisions.model_validate(document)
            self.assertEqual(caught.exception.errors()[0]["loc"], place)

    def test_an_unknown_unit_is_named(self) -> None:
        with self.assertRaisesRegex((SettingsError, ValidationError), "furlong"):  # type: ignore[arg-type]
            decisions(ship={"target": {"unit": "furlong"}})
