"""Four things that came to Gull Rock with size, orientation or place wrong: a davit in the wrong unit, a shed on its side,
a signal house at map coordinates, a name board whose drawing has no unit."""

from pathlib import Path
from typing import Any

import ezdxf
import numpy as np

from demo import davit
from demo.building import Building, Spot
from hemp_ladder.core.ship.glb import GlbWriter

#: Where the harbour's survey has the signal house, in metres.
SURVEYED: Spot = (412_318.25, 238_207.5, 4.2)
#: The board, in the millimetres that its drawing does not name: 2.4 m by 0.52 m, two bolts 2.22 m apart.
BOARD = (2400.0, 520.0, 2220.0)
Block = tuple[str, str, tuple[float, float, float], tuple[float, float, float]]


def write_davit(path: Path) -> None:
    """Its numbers are millimetres, and the file says inches."""
    davit.build(davit.INCH * davit.INCH).write(path, unit="INCH")


def write_shed(path: Path) -> None:
    """Modelled with Z up and written as if it were Y: it lies on its back. In metres."""
    shed: list[Block] = [
        ("Floor", "Deal", (3.6, 4.8, 0.12), (0, 0, 0)), ("Back wall", "Tar", (3.6, 0.1, 2.2), (0, 4.7, 0.12)),
        ("Left wall", "Tar", (0.1, 4.6, 2.2), (0, 0.1, 0.12)), ("Right wall", "Tar", (0.1, 4.6, 2.2), (3.5, 0.1, 0.12)),
        ("Front wall left", "Tar", (1.2, 0.1, 2.2), (0, 0, 0.12)), ("Front wall right", "Tar", (1.2, 0.1, 2.2), (2.4, 0, 0.12)),
        ("Door", "Lime wash", (1.16, 0.05, 2.05), (1.22, 0.02, 0.14)), ("Roof", "Tin", (4.0, 5.2, 0.08), (-0.2, -0.2, 2.32)),
        ("Mooring post", "Tar", (0.18, 0.18, 1.1), (-0.9, 0.6, 0)),
    ]  # fmt: skip
    colours = {
        "Deal": (0.58, 0.4, 0.22),
        "Tar": (0.03, 0.026, 0.022),
        "Lime wash": (0.8, 0.75, 0.63),
        "Tin": (0.32, 0.36, 0.38),
    }
    writer = GlbWriter()
    writer.json["materials"] = [
        {"name": name, "pbrMetallicRoughness": {"baseColorFactor": [*colour, 1.0], "metallicFactor": 0.0, "roughnessFactor": 0.8}}
        for name, colour in colours.items()
    ]  # fmt: skip
    numbers = {name: number for number, name in enumerate(colours)}
    writer.json["meshes"] = [_block(writer, name, size, numbers[colour]) for name, colour, size, _ in shed]
    writer.json["nodes"] = [
        {"name": name, "mesh": number, "translation": list(at)} for number, (name, _, _, at) in enumerate(shed)
    ]
    writer.json["scenes"], writer.json["scene"] = [{"nodes": list(range(len(shed)))}], 0
    head = writer.head()
    with path.open("wb") as file:
        writer.write(file, head)


def _block(writer: GlbWriter, name: str, size: tuple[float, float, float], material: int) -> dict[str, Any]:
    spots, normals, triangles = [], [], []
    for axis in range(3):
        for side in (0, 1):
            first, second = (axis + 1) % 3, (axis + 2) % 3
            start = len(spots)
            for u, v in ((0, 0), (1, 0), (1, 1), (0, 1)) if side else ((0, 0), (0, 1), (1, 1), (1, 0)):
                spot = [0.0, 0.0, 0.0]
                spot[axis], spot[first], spot[second] = side * size[axis], u * size[first], v * size[second]
                spots.append(spot)
                normals.append([float(2 * side - 1) if k == axis else 0.0 for k in range(3)])
            triangles += [[start, start + 1, start + 2], [start, start + 2, start + 3]]
    attributes = writer.vertices(np.array(spots), {"normal": np.array(normals, np.float32)})
    indices = writer.indices(np.array(triangles, np.int32), len(spots))
    return {"name": name, "primitives": [{"attributes": attributes, "indices": indices, "material": material}]}


def signal_house() -> Building:
    """Four walls under a pyramid, where the survey has it."""
    house = Building("IFC4", "Signal house", at=SURVEYED)
    wash, slate, oak = (
        house.style("Lime wash", "#e8e1d2"),
        house.style("Slate", "#5b626b"),
        house.style("Oak", "#8a6742"),
    )
    floor = house.storey("Signal floor", 0.0)
    slab = house.paint(house.block(4.4, 4.4, 0.2, (-0.2, -0.2, -0.2)), slate)
    house.put("IfcSlab", "Signal floor slab", floor, [slab], "Floors", material="Slate flags")
    walls: list[tuple[str, float, float, Spot]] = [
        ("South wall", 1.5, 0.3, (0, 0, 0)), ("South wall beside the door", 1.5, 0.3, (2.5, 0, 0)), ("North wall", 4.0, 0.3, (0, 3.7, 0)),
        ("West wall", 0.3, 3.4, (0, 0.3, 0)), ("East wall", 0.3, 3.4, (3.7, 0.3, 0)),
    ]  # fmt: skip
    for name, long, deep, at in walls:
        body = house.paint(house.block(long, deep, 2.6), wash)
        house.put("IfcWall", name, floor, [body], "Walls", at, material="Granite rubble")
    leaf = house.paint(house.block(0.98, 0.05, 2.05), oak)
    house.put("IfcDoor", "Signal house door", floor, [leaf], "Doors", (1.51, 0.12, 0), material="Oak")
    corners: list[Spot] = [(-0.3, -0.3, 2.6), (4.3, -0.3, 2.6), (4.3, 4.3, 2.6), (-0.3, 4.3, 2.6), (2, 2, 4.4)]
    cap = house.faceted(corners, [(3, 2, 1, 0), (0, 1, 4), (1, 2, 4), (2, 3, 4), (3, 0, 4)])
    house.put("IfcRoof", "Cap", floor, [house.paint(cap, slate)], "Roofs", material="Slate")
    return house


def write_board(path: Path) -> None:
    """The outline of a name board with its two bolts, in a drawing that names no unit."""
    ezdxf.options.write_fixed_meta_data_for_testing = True
    doc = ezdxf.new("R2010", units=0)
    doc.header["$INSUNITS"] = 0
    doc.layers.add("Board", color=32)
    space = doc.modelspace()
    long, high, bolts = BOARD
    end = 90.0
    outline = [(end, 0, 0), (long - end, 0, 0.4142135623730951), (long, end, 0), (long, high - end, 0.4142135623730951),
               (long - end, high, 0), (end, high, 0.4142135623730951), (0, high - end, 0), (0, end, 0.4142135623730951)]  # fmt: skip
    space.add_lwpolyline(outline, format="xyb", close=True, dxfattribs={"layer": "Board"})
    for x in ((long - bolts) / 2, (long + bolts) / 2):
        space.add_circle((x, high / 2), 14, dxfattribs={"layer": "Board"})
    doc.saveas(path)
