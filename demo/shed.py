"""The boat shed of Gull Rock, as IFC2x3 in feet and inches, where its survey put it: far from the origin."""

from typing import Any

from demo.building import Building, Spot

INCH = 1 / 12
LONG, WIDE, EAVES, RIDGE = 24.0, 14.0, 8.5, 13.0
#: Where the survey has the shed's corner, in feet.
SURVEYED: Spot = (1_352_720.0, 781_530.0, 11.0)


def build() -> Building:
    """The whole shed with its boat."""
    shed = Building("IFC2X3", "Boat shed", foot=True, at=SURVEYED)
    looks = {
        name: shed.style(name, colour, clear)
        for name, colour, clear in (
            ("Tar", "#2e2b28", 0.0), ("Tin", "#9aa3a6", 0.0), ("Boat green", "#2f6b52", 0.0),
            ("Concrete", "#b3aea4", 0.0), ("Varnish", "#a8703a", 0.0),
        )
    }  # fmt: skip
    floor, loft = shed.storey("Shed floor", 0.0), shed.storey("Sail loft", EAVES)
    slab = shed.paint(shed.block(LONG, WIDE, 0.5, (0, 0, -0.5)), looks["Concrete"])
    shed.put("IfcSlab", "Shed slab", floor, [slab], "Slab", material="Concrete")
    ramp = shed.paint(
        shed.extrude(
            [(0, 0), (0, -0.5), (18, -4.0), (18, -3.5)], 10, shed.axes((LONG, 12, 0), z=(0, -1, 0), x=(1, 0, 0))
        ),
        looks["Concrete"],
    )
    shed.put("IfcSlab", "Slipway", floor, [ramp], "Slab", material="Concrete")
    post = shed.type(
        "IfcColumnType", "Post 6x6", [shed.paint(shed.block(6 * INCH, 6 * INCH, EAVES), looks["Tar"])], "Frame"
    )
    for x in (0.0, 8.0, 16.0, LONG - 6 * INCH):
        for y in (0.0, WIDE - 6 * INCH):
            shed.put("IfcColumn", "Post 6x6", floor, post, "", (x, y, 0), material="Pitch pine")
    board = shed.type(
        "IfcMemberType", "Board 1x10", [shed.paint(shed.block(LONG, 1 * INCH, 9.5 * INCH), looks["Tar"])], "Boarding"
    )
    for y in (-1 * INCH, WIDE):
        for number in range(10):
            shed.put("IfcMember", "Board 1x10", floor, board, "", (0, y, number * 10 * INCH), material="Pitch pine")
    for name, x in (("Land", 0.0), ("Sea", LONG - 0.25)):
        axes = shed.axes((x, 0, 0), z=(1, 0, 0), x=(0, 1, 0))
        gable = shed.extrude([(0, 0), (WIDE, 0), (WIDE / 2, RIDGE - EAVES)], 0.25, axes)
        shed.put(
            "IfcWallStandardCase",
            f"{name} gable",
            loft,
            [shed.paint(gable, looks["Tar"])],
            "Boarding",
            material="Pitch pine",
        )
    roof = shed.put("IfcRoof", "Tin roof", loft, [])
    roof.ShapeType = "GABLE_ROOF"
    rise = RIDGE - EAVES
    for name, outline in (
        ("North", [(WIDE / 2, rise), (WIDE + 1, -rise / 7), (WIDE + 1, 0.1 - rise / 7), (WIDE / 2, rise + 0.1)]),
        ("South", [(-1, -rise / 7), (WIDE / 2, rise), (WIDE / 2, rise + 0.1), (-1, 0.1 - rise / 7)]),
    ):
        sheet = shed.extrude(outline, LONG + 2, shed.axes((-1, 0, 0), z=(1, 0, 0), x=(0, 1, 0)))
        shed.put(
            "IfcSlab", f"{name} roof sheet", roof, [shed.paint(sheet, looks["Tin"])], "Roof", material="Corrugated tin"
        ).PredefinedType = "ROOF"
    leaf = shed.type("IfcDoorStyle", "Leaf 5x8", [shed.paint(shed.block(5.0, 2 * INCH, 8.0), looks["Tar"])], "Doors")
    for y, turn in ((2.0, 90.0), (12.0, -90.0)):
        shed.put("IfcDoor", "Shed door", floor, leaf, "", (LONG, y, 0), turn, "Pitch pine")
    _boat(shed, looks, floor)
    rack = shed.block(4.0, 6 * INCH, 2 * INCH)
    shed.put("IfcBuildingElementProxy", "", loft, [rack], "", (4, 5, 1)).CompositionType = "ELEMENT"
    return shed


def _boat(shed: Building, looks: dict[str, Any], floor: Any) -> None:
    """A small boat of flat planks, its sail spread to dry (an open sheet), and two oars."""
    hull: list[Spot] = [
        (0, 0, 2.2),
        (5, -2.4, 2.0),
        (10, -1.8, 2.3),
        (10, 1.8, 2.3),
        (5, 2.4, 2.0),
        (1.5, 0, 0.4),
        (5, -1.2, 0.2),
        (9.5, -1, 0.4),
        (9.5, 1, 0.4),
        (5, 1.2, 0.2),
    ]
    faces = [
        (0, 5, 6), (0, 6, 1), (1, 6, 7), (1, 7, 2), (2, 7, 8), (2, 8, 3), (3, 8, 9), (3, 9, 4), (4, 9, 5), (4, 5, 0),
        (5, 9, 6), (6, 9, 8), (6, 8, 7), (0, 1, 4), (1, 2, 3), (1, 3, 4),
    ]  # fmt: skip
    shed.put(
        "IfcFurnishingElement",
        "Dinghy",
        floor,
        [shed.paint(shed.faceted(hull, faces), looks["Boat green"])],
        "Gear",
        (7, 7, 0.3),
        material="Larch",
    )
    sail: list[Spot] = [(0, 0, 7), (5, 0.6, 6.2), (9, 0.4, 3.2), (4, 0.2, 2.8)]
    cloth = shed.faceted(sail, [(0, 3, 1), (1, 3, 2)], closed=False)
    shed.put(
        "IfcFurnishingElement",
        "Drying sail",
        floor,
        [shed.paint(cloth, looks["Concrete"])],
        "Gear",
        (6, 1.2, 0),
        material="Canvas",
    )
    oar = shed.type(
        "IfcFurnitureType",
        "Oar",
        [shed.paint(shed.rod([(0, 0, 0), (8.5, 0, 0)], 1.1 * INCH), looks["Varnish"])],
        "Gear",
    )
    for y in (12.6, 12.9):
        shed.put("IfcFurnishingElement", "Oar", floor, oar, "", (8, y, 5 + y - 12.6), material="Ash")
