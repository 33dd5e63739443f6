"""Drawings: units and arcs by the reference, blocks against the library's own unfolding, what cannot be read."""

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
from ezdxf.acis.api import body_from_mesh, export_dxf
from ezdxf.math import Matrix44
from ezdxf.render.forms import cube, cylinder

from hemp_ladder.core.climb import climb, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.drawn.curves import polyline
from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.join import as_joined
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.offers import take_offer
from hemp_ladder.core.receive.dxf.chain import chained
from hemp_ladder.core.receive.dxf.units import INSUNITS
from hemp_ladder.core.receive.review import review
from tests.support import ROOT, FolderCase, FollowedHere, read_kept

DRAWING = ROOT / "demo" / "site-drawing.dxf"
#: A drawing by another system, from a package of the npm registry.
REAL = ROOT / "web" / "node_modules" / "three-dxf" / "sample" / "data" / "demo.dxf"


class DxfCase(FolderCase):
    def draw(self, fill: Callable[[Any, Any], None], version: str = "R2010", units: int = 6, fmt: str = "asc") -> Path:
        doc = ezdxf.new(version)
        doc.header["$INSUNITS"] = units
        fill(doc, doc.modelspace())
        path = self.folder / f"a-{version}-{fmt}.dxf"
        doc.saveas(path, fmt=fmt)
        return path

    def read(self, fill: Callable[[Any, Any], None], **how: Any) -> tuple[Model, Any]:
        return read_kept(self.draw(fill, **how))

    def codes(self, model: Model) -> list[str]:
        return [item.code for item in review(model)]

    def placed(self, model: Model, kept: Any, **decided: Any) -> list[tuple[Any, Mesh, np.ndarray]]:
        """(part, mesh, placement in metres) of everything that enters."""
        base = {"facet": {"chord": {"kind": "absolute", "metres": 1e-4}, "degrees": 3}}
        result = climb(model, Decisions.model_validate({**base, **decided}), FollowedHere(kept.shapes))
        world = result.fitted.placements()
        found = []
        for row, part in zip(result.sorted.placements, result.sorted.parts, strict=True):
            made = result.mesh_of(int(part))
            if made is not None:
                found.append((result.model.parts[part], made, world[row]))
        return found

    def volumes(self, model: Model, kept: Any, **decided: Any) -> list[float]:
        """Each closed and facing outward where it stands, mirrored or not."""
        found = []
        for part, made, matrix in self.placed(model, kept, **decided):
            self.assertTrue(made.watertight and made.volume() > 0, part.ref)
            found.append(made.volume() * abs(float(np.linalg.det(matrix[:3, :3]))))
        return sorted(found)


def heights(**layers: float) -> dict[str, Any]:
    rows = [{"by": "layer", "match": name, "height": height} for name, height in layers.items()]
    return {"receive": {"drawn": {"rows": rows}}}


class Units(DxfCase):
    def test_the_published_table(self) -> None:
        # DXF reference, HEADER, $INSUNITS: 0 unitless to 24 US survey mile.
        told = {1: 0.0254, 2: 0.3048, 3: 1609.344, 4: 1e-3, 5: 1e-2, 6: 1, 7: 1e3, 8: 2.54e-8, 9: 2.54e-5, 10: 0.9144, 11: 1e-10,
                12: 1e-9, 13: 1e-6, 14: 0.1, 15: 10, 16: 100, 17: 1e9, 18: 1.495978707e11, 19: 9.4607304725808e15,
                20: 3.0856775814913673e16, 21: 1200 / 3937, 22: 100 / 3937, 23: 3600 / 3937, 24: 5280 * 1200 / 3937}  # fmt: skip
        self.assertEqual(INSUNITS.keys(), told.keys())
        for number, metres in told.items():
            self.assertAlmostEqual(float(INSUNITS[number]) / metres, 1, places=12, msg=str(number))

    def test_declared_undeclared_and_odd(self) -> None:
        for units, code, finding in (
            (4, "mm", None),
            (0, None, "unit-missing"),
            (14, "dm", None),
            (15, None, "unit-odd"),
            (2, "ft", None),
        ):
            model, _ = self.read(lambda d, s: s.add_circle((0, 0), 10, dxfattribs={"thickness": 1}), units=units)
            self.assertEqual(model.unit, code)
            self.assertEqual([c for c in self.codes(model) if c.startswith("unit")], [finding] if finding else [])


class Shapes(DxfCase):
    def test_outlines_with_thickness_are_solid_and_open_ones_stand(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            space.add_circle((5, 5), 2, dxfattribs={"thickness": 3})
            space.add_lwpolyline([(20, 0), (24, 0), (24, 3), (20, 3)], close=True, dxfattribs={"thickness": -2})
            space.add_lwpolyline([(30, 0), (34, 0), (34, 3)], dxfattribs={"thickness": 2})

        model, kept = self.read(fill)
        found = {part.ref.split()[1]: made for part, made, _ in self.placed(model, kept)}
        self.assertAlmostEqual(found["circle"].volume(), math.pi * 4 * 3, delta=0.01)
        box = next(m for p, m, _ in self.placed(model, kept) if "polyline" in p.ref)
        self.assertAlmostEqual(box.volume(), 24, places=6)
        self.assertAlmostEqual(box.positions[:, 2].min(), -2)
        ribbon = found["1"]
        self.assertFalse(ribbon.watertight)
        self.assertAlmostEqual(ribbon.area(), 14, places=6)

    def test_bulges_widths_and_hatches(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            space.add_lwpolyline([(0, 0, 0, 0, 1), (10, 0, 0, 0, 1)], close=True, dxfattribs={"layer": "Disk"})
            space.add_lwpolyline([(0, 20), (10, 20)], dxfattribs={"const_width": 2, "layer": "Wide"})
            space.add_lwpolyline([(0, 30, 2, 4), (10, 30, 4, 4)], format="xyse", dxfattribs={"layer": "Taper"})
            hatch = space.add_hatch(dxfattribs={"layer": "Hatch"})
            hatch.paths.add_polyline_path([(0, 40), (10, 40), (10, 50), (0, 50)], is_closed=True)
            edge = hatch.paths.add_edge_path()
            edge.add_arc((5, 45), 3, 0, 180)
            edge.add_line((2, 45), (8, 45))
            space.add_solid([(0, 60), (4, 60), (0, 64), (4, 64)], dxfattribs={"layer": "Solid"})

        model, kept = self.read(fill)
        layers = {"Disk": 1.0, "Wide": 1.0, "Taper": 1.0, "Hatch": 1.0, "Solid": 1.0}
        found = {part.layer: made.volume() for part, made, _ in self.placed(model, kept, **heights(**layers))}
        self.assertAlmostEqual(found["Disk"], math.pi * 25, delta=0.02)
        self.assertAlmostEqual(found["Wide"], 20, places=4)
        self.assertAlmostEqual(found["Taper"], 30, places=4)
        self.assertAlmostEqual(found["Hatch"], 100 - math.pi * 4.5, delta=0.01)
        self.assertAlmostEqual(found["Solid"], 16, places=4)

    def test_loose_lines_that_meet_are_an_outline_and_a_gap_is_told(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            for start, end in (
                ((0, 0), (4, 0)),
                ((4, 3), (4, 0)),
                ((4, 3), (0, 3)),
                ((0, 0), (0, 3)),
                ((0, 3), (4, 3)),
            ):
                space.add_line(start, end, dxfattribs={"layer": "A"})
            space.add_lwpolyline([(10, 0), (14, 0), (14, 3), (10, 3), (10, 0.05)], dxfattribs={"layer": "B"})

        model, kept = self.read(fill)
        found = {item.code: item for item in review(model)}
        self.assertIn("50.0 mm", found["nearly-closed"].message)
        self.assertIn("1 line lies", found["doubled-lines"].message)
        rows = [{"by": "all", "height": 1.0}]
        self.assertEqual(len(self.volumes(model, kept, receive={"drawn": {"rows": rows}})), 1)
        closed = self.volumes(model, kept, receive={"drawn": {"rows": rows, "close": 0.06}})
        np.testing.assert_allclose(closed, [12, 12], rtol=1e-6)

    def test_where_three_meet_nothing_is_guessed(self) -> None:
        lines = [
            polyline(pair, False) for pair in ([(0, 0), (1, 0)], [(1, 0), (2, 0)], [(1, 0), (1, 1)], [(2, 0), (3, 3)])
        ]
        self.assertEqual(sorted(len(path.segments) for path in chained(lines)[0]), [1, 1, 2])

    def test_an_extrusion_direction_turns_the_plane(self) -> None:
        # Arbitrary axis algorithm: along -Z the X axis is mirrored, along X the plane's X is the world's Y.
        def fill(doc: Any, space: Any) -> None:
            space.add_circle((5, 2), 1, dxfattribs={"thickness": 2, "extrusion": (0, 0, -1)})
            space.add_circle((5, 2), 1, dxfattribs={"thickness": 2, "extrusion": (1, 0, 0)})

        model, kept = self.read(fill)
        boxes = []
        for _, made, matrix in self.placed(model, kept):
            points = made.positions @ matrix[:3, :3].T + matrix[:3, 3]
            boxes.append(np.round([points.min(axis=0), points.max(axis=0)], 2).tolist())
        self.assertEqual(boxes, [[[-6, 1, -2], [-4, 3, 0]], [[0, 4, 1], [2, 6, 3]]])

    def test_curves_in_a_leaning_plane_are_extruded_across_it(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            # A square of 10 that leans by a slope of 3 in 4, and a spline in the same plane; one that is bent.
            corners = [(0, 0, 0), (10, 0, 0), (10, 8, 6), (0, 8, 6)]
            space.add_polyline3d(corners, close=True, dxfattribs={"layer": "L"})
            space.add_open_spline(corners, dxfattribs={"layer": "S"})
            space.add_polyline3d([*corners[:3], (0, 8, 7)], close=True, dxfattribs={"layer": "B"})

        model, kept = self.read(fill)
        self.assertEqual(model.leftovers, {"curve out of plane": 1})
        (_, made, matrix), *_ = self.placed(model, kept, **heights(L=2.0))
        self.assertAlmostEqual(made.volume(), 200, places=6)
        points = made.positions @ matrix[:3, :3].T + matrix[:3, 3]
        # It rises by 2 across the plane: 2 * 0.6 backwards and 2 * 0.8 up.
        np.testing.assert_allclose(points.min(axis=0), [0, -1.2, 0], atol=1e-9)
        np.testing.assert_allclose(points.max(axis=0), [10, 8, 7.6], atol=1e-9)

    def test_faces_meshes_and_bodies(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            cube().render_mesh(space, dxfattribs={"layer": "Mesh"})
            cube().translate(5, 0, 0).render_polyface(space, dxfattribs={"layer": "Poly"})
            cube().translate(9, 0, 0).render_3dfaces(space, dxfattribs={"layer": "Faces"})
            body = space.add_3dsolid(dxfattribs={"layer": "Body"})
            export_dxf(body, [body_from_mesh(cube().scale(2, 3, 4))])
            curved = space.add_3dsolid(dxfattribs={"layer": "Gone"})
            export_dxf(curved, [body_from_mesh(cube())])
            curved.sat = [line.replace("plane-surface", "cone-surface") for line in curved.sat]
            smooth = space.add_mesh(dxfattribs={"layer": "Smooth"})
            with smooth.edit_data() as data:
                shape = cylinder(8)
                data.vertices, data.faces = list(shape.vertices), list(shape.faces)
            smooth.dxf.subdivision_levels = 2

        model, kept = self.read(fill)
        found = {part.layer: made for part, made, _ in self.placed(model, kept)}
        for layer, volume in (("Mesh", 1), ("Poly", 1), ("Faces", 1), ("Body", 24)):
            self.assertTrue(found[layer].watertight, layer)
            self.assertAlmostEqual(found[layer].volume(), volume, places=6, msg=layer)
        told = {item.code: item.message for item in model.findings}
        self.assertIn("1 3DSOLID", told["unread-bodies"])
        self.assertIn("level 2", told["smooth-mesh"])


class Blocks(DxfCase):
    def fill(self, doc: Any, space: Any) -> None:
        doc.layers.add("Red", color=1)
        doc.layers.add("Blue", color=5)
        inner = doc.blocks.new("Inner", base_point=(1, 0))
        inner.add_lwpolyline([(0, 0), (3, 0), (3, 1), (1, 1, 0, 0, 0.4)], close=True, dxfattribs={"thickness": 1})
        inner.add_circle((1, 1, 2), 0.5, dxfattribs={"thickness": 1, "color": 0})
        inner.add_circle((2, 2), 0.25, dxfattribs={"thickness": 1, "layer": "Blue"})
        outer = doc.blocks.new("Outer")
        outer.add_blockref("Inner", (2, 1), dxfattribs={"xscale": -1, "rotation": 30, "color": 0})
        outer.add_blockref(
            "Inner", (5, 1), dxfattribs={"xscale": 2, "yscale": 0.5, "zscale": 3, "layer": "Blue", "color": 3}
        )
        space.add_blockref("Outer", (10, 10), dxfattribs={"layer": "Red", "rotation": 45, "yscale": -1.5, "color": 6})
        space.add_blockref("Outer", (30, 10, 2), dxfattribs={"layer": "Blue", "extrusion": (0, 0, -1)})

    def test_places_agree_with_the_library(self) -> None:
        """Against the library's own unfolding of nested, mirrored and uneven inserts, circle by circle."""
        path = self.draw(self.fill)
        wanted = []

        def unfold(entities: Any, above: Matrix44) -> None:
            for entity in entities:
                if entity.dxftype() == "INSERT":
                    # A product of matrices of the library's reads from the left.
                    unfold(entity.block(), entity.matrix44() * above)
                elif entity.dxftype() == "CIRCLE":
                    wanted.append([round(v, 6) for v in above.transform(entity.dxf.center).xyz])

        unfold(ezdxf.readfile(path).modelspace(), Matrix44())
        model, kept = read_kept(path)
        got = []
        for part, made, matrix in self.placed(model, kept):
            if "circle" in part.ref:
                low = (made.positions.min(axis=0) + made.positions.max(axis=0)) / 2 * [1, 1, 0]
                got.append([round(float(v), 6) for v in matrix[:3, :3] @ low + matrix[:3, 3]])
        for mine, theirs in zip(sorted(got), sorted(wanted), strict=True):
            np.testing.assert_allclose(mine, theirs, atol=2e-3)

    def test_every_solid_is_closed_and_faces_outward(self) -> None:
        model, kept = self.read(self.fill)
        volumes = self.volumes(model, kept)
        self.assertEqual(len(volumes), 12)
        base = self.volumes(*self.read(lambda d, s: s.add_circle((0, 0), 0.25, dxfattribs={"thickness": 1})))[0]
        # 1.5 for the outer insert's stretch, 3 for the uneven one's.
        for factor in (1, 1.5, 3, 4.5):
            self.assertTrue(any(abs(v / base - factor) < 1e-3 for v in volumes), factor)

    def test_layer_and_colour_come_down_through_inserts(self) -> None:
        # DXF reference: layer 0 and colour 0 (by block) are the insert's, 256 (by layer) the colour of the layer it is on.
        model, _ = self.read(self.fill)
        looks: dict[str, set[tuple[str | None, str]]] = {}
        for part in model.parts:
            kind = "small" if part.box[1, 0] < 0.6 else "round" if "circle" in part.ref else "plate"
            looks.setdefault(kind, set()).add((part.layer, part.colour.hex if part.colour else ""))
        red, blue, green, magenta = "#ff0000", "#0000ff", "#00ff00", "#ff00ff"
        self.assertEqual(looks["plate"], {("Red", red), ("Blue", blue)})
        self.assertEqual(looks["round"], {("Red", magenta), ("Blue", green), ("Blue", blue)})
        self.assertEqual(looks["small"], {("Blue", blue)})

    def test_true_colour_off_and_frozen_layers(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            doc.layers.add("Off").off()
            doc.layers.add("Ice").freeze()
            for layer in ("Off", "Ice", "On"):
                space.add_circle(
                    (0, 0), 1, dxfattribs={"layer": layer, "thickness": 1, "true_color": 0x336699, "color": 1}
                )

        model, _ = self.read(fill)
        self.assertEqual({part.colour.hex for part in model.parts if part.colour}, {"#336699"})
        self.assertEqual(sorted(model.hidden), ["Ice", "Off"])
        self.assertIn("hidden-layers", self.codes(model))

    def test_a_frozen_layer_hides_all_in_the_blocks_on_it_and_one_that_is_off_does_not(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            doc.layers.add("Ice").freeze()
            doc.layers.add("Off").off()
            inner, outer = doc.blocks.new("Inner"), doc.blocks.new("Outer")
            inner.add_circle((0, 0), 1, dxfattribs={"layer": "Posts", "thickness": 1})
            outer.add_blockref("Inner", (0, 0), dxfattribs={"layer": "Walls"})
            for x, layer in ((0, "Ice"), (10, "Off"), (20, "Walls")):
                space.add_blockref("Outer", (x, 0), dxfattribs={"layer": layer})

        model, _ = self.read(fill)
        columns = as_joined(model).columns
        self.assertEqual([columns.layers[code] for code in columns.layer], ["Ice", "Posts", "Posts"])
        self.assertEqual(model.hidden, ["Ice"])
        found = next(item for item in review(model) if item.code == "hidden-layers")
        decided = take_offer(as_joined(model), Decisions(), found.offers[0])
        self.assertEqual(len(plan(model, decided).taken.rows), 2)

    def test_circles_missing_blocks_and_multitudes(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            one, two = doc.blocks.new("One"), doc.blocks.new("Two")
            one.add_circle((0, 0), 1, dxfattribs={"thickness": 1})
            one.add_blockref("Two", (0, 0))
            two.add_blockref("One", (0, 0))
            space.add_blockref("One", (0, 0))
            space.add_blockref("Nowhere", (0, 0))
            for k in range(9):
                block = doc.blocks.new(f"B{k}")
                for i in range(10):
                    block.add_blockref(f"B{k + 1}", (i, 0))
            doc.blocks.new("B9").add_circle((0, 0), 1, dxfattribs={"thickness": 1})
            space.add_blockref("B1", (0, 0))

        model, _ = self.read(fill)
        told = " ".join(item.message for item in model.findings if item.code == "unplaced-blocks")
        for word in ("contains itself", "Nowhere", "400,000"):
            self.assertIn(word, told)


class Files(DxfCase):
    def test_versions_and_forms_give_the_same(self) -> None:
        def fill(doc: Any, space: Any) -> None:
            space.add_circle((5, 5), 2, dxfattribs={"thickness": 3, "layer": "L"})
            space.add_line((0, 0), (1, 1))

        keys = set()
        for version, fmt in (("R12", "asc"), ("R12", "bin"), ("R2000", "asc"), ("R2004", "bin"), ("R2018", "asc")):
            model, _ = self.read(fill, version=version, fmt=fmt)
            keys.add(tuple(part.key for part in model.parts))
        self.assertEqual(len(keys), 1)

    def test_what_is_no_surface_is_counted_and_other_layouts_are_named(self) -> None:
        model, _ = read_kept(DRAWING)
        self.assertEqual(model.leftovers, {"point": 5, "text": 6})
        found = {item.code: item for item in review(model)}
        self.assertIn("Layout1", found["other-layouts"].message)
        self.assertIn("24.0 mm", found["nearly-closed"].message)

    def test_a_drawing_of_another_system(self) -> None:
        model, kept = read_kept(REAL)
        theirs = ezdxf.readfile(REAL).modelspace()
        texts = len(theirs.query("TEXT MTEXT"))
        self.assertEqual(model.leftovers["text"], texts)
        self.assertEqual(model.unit, "mm")
        closed = [e for e in theirs.query("LWPOLYLINE POLYLINE") if e.is_closed] + list(theirs.query("CIRCLE"))
        self.assertGreaterEqual(sum(1 for p in model.parts if p.drawn and p.drawn.closed), len(closed))
        rows = {"receive": {"drawn": {"rows": [{"by": "all", "height": 0.01}]}}}
        self.assertTrue(all(v > 0 for v in self.volumes(model, kept, **rows)))

    def test_a_damaged_file_is_put_in_order_or_refused(self) -> None:
        whole = DRAWING.read_bytes()
        path = self.folder / "cut.dxf"
        begins = whole.index(b"ENTITIES")
        path.write_bytes(whole[: (begins + whole.index(b"ENDSEC", begins)) // 2])
        model, _ = read_kept(path)
        self.assertIn("cut-short", [item.code for item in model.findings])
        self.assertTrue(model.parts)
        path.write_bytes(whole[:200])
        with self.assertRaises(UnreadableSource):
            read_kept(path)

    def test_a_line_that_is_lost_doubled_or_spoiled_costs_one_thing(self) -> None:
        whole = DRAWING.read_text().split("\n")
        parts = len(read_kept(DRAWING)[0].parts)
        path = self.folder / "spoiled.dxf"
        header, circle = whole.index("$DIMTXT"), whole.index("CIRCLE")
        layer = whole.index("LAYER", whole.index("TABLE"))
        for name, lines in {
            "a value of the header lost": [*whole[: header + 2], *whole[header + 3 :]],
            "a variable doubled": [*whole[: header + 1], *whole[header:]],
            "a variable without a name": [*whole[:header], "#1", *whole[header + 1 :]],
            "a code of a circle lost": [*whole[: circle + 1], *whole[circle + 2 :]],
            "words for a radius": [*whole[: circle + 9], "wide", *whole[circle + 10 :]],
            "a code of a layer cut": [*whole[: layer + 3], "", *whole[layer + 4 :]],
        }.items():
            with self.subTest(name):
                path.write_text("\n".join(lines))
                model, _ = read_kept(path)
                self.assertGreaterEqual(len(model.parts), parts - 2)  # one thing, in a block under two looks
                (found,) = [item for item in model.findings if item.code == "recovered"]
                self.assertIn("mended or lost", found.message)
