"""A large assembly to measure on: 300 parts, 3,000 placements, more than 25 MB of STEP. Invented, and the same each time."""

import math
import random
from collections.abc import Callable
from pathlib import Path

from OCP.TopoDS import TopoDS_Shape

from demo.document import Assembly
from demo.shapes import box, cut, cylinder, extrude, fillet, line, pipe, place, revolve, revolve_edges, spline

PARTS, TIMES = 300, 10


def write_assembly(path: Path) -> Path:
    """Write the assembly unless it is there."""
    return scatter(path, _part, random.Random(11), "Plant", "Bay", layers=12, reach=(9e3, 4e3))


def scatter(
    path: Path,
    make: Callable[[int, random.Random], tuple[str, TopoDS_Shape]],
    dice: random.Random,
    whole: str,
    row: str,
    layers: int,
    reach: tuple[float, float],
) -> Path:
    """Write an assembly of 300 parts unless it is there: `make` tells each one's name and shape, each stands ten times
    within `reach` (to either side and up, in millimetres), thirty parts to a group called `row` and a number."""
    if path.exists():
        return path
    path.parent.mkdir(parents=True, exist_ok=True)
    side, up = reach
    site = Assembly()
    root = site.group(whole)
    for number in range(PARTS):
        name, shape = make(number, dice)
        colour = f"#{dice.randrange(0x40, 0xE0):02x}{dice.randrange(0x40, 0xE0):02x}{dice.randrange(0x40, 0xE0):02x}"
        part = site.part(f"{name} {number}", shape, f"Layer {number % layers}", colour)
        where = [
            place(dice.uniform(-side, side), dice.uniform(-side, side), dice.uniform(0, up), dice.uniform(0, 360))
            for _ in range(TIMES)
        ]
        if number % 30 == 0:
            group = site.group(f"{row} {number // 30}")
            site.put(root, group, name=f"{row} {number // 30}")
        site.put(group, part, where)
    site.write(path)
    return path


def _part(number: int, dice: random.Random) -> tuple[str, TopoDS_Shape]:
    """One of five kinds, no two alike."""
    kind = number % 5
    size = dice.uniform(60, 240)
    if kind == 0:
        plate = fillet(box(size * 2, size * 1.4, size * 0.2), size * 0.04)
        holes = [
            cylinder(size * 0.1, size, (size * (0.5 * i - 0.5), size * (0.32 * j - 0.32), -size * 0.4))
            for i in range(3)
            for j in range(3)
        ]
        return "Sieve", cut(plate, *holes)
    if kind == 1:
        teeth = 9 + number % 6
        outline = [
            (size * r * math.cos(a), size * r * math.sin(a), 0.0)
            for k in range(teeth)
            for s, r in ((0.0, 0.9), (0.3, 0.9), (0.42, 1.0), (0.58, 1.0), (0.7, 0.9))
            for a in [2 * math.pi * (k + s) / teeth]
        ]
        return "Wheel", cut(extrude(outline, (0, 0, size * 0.3)), cylinder(size * 0.3, size, (0, 0, -size * 0.2)))
    if kind == 2:
        wall = [(size * (0.5 + 0.1 * math.sin(i * 1.1 + number)), 0.0, i * size * 0.12) for i in range(12)]
        return "Vase", revolve_edges([
            spline(wall), line(wall[-1], (0, 0, wall[-1][2])), line((0, 0, wall[-1][2]), (0, 0, 0)), line((0, 0, 0), wall[0])
        ])  # fmt: skip
    if kind == 3:
        path = [(i * size * 0.4, size * 0.3 * math.sin(i + number), size * 0.2 * math.cos(i * 0.7)) for i in range(8)]
        return "Pipe", pipe(spline(path), path[0], (1, 0.6, 0), size * 0.07)
    steps = [(size * (0.4 + 0.05 * (i % 3)), i * size * 0.1) for i in range(20)]
    return "Spindle", revolve([(0, 0), *steps, (0, steps[-1][1])])
