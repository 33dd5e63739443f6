"""The keepers' house on the quay of Gull Rock, as IFC4 in metres: invented, three storeys and a winding stair."""

import math
from typing import Any

from demo.building import Building, Spot

#: Outer length and depth of the house, and how thick its stone walls are.
LONG, DEEP, WALL = 9.0, 7.0, 0.36
#: Floor levels and clear heights of the storeys.
STOREYS = {"Ground floor": (0.0, 2.9), "Upper floor": (2.9, 2.7), "Loft": (5.6, 3.0)}
TOWER: Spot = (9.35, 6.65, 0.0)
TOWER_HEIGHT = 7.4
EAST, NORTH, LEVEL, TURN = 412_300.0, 238_200.0, 4.2, 17.5


def build() -> Building:
    """The whole house with its quay."""
    house = Building("IFC4", "Keepers' house")
    house.on_map(EAST, NORTH, LEVEL, TURN, "Gull Rock harbour grid")
    looks = {
        name: house.style(name, colour, clear)
        for name, colour, clear in (
            ("Lime wash", "#e8e1d2", 0.0), ("Slate", "#5b626b", 0.0), ("Window paint", "#f4f4ef", 0.0),
            ("Window glass", "#bcd7d8", 0.7), ("Oak", "#8a6742", 0.0), ("Granite", "#8f8b85", 0.0),
            ("Zinc", "#b9bdbb", 0.0), ("Deal", "#c9a877", 0.0),
        )
    }  # fmt: skip
    levels = {name: house.storey(name, level) for name, (level, _) in STOREYS.items()}
    stone = house.layers_of(
        "Stone wall, rendered", [("Lime render", 0.02), ("Granite rubble", 0.32), ("Plaster", 0.02)]
    )
    sash = house.constituents("Sash window", ["Softwood", "Float glass"])
    window = _window(house, looks)
    for name in ("Ground floor", "Upper floor"):
        _storey(house, looks, levels[name], name, stone, sash, window)
    _loft(house, looks, levels["Loft"], stone)
    _stair(house, looks, levels["Ground floor"], stone)
    _quay(house, looks)
    return house


def _window(house: Building, looks: dict[str, Any]) -> tuple[Any, Any]:
    """A sash window of 0.9 by 1.3 m: frame and bars in one colour, panes in another."""
    bars = [
        house.block(0.9, 0.09, 0.06), house.block(0.9, 0.09, 0.06, (0, 0, 1.24)), house.block(0.06, 0.09, 1.18, (0, 0, 0.06)),
        house.block(0.06, 0.09, 1.18, (0.84, 0, 0.06)), house.block(0.78, 0.06, 0.04, (0.06, 0.015, 0.63)),
    ]  # fmt: skip
    panes = [house.block(0.78, 0.012, 0.57, (0.06, 0.04, z)) for z in (0.06, 0.67)]
    items = [house.paint(bar, looks["Window paint"]) for bar in bars]
    items += [house.paint(pane, looks["Window glass"]) for pane in panes]
    return house.type("IfcWindowType", "Sash 0.9 x 1.3", items, "Windows and doors")


def _storey(
    house: Building, looks: dict[str, Any], storey: Any, name: str, stone: str, sash: str, window: tuple[Any, Any]
) -> None:
    height = STOREYS[name][1]
    slab = house.block(LONG, DEEP, 0.25, (0, 0, -0.25))
    house.put(
        "IfcSlab",
        f"Floor, {name.lower()}",
        storey,
        [house.paint(slab, looks["Deal"])],
        "Floors",
        material="Timber boards",
    )
    sides: list[tuple[str, Spot, float, float]] = [
        ("South", (0, 0, 0), 0, LONG), ("North", (LONG, DEEP, 0), 180, LONG),
        ("West", (0, DEEP - WALL, 0), -90, DEEP - 2 * WALL), ("East", (LONG, WALL, 0), 90, DEEP - 2 * WALL),
    ]  # fmt: skip
    for side, at, turn, length in sides:
        body = house.paint(house.block(length, WALL, height), looks["Lime wash"])
        places = [length * share - 0.45 for share in ((0.2, 0.5, 0.8) if side in ("South", "North") else (0.35,))]
        doorway = side == "South" and name == "Ground floor"
        gross = length * WALL * height
        holes = [0.9 * 1.3 * WALL] * len(places)
        if doorway:
            holes[1] = 1.0 * 2.1 * WALL
        wall = house.put(
            "IfcWall", f"{side} wall, {name.lower()}", storey, [body], "Walls", at, turn, stone,
            {
                "Pset_WallCommon": {"Reference": "W36", "IsExternal": True, "LoadBearing": True, "ThermalTransmittance": 0.62},
                "Qto_WallBaseQuantities": {"Length": length, "Height": height, "GrossVolume": gross, "NetVolume": gross - sum(holes)},
            },
        )  # fmt: skip
        for number, x in enumerate(places):
            if doorway and number == 1:
                opening = house.hole(wall, house.block(1.0, WALL + 0.2, 2.1), (x, -0.1, 0))
                leaf = [house.paint(house.block(0.98, 0.05, 2.08, (0.01, 0, 0)), looks["Oak"])]
                leaf.append(
                    house.paint(
                        house.turned([(0, 0), (0.03, 0), (0.03, 0.02), (0, 0.02)], (0.88, -0.03, 1.0)), looks["Zinc"]
                    )
                )
                door = house.put(
                    "IfcDoor",
                    "Front door",
                    storey,
                    leaf,
                    "Windows and doors",
                    _in(at, turn, (x, 0.12, 0)),
                    turn,
                    "Oak",
                )
                house.fill(opening, door)
                continue
            opening = house.hole(wall, house.block(0.9, WALL + 0.2, 1.3), (x, -0.1, 0.85))
            placed = house.put(
                "IfcWindow", f"{side} window {number + 1}, {name.lower()}", storey, window, "", _in(at, turn, (x, 0.1, 0.85)), turn, sash,
            )  # fmt: skip
            house.fill(opening, placed)
    room = house.block(LONG - 2 * WALL, DEEP - 2 * WALL, height - 0.05, (WALL, WALL, 0))
    space = house.put(
        "IfcSpace", {"Ground floor": "Day room", "Upper floor": "Bunk room"}[name], storey, [room], "Rooms"
    )
    space.LongName = "Keepers' watch below" if name == "Upper floor" else "Kitchen and table"


def _in(at: Spot, turn: float, inside: Spot) -> Spot:
    """A place in a turned wall, in its storey."""
    angle = math.radians(turn)
    x = at[0] + inside[0] * math.cos(angle) - inside[1] * math.sin(angle)
    y = at[1] + inside[0] * math.sin(angle) + inside[1] * math.cos(angle)
    return (x, y, at[2] + inside[2])


def _loft(house: Building, looks: dict[str, Any], storey: Any, stone: str) -> None:
    slab = house.block(LONG, DEEP, 0.25, (0, 0, -0.25))
    house.put("IfcSlab", "Floor, loft", storey, [house.paint(slab, looks["Deal"])], "Floors", material="Timber boards")
    middle, eaves = DEEP / 2, -0.35
    for name, x in (("West", 0.0), ("East", LONG - WALL)):
        axes = house.axes((x, 0, 0), z=(1, 0, 0), x=(0, 1, 0))
        gable = house.extrude([(0, 0), (DEEP, 0), (middle, 2.75)], WALL, axes)
        house.put("IfcWall", f"{name} gable", storey, [house.paint(gable, looks["Lime wash"])], "Walls", material=stone)
    roof = house.put("IfcRoof", "Slate roof", storey, [])
    for name, start in (("South", eaves), ("North", DEEP - eaves)):
        low = (start, eaves * 2.75 / middle)
        outline = [low, (middle, 2.75), (middle, 2.95), (low[0], low[1] + 0.2)]
        axes = house.axes((-0.3, 0, 0), z=(1, 0, 0), x=(0, 1, 0))
        plane = house.extrude(outline if name == "South" else outline[::-1], LONG + 0.6, axes)
        house.put(
            "IfcSlab",
            f"{name} roof plane",
            roof,
            [house.paint(plane, looks["Slate"])],
            "Roof",
            material="Slate on boards",
        )
    stack = house.block(0.7, 0.7, 2.3, (1.6, middle - 0.35, 1.9))
    pots = [house.drum(0.14, 0.45, 0.02, (x, middle, 4.2)) for x in (1.8, 2.1)]
    house.put(
        "IfcChimney",
        "Chimney",
        storey,
        [house.paint(item, looks["Granite"]) for item in (stack, *pots)],
        "Roof",
        material="Granite",
    )
    pipe = house.type(
        "IfcPipeSegmentType",
        "Downpipe 80",
        [house.paint(house.rod([(0, 0, 0), (0, 0, 5.35)], 0.04), looks["Zinc"])],
        "Services",
    )
    for x, y in ((-0.06, -0.06), (LONG + 0.06, -0.06), (-0.06, DEEP + 0.06)):
        house.put("IfcPipeSegment", "Downpipe", storey, pipe, "", (x, y, -5.6), material="Zinc")


def _stair(house: Building, looks: dict[str, Any], storey: Any, stone: str) -> None:
    """A round tower at the corner with a winding stair: curved wall, cone roof, treads of one type, a bent rail."""
    tube = house.drum(1.6, TOWER_HEIGHT, 0.3)
    wall = house.put(
        "IfcWall", "Stair tower wall", storey, [house.paint(tube, looks["Lime wash"])], "Walls", TOWER, 0, stone,
        {"Qto_WallBaseQuantities": {"Height": TOWER_HEIGHT, "GrossVolume": math.pi * (1.6**2 - 1.3**2) * TOWER_HEIGHT}},
    )  # fmt: skip
    for turn, level in ((20.0, 1.6), (80.0, 3.6), (140.0, 5.4)):
        x, y = 1.45 * math.cos(math.radians(turn)), 1.45 * math.sin(math.radians(turn))
        house.hole(
            wall,
            house.block(0.9, 0.3, 0.8, (0, 0, 0), turn),
            (x - 0.45 * math.cos(math.radians(turn)), y - 0.45 * math.sin(math.radians(turn)), level),
        )
    cap = house.turned([(0, 0), (1.85, 0), (0, 2.2)], (TOWER[0], TOWER[1], TOWER_HEIGHT))
    house.put("IfcRoof", "Tower cap", storey, [house.paint(cap, looks["Slate"])], "Roof", material="Slate on boards")
    stair = house.put("IfcStair", "Winding stair", storey, [], at=TOWER)
    newel = house.paint(house.drum(0.12, TOWER_HEIGHT - 0.3), looks["Oak"])
    house.put("IfcColumn", "Newel post", stair, [newel], "Stair", material="Oak")
    step = 22.0
    wide = [(1.25 * math.cos(math.radians(a)), 1.25 * math.sin(math.radians(a))) for a in (0, step / 2, step + 2)]
    tread = house.type(
        "IfcMemberType",
        "Tread",
        [house.paint(house.extrude([(0.1, 0), *wide, (0.1, 0.05)], 0.05), looks["Oak"])],
        "Stair",
    )
    for number in range(28):
        house.put("IfcMember", "Tread", stair, tread, "", (0, 0, 0.2 * (number + 1)), number * step, "Oak")
    rail = house.paint(house.bend((0, 0, 6.6), 1.15, 20, 250, 0.025), looks["Zinc"])
    house.put("IfcRailing", "Landing rail", stair, [rail], "Stair", material="Zinc")


def _quay(house: Building, looks: dict[str, Any]) -> None:
    """The quay before the house; its bollards have neither colour nor material, and one stands there twice."""
    bed = house.block(26, 5, 1.2, (-6, -7.5, -1.45))
    house.put(
        "IfcBuildingElementProxy", "Quay", house.site, [house.paint(bed, looks["Granite"])], "Site", material="Granite"
    )
    neck = [(0, 0), (0.22, 0), (0.22, 0.08), (0.12, 0.16), (0.11, 0.4), (0.2, 0.5), (0.2, 0.58), (0, 0.62)]
    bollard = house.type("IfcBuildingElementProxyType", "Bollard", [house.turned(neck)], "")
    for x in (-4.0, 1.0, 6.0, 11.0, 16.0, 16.0):
        house.put("IfcBuildingElementProxy", "Bollard", house.site, bollard, "", (x, -6.9, -0.25))
    for number, (x, y) in enumerate(((-6, -8), (20, -8), (20, 9), (-6, 9)), 1):
        post = house.drum(0.03, 1.4, None)
        house.put(
            "IfcBuildingElementProxy",
            f"Survey post {number}",
            house.site,
            [house.paint(post, looks["Zinc"])],
            "Survey",
            (x, y, -0.25),
            material="Zinc",
        )
    house.off("Survey")
