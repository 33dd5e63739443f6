"""Buildings: held against the format library's own word, the schema, and closed forms."""

import gzip
import json
import math
import multiprocessing
import os
import re
import signal
import unittest
from collections import Counter
from functools import cache
from pathlib import Path
from typing import Any
from unittest import mock

import ifcopenshell
import ifcopenshell.util.placement
import ifcopenshell.util.unit
import ifcopenshell.validate
import numpy as np

from demo.building import Building
from hemp_ladder.core.choose.tally import tally_all
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.model.model import DETAILS_BLOCK, Model
from hemp_ladder.core.receive.ifc import bodies
from hemp_ladder.core.receive.report import Kept
from hemp_ladder.core.receive.review import review
from hemp_ladder.work.children import Crew
from hemp_ladder.work.receiving.reading import Ears, receive_files
from tests.support import HOUSE, REAL_HOUSE, SHED, FolderCase, read_kept


@cache
def received(path: Path) -> tuple[Model, Kept]:
    return read_kept(path)


def volume(model: Model, kept: Kept, name: str, chord: float = 1e-3) -> float:
    """Of the first part of this name, in cubic metres."""
    part = next(part for part in model.parts if part.name == name)
    return tessellate(kept.shapes[part.key], chord, math.radians(10)).volume()


class AgainstTheLibrary(unittest.TestCase):
    """Counts, storeys, placements and quantities as the format library reads them for itself."""

    def test_every_product_with_a_body_came_out(self) -> None:
        for path in (HOUSE, SHED, REAL_HOUSE):
            with self.subTest(path.name):
                model, _ = received(path)
                file = ifcopenshell.open(str(path))
                wanted = Counter(
                    item.is_a()
                    for item in file.by_type("IfcProduct")
                    if item.Representation
                    and any(r.RepresentationIdentifier == "Body" for r in item.Representation.Representations)
                )
                found = Counter(model.nodes[i].tags.ifc_class for i in model.placements)
                self.assertEqual(found, wanted)
                self.assertEqual([f for f in model.findings if f.code == "unreadable-entity"], [])

    def test_storeys_and_their_heights(self) -> None:
        for path in (HOUSE, SHED, REAL_HOUSE):
            model, _ = received(path)
            file = ifcopenshell.open(str(path))
            told = [storey.Name for storey in file.by_type("IfcBuildingStorey")]
            nodes = {node.name for node in model.nodes}
            self.assertLessEqual(set(told), nodes)
            of_elements = {
                relation.RelatingStructure.Name: sum(1 for e in relation.RelatedElements if e.is_a("IfcProduct"))
                for relation in file.by_type("IfcRelContainedInSpatialStructure")
                if relation.RelatingStructure.is_a("IfcBuildingStorey")
            }
            tallied = {t.match: t.placements for t in tally_all(model) if t.by == "storey"}
            self.assertLessEqual(set(tallied), set(told))
            self.assertLessEqual({name for name, count in of_elements.items() if count}, set(tallied))
            self.assertGreaterEqual(len(tallied), 2)

    def test_placements_are_the_librarys(self) -> None:
        """World matrices of every window, in metres: within a nanometre where the survey lies 476 km away."""
        for path, kind in ((HOUSE, "IfcWindow"), (SHED, "IfcColumn"), (REAL_HOUSE, "IfcWindow")):
            model, _ = received(path)
            file = ifcopenshell.open(str(path))
            scale = ifcopenshell.util.unit.calculate_unit_scale(file)
            wanted = []
            for item in file.by_type(kind):
                matrix = ifcopenshell.util.placement.get_local_placement(item.ObjectPlacement)
                wanted.append([*(matrix[:3, 3] * scale)])
            world = model.world()
            boxed = [i for i in model.placements if model.nodes[i].tags.ifc_class == kind]
            self.assertEqual(len(boxed), len(wanted))
            if path != REAL_HOUSE:  # there the shapes of a type have places of their own
                near = np.array([world[i][:3, 3] for i in boxed])
                for spot in np.array(wanted):
                    self.assertLess(np.abs(near - spot).max(axis=1).min(), 1e-8, path.name)

    def test_a_wall_with_its_windows_cut_has_the_quantity_that_the_file_states(self) -> None:
        model, kept = received(HOUSE)
        file = ifcopenshell.open(str(HOUSE))
        checked = 0
        for wall in file.by_type("IfcWall"):
            for relation in wall.IsDefinedBy:
                quantities = relation.RelatingPropertyDefinition
                if quantities.is_a("IfcElementQuantity"):
                    told = {q.Name: q[3] for q in quantities.Quantities}
                    if "NetVolume" in told:
                        self.assertAlmostEqual(volume(model, kept, wall.Name), told["NetVolume"], places=6)
                        checked += 1
        self.assertEqual(checked, 8)

    def test_demo_files_keep_the_schema(self) -> None:
        for path in (HOUSE, SHED):
            log = ifcopenshell.validate.json_logger()
            ifcopenshell.validate.validate(ifcopenshell.open(str(path)), log)
            self.assertEqual(log.statements, [])


class WhatABuildingSays(unittest.TestCase):
    def test_what_is_placed_often_is_one_part(self) -> None:
        model, _ = received(HOUSE)
        times = {model.parts[part].ref: count for part, count in model.counts().items()}
        self.assertEqual((times["Sash 0.9 x 1.3"], times["Tread"], times["Downpipe 80"]), (15, 28, 3))

    def test_layers_styles_and_materials(self) -> None:
        model, _ = received(HOUSE)
        self.assertEqual(model.hidden, ["Survey"])
        sash = next(part for part in model.parts if part.ref == "Sash 0.9 x 1.3")
        self.assertEqual({sash.style, *sash.face_styles.values()}, {"Window paint", "Window glass"})
        glass = {colour.hex for colour in sash.face_colours.values()}
        self.assertEqual(glass, {"#bcd7d84d"}, "seven tenths transparent is three tenths opaque")
        tags = {node.name: node.tags for node in model.nodes}
        self.assertEqual(tags["South wall, ground floor"].materials, ("Lime render", "Granite rubble", "Plaster"))
        self.assertEqual(tags["South window 1, ground floor"].materials, ("Softwood", "Float glass"))
        self.assertEqual(tags["Chimney"].materials, ("Granite",))
        self.assertEqual((tags["Day room"].kind, tags["Chimney"].kind), ("space", "body"))

    def test_the_place_on_the_map(self) -> None:
        model, _ = received(HOUSE)
        assert model.place
        self.assertEqual((model.place.easting, model.place.northing, model.place.height), (412_300, 238_200, 4.2))
        self.assertAlmostEqual(model.place.turn, 17.5)
        self.assertEqual(model.place.grid, "Gull Rock harbour grid")

    def test_property_sets_are_kept_node_by_node(self) -> None:
        model, kept = received(HOUSE)
        node = next(i for i, n in enumerate(model.nodes) if n.name == "South wall, ground floor")
        blocks = [json.loads(gzip.decompress(data)) for data in kept.of("details")]
        sets = dict(blocks[node // DETAILS_BLOCK][node % DETAILS_BLOCK])
        common = dict(sets["Pset_WallCommon"])
        self.assertEqual(
            (common["IsExternal"], common["ThermalTransmittance"], common["Reference"]), (True, 0.62, "W36")
        )
        self.assertEqual(dict(sets["Qto_WallBaseQuantities"])["Height"], "2.9 m")
        self.assertTrue(dict(sets["Qto_WallBaseQuantities"])["NetVolume"].endswith(" m³"))

    def test_the_structure_is_told_before_any_shape(self) -> None:
        order: list[str] = []

        class Order(Kept):
            def skeleton(self, model: Model) -> None:
                order.append("structure")

            def blob(self, kind: str, name: str, data: bytes) -> None:
                order.append(kind)

        from hemp_ladder.core.receive.ifc.read import read_ifc

        read_ifc(HOUSE, Order())
        self.assertEqual(order[0], "structure")
        self.assertIn("shapes", order)

    def test_findings_of_the_demo(self) -> None:
        house = {item.code: item.message for item in review(received(HOUSE)[0])}
        self.assertEqual(set(house), {"no-material", "coincident-copies", "hidden-layers", "stays-out"})
        shed = {item.code: item.message for item in review(received(SHED)[0])}
        self.assertEqual(set(shed), {"far-from-origin", "no-material", "unnamed", "open-shell"})
        self.assertIn("476 km", shed["far-from-origin"])


def cottage(schema: str, foot: bool) -> Building:
    """A round room of 3 m, wall 0.3 m, 2.4 m high, and a ridge piece by a third corner: in metres or in feet."""
    unit = 1 / 0.3048 if foot else 1.0
    made = Building(schema, "Hut", foot=foot)
    storey = made.storey("Floor", 0.5 * unit)
    made.put("IfcWall", "Round wall", storey, [made.drum(3 * unit, 2.4 * unit, 0.3 * unit)], "Walls", material="Stone")
    made.put("IfcBeam", "Bent rail", storey, [made.bend((0, 0, unit), 2 * unit, 0, 90, 0.05 * unit)], "Rail")
    made.put("IfcSlab", "Cap", storey, [made.turned([(0, 0), (3 * unit, 0), (0, unit)])], "Roof")
    return made


class Shapes(FolderCase):
    def read(self, schema: str, foot: bool) -> tuple[Model, Kept]:
        path = self.folder / f"{schema}-{foot}.ifc"
        cottage(schema, foot).write(path)
        return read_kept(path)

    def test_metric_and_imperial_files_of_three_schemas_have_one_size(self) -> None:
        boxes = []
        for schema in ("IFC2X3", "IFC4", "IFC4X3_ADD2"):
            for foot in (False, True):
                model, kept = self.read(schema, foot)
                self.assertEqual(model.unit, "ft" if foot else "m")
                boxes.append(climb_fit(model, FitSettings()).box())
                # A tube's volume; the bar is a quarter of a torus; the cap a cone. Closely in one of the six.
                chord = 1e-5 if (schema, foot) == ("IFC4", True) else 1e-4
                tube, bar, cap = math.pi * (9 - 2.7**2) * 2.4, 0.25 * 2 * math.pi**2 * 2 * 0.05**2, math.pi * 9 / 3
                for name, exact, nearly in (("Round wall", tube, 100), ("Bent rail", bar, 1), ("Cap", cap, 100)):
                    found = volume(model, kept, name, chord * (10 if nearly > 1 else 1))
                    self.assertAlmostEqual(found, exact, delta=nearly * chord)
        for box in boxes[1:]:
            np.testing.assert_allclose(box, boxes[0], atol=1e-7)

    def test_chord_error_reaches_curved_walls(self) -> None:
        model, kept = self.read("IFC4", False)
        part = next(part for part in model.parts if part.name == "Round wall")
        counts = []
        for chord in (1e-2, 1e-3, 1e-4):
            mesh = tessellate(kept.shapes[part.key], chord, math.pi / 4)
            radii = np.linalg.norm(mesh.positions[:, :2], axis=1)
            np.testing.assert_array_less(np.minimum(np.abs(radii - 3), np.abs(radii - 2.7)), 1e-9)
            self.assertLessEqual(mesh.figures.off_by, chord * 1.001)
            counts.append(len(mesh.triangles))
        self.assertEqual(counts, sorted(counts))
        self.assertGreater(counts[2], 5 * counts[0])

    def test_a_stated_unit_replaces_the_declared_one(self) -> None:
        model, _ = self.read("IFC4", True)
        settings = FitSettings.model_validate({"unit": "m"})
        size = np.ptp(climb_fit(model, settings).box(), axis=0)
        np.testing.assert_allclose(size, np.ptp(model.box, axis=0) / 0.3048, rtol=1e-9)


class WithoutAProject(FolderCase):
    """Damaged or cut out of a larger file: what the units hang on is not there."""

    def test_the_size_is_that_of_the_whole_file(self) -> None:
        whole, _ = received(SHED)
        path = self.folder / "cut.ifc"
        path.write_text(re.sub(r"#\d+=IFCPROJECT\(.*?\);", "", SHED.read_text()))
        model, _ = read_kept(path)
        self.assertEqual((model.unit, len(model.parts)), (whole.unit, len(whole.parts)))
        boxes = [np.ptp(climb_fit(item, FitSettings()).box(), axis=0) for item in (model, whole)]
        np.testing.assert_allclose(boxes[0], boxes[1], rtol=1e-6)
        path.write_text(re.sub(r"#\d+=IFC(PROJECT|UNITASSIGNMENT)\(.*?\);", "", SHED.read_text()))
        model, _ = read_kept(path)
        self.assertIsNone(model.unit)
        self.assertIn("unit-missing", [item.code for item in review(model)])


class Torn(FolderCase):
    """One thing is gone or means something else; the rest of the building is read."""

    def test_what_hangs_on_what_is_gone_is_passed_over(self) -> None:
        whole = {SHED: 13, HOUSE: 51}
        for path, spoil, by, least in (
            (SHED, r"#\d+=IFCSIUNIT\(.*?\);", "", 0.9),
            (SHED, r"#\d+=IFCMEASUREWITHUNIT\(.*?\);", "", 0.9),
            (SHED, r"#\d+=IFCUNITASSIGNMENT\(.*?\);", "", 0.9),
            (SHED, r"#\d+=IFCREPRESENTATIONMAP\(.*?\);", "", 0),
            (SHED, r"(=IFCSLAB\('[^']*',#\d+,'Slipway',\$,\$,#\d+,)#\d+", r"\1#1", 0.9),
            (SHED, r"(=IFCMAPPEDITEM\()#\d+", r"\1#1", 0.9),
            (HOUSE, r"#\d+=IFCPROJECTEDCRS\(.*?\);", "", 0.9),
            (HOUSE, r"(=IFCPROJECT\(.*?)#\d+\);", r"\1#1);", 0.9),
            (HOUSE, r"(=IFCMATERIALLAYERSET\(\(#\d+,#\d+,)#\d+", r"\1#1", 0.9),
        ):
            text, count = re.subn(spoil, by, path.read_text(), count=1 if by else 0)
            with self.subTest(path.name, spoil=spoil):
                self.assertGreater(count, 0)
                torn = self.folder / "torn.ifc"
                torn.write_text(text)
                with Crew(1) as crew:
                    model = receive_files([(torn.name, torn)], self.folder, crew, Ears())
                review(model)
                self.assertGreater(len(model.parts), least * whole[path])


class Killed(FolderCase):
    """A product whose geometry brings the process down: the rest arrives, and it is named."""

    def test_the_rest_arrives(self) -> None:
        file = ifcopenshell.open(str(HOUSE))
        deadly = file.by_type("IfcChimney")[0]
        # A context of its own kind: a forked child has the trap that is set here.
        crew = Crew(1)
        crew._context = multiprocessing.get_context("fork")
        self.addCleanup(crew.close)
        whole, careful = bodies._all_elements, bodies._one_by_one

        def dies(elements: Any) -> Any:
            def trapped(file: Any, products: Any, about: Any) -> Any:
                for product in [item for item in products if item.id() == deadly.id()]:
                    about(product.id())
                    os.kill(os.getpid(), signal.SIGSEGV)
                yield from elements(file, products, about)

            return trapped

        with mock.patch.multiple(bodies, _all_elements=dies(whole), _one_by_one=dies(careful)):
            model = receive_files([(HOUSE.name, HOUSE)], self.folder, crew, Ears())
        lost = [item for item in model.findings if item.code == "unreadable-entity"]
        self.assertEqual([item.where for item in lost], [f"#{deadly.id()} “Chimney”"])
        self.assertEqual(len(model.placements), len(received(HOUSE)[0].placements) - 1)


if __name__ == "__main__":
    unittest.main()
