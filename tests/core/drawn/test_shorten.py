"""The shortest side on drawn curves: walls stay upright, corners stay, and what is said to be off is."""

import math
import unittest

import numpy as np
import shapely

from hemp_ladder.core.chain.steps import Chain, Job
from hemp_ladder.core.climb import plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.drawn.curves import Subpath, circle, polyline
from hemp_ladder.core.drawn.make import make_solids
from hemp_ladder.core.drawn.shape import Shape, write_drawn
from hemp_ladder.core.drawn.shorten import shortened
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.drawn.step import Solidify
from hemp_ladder.core.facet.settings import Absolute, FacetException, FacetSettings
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.join import Given, join
from house.places import ROOT
from tests.support import read_kept

SIGN = ROOT / "demo" / "harbour-sign.svg"
BEND = math.radians(10)


def round_points(radius: float, count: int) -> np.ndarray:
    turn = np.linspace(0, 2 * math.pi, count, endpoint=False)
    return radius * np.column_stack([np.cos(turn), np.sin(turn)])


def made(*paths: Subpath, shortest: float | None = 1.0, **solid: object) -> Mesh:
    step = Solidify(chord=1e-4, angle=0.05, shortest=shortest, solid=Solid(**{"height": 2.0, **solid}))  # type: ignore[arg-type]
    return make_solids([Job(step, [write_drawn(Shape(paths))])])[0]


class Rings(unittest.TestCase):
    def test_sides_of_a_circle_are_about_as_long_as_asked_and_off_in_closed_form(self) -> None:
        for edge in (0.5, 1.0, 3.0):
            fewer = shortened([round_points(10, 720)], edge, BEND, 50)
            ring = fewer.rings[0]
            sides = np.linalg.norm(ring - np.roll(ring, -1, axis=0), axis=1)
            self.assertGreaterEqual(sides.min(), edge)
            self.assertLessEqual(sides.max(), 2 * edge)
            # The height of an arc over its chord.
            self.assertAlmostEqual(fewer.off, 10 - math.sqrt(100 - sides.max() ** 2 / 4), delta=0.02 * edge)
            self.assertEqual(fewer.gone, 720 - len(ring))
            self.assertTrue(fewer.smooth.all())

    def test_a_small_circle_keeps_six_sides(self) -> None:
        self.assertEqual(len(shortened([round_points(0.1, 90)], 5, BEND, 500).rings[0]), 6)

    def test_corners_stay_and_straight_sides_do_not_go(self) -> None:
        square = np.array([[0, 0], [1, 0], [1, 1], [0, 1.0]])
        fewer = shortened([square], 10, BEND, 100)
        np.testing.assert_array_equal(fewer.rings[0], square)
        self.assertFalse(fewer.smooth.any())
        rounded = shapely.Polygon(square * 100).buffer(2, quad_segs=16)
        ring = np.asarray(rounded.exterior.coords)[-2::-1]
        fewer = shortened([ring], 1.5, BEND, 10)
        self.assertLess(len(fewer.rings[0]), 0.3 * len(ring))
        self.assertLess(rounded.symmetric_difference(shapely.Polygon(fewer.rings[0])).area, fewer.off * rounded.length)

    def test_a_thin_ring_does_not_cross_itself(self) -> None:
        """Chords of the outer circle would cut the inner one: less is asked for, until they do not."""
        for radius, edge in ((9.97, 3.0), (9.2, 1e6)):
            # The inner one's corners lie between the outer one's, where its chords are nearest.
            outer, inner = round_points(10, 720), np.roll(round_points(radius, 720)[::-1], 60, axis=0)
            fewer = shortened([outer, inner], edge, BEND, 50)
            ring = shapely.Polygon(fewer.rings[0], [fewer.rings[1]])
            self.assertTrue(ring.is_valid)
            self.assertAlmostEqual(ring.area, math.pi * (100 - radius**2), delta=0.3 * ring.area)
            self.assertGreater(fewer.gone, 1000)

    def test_an_open_line_keeps_its_ends(self) -> None:
        line = round_points(10, 720)[:360]
        fewer = shortened([line], 1.0, BEND, 50, closed=False)
        np.testing.assert_array_equal(fewer.rings[0][[0, -1]], line[[0, -1]])
        self.assertEqual(fewer.smooth.tolist(), [False] + [True] * (len(fewer.rings[0]) - 2) + [False])

    def test_nothing_at_all(self) -> None:
        for closed in (True, False):
            self.assertEqual(shortened([], 1.0, BEND, 50, closed).gone, 0)


class Jobs(unittest.TestCase):
    """What is decided at Facet, down to the triangles of a drawing."""

    def planned(self, shortest: float | None, own: float | None = None) -> list[Chain | None]:
        model = join([Given("a", "sign.svg", read_kept(SIGN)[0])])
        exceptions = (FacetException(match="Waves", by="layer", shortest=own),) if own else ()
        facet = FacetSettings(chord=Absolute(metres=5e-5), shortest=shortest, exceptions=exceptions)
        return list(plan(model, Decisions(facet=facet)).chains)

    def test_drawn_parts_are_thinned_by_their_own_step_in_their_own_unit(self) -> None:
        chains = [chain for chain in self.planned(3e-3) if chain]
        self.assertTrue(chains)
        for chain in chains:
            assert isinstance(chain.first, Solidify)
            self.assertAlmostEqual(chain.first.shortest or 0, 3.0, places=6)
            self.assertEqual(chain.operations, ())
            self.assertIsNone(chain.first.bare().shortest)
        plain = [chain for chain in self.planned(None) if chain]
        self.assertTrue({chain.key for chain in plain}.isdisjoint(chain.key for chain in chains))

    def test_an_exception_holds_for_its_layer_only(self) -> None:
        sides = [
            chain.first.shortest for chain in self.planned(None, 2e-3) if chain and isinstance(chain.first, Solidify)
        ]
        self.assertEqual({side is None for side in sides}, {True, False})


class Walls(unittest.TestCase):
    def test_walls_stay_upright_and_round(self) -> None:
        before, after = made(circle(0, 0, 10), shortest=None), made(circle(0, 0, 10))
        self.assertTrue(after.watertight)
        top, below = (np.unique(after.positions[after.positions[:, 2] == z, :2], axis=0) for z in (2, 0))
        np.testing.assert_array_equal(top, below)
        self.assertEqual(len(before.triangles) - len(after.triangles), after.figures.effects["shortest"])
        # Light goes around: no wall has a normal of its own.
        walls = after.normals[np.abs(after.normals[:, 2]) < 0.5].astype(float)
        at = after.positions[np.abs(after.normals[:, 2]) < 0.5, :2] / 10
        self.assertGreater((walls[:, :2] * at).sum(axis=1).min(), 0.9995)

    def test_sheets_and_lines_that_stand_up_too(self) -> None:
        for solid in ({"height": 0.0}, {"ribbon": True}):
            before = made(circle(0, 0, 10), shortest=None, **solid)
            after = made(circle(0, 0, 10), **solid)
            self.assertEqual(len(before.triangles) - len(after.triangles), after.figures.effects["shortest"], solid)
            self.assertLess(len(after.triangles), 0.4 * len(before.triangles))

    def test_corners_of_lines_stay_sharp(self) -> None:
        box = made(polyline([(0, 0), (1, 0), (1, 1), (0, 1)], True), shortest=5)
        self.assertEqual(len(box.triangles), 12)
        self.assertEqual(len(np.unique(box.normals, axis=0)), 6)


if __name__ == "__main__":
    unittest.main()
