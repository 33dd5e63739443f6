"""Bodies: each kind knows its extent, whether it has a surface, and how it becomes a mesh."""

import json
import math
import unittest

import numpy as np

from hemp_ladder.core.chain.came import write_meshed
from hemp_ladder.core.chain.making import Order, make
from hemp_ladder.core.chain.relief import write_heights
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.bodies import Body, Drawn, Exact, Heights, Meshed, Points, Wish, body_from_dict
from hemp_ladder.core.operations import chain_from_dict

BOX = np.array([[0.0, 0, 0], [4, 2, 3]])
WISH = Wish(0.1, 0.5, Solid(height=1.0))


def meshed(body: Body, data: bytes) -> Mesh:
    first = body.first_step(WISH)
    assert first is not None
    chain = chain_from_dict(json.loads(json.dumps(Chain("k", body.face_count, first).as_dict())))
    return make([Order(chain, [data])])[0][chain.key]


class Kinds(unittest.TestCase):
    def test_each_is_told_by_itself_and_comes_back(self) -> None:
        bodies = [
            Exact(BOX, 6, 1, 2, 3, 4, 5),
            Drawn(BOX, True, inside=(1, 2)),
            Meshed(BOX, 7),
            Points(BOX, 9),
            Heights(BOX, 3, 4),
        ]
        for body in bodies:
            again = body_from_dict(json.loads(json.dumps(body.as_dict())))
            self.assertIs(type(again), type(body))
            self.assertEqual(again.as_dict(), body.as_dict())
        self.assertEqual([body.has_surface for body in bodies], [True, True, True, False, True])
        steps = [step.does if (step := body.first_step(WISH)) else None for body in bodies]
        self.assertEqual(steps, ["facet", "solidify", "came", None, "relief"])

    def test_what_has_no_surface_wishes_for_nothing(self) -> None:
        for body in (Exact(BOX), Points(BOX, 9), Heights(BOX, 1, 9)):
            self.assertFalse(body.has_surface)
        self.assertIsNone(Exact(BOX).first_step(WISH))
        self.assertIsNone(Drawn(BOX).first_step(Wish(0.1, 0.5)), "an outline without a height")

    def test_triangles_as_they_came(self) -> None:
        corners = np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]])
        made = meshed(
            Meshed(BOX), write_meshed(corners, np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3], [1, 1, 2]]))
        )
        self.assertEqual((len(made.triangles), made.watertight), (4, True))
        self.assertAlmostEqual(made.volume(), 1 / 6)

    def test_heights_of_a_slope_are_a_plane(self) -> None:
        """z = x / 2 - y: area 4 x 2 x sqrt(1 + 1/4 + 1), one normal everywhere."""
        x, y = np.meshgrid(np.linspace(0, 4, 9), np.linspace(0, 2, 5))
        made = meshed(Heights(BOX, 5, 9), write_heights(x / 2 - y))
        self.assertEqual(len(made.triangles), 2 * 8 * 4)
        self.assertAlmostEqual(made.area(), 8 * math.sqrt(2.25), places=5)
        np.testing.assert_allclose(made.normals, np.tile(np.array([-0.5, 1, 1]) / 1.5, (45, 1)), atol=1e-6)

    def test_where_there_is_no_ground_there_is_a_hole(self) -> None:
        heights = np.zeros((5, 5))
        heights[2, 2] = np.nan
        made = meshed(Heights(BOX, 5, 5), write_heights(heights))
        self.assertEqual((len(made.triangles), len(made.positions)), (2 * 16 - 6, 24))
        self.assertTrue(np.isfinite(made.positions).all() and np.isfinite(made.normals).all())


if __name__ == "__main__":
    unittest.main()
