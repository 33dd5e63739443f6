"""How many triangles a shape will have is told before any is made, near enough to refuse what is far too fine."""

import math
import unittest
from unittest import mock

from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.TopoDS import TopoDS_Shape

from demo import shapes
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet import estimate
from hemp_ladder.core.kernel.shapes import faces_of
from tests.core.facet.test_hard import WIDE, made

SHAPES = {
    "box": BRepPrimAPI_MakeBox(10.0, 20.0, 30.0), "cylinder": BRepPrimAPI_MakeCylinder(10.0, 30.0),
    "cone": BRepPrimAPI_MakeCone(10.0, 3.0, 30.0), "ball": BRepPrimAPI_MakeSphere(10.0), "ring": BRepPrimAPI_MakeTorus(20.0, 5.0),
}  # fmt: skip


def estimated(shape: TopoDS_Shape, chord: float, angle: float) -> float:
    return sum(estimate._of_face(face, chord, angle) for face in faces_of(shape))


class Estimates(unittest.TestCase):
    def test_it_is_off_by_no_more_than_its_slack(self) -> None:
        for name, maker in SHAPES.items():
            for chord, angle in ((0.1, WIDE), (0.01, WIDE), (5.0, math.radians(5))):
                with self.subTest(name, chord=chord):
                    found, told = (
                        len(made(maker.Shape(), chord, angle).triangles),
                        estimated(maker.Shape(), chord, angle),
                    )
                    # Ends of cylinders and cones are planes to the estimate: two triangles each.
                    self.assertLessEqual(told, estimate._SLACK * found)
                    self.assertGreaterEqual(told, found / estimate._SLACK / 1.2)

    def test_closed_forms_of_a_segment(self) -> None:
        """An arc of radius r whose segments span an angle is r (1 - cos(angle / 2)) high (sagitta)."""
        for radius, chord in ((10.0, 0.1), (500.0, 0.001), (0.5, 0.2)):
            step = estimate._step(radius, chord, 7.0)
            self.assertAlmostEqual(radius * (1 - math.cos(step / 2)), chord)
        self.assertEqual(estimate._step(10.0, 0.1, 0.05), 0.05)
        self.assertEqual(estimate._step(1.0, 9.0, 7.0), 2 * math.pi)

    def test_what_has_no_closed_form_is_looked_at(self) -> None:
        """A bent tube, as a sweep of a circle along a spline."""
        bent = shapes.pipe(shapes.spline([(0, 0, 0), (0, 0, 40), (30, 0, 60)]), (0, 0, 0), (0, 0, 1), 4)
        for chord, angle in ((0.1, WIDE), (0.01, WIDE)):
            found, told = len(made(bent, chord, angle).triangles), estimated(bent, chord, angle)
            self.assertTrue(found / 3 < told < estimate._SLACK * found, (found, told))

    def test_far_too_fine_is_refused_with_a_number_that_can_be_read(self) -> None:
        ball = SHAPES["ball"].Shape()
        faces = faces_of(ball)
        estimate.refuse_too_many(ball, faces, 0.01, WIDE)
        for chord, told in ((1e-7, "about"), (1e-12, "thousand million")):
            with self.assertRaises(SettingsError) as raised:
                estimate.refuse_too_many(ball, faces, chord, WIDE)
            self.assertIn(told, raised.exception.message)
        # A box has no more however fine it is asked for.
        box = SHAPES["box"].Shape()
        estimate.refuse_too_many(box, faces_of(box), 1e-12, WIDE)

    def test_only_what_is_surely_too_much_is_refused(self) -> None:
        ball = SHAPES["ball"].Shape()
        told = estimated(ball, 0.01, WIDE)
        for most, refused in ((told / 2.1, True), (told / 1.9, False)):
            with mock.patch.object(estimate, "MOST", int(most)):
                try:
                    estimate.refuse_too_many(ball, faces_of(ball), 0.01, WIDE)
                    self.assertFalse(refused)
                except SettingsError:
                    self.assertTrue(refused)

    def test_figures(self) -> None:
        told = {1234567.0: "1,200,000", 98: "98", 5.432e9: "5.4 thousand million"}
        self.assertEqual({count: estimate._plain(count) for count in told}, told)


if __name__ == "__main__":
    unittest.main()
