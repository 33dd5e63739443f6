"""What enters: choices, copies, the polygon, several sources, and what each would weigh."""

import json
import unittest
from fractions import Fraction

import numpy as np
from pydantic import ValidationError

from hemp_ladder.core.choose.settings import ReceiveSettings
from hemp_ladder.core.choose.take import Taken, climb_take, plan_corners
from hemp_ladder.core.choose.tally import tally
from hemp_ladder.core.climb import held_by, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet import FacetSettings, climb_facet
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Model, Node, Part, Tags
from hemp_ladder.core.operations import chain_from_dict
from hemp_ladder.core.sort import SortSettings, climb_sort

LOFT, GROUND = Tags("body", "IfcWall", "Loft"), Tags("body", "IfcSlab", "Ground", ("Oak",))
AIR = Tags("space", "IfcSpace", "Ground")


def part(ref: str, layer: str | None = None, key: str = "", faces: int = 6) -> Part:
    return Part(ref, ref, key or ref, Exact(np.array([[0.0, 0, 0], [1, 1, 1]]), faces=faces), layer)


def house() -> Model:
    """A tree of two groups: walls at x 0, 10, 20, a slab at 0, air, and a wall twice in one place."""
    parts = [part("Wall", "Walls"), part("Slab", "Floors", faces=12), part("Room"), part("Axis", faces=0)]
    nodes = [
        Node("House", -1), Node("Upper", 0), Node("w1", 1, 0, tags=LOFT), Node("w2", 1, 0, tags=LOFT),
        Node("w2 again", 1, 0, tags=LOFT), Node("Lower", 0), Node("s", 5, 1, tags=GROUND), Node("w3", 5, 0, tags=GROUND),
        Node("air", 5, 2, tags=AIR), Node("axis", 5, 3, tags=GROUND),
    ]  # fmt: skip
    local = np.tile(np.eye(4), (len(nodes), 1, 1))
    local[[3, 4], 0, 3], local[7, 0, 3] = 10, 20
    return Model("IFC", "IFC4", "", "m", "z", Fraction(1), parts, nodes, local, np.array([[0.0, 0, 0], [21, 1, 1]]))


def site() -> Joined:
    """The house, and a shed in millimetres whose part is called as one of the house's."""
    shed = Model(
        "STEP", "AP242", "", "mm", "z", Fraction(1, 1000), [part("Wall", "Walls")], [Node("Shed", -1), Node("", 0, 0)],
        np.tile(np.eye(4), (2, 1, 1)), np.array([[0.0, 0, 0], [1, 1, 1]]), hidden=["Walls"],
    )  # fmt: skip
    return join([Given("house", "house.ifc", house()), Given("shed", "shed.step", shed)])


def taken(model: Model, **settings: object) -> Taken:
    return climb_take(climb_fit(model, FitSettings()), ReceiveSettings.model_validate(settings))


def names(found: Taken) -> list[str]:
    return [found.model.nodes[i].name for i in found.placements]


def choice(by: str, match: str, take: bool = False, source: str | None = None) -> dict[str, object]:
    return {"by": by, "match": match, "take": take, "source": source}


class Choices(unittest.TestCase):
    def test_air_stays_out_unless_asked(self) -> None:
        self.assertEqual(names(taken(house())), ["w1", "w2", "w2 again", "s", "w3"])
        self.assertIn("air", names(taken(house(), also=["space"])))

    def test_leaving_out_and_taking_alone(self) -> None:
        cases = {
            ("layer", "Walls"): ["s"], ("class", "IfcWall"): ["s", "w3"], ("storey", "Ground"): ["w1", "w2", "w2 again"],
            ("group", "Upper"): ["s", "w3"], ("part", "Slab"): ["w1", "w2", "w2 again", "w3"], ("layer", "None such"): ["w1", "w2", "w2 again", "s", "w3"],
        }  # fmt: skip
        for (by, match), left in cases.items():
            self.assertEqual(names(taken(house(), choices=[choice(by, match)])), left, (by, match))
            alone = set(names(taken(house(), choices=[choice(by, match, True)])))
            self.assertEqual(alone, set(names(taken(house()))) - set(left) if match != "None such" else set())

    def test_two_of_a_kind_are_either_and_two_kinds_are_both(self) -> None:
        both = [choice("storey", "Loft", True), choice("storey", "Ground", True)]
        self.assertEqual(len(names(taken(house(), choices=both))), 5)
        narrowed = [choice("storey", "Ground", True), choice("layer", "Walls", True)]
        self.assertEqual(names(taken(house(), choices=narrowed)), ["w3"])

    def test_one_of_each_copy(self) -> None:
        self.assertEqual(names(taken(house(), without_copies=True)), ["w1", "w2", "s", "w3"])

    def test_what_does_not_enter_is_not_meshed(self) -> None:
        found = taken(house(), choices=[choice("layer", "Floors")])
        requests = climb_facet(found.fitted, FacetSettings(), wanted=found.parts)
        self.assertEqual([r is not None for r in requests], [True, False, False, False])


class SeveralSources(unittest.TestCase):
    def test_names_of_the_first_stay_and_those_after_it_are_told_apart(self) -> None:
        joined = site()
        self.assertEqual([p.label for p in joined.parts], ["Wall", "Slab", "Room", "Axis", "Wall (2)"])
        self.assertEqual([n.name for n in joined.nodes if n.parent < 0], ["house.ifc", "shed.step"])
        alone = join([Given("house", "house.ifc", house())])
        self.assertEqual([n.name for n in alone.nodes if n.parent < 0], ["House"])

    def test_each_keeps_its_own_unit_and_place(self) -> None:
        settings = FitSettings.model_validate({"sources": {"shed": {"unit": "m", "turn": 90, "move": [5, 0, 0]}}})
        fitted = climb_fit(site(), settings)
        box = climb_take(fitted, ReceiveSettings(choices=(), without=frozenset({"house"}))).box()
        np.testing.assert_allclose(box, [[4, 0, 0], [5, 1, 1]], atol=1e-12)
        self.assertEqual([source.unit for source in fitted.sources], ["m", "m"])

    def test_a_choice_of_one_source_leaves_the_others_alone(self) -> None:
        self.assertEqual(len(taken(site(), choices=[choice("layer", "Walls")]).rows), 1)
        self.assertEqual(len(taken(site(), choices=[choice("layer", "Walls", source="house")]).rows), 2)
        self.assertEqual(len(taken(site(), choices=[choice("storey", "Loft", True, "house")]).rows), 4)
        self.assertEqual(len(taken(site(), without=["house"]).rows), 1)

    def test_tallies_add_up(self) -> None:
        joined = site()
        rows = taken(joined, choices=[choice("storey", "Loft", source="house")]).rows
        found = {(t.source, t.by, t.match): t for t in tally(joined, rows, {0: 100})}
        walls = found["house", "layer", "Walls"]
        self.assertEqual((walls.parts, walls.placements, walls.taken, walls.triangles), (1, 4, 1, 400))
        floors = found["house", "layer", "Floors"]
        self.assertEqual(
            (floors.triangles, floors.estimated), (200, True), "by its faces, at the rate of what is meshed"
        )
        self.assertTrue(found["shed", "layer", "Walls"].off)
        self.assertEqual(found["house", "group", "Upper"].placements, 3)
        self.assertEqual(found["house", "class", "IfcSpace"].taken, 0)


class Polygons(unittest.TestCase):
    STRIP = ((-1.0, -1.0), (10.5, -1.0), (10.5, 2.0), (-1.0, 2.0))

    def test_whole_parts_that_touch_it(self) -> None:
        found = taken(house(), region={"polygon": self.STRIP})
        self.assertEqual(names(found), ["w1", "w2", "w2 again", "s"])
        self.assertEqual(len(found.model.parts), 4)

    def test_cut_at_its_edge_gives_pieces_that_follow_their_part(self) -> None:
        found = taken(house(), region={"polygon": self.STRIP, "cut": True})
        pieces = [p for p in found.model.parts if p.cut]
        np.testing.assert_allclose(found.box()[1], [10.5, 1, 1])
        self.assertEqual([(p.ref, p.decided_as) for p in pieces], [("Wall (cut 1)", "Wall"), ("Wall (cut 2)", "Wall")])
        settings = FacetSettings.model_validate({"parts": {"Wall": {"degrees": 3}}})
        held = held_by(found, climb_sort(found, SortSettings()), Decisions(facet=settings)).facet
        requests = climb_facet(found.fitted, settings, held, found.parts)
        mine = [r for r, p in zip(requests, found.model.parts, strict=True) if p.cut]
        self.assertTrue(all(r is not None and round(np.degrees(r.first.angle)) == 3 for r in mine))
        self.assertEqual(len({r.key for r in mine if r}), 1, "the same piece of the same part is made once")
        for request in mine:
            assert request is not None
            self.assertEqual(chain_from_dict(json.loads(json.dumps(request.as_dict()))), request)

    def test_pieces_are_found_by_the_name_of_their_part(self) -> None:
        """By rules, by renames and by what is gathered into a group, few or many."""
        region = {"polygon": self.STRIP, "cut": True}
        wall = {"by": "name", "match": ["wal*"]}
        group = {"groups": [{"id": "own:1", "name": "Walls"}], "gathered": [{"whom": wall, "into": "own:1"}]}
        rules = [{**wall, "material": "brass"}]
        many = [*rules, *({"by": "name", "match": [f"other {k}*"], "material": "oak"} for k in range(300))]
        for said in (rules, many, [{**wall, "material": "brass", "within": {"group": "House"}}]):
            decided = Decisions.model_validate({
                "receive": {"region": region},
                "sort": {"rules": said, "names": [{"whom": wall, "to": "W_{n}"}], "order": group},
            })  # fmt: skip
            found = plan(house(), decided)
            self.assertEqual(len([index for index in found.taken.parts if found.model.parts[index].cut]), 2)
            worn = {
                found.model.parts[part].decided_as: found.sorted.dresses[code].materials
                for part, code in zip(found.sorted.parts, found.sorted.dress_of, strict=True)
            }
            self.assertEqual(worn["Wall"], ("brass",))

    def test_triangles_that_are_there_tell_the_size_closer_than_the_parts_own_boxes(self) -> None:
        found = taken(house(), choices=[{"by": "layer", "match": "Floors"}])
        whole, part = found.box(), int(found.model.columns.part[found.rows[0]])
        half = np.array([[0.0, 0, 0], [1, 1, 0.5]])
        closer = found.box({int(p): half for p in found.model.columns.part[found.rows]})
        self.assertEqual(whole[1, 2] - whole[0, 2], 2 * (closer[1, 2] - closer[0, 2]), part)

    def test_a_turned_box_is_held_by_its_outline_not_by_its_box(self) -> None:
        model = house()
        model.local[2, :2, :2] = np.array([[1, -1], [1, 1]]) / 2**0.5
        near = {"polygon": [(-0.9, -0.5), (-0.6, -0.5), (-0.6, 0.2), (-0.9, 0.2)]}
        self.assertEqual(names(taken(model, region=near)), [])

    def test_outlines_that_make_no_sense_are_refused(self) -> None:
        for polygon in (
            [(0, 0), (1, 1)],
            [(0, 0), (1, 1), (1, 0), (0, 1)],
            [(0, 0), (1, 0), (2, 0)],
            [(0, 0), (1e9, 0), (0, 1)],
        ):
            with self.assertRaises(ValidationError):
                ReceiveSettings.model_validate({"region": {"polygon": polygon}})

    def test_outlines_for_the_plan(self) -> None:
        fitted = climb_fit(house(), FitSettings())
        corners = plan_corners(fitted, np.array([0]))
        self.assertEqual({tuple(c) for c in corners[0].tolist()}, {(0, 0), (1, 0), (1, 1), (0, 1)})


class Large(unittest.TestCase):
    def test_a_hundred_thousand_placements_are_chosen_among_as_ever(self) -> None:
        """Counts only; how long it takes is measured in the bench."""
        count = 100_000
        tags = [Tags("body", "IfcWall", f"Storey {n}") for n in range(50)]
        nodes = [Node("All", -1), *(Node(f"n{n}", 0, n % 40, tags=tags[n % 50]) for n in range(count))]
        local = np.tile(np.eye(4), (count + 1, 1, 1))
        local[:, 0, 3] = np.arange(count + 1)
        model = Model(
            "IFC", "", "", "m", "z", Fraction(1), [part(f"p{n}") for n in range(40)], nodes, local, np.zeros((2, 3))
        )
        self.assertEqual(len(taken(model, choices=[choice("storey", "Storey 7", True)]).rows), count // 50)
        inside = {"polygon": [(99.5, -1), (199.5, -1), (199.5, 2), (99.5, 2)]}
        self.assertEqual(len(taken(model, region=inside).rows), 101)


if __name__ == "__main__":
    unittest.main()
