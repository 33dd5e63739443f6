"""The site drawing of Gull Rock, as DXF: drawn in millimetres, and saying no unit, as such drawings come.

Blocks in blocks, one of them mirrored and one stretched, layers that are off
and frozen, hatches, splines, widths, loose lines that meet, and a garden
wall that does not quite close.
"""

import math
from pathlib import Path
from typing import Any

import ezdxf
from ezdxf.acis.api import body_from_mesh, export_dxf
from ezdxf.render.forms import cube

#: Name, colour of the index, whether it is off.
LAYERS = [
    ("Quay", 8, False), ("House walls", 1, False), ("Garden wall", 32, False), ("Moorings", 5, False),
    ("Water", 140, False), ("Rails", 9, False), ("Steps", 253, False), ("Rocks", 42, False), ("Crates", 40, False),
    ("Survey", 6, True), ("Notes", 7, False),
]  # fmt: skip
#: The house outside and inside, in millimetres: ten metres by seven, walls of half a metre, with a round stair tower.
HOUSE = (14_000.0, 12_000.0, 10_000.0, 7_000.0, 500.0)
GAP = 24.0


def write(path: Path) -> None:
    """Write the drawing; the same bytes each time."""
    ezdxf.options.write_fixed_meta_data_for_testing = True
    doc = ezdxf.new("R2010", units=0)
    doc.header["$INSUNITS"] = 0
    doc.header["$MEASUREMENT"] = 1
    for name, colour, off in LAYERS:
        layer = doc.layers.add(name, color=colour)
        if off:
            layer.off()
    doc.layers.add("Old quay", color=250).freeze()
    space = doc.modelspace()
    _blocks(doc)
    _ground(space)
    _house(space)
    _moorings(space)
    _bodies(space)
    _notes(doc, space)
    doc.saveas(path)


def _blocks(doc: Any) -> None:
    bollard = doc.blocks.new("Bollard")
    bollard.add_circle((0, 0), 180, dxfattribs={"thickness": 650})
    bollard.add_circle((0, 0, 650), 260, dxfattribs={"thickness": 120, "color": 0})
    cleat = doc.blocks.new("Cleat")
    cleat.add_lwpolyline(
        [(-300, -60), (300, -60, 0, 0, 1), (300, 60), (-300, 60, 0, 0, 1)], close=True,
        dxfattribs={"thickness": 180, "layer": "Rails"},
    )  # fmt: skip
    pair = doc.blocks.new("Mooring")
    pair.add_blockref("Bollard", (0, 0))
    pair.add_blockref("Bollard", (2400, 0), dxfattribs={"color": 0})
    pair.add_blockref("Cleat", (1200, 350), dxfattribs={"rotation": 15})
    pair.add_lwpolyline([(-400, -400), (2800, -400), (2800, -300), (-400, -300)], close=True)


def _ground(space: Any) -> None:
    quay = [(0, 0), (42_000, 0, 0, 0, 0.35), (42_000, 9_000), (30_000, 9_000), (30_000, 26_000), (0, 26_000)]
    space.add_lwpolyline(quay, close=True, dxfattribs={"layer": "Quay"})
    water = space.add_hatch(color=256, dxfattribs={"layer": "Water", "elevation": (0, 0, -1_800)})
    edge = water.paths.add_edge_path()
    edge.add_line((30_000, 26_000), (30_000, 9_000))
    edge.add_line((30_000, 9_000), (56_000, 9_000))
    edge.add_spline(
        control_points=[(56_000, 9_000), (61_000, 15_000), (50_000, 21_000), (54_000, 29_000), (44_000, 33_000), (30_000, 26_000)],
        degree=3, knot_values=[0, 0, 0, 0, 1, 2, 3, 3, 3, 3],
    )  # fmt: skip
    water.paths.add_polyline_path([(44_000, 16_000, 1), (48_000, 16_000, 1)], is_closed=True, flags=16)
    for number, drop in enumerate((0, 400, 900)):
        x = 36_000 + 600 * number
        space.add_spline(
            [
                (x, 30_500 + 2 * drop, -drop),
                (x + 4_500, 32_600 + 2 * drop, -drop),
                (x + 9_000, 33_400 + 2 * drop, -drop),
                (x + 15_000, 31_000 + 2 * drop, -drop),
            ],
            dxfattribs={"layer": "Rocks"},
        )
    space.add_lwpolyline(
        [(1_000, 1_000), (28_500, 1_000)], dxfattribs={"layer": "Rails", "const_width": 90, "thickness": 140}
    )
    space.add_lwpolyline(
        [(1_000, 2_400), (28_500, 2_400)], dxfattribs={"layer": "Rails", "const_width": 90, "thickness": 140}
    )
    for step in range(6):
        low, x = -300 * step, 30_000 + 320 * step
        corners = [
            (x, 10_000, low - 300),
            (x + 320, 10_000, low - 300),
            (x, 12_400, low - 300),
            (x + 320, 12_400, low - 300),
        ]
        space.add_solid(corners, dxfattribs={"layer": "Steps", "thickness": 300})
    space.add_lwpolyline(
        [(-1_500, -1_500), (10_000, -1_500), (10_000, -400), (-1_500, -400)],
        close=True,
        dxfattribs={"layer": "Old quay"},
    )


def _house(space: Any) -> None:
    """Loose lines and an arc that meet end to end, and a garden wall that nearly does."""
    x, y, long, wide, wall = HOUSE
    layer = {"layer": "House walls"}
    tower = 1_600.0
    outer = [(x, y), (x + long, y), (x + long, y + wide), (x, y + wide)]
    middle = (x, y + wide / 2)
    lines = [
        (outer[0], outer[1]), (outer[1], outer[2]), (outer[3], outer[2]),
        (outer[3], (x, middle[1] + tower)), ((x, middle[1] - tower), outer[0]),
    ]  # fmt: skip
    for start, end in lines:
        space.add_line(start, end, dxfattribs=layer)
    space.add_arc(middle, tower, 90, 270, dxfattribs=layer)
    inner = [
        (x + wall, y + wall),
        (x + long - wall, y + wall),
        (x + long - wall, y + wide - wall),
        (x + wall, y + wide - wall),
    ]
    for start, end in zip(inner, [*inner[1:], inner[0]], strict=True):
        space.add_line(end, start, dxfattribs=layer)
    space.add_circle(middle, tower - wall, dxfattribs=layer)
    garden = [(3_000, 11_000), (11_000, 11_000), (11_000, 20_000), (3_000, 20_000), (3_000, 11_000 + GAP)]
    space.add_lwpolyline(garden, dxfattribs={"layer": "Garden wall"})


def _moorings(space: Any) -> None:
    layer = {"layer": "Moorings"}
    space.add_blockref("Mooring", (4_000, 24_500), dxfattribs=layer)
    # Mirrored, and with a colour of its own for what is drawn by block.
    space.add_blockref("Mooring", (22_000, 24_500), dxfattribs={**layer, "xscale": -1, "color": 30})
    space.add_blockref("Mooring", (40_500, 2_500), dxfattribs={**layer, "rotation": 90, "xscale": 1.5, "yscale": 0.8})
    space.add_blockref(
        "Bollard", (1_200, 6_000), dxfattribs={**layer, "row_count": 3, "row_spacing": 6_000, "column_count": 1}
    )


def _bodies(space: Any) -> None:
    for number, (x, y, turn) in enumerate(((24_000, 4_500, 10), (25_600, 4_900, 35), (24_700, 4_700, 22))):
        crate = cube().scale_uniform(1_100).rotate_z(math.radians(turn)).translate(x, y, 1_750 + 1_100 * (number == 2))
        body = space.add_3dsolid(dxfattribs={"layer": "Crates"})
        export_dxf(body, [body_from_mesh(crate)])
    rock = [
        (45_000, 30_000, -1_800), (48_000, 29_000, -1_800), (49_500, 31_500, -1_800), (46_500, 33_000, -1_800), (47_000, 31_000, 900),
    ]  # fmt: skip
    for first, second in ((0, 1), (1, 2), (2, 3), (3, 0)):
        space.add_3dface([rock[first], rock[second], rock[4], rock[4]], dxfattribs={"layer": "Rocks"})
    space.add_3dface([rock[3], rock[2], rock[1], rock[0]], dxfattribs={"layer": "Rocks"})


def _notes(doc: Any, space: Any) -> None:
    for number in range(5):
        space.add_point((6_000 * number, 27_500), dxfattribs={"layer": "Survey"})
        space.add_text(f"S{number + 1}", height=350, dxfattribs={"layer": "Survey"}).set_placement(
            (6_000 * number, 27_700)
        )
    space.add_text("Gull Rock: quay and keepers' house", height=600, dxfattribs={"layer": "Notes"}).set_placement(
        (0, -3_000)
    )
    paper = doc.layout("Layout1")
    paper.add_text("Sheet 1", height=5)
    paper.add_lwpolyline([(0, 0), (420, 0), (420, 297), (0, 297)], close=True)
