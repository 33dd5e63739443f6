"""Areas and prisms: strokes, fill rules, rings and thin walls against closed forms."""

import math
import unittest
from typing import Any

import numpy as np

from hemp_ladder.core.chain.steps import Job
from hemp_ladder.core.drawn.curves import circle, polyline
from hemp_ladder.core.drawn.make import make_solids
from hemp_ladder.core.drawn.shape import Area, Shape, Stroke, read_drawn, write_drawn
from hemp_ladder.core.drawn.solid import Other, Solid
from hemp_ladder.core.drawn.step import Solidify
from hemp_ladder.core.mesh.mesh import Mesh

SQUARE = polyline([(0, 0), (10, 0), (10, 10), (0, 10)], True)
LINE = polyline([(0, 0), (10, 0)], False)
ANGLE = polyline([(0, 0), (10, 0), (10, 10)], False)


def mesh(
    shape: Shape, besides: list[Shape] | None = None, chord: float = 1e-4, angle: float = 0.05, **solid: Any
) -> Mesh:
    data = [write_drawn(item) for item in besides or []]
    step = Solidify(chord=chord, angle=angle, solid=Solid(**{"height": 2.0, **solid}))
    return make_solids([Job(step, [write_drawn(shape), *data])])[0]


def area(shape: Shape, besides: list[Shape] | None = None, **solid: Any) -> float:
    """By the volume of the prism, which must be closed and face outward."""
    made = mesh(shape, besides, **solid)
    assert made.watertight and made.volume() > 0
    return made.volume() / 2.0


class Strokes(unittest.TestCase):
    """SVG 2, chapter 13: areas of caps, joins and dashes in closed form."""

    def line(self, *paths: Any, **pen: Any) -> float:
        return area(Shape(tuple(paths), stroke=Stroke(2.0, **pen)))

    def test_a_stroked_circle_is_an_annulus(self) -> None:
        self.assertAlmostEqual(self.line(circle(0, 0, 10)), math.pi * (11**2 - 9**2), delta=2e-3)

    def test_caps(self) -> None:
        self.assertAlmostEqual(self.line(LINE), 20, places=4)
        self.assertAlmostEqual(self.line(LINE, cap="round"), 20 + math.pi, delta=1e-3)
        self.assertAlmostEqual(self.line(LINE, cap="square"), 24, places=4)

    def test_a_dot_is_a_circle_or_a_square_by_its_cap(self) -> None:
        dot = polyline([(5, 5)], False)
        self.assertAlmostEqual(self.line(dot, cap="round"), math.pi, delta=1e-3)
        self.assertAlmostEqual(self.line(dot, cap="square"), 4, delta=1e-3)
        self.assertEqual(len(mesh(Shape((dot,), stroke=Stroke(2.0))).triangles), 0)

    def test_joins(self) -> None:
        # Two arms of 20 share a square of 1 inside the bend; outside it a join adds 1, pi/4 or a half.
        self.assertAlmostEqual(self.line(ANGLE), 40, places=4)
        self.assertAlmostEqual(self.line(ANGLE, join="round"), 39 + math.pi / 4, delta=1e-3)
        self.assertAlmostEqual(self.line(ANGLE, join="bevel"), 39.5, places=4)

    def test_a_miter_beyond_its_limit_is_a_bevel(self) -> None:
        # The limit is 1 / sin(angle / 2); for a right angle that is 1.414 (SVG 2, 13.5.5).
        self.assertAlmostEqual(self.line(ANGLE, miter=1.41), 39.5, places=4)
        self.assertAlmostEqual(self.line(ANGLE, miter=1.42), 40, places=4)

    def test_dashes(self) -> None:
        self.assertAlmostEqual(self.line(LINE, dashes=(2.0, 1.0)), 2 * (2 + 2 + 2 + 1), places=4)
        self.assertAlmostEqual(self.line(LINE, dashes=(2.0, 1.0), dash_offset=1.0), 2 * (1 + 2 + 2 + 2), places=4)

    def test_a_pen_that_is_stretched_draws_a_stretched_line(self) -> None:
        stretched = Shape((LINE,), stroke=Stroke(2.0, matrix=(1.0, 0, 0, 0, 3.0, 0)))
        self.assertAlmostEqual(area(stretched), 60, places=3)

    def test_a_width_of_its_own(self) -> None:
        scaled = Shape((LINE,), stroke=Stroke(2.0, matrix=(4.0, 0, 0, 0, 4.0, 0)))
        self.assertAlmostEqual(area(scaled, stroke=0.5), 40 * 0.5, places=4)

    def test_segments_are_those_of_the_curve(self) -> None:
        made = mesh(Shape((circle(0, 0, 10),), stroke=Stroke(2.0)), segments=12)
        # Two rings of twelve sides have 96; the pen may put a point more where it began.
        self.assertAlmostEqual(len(made.triangles), 4 * 2 * 12, delta=8)
        self.assertLess(len(mesh(Shape((circle(0, 0, 10),), stroke=Stroke(2.0)), chord=0.1, angle=1.0).triangles), 300)


class Fills(unittest.TestCase):
    """SVG 2, 11.3.2: the two rules, on rings that run the same and the other way."""

    def test_rules(self) -> None:
        inner = polyline([(2, 2), (8, 2), (8, 8), (2, 8)], True)
        for ring, rule, wanted in (
            (inner, "nonzero", 100), (inner.reversed(), "nonzero", 64), (inner, "evenodd", 64), (inner.reversed(), "evenodd", 64),
        ):  # fmt: skip
            self.assertAlmostEqual(area(Shape((SQUARE, ring), rule)), wanted, places=6)  # type: ignore[arg-type]

    def test_a_star_that_crosses_itself(self) -> None:
        points = [(math.sin(4 * math.pi * k / 5), math.cos(4 * math.pi * k / 5)) for k in range(5)]
        star = polyline(points, True)
        # A pentagram in the unit circle: ten triangles to the middle; the pentagon in it has the circumradius 1/phi^2.
        phi = (1 + math.sqrt(5)) / 2
        inside = 5 / 2 * math.sin(2 * math.pi / 5) / phi**4
        whole = 5 * math.sin(math.pi / 5) / phi**2
        self.assertAlmostEqual(area(Shape((star,), "nonzero")), whole, places=6)
        self.assertAlmostEqual(area(Shape((star,), "evenodd")), whole - inside, places=6)

    def test_what_is_open_is_closed_by_a_line(self) -> None:
        self.assertAlmostEqual(area(Shape((ANGLE,))), 50, places=6)

    def test_a_clip_is_a_union_and_clips_meet(self) -> None:
        left, right = (polyline([(x, 0), (x + 2, 0), (x + 2, 10), (x, 10)], True) for x in (0, 8))
        low = polyline([(0, 0), (10, 0), (10, 5), (0, 5)], True)
        both = (Area((left,)), Area((right,)))
        self.assertAlmostEqual(area(Shape((SQUARE,), clips=(both,))), 40, places=6)
        self.assertAlmostEqual(area(Shape((SQUARE,), clips=(both, (Area((low,)),)))), 20, places=6)

    def test_others_are_taken_away_or_joined_where_they_lie(self) -> None:
        small = Shape((polyline([(0, 0), (2, 0), (2, 2), (0, 2)], True),))
        minus, plus = (Other("k", 9.0, 4.0, does) for does in ("minus", "plus"))  # type: ignore[arg-type]
        self.assertAlmostEqual(area(Shape((SQUARE,)), [small], others=(minus,)), 98, places=6)
        self.assertAlmostEqual(area(Shape((SQUARE,)), [small], others=(plus,)), 102, places=6)

    def test_far_from_the_origin_and_tiny_it_is_the_same(self) -> None:
        for scale in (1e-6, 1e-3, 1e5):
            tiny = Shape((SQUARE.moved((scale, 0, 0, 0, scale, 0)), circle(5 * scale, 5 * scale, 2 * scale)), "evenodd")
            made = mesh(tiny, chord=1e-5 * scale, height=scale)
            self.assertAlmostEqual(made.volume() / scale**3, 100 - 4 * math.pi, delta=1e-3)


class Prisms(unittest.TestCase):
    def test_a_cylinder(self) -> None:
        made = mesh(Shape((circle(0, 0, 5),)), chord=1e-3, angle=1.0, base=3.0)
        count = math.ceil(math.pi / math.acos(1 - 1e-3 / 5))
        self.assertEqual(len(made.triangles), 4 * count - 4)
        self.assertLessEqual(made.figures.off_by, 1e-3 * 1.0001)
        np.testing.assert_allclose(made.positions[:, 2].min(), 3.0)
        np.testing.assert_allclose(made.positions[:, 2].max(), 5.0)

    def test_walls_of_curves_are_shaded_round_and_corners_are_sharp(self) -> None:
        made = mesh(Shape((circle(0, 0, 5),)), chord=0.05, angle=math.radians(20))
        side = np.abs(made.normals[:, 2]) < 0.5
        out = made.positions[side, :2] / np.linalg.norm(made.positions[side, :2], axis=1, keepdims=True)
        self.assertGreater(float((out * made.normals[side, :2]).sum(axis=1).min()), 0.9999)
        box = mesh(Shape((SQUARE,)))
        self.assertEqual(len(box.triangles), 12)
        np.testing.assert_allclose(np.abs(box.normals).max(axis=1), 1.0)

    def test_normals_agree_with_the_winding(self) -> None:
        made = mesh(Shape((SQUARE, circle(5, 5, 3)), "evenodd"), chord=0.01)
        flat = np.cross(made.corners[:, 1] - made.corners[:, 0], made.corners[:, 2] - made.corners[:, 0])
        self.assertGreater(float((made.normals[made.triangles[:, 0]] * flat).sum(axis=1).min()), 0.0)

    def test_without_height_it_is_a_sheet_that_faces_up(self) -> None:
        made = mesh(Shape((SQUARE,)), height=0.0)
        self.assertEqual(len(made.triangles), 2)
        self.assertAlmostEqual(made.area(), 100)
        np.testing.assert_array_equal(made.normals, np.tile([0, 0, 1], (4, 1)))

    def test_a_ribbon_stands_on_its_line(self) -> None:
        made = mesh(Shape((ANGLE,)), ribbon=True)
        self.assertEqual(len(made.triangles), 4)
        self.assertAlmostEqual(made.area(), 40)

    def test_many_at_once_are_the_same_as_one_by_one(self) -> None:
        shapes = [Shape((circle(0, 0, r),)) for r in (1.0, 2.0)] + [
            Shape((SQUARE,)),
            Shape((polyline([(0, 0), (0, 0)], True),)),
        ]
        steps = [Solidify(chord=0.01, angle=0.3, solid=Solid(height=h)) for h in (0.0, 3.0)]
        jobs = [Job(step, [write_drawn(shape)]) for shape in shapes for step in steps]
        for job, made in zip(jobs, make_solids(jobs), strict=True):
            alone = make_solids([job])[0]
            np.testing.assert_array_equal(made.triangles, alone.triangles)
            np.testing.assert_array_equal(made.positions, alone.positions)

    def test_bytes_and_back(self) -> None:
        shape = Shape((SQUARE, circle(1, 2, 3)), "evenodd", Stroke(2.0, dashes=(1.0, 2.0)), ((Area((SQUARE,)),),))
        self.assertEqual(read_drawn(write_drawn(shape)), shape)


class Rings(unittest.TestCase):
    """A ring of width w around a square of side a: outside it is rounded, 4 a w + pi w^2; inside, a^2 - (a - 2w)^2."""

    def test_sides(self) -> None:
        square = Shape((SQUARE,))
        self.assertAlmostEqual(area(square, wall=1.0, side="outward"), 40 + math.pi, delta=2e-3)
        self.assertAlmostEqual(area(square, wall=1.0, side="inward"), 100 - 64, places=4)
        self.assertAlmostEqual(area(square, wall=1.0, side="both"), 20 + math.pi / 4 + 100 - 81, delta=2e-3)

    def test_an_open_line_is_walled_on_both_sides(self) -> None:
        self.assertAlmostEqual(area(Shape((LINE,)), wall=1.0), 10 + math.pi / 4, delta=2e-3)


class ThinWalls(unittest.TestCase):
    def plate(self, bar: float) -> Shape:
        """Two windows with a bar between them."""
        windows = [polyline([(x, 2), (x + 3, 2), (x + 3, 8), (x, 8)], True) for x in (1.0, 4.0 + bar)]
        frame = polyline([(0, 0), (8 + bar, 0), (8 + bar, 10), (0, 10)], True)
        return Shape((frame, *windows), "evenodd")

    def test_a_bar_is_found_where_it_is_with_its_width(self) -> None:
        found = mesh(self.plate(0.3), nozzle=0.4).figures.thin
        self.assertEqual(len(found), 1)
        x, y, width = found[0]
        self.assertAlmostEqual(width, 0.3, delta=0.01)
        self.assertTrue(4.0 <= x <= 4.3 and 2 <= y <= 8, (x, y))

    def test_a_bar_as_wide_as_the_nozzle_is_none(self) -> None:
        self.assertEqual(mesh(self.plate(0.4), nozzle=0.4).figures.thin, ())
        self.assertEqual(mesh(self.plate(0.3), nozzle=0.0).figures.thin, ())

    def test_made_wide_enough_it_is_none_any_more(self) -> None:
        before = area(self.plate(0.3))
        made = mesh(self.plate(0.3), nozzle=0.4, thicken=True)
        self.assertEqual(made.figures.thin, ())
        self.assertTrue(made.watertight)
        self.assertAlmostEqual(made.volume() / 2 - before, 0.1 * 6, delta=0.1)

    def test_the_tip_of_a_wedge_is_no_wall_and_a_rib_is(self) -> None:
        wedge = Shape((polyline([(0, 0), (30, 1.5), (0, 3)], True),))
        self.assertEqual(mesh(wedge, nozzle=0.4).figures.thin, ())
        rib = Shape((polyline([(0, 0), (5, 0), (5, 2), (15, 2), (15, 2.3), (5, 2.3), (5, 5), (0, 5)], True),))
        self.assertEqual([round(width, 2) for _, _, width in mesh(rib, nozzle=0.4).figures.thin], [0.3])

    def test_round_walls_are_measured_and_wide_ones_left_alone(self) -> None:
        # A washer of wide rim and a round window 0.3 from its edge.
        washer = Shape((circle(0, 0, 20), circle(0, 0, 15)), "evenodd")
        self.assertEqual(mesh(washer, nozzle=0.4).figures.thin, ())
        near = Shape((circle(0, 0, 20), circle(9.7, 0, 10)), "evenodd")
        for chord in (0.005, 0.05):
            found = mesh(near, nozzle=0.4, chord=chord).figures.thin
            self.assertEqual(len(found), 1, found)
            self.assertAlmostEqual(found[0][2], 0.33, delta=0.08)
            self.assertGreater(found[0][0], 19)

    def test_coarse_curves_are_no_thin_walls(self) -> None:
        for chord in (0.01, 0.05, 0.2):
            for shape in (Shape((circle(0, 0, 20),), stroke=Stroke(1.5)), Shape((circle(0, 0, 3, 7),))):
                self.assertEqual(mesh(shape, nozzle=0.4, chord=chord, angle=0.35).figures.thin, ())


if __name__ == "__main__":
    unittest.main()
