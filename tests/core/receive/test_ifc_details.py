"""What a building says of its products beside their shape, every way the schema has to say it."""

import gzip
import json
import unittest
from typing import Any

import ifcopenshell

from hemp_ladder.core.receive.ifc.ask import Asker
from hemp_ladder.core.receive.ifc.details import write_details
from hemp_ladder.core.receive.ifc.looks import Looks
from hemp_ladder.core.receive.ifc.sick import BROUGHT_DOWN, STANDS_ON_ITSELF, sick
from hemp_ladder.core.receive.ifc.tree import build_tree


class Told(unittest.TestCase):
    """Of one wall in a file that is made for each test."""

    def setUp(self) -> None:
        self.file = ifcopenshell.file(schema="IFC4")
        self.wall = self.make("Wall", GlobalId=ifcopenshell.guid.new(), Name="North wall")

    def make(self, kind: str, **values: Any) -> Any:
        return self.file.create_entity(f"Ifc{kind}", **values)

    def root(self, kind: str, **values: Any) -> Any:
        return self.make(kind, GlobalId=ifcopenshell.guid.new(), **values)


class Properties(Told):
    def details(self) -> dict[str, dict[str, Any]]:
        """By set, the values of the wall by name."""
        ask, blocks = Asker("IFC4"), []
        looks = Looks(self.file, ask)
        write_details(self.file, [self.wall], looks.type_of, ask, lambda number, data: blocks.append(data))
        ((sets,),) = [json.loads(gzip.decompress(block)) for block in blocks]
        return {name: dict(rows) for name, rows in sets}

    def say(self, *properties: Any, name: str = "Pset_WallCommon") -> None:
        told = self.root("PropertySet", Name=name, HasProperties=properties)
        self.root("RelDefinesByProperties", RelatedObjects=[self.wall], RelatingPropertyDefinition=told)

    def single(self, name: str, kind: str, value: Any) -> Any:
        return self.make("PropertySingleValue", Name=name, NominalValue=self.make(kind, wrappedValue=value))

    def test_single_values_of_every_sort(self) -> None:
        self.say(
            self.single("Fire rating", "Label", "F 90"), self.single("Outside", "Boolean", True),
            self.single("Storeys", "Integer", 3), self.make("PropertySingleValue", Name="Nothing"),
        )  # fmt: skip
        self.assertEqual(
            self.details()["Pset_WallCommon"], {"Fire rating": "F 90", "Outside": True, "Storeys": 3, "Nothing": None}
        )

    def test_measures_have_the_unit_that_the_project_declares(self) -> None:
        metre = self.make("SIUnit", UnitType="LENGTHUNIT", Prefix="MILLI", Name="METRE")
        square = self.make("SIUnit", UnitType="AREAUNIT", Name="SQUARE_METRE")
        self.root("Project", UnitsInContext=self.make("UnitAssignment", Units=[metre, square]))
        self.say(self.single("Reach", "LengthMeasure", 1250.0), self.single("Share", "RatioMeasure", 0.25))
        told = self.root(
            "ElementQuantity", Name="Qto_WallBaseQuantities",
            Quantities=[
                self.make("QuantityLength", Name="Length", LengthValue=9200.0),
                self.make("QuantityArea", Name="Side", AreaValue=21.5),
                self.make("QuantityCount", Name="Panes", CountValue=6.0),
            ],
        )  # fmt: skip
        self.root("RelDefinesByProperties", RelatedObjects=[self.wall], RelatingPropertyDefinition=told)
        found = self.details()
        self.assertEqual(found["Pset_WallCommon"], {"Reach": "1250 mm", "Share": 0.25})
        self.assertEqual(found["Qto_WallBaseQuantities"], {"Length": "9200 mm", "Side": "21.5 m²", "Panes": 6})

    def test_lists_choices_and_bounds(self) -> None:
        label = lambda word: self.make("Label", wrappedValue=word)  # noqa: E731
        number = lambda value: self.make("Real", wrappedValue=value)  # noqa: E731
        self.say(
            self.make("PropertyEnumeratedValue", Name="Status", EnumerationValues=[label("NEW"), label("KEEP")]),
            self.make("PropertyListValue", Name="Coats", ListValues=[label("lime"), label("tar")]),
            self.make("PropertyBoundedValue", Name="Heat", LowerBoundValue=number(5.0), UpperBoundValue=number(21.0)),
        )
        self.assertEqual(
            self.details()["Pset_WallCommon"], {"Status": "NEW, KEEP", "Coats": "lime, tar", "Heat": "5.0 to 21.0"}
        )

    def test_what_its_type_says_comes_after_its_own(self) -> None:
        shared = self.root("PropertySet", Name="Pset_Shared", HasProperties=[self.single("Stone", "Label", "granite")])
        kind = self.root("WallType", Name="Thick wall", HasPropertySets=[shared], PredefinedType="SOLIDWALL")
        self.root("RelDefinesByType", RelatedObjects=[self.wall], RelatingType=kind)
        self.say(self.single("Outside", "Boolean", False))
        self.wall.Tag = "W-7"
        found = self.details()
        self.assertEqual(list(found), ["Identity", "Pset_WallCommon", "Pset_Shared"])
        identity = found["Identity"]
        self.assertEqual((identity["Type"], identity["Tag"]), ("Thick wall", "W-7"))
        self.assertEqual(identity["Entity"], f"#{self.wall.id()}=IfcWall")
        self.assertEqual(identity["Global id"], self.wall.GlobalId)

    def test_a_set_that_says_nothing_is_not_shown(self) -> None:
        self.say(name="Pset_Empty")
        self.assertEqual(list(self.details()), ["Identity"])


class Materials(Told):
    def names(self, material: Any) -> tuple[str, ...]:
        self.root("RelAssociatesMaterial", RelatedObjects=[self.wall], RelatingMaterial=material)
        return Looks(self.file, Asker("IFC4")).tags(self.wall, "IfcWall", None).materials

    def layers(self, *names: str) -> Any:
        return self.make(
            "MaterialLayerSet",
            MaterialLayers=[
                self.make("MaterialLayer", Material=self.make("Material", Name=name), LayerThickness=0.1)
                for name in names
            ],
        )

    def test_every_way_to_say_it(self) -> None:
        stone, slate = (self.make("Material", Name=name) for name in ("Stone", "Slate"))
        profile = self.make(
            "MaterialProfile", Material=slate, Profile=self.make("CircleProfileDef", ProfileType="AREA", Radius=1.0)
        )
        profiles = self.make("MaterialProfileSet", MaterialProfiles=[profile])
        for material, wanted in (
            (stone, ("Stone",)),
            (self.layers("Lime", "Stone", "Lime"), ("Lime", "Stone")),
            (self.make("MaterialLayerSetUsage", ForLayerSet=self.layers("Tar"), LayerSetDirection="AXIS2", DirectionSense="POSITIVE", OffsetFromReferenceLine=0.0), ("Tar",)),
            (profiles, ("Slate",)),
            (self.make("MaterialProfileSetUsage", ForProfileSet=profiles), ("Slate",)),
            (self.make("MaterialConstituentSet", MaterialConstituents=[self.make("MaterialConstituent", Material=m) for m in (stone, slate)]), ("Stone", "Slate")),
            (self.make("MaterialList", Materials=[slate, stone]), ("Slate", "Stone")),
        ):  # fmt: skip
            with self.subTest(material.is_a()):
                self.assertEqual(self.names(material), wanted)
                for relation in self.file.by_type("IfcRelAssociatesMaterial"):
                    self.file.remove(relation)

    def test_its_own_comes_before_its_types(self) -> None:
        kind = self.root("WallType", Name="Thick wall", PredefinedType="SOLIDWALL")
        self.root("RelDefinesByType", RelatedObjects=[self.wall], RelatingType=kind)
        of_type = self.make("Material", Name="Brick")
        self.root("RelAssociatesMaterial", RelatedObjects=[kind], RelatingMaterial=of_type)
        looks = Looks(self.file, Asker("IFC4"))
        self.assertEqual(looks.tags(self.wall, "IfcWall", None).materials, ("Brick",))
        self.assertEqual(self.names(self.make("Material", Name="Stone")), ("Stone",))


class Trees(Told):
    def tree(self) -> list[tuple[str, int]]:
        ask = Asker("IFC4")
        return [(node.name, node.parent) for node in build_tree(self.file, Looks(self.file, ask), ask).nodes]

    def test_what_hangs_nowhere_stands_at_the_end(self) -> None:
        project = self.root("Project", Name="Gull Rock")
        storey = self.root("BuildingStorey", Name="Ground floor")
        self.root("RelAggregates", RelatingObject=project, RelatedObjects=[storey])
        door = self.root("Door")
        self.root("RelContainedInSpatialStructure", RelatingStructure=storey, RelatedElements=[door])
        self.assertEqual(
            self.tree(), [("Gull Rock", -1), ("Ground floor", 0), (f"Door #{door.id()}", 1), ("North wall", -1)]
        )

    def test_things_that_contain_each_other_stand_once(self) -> None:
        other = self.root("Slab", Name="Slab")
        for upper, lower in ((self.wall, other), (other, self.wall)):
            self.root("RelAggregates", RelatingObject=upper, RelatedObjects=[lower])
        self.assertEqual(sorted(name for name, _ in self.tree()), ["North wall", "Slab"])


class Sick(Told):
    def place(self, above: Any = None) -> Any:
        return self.make("LocalPlacement", PlacementRelTo=above, RelativePlacement=None)

    def test_a_placement_that_goes_round_is_named_and_what_shares_the_way_to_it(self) -> None:
        good, first = self.place(), self.place()
        second = self.place(first)
        first.PlacementRelTo = second
        products = [
            self.root("Slab", ObjectPlacement=where) for where in (good, self.place(good), first, self.place(second))
        ]
        found = sick([*products, self.wall], [], Asker("IFC4"))
        self.assertEqual(found, dict.fromkeys((item.id() for item in products[2:]), STANDS_ON_ITSELF))

    def test_what_shares_its_shape_with_one_to_leave_out_is_left_out(self) -> None:
        source = self.make("RepresentationMap", MappedRepresentation=self.make("ShapeRepresentation", Items=[]))

        def shown() -> Any:
            item = self.make("MappedItem", MappingSource=source)
            shape = self.make("ShapeRepresentation", RepresentationIdentifier="Body", Items=[item])
            return self.make("ProductDefinitionShape", Representations=[shape])

        one, two = (self.root("Window", Representation=shown()) for _ in range(2))
        found = sick([one, two, self.wall], [one.id()], Asker("IFC4"))
        self.assertEqual(found, {one.id(): BROUGHT_DOWN, two.id(): BROUGHT_DOWN})


if __name__ == "__main__":
    unittest.main()
