"""Doubtful sizes and what lies down: public models and the demo, as they are and with their units slipped."""

import tempfile
import unittest
from fractions import Fraction
from functools import cache
from pathlib import Path

import numpy as np

from hemp_ladder.core.fit.doubts.clues import clues_of
from hemp_ladder.core.fit.doubts.likely import doubt_of, likely_units
from hemp_ladder.core.fit.doubts.upright import lying, resting
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.model import Model, Node, Part, Tags
from hemp_ladder.core.receive.review import review
from hemp_ladder.core.units import UNITS
from hemp_ladder.work.children import Crew
from hemp_ladder.work.receiving.reading import Ears, receive_files
from tests.support import AS1, DAVIT, DEMO, HOUSE, PUBLIC, REAL_HOUSE, SHED

#: An assembly that another system wrote a hundred millimetres large, here in inches by mistake: its holes are 254 mm wide.
IN_INCHES = PUBLIC / "cax-if" / "dm1-pe-214.stp"
RIGHT = (AS1, PUBLIC / "cax-if" / "io1-cm-214.stp", REAL_HOUSE, DEMO, HOUSE, SHED, DAVIT)


@cache
def received(path: Path) -> Model:
    with Crew(1) as crew, tempfile.TemporaryDirectory() as folder:
        return receive_files([(path.name, path)], Path(folder), crew, Ears())


def slipped(path: Path, unit: str) -> Model:
    """The same file, as if it declared another unit."""
    model = received(path)
    values = {name: getattr(model, name) for name in model.__dataclass_fields__}
    scale = model.metres_per_coordinate * UNITS[unit].metres / UNITS[model.unit or "m"].metres
    return Model(**{**values, "unit": unit, "metres_per_coordinate": scale, "findings": []})


def thing(name: str, size: tuple[float, float, float], at: float = 0.0, tags: Tags = Tags()) -> tuple[Part, Node]:  # noqa: B008
    box = np.array([[0.0, 0, at], [size[0], size[1], at + size[2]]])
    return Part(name, name, name, Exact(box, faces=6)), Node(name, -1, 0, tags=tags)


def model(*things: tuple[Part, Node], unit: str | None = "mm", up: str | None = "z", **more: object) -> Model:
    parts = [part for part, _ in things]
    nodes = [Node(node.name, -1, i, tags=node.tags) for i, (_, node) in enumerate(things)]
    boxes = np.array([part.box for part in parts])
    box = np.array([boxes[:, 0].min(axis=0), boxes[:, 1].max(axis=0)])
    scale = UNITS[unit].metres if unit else Fraction(1)
    local = np.tile(np.eye(4), (len(nodes), 1, 1))
    return Model("STEP", "", "", unit, up, scale, parts, nodes, local, box, **more)  # type: ignore[arg-type]


class Sizes(unittest.TestCase):
    def test_right_sizes_are_never_accused(self) -> None:
        for path in RIGHT:
            with self.subTest(path.name):
                self.assertIsNone(doubt_of(received(path)))
                self.assertIsNone(lying(received(path)))
                self.assertNotIn("unit-doubtful", [item.code for item in review(received(path))])

    def test_a_public_assembly_in_the_wrong_unit_is_and_the_right_one_is_named(self) -> None:
        doubt = doubt_of(received(IN_INCHES))
        assert doubt is not None
        self.assertEqual(doubt.unit, "mm")
        self.assertAlmostEqual(doubt.factor, 1 / 25.4)
        self.assertIn("bracket would be 2.54 m", doubt.said)
        self.assertIn("25.4", doubt.mistake)
        found = next(item for item in review(received(IN_INCHES)) if item.code == "unit-doubtful")
        self.assertEqual([offer.values for offer in found.offers], [{"unit": "mm"}])

    def test_units_that_slipped_are_found_and_put_right(self) -> None:
        """Of the files whose parts have names that say what they are; what has none cannot be told. Three times as large is
        not found where doors of seven metres are to be had."""
        found, tried = [], []
        for path, declared, right in (
            (AS1, "m", "mm"), (AS1, "in", "mm"), (REAL_HOUSE, "km", "m"), (REAL_HOUSE, "mm", "m"), (REAL_HOUSE, "ft", "m"),
            (HOUSE, "mm", "m"), (HOUSE, "km", "m"), (DEMO, "m", "mm"), (DEMO, "um", "mm"), (SHED, "m", "ft"), (SHED, "mm", "ft"),
        ):  # fmt: skip
            tried.append((path.name, declared))
            doubt = doubt_of(slipped(path, declared))
            if doubt is not None:
                found.append((path.name, declared))
                self.assertEqual(doubt.unit, right, (path.name, declared))
        self.assertEqual(sorted(set(tried) - set(found)), [("boat-shed.ifc", "m")])

    def test_threads_sheets_and_named_lengths_are_exact(self) -> None:
        inch = model(thing("M12x40 bolt", (18, 20.8, 47.5)), thing("Base", (200, 100, 12)), unit="in")
        doubt = doubt_of(inch)
        assert doubt is not None
        self.assertEqual(doubt.unit, "mm")
        self.assertIsNone(doubt_of(model(thing("M12x40 bolt", (18, 20.8, 47.5)))))
        self.assertEqual(getattr(doubt_of(model(thing("Blade 12 mm", (1.2, 40, 30)), unit="mm")), "unit", None), "cm")
        page = np.array([[0.0, 0], [297, 210]])
        (sheet,) = clues_of(model(thing("Leaf", (10, 10, 1)), page=page))
        self.assertEqual([sheet.fits(metres) for metres in (0.001, 0.01, 0.0254)], [True, False, False])

    def test_likely_units_are_ranked_with_reasons(self) -> None:
        door = model(thing("Front door", (90, 4, 210)), thing("Brick", (21, 10, 6.5)), unit=None)
        ranked = likely_units(door, ("mm", "cm", "m", "in", "ft"))
        self.assertEqual(ranked[0].unit, "cm")
        self.assertIn("door", ranked[0].reasons[0])
        self.assertAlmostEqual(ranked[0].size, 2.1)


class Upright(unittest.TestCase):
    def test_a_building_on_its_side_and_a_van_on_its_nose(self) -> None:
        shed = model(
            thing("Door", (0.9, 2.0, 0.05)), thing("Roof", (4, 0.2, 5), 0), thing("Floor", (4, 0.15, 5)), unit="m"
        )
        told = lying(shed)
        assert told is not None
        self.assertEqual(told.up[-1], "y")
        van = lying(model(thing("Delivery van", (1.9, 2.1, 5.2)), unit="m"))
        assert van is not None
        self.assertEqual(van.up, "x")

    def test_what_stands_is_not_accused(self) -> None:
        self.assertIsNone(lying(model(thing("Door", (0.9, 0.05, 2.0)), unit="m")))
        self.assertIsNone(
            lying(model(thing("Door", (0.9, 0.05, 2.0)), thing("Door leaf post", (0.1, 2.0, 0.1)), unit="m"))
        )
        self.assertIsNone(lying(model(thing("Block", (1, 9, 1)), unit="m")))

    def test_storeys_and_flat_sides_say_it_without_a_word(self) -> None:
        told = [thing(f"Slab {k}", (9, 0.2, 7), tags=Tags(storey=name)) for k, name in enumerate(("Ground", "Upper"))]
        house = model(*told, unit="m")
        house.nodes[:0] = [Node("Ground", -1), Node("Upper", -1)]
        lift = np.eye(4)
        lift[1, 3] = 2.9
        house.local = np.concatenate([np.eye(4)[None], lift[None], house.local])
        found = lying(house)
        assert found is not None
        self.assertEqual(found.up, "y")
        # A cone on its tip, and on its base; a ball; a box; nothing.
        around = np.linspace(0, 2 * np.pi, 40, endpoint=False)
        rim = np.column_stack([np.cos(around), np.sin(around), np.full(40, 2.0)])
        cone = np.vstack([rim, [0, 0, 0]])
        told_of_cone = resting(cone)
        assert told_of_cone is not None
        self.assertEqual(told_of_cone[0], "-z")
        self.assertAlmostEqual(told_of_cone[1], np.pi / 4, delta=0.01)
        self.assertIsNone(resting(cone * [1, 1, -1]))
        self.assertIsNone(resting(np.random.default_rng(5).normal(size=(200, 3))))
        self.assertIsNone(resting(np.array([[x, y, z] for x in (0, 1) for y in (0, 2) for z in (0, 3.0)])))
        self.assertIsNone(resting(np.zeros((5, 3))))

    def test_which_end_is_up(self) -> None:
        over = model(
            thing("Door", (0.9, 0.05, 2.0)), thing("Floor", (4, 5, 0.15), 2.2), thing("Roof", (4, 5, 0.2), -0.3), up="y",
            unit="m",
        )  # fmt: skip
        told = lying(over)
        assert told is not None
        self.assertEqual(told.up, "-z")
