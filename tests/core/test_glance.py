"""A small picture of a model that brought triangles: what is where in it, and in which colours."""

import io
import unittest
from dataclasses import replace
from fractions import Fraction
from unittest import mock

import numpy as np
import trimesh
from numpy.typing import NDArray
from PIL import Image

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Finish, Map
from hemp_ladder.core.model.glance import glance
from hemp_ladder.core.model.model import Model, Node, Part
from tests.core.mend.meshes import box, from_library

RED, BLUE = Colour(1, 0, 0), Colour(0, 0, 1)
WIDE, HIGH = 200, 150
Pixels = NDArray[np.int64]


def wall() -> Mesh:
    """A unit square that faces who looks, with UV from the lower left; thin, so that both its sides are its picture."""
    spots = np.array([[0.0, 0, 0], [1, 0, 0], [1, 0, 1], [0, 0, 1]])
    corners = np.array([[0, 1, 2], [0, 2, 3]], np.int32)
    made = Mesh.of(spots, np.tile(np.float32([0, -1, 0]), (4, 1)), corners, np.array([0, 2]))
    return replace(made, attributes={**made.attributes, "uv": np.float32([[0, 0], [1, 0], [1, 1], [0, 1]])})


def half_and_half() -> bytes:
    """Red above, blue below."""
    out = io.BytesIO()
    Image.fromarray(np.array([[[255, 0, 0]] * 2, [[0, 0, 255]] * 2], np.uint8)).save(out, "PNG")
    return out.getvalue()


def seen(
    things: list[tuple[Mesh, Part, NDArray[np.float64]]], turn: NDArray[np.float64] | None = None, looks: dict[str, Finish] | None = None,
    picture: bytes = b"",
) -> Pixels | None:  # fmt: skip
    """What is seen of parts at places: (height, width, 4)."""
    parts = [replace(part, label=str(n), key=str(n)) for n, (_, part, _) in enumerate(things)]
    nodes = [Node("", -1, number) for number in range(len(things))]
    local = np.array([place for _, _, place in things]).reshape(-1, 4, 4)
    model = Model("GLB", "2.0", "", "m", "z", Fraction(1), parts, nodes, local, np.zeros((2, 3)), looks=looks or {})
    meshes = {str(number): mesh for number, (mesh, _, _) in enumerate(things)}
    data = glance(
        model, np.eye(3) if turn is None else turn, lambda part: meshes[part.key], lambda _: picture, WIDE, HIGH
    )
    return None if data is None else np.asarray(Image.open(io.BytesIO(data))).astype(int)


def part(**more: object) -> Part:
    return Part("", "", "", Meshed(np.zeros((2, 3)), 1, 12), **more)  # type: ignore[arg-type]


def at(*point: float, size: float = 1.0) -> NDArray[np.float64]:
    matrix = np.diag([size, size, size, 1.0])
    matrix[:3, 3] = point
    return matrix


def hues(image: Pixels) -> NDArray[np.str_]:
    """(height, width) of r, b, ? and blank."""
    red, _, blue, there = np.moveaxis(image, 2, 0)
    told = np.where(red > 2 * blue, "r", np.where(blue > 2 * red, "b", "?"))
    return np.where(there == 0, " ", told)


@mock.patch("hemp_ladder.core.model.glance._POINTS", 100_000)
class Glances(unittest.TestCase):
    def see(self, *args: object, **more: object) -> Pixels:
        image = seen(*args, **more)  # type: ignore[arg-type]
        assert image is not None
        return image

    def test_nothing_is_no_picture(self) -> None:
        self.assertIsNone(seen([]))
        empty = Mesh.of(np.zeros((0, 3)), np.zeros((0, 3), np.float32), np.zeros((0, 3), np.int32), np.array([0, 0]))
        self.assertIsNone(seen([(empty, part(), np.eye(4))]))

    def test_it_fills_the_picture_whatever_its_size_and_place(self) -> None:
        for place in (np.eye(4), at(5e6, -3e6, 9, size=1000)):
            there = self.see([(box(1, 1, 1), part(), place)])[:, :, 3] > 0
            rows, columns = np.flatnonzero(there.any(axis=1)), np.flatnonzero(there.any(axis=0))
            self.assertAlmostEqual(np.ptp(rows) / HIGH, 0.94, delta=0.03)
            self.assertAlmostEqual(rows.mean(), HIGH / 2, delta=2)
            self.assertAlmostEqual(columns.mean(), WIDE / 2, delta=2)
            # No holes in it: a box is as wide as it is filled, but for its corners.
            inner = there[rows[0] + 30 : rows[-1] - 30, columns[0] + 30 : columns[-1] - 30]
            self.assertTrue(inner.all())

    def test_what_is_nearer_hides_what_is_behind(self) -> None:
        """It is seen from the front: from where y is less."""
        small, large = (
            (box(1, 1, 1), part(colour=RED), at(0.5, -3, 1)),
            (box(4, 1, 4), part(colour=BLUE), at(-1, 0, -1)),
        )
        for order in ([small, large], [large, small]):
            told = hues(self.see(order))
            self.assertGreater((told == "r").sum(), 300)
            spots = np.argwhere(told == "r")
            middle = told[tuple(spots.mean(axis=0).astype(int))]
            self.assertEqual(middle, "r")
        behind = (box(1, 1, 1), part(colour=RED), at(0.5, 2, 1))
        # Of so few points hardly one lies where none of those before it does.
        self.assertLess((hues(self.see([large, behind])) == "r").sum(), 60)

    def test_what_is_up_after_the_turn_is_up(self) -> None:
        """A red box on a blue one: along z, and along y with a turn that lays y up."""
        upright = np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])
        for above, turn in (((0, 0, 1), None), ((0, 1, 0), upright)):
            told = hues(self.see([(box(), part(colour=BLUE), np.eye(4)), (box(), part(colour=RED), at(*above))], turn))
            red, blue = (np.argwhere(told == hue)[:, 0].mean() for hue in "rb")
            self.assertLess(red, blue)

    def test_colours_of_a_style_of_faces_and_of_the_part(self) -> None:
        mesh = box()
        half = replace(part(colour=BLUE), face_colours={1: RED})
        faces = Mesh.of(mesh.positions, np.tile(np.float32([0, 0, 1]), (8, 1)), mesh.triangles, np.array([0, 6, 12]))
        told = hues(self.see([(faces, half, np.eye(4))]))
        self.assertGreater(min((told == "r").sum(), (told == "b").sum()), 1000)
        styled = replace(part(colour=BLUE), style="Paint")
        told = hues(self.see([(mesh, styled, np.eye(4))], looks={"Paint": Finish(RED)}))
        self.assertEqual(set(told.ravel()), {" ", "r"})

    def test_pictures_lie_by_their_uv_moved_and_turned(self) -> None:
        """One is red above and blue below; turned by half it is the other way, by a quarter side by side."""
        for worn, above, left in (
            (Map("p"), True, None), (Map("p", offset=(0, 0.5)), False, None), (Map("p", offset=(1, 1), turn=np.pi), False, None),
            (Map("p", offset=(0, 1), turn=np.pi / 2), None, False),
        ):  # fmt: skip
            looks = {"Paint": Finish().wearing("base colour", worn)}
            told = hues(self.see([(wall(), part(style="Paint"), np.eye(4))], looks=looks, picture=half_and_half()))
            red, blue = (np.argwhere(told == hue).mean(axis=0) for hue in "rb")
            if above is not None:
                self.assertEqual(red[0] < blue[0] - 20, above, worn)
            if left is not None:
                self.assertEqual(red[1] < blue[1] - 20, left, worn)
                self.assertGreater(abs(red[1] - blue[1]), 20)

    def test_a_picture_that_cannot_be_had_leaves_the_colour(self) -> None:
        looks = {"Paint": Finish(RED).wearing("base colour", Map("p"))}
        told = hues(self.see([(wall(), part(style="Paint"), np.eye(4))], looks=looks, picture=b"no picture"))
        self.assertEqual(set(told.ravel()), {" ", "r"})

    def test_either_side_is_lit(self) -> None:
        ball = from_library(trimesh.creation.icosphere(3))
        one, two = (
            self.see([(mesh, part(colour=RED), np.eye(4))])[:, :, 0].astype(float) for mesh in (ball, ball.flipped())
        )
        # Points lie elsewhere, for corners come in another order.
        self.assertAlmostEqual(one.mean() / two.mean(), 1, delta=0.01)
        self.assertGreater(one[:75].mean(), 1.2 * one[75:].mean(), "light comes from above")


if __name__ == "__main__":
    unittest.main()
