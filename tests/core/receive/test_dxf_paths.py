"""Whole drawings against the paths that the library itself makes of them: how long the lines of each layer are, and
how far they reach, through blocks in blocks that are mirrored, turned, leaning and stretched."""

import math
import random
from collections import defaultdict
from typing import Any

import ezdxf
import numpy as np
from ezdxf.disassemble import make_primitive
from ezdxf.math import Matrix44

from hemp_ladder.core.drawn.flatten import Fineness, flatten
from hemp_ladder.core.drawn.shape import read_drawn
from hemp_ladder.core.model.join import as_joined
from hemp_ladder.core.model.model import Model
from tests.core.receive.test_dxf import REAL, DxfCase
from tests.support import ROOT, read_kept

#: Lines of both are within this of the curves, in drawing units; the library's own arcs are Beziers, which are off by
#: up to three in ten thousand.
_CHORD = 1e-5
_NO_CURVES = ("TEXT", "MTEXT", "ATTDEF", "DIMENSION", "POINT", "IMAGE", "VIEWPORT", "3DFACE")
LAYERS = [f"L{k}" for k in range(6)]
Told = dict[str, tuple[float, np.ndarray]]


def told(lines: dict[str, list[np.ndarray]]) -> Told:
    """By layer: length over all, and the box (2, 3)."""
    found = {}
    for layer, runs in lines.items():
        long = sum(float(np.linalg.norm(np.diff(run, axis=0), axis=1).sum()) for run in runs)
        points = np.concatenate(runs)
        found[layer] = long, np.array([points.min(axis=0), points.max(axis=0)])
    return found


def theirs(doc: Any) -> Told:
    """Every block's paths by the library, taken where they lie by its matrices; its own unfolding cannot shear."""
    lines = defaultdict(list)

    def unfold(entities: Any, above: Matrix44, around: str = "0") -> None:
        for entity in entities:
            layer = around if entity.dxf.layer == "0" else entity.dxf.layer
            if entity.dxftype() == "INSERT":
                for one in entity.multi_insert() if entity.mcount > 1 else [entity]:
                    # A product of matrices of the library's reads from the left.
                    unfold(one.block(), one.matrix44() * above, layer)
                continue
            path = make_primitive(entity).path
            if path is None or not len(path) or entity.dxftype() in _NO_CURVES:
                continue
            for one in path.sub_paths() if path.has_sub_paths else [path]:
                points = above.transform_vertices(one.flattening(_CHORD))
                lines[layer].append(np.array([v.xyz for v in points]))

    unfold(doc.modelspace(), Matrix44())
    return told(lines)


def ours(model: Model, kept: Any) -> Told:
    lines = defaultdict(list)
    world = as_joined(model).world()
    for node, matrix in zip(model.nodes, world, strict=True):
        part = model.parts[node.part] if node.part >= 0 else None
        if part is None or part.drawn is None:
            continue
        for path in read_drawn(kept.shapes[part.key]).subpaths:
            points = flatten(path, Fineness(_CHORD / 10, 0.05))
            if path.closed:
                points = np.concatenate([points, points[:1]])
            whole = np.column_stack([points, np.zeros(len(points))])
            lines[part.layer or "0"].append(whole @ matrix[:3, :3].T + matrix[:3, 3])
    return told(lines)


class Agreement(DxfCase):
    def check(self, mine: Told, other: Told, closeness: float = 6e-4) -> None:
        self.assertEqual(set(mine), set(other))
        for layer, (long, box) in other.items():
            size = float(np.ptp(box, axis=0).max())
            with self.subTest(layer):
                self.assertLess(abs(mine[layer][0] - long), closeness * long)
                np.testing.assert_allclose(mine[layer][1], box, atol=closeness * size + 10 * _CHORD)

    def scatter(self, dice: random.Random, space: Any, count: int, leaning: bool = True) -> None:
        """Curves of every kind, each in its own place, so that none lies on another or meets it."""
        for _ in range(count):
            x, y = dice.uniform(0, 100), dice.uniform(0, 100)
            on: dict[str, Any] = {"layer": dice.choice(LAYERS)}
            if leaning and dice.random() < 0.3:
                on["extrusion"] = dice.choice([(0, 0, -1), (1, 0, 0), (1, 2, 3)])
            kind = dice.choice(["circle", "arc", "bulges", "ellipse", "spline", "old", "solid"])
            if kind == "circle":
                space.add_circle((x, y, dice.uniform(0, 5)), dice.uniform(0.1, 3), dxfattribs=on)
            elif kind == "arc":
                space.add_arc((x, y), dice.uniform(0.5, 3), dice.uniform(0, 360), dice.uniform(0, 360), dxfattribs=on)
            elif kind == "bulges":
                points = [(x + dice.uniform(0, 4), y + dice.uniform(0, 4), dice.uniform(-1.5, 1.5)) for _ in range(5)]
                space.add_lwpolyline(points, "xyb", close=dice.random() < 0.5, dxfattribs=on)
            elif kind == "ellipse":
                on.pop("extrusion", None)
                space.add_ellipse(
                    (x, y), (dice.uniform(1, 3), dice.uniform(-2, 2)), dice.uniform(0.1, 1), dice.uniform(0, 3),
                    dice.uniform(3.1, 6), dxfattribs=on,
                )  # fmt: skip
            elif kind == "spline":
                on.pop("extrusion", None)
                control = [(x + dice.uniform(0, 6), y + dice.uniform(0, 6), 1) for _ in range(dice.randint(4, 9))]
                if dice.random() < 0.5:
                    space.add_open_spline(control, degree=3, dxfattribs=on)
                else:
                    weights = [dice.uniform(0.5, 3) for _ in control]
                    space.add_rational_spline(control, weights, degree=3, dxfattribs=on)
            elif kind == "old":
                points = [(x + dice.uniform(0, 4), y + dice.uniform(0, 4)) for _ in range(4)]
                space.add_polyline2d(points, close=dice.random() < 0.5, dxfattribs=on)
            else:
                space.add_solid([(x, y), (x + 2, y), (x, y + 1), (x + 2, y + 1)], dxfattribs=on)

    def test_curves_of_every_kind(self) -> None:
        for seed in range(6):
            dice = random.Random(seed)
            path = self.draw(lambda doc, space, dice=dice: self.scatter(dice, space, 120))  # type: ignore[misc]
            with self.subTest(seed=seed):
                self.check(ours(*read_kept(path)), theirs(ezdxf.readfile(path)))

    def test_blocks_in_blocks(self) -> None:
        for seed in range(6):
            dice = random.Random(100 + seed)

            def fill(doc: Any, space: Any, dice: random.Random = dice) -> None:
                # An uneven scale makes an ellipse of a circle only in the circle's own plane.
                for level in range(3):
                    block = doc.blocks.new(f"B{level}", base_point=(dice.uniform(-3, 3), dice.uniform(-3, 3)))
                    self.scatter(dice, block, 12, leaning=False)
                    if level:
                        self.insert(dice, block, f"B{level - 1}", 2)
                self.insert(dice, space, "B2", 4)

            path = self.draw(fill)
            with self.subTest(seed=seed):
                self.check(ours(*read_kept(path)), theirs(ezdxf.readfile(path)), 2e-3)

    def insert(self, dice: random.Random, space: Any, name: str, count: int) -> None:
        for _ in range(count):
            x, y = (dice.choice([-1, 1]) * dice.uniform(0.3, 2) for _ in range(2))
            where = (dice.uniform(0, 300), dice.uniform(0, 300), dice.uniform(0, 10))
            like = {"xscale": x, "yscale": y, "zscale": dice.uniform(0.5, 2), "rotation": dice.uniform(0, 360),
                    "layer": dice.choice(LAYERS)}  # fmt: skip
            if dice.random() < 0.3:
                like["extrusion"] = (0, 0, -1)
            space.add_blockref(name, where, dxfattribs=like)

    def test_arrays_of_inserts(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            block = doc.blocks.new("Post")
            block.add_circle((1, 0), 0.5, dxfattribs={"layer": "L1"})
            block.add_lwpolyline([(0, 0), (2, 0), (2, 1)], close=True, dxfattribs={"layer": "L2"})
            like = {"row_count": 3, "column_count": 4, "row_spacing": 5, "column_spacing": 7, "rotation": 30}
            space.add_blockref("Post", (10, 20), dxfattribs=like)

        path = self.draw(fill)
        found = ours(*read_kept(path))
        self.check(found, theirs(ezdxf.readfile(path)), 2e-3)
        self.assertAlmostEqual(found["L1"][0], 12 * math.pi, places=2)

    def test_boundaries_of_hatches(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            hatch = space.add_hatch(dxfattribs={"layer": "L1"})
            hatch.paths.add_polyline_path([(0, 0), (10, 0, 0.5), (10, 10), (0, 10)], is_closed=True)
            edges = hatch.paths.add_edge_path()
            edges.add_line((2, 2), (5, 2))
            edges.add_arc((5, 4), 2, -90, 90)
            edges.add_line((5, 6), (2, 6))
            edges.add_ellipse((2, 4), (0, 2), 0.5, 0, 180)
            other = space.add_hatch(dxfattribs={"layer": "L2", "extrusion": (0, 0, -1), "elevation": (0, 0, 3)})
            other.paths.add_polyline_path([(20, 0), (25, 0), (25, 5)], is_closed=True)

        path = self.draw(fill)
        self.check(ours(*read_kept(path)), theirs(ezdxf.readfile(path)))

    def test_the_demo_and_a_drawing_of_another_system(self) -> None:
        # Of lines with a width the library makes no path: in the demo, two rails of 27.5 m.
        for path in (REAL, ROOT / "demo" / "site-drawing.dxf"):
            mine, other = ours(*read_kept(path)), theirs(ezdxf.readfile(path))
            self.assertLessEqual(set(mine), set(other))
            for layer, (long, _) in mine.items():
                wide = 55_000 if layer == "Rails" else 0
                with self.subTest(path.name, layer=layer):
                    self.assertLess(abs(long - wide - other[layer][0]), 2e-3 * long)


del DxfCase  # its own tests are those of the module it comes from
