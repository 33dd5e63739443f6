"""What can be asked of triangles, against numpy and closed forms."""

import unittest
from collections import Counter
from dataclasses import replace
from unittest import mock

import numpy as np

from demo import shapes
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.mesh.measure import measure
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.mesh.triangles import count_open_edges, cross, numbered, placed_box, weld_indices

DICE = np.random.default_rng(8)


def box(a: float, b: float, c: float) -> Mesh:
    return tessellate(write_shape(shapes.box(a, b, c)), 0.1, 0.5)


class Figures(unittest.TestCase):
    def test_volume_and_area_of_a_box_wherever_it_lies(self) -> None:
        mesh = box(2, 3, 4)
        for offset in (0.0, 1e6):
            moved = replace(mesh, positions=mesh.positions + offset)
            self.assertAlmostEqual(moved.volume(), 24, places=3)
            self.assertAlmostEqual(moved.area(), 2 * (6 + 8 + 12), places=6)

    def test_a_mesh_of_nothing(self) -> None:
        nothing = Mesh.nothing(0)
        self.assertEqual(
            (nothing.volume(), nothing.area(), len(nothing.triangles), nothing.open_edges), (0.0, 0.0, 0, 0)
        )
        self.assertFalse(nothing.watertight or nothing.inside_out)

    def test_cross_products_are_numpys(self) -> None:
        first, second = DICE.normal(size=(2, 40, 3))
        np.testing.assert_allclose(cross(first, second), np.cross(first, second))
        np.testing.assert_allclose(cross(first[0], second), np.cross(first[0], second))


class Edges(unittest.TestCase):
    TETRAHEDRON = np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])

    def test_closed_open_and_wrongly_wound(self) -> None:
        self.assertEqual(count_open_edges(self.TETRAHEDRON), 0)
        self.assertEqual(count_open_edges(self.TETRAHEDRON[1:]), 3)
        wrong = self.TETRAHEDRON.copy()
        wrong[0] = wrong[0, ::-1]
        self.assertEqual(count_open_edges(wrong), 3)

    def test_closed_parts_that_touch_along_an_edge_stay_closed(self) -> None:
        """The second tetrahedron has vertices 0 and 1 in common with the first: four triangles at their edge."""
        other = np.array([0, 1, 4, 5])[self.TETRAHEDRON]
        self.assertEqual(count_open_edges(np.concatenate([self.TETRAHEDRON, other])), 0)

    def test_any_soup_of_triangles_by_counting_one_by_one(self) -> None:
        for count in (1, 5, 40, 200):
            soup = DICE.integers(0, 9, (count, 3))
            runs: Counter[tuple[int, int]] = Counter()
            for a, b, c in soup.tolist():
                if len({a, b, c}) == 3:
                    for one, other in ((a, b), (b, c), (c, a)):
                        runs[min(one, other), max(one, other)] += 1 if one < other else -1
            self.assertEqual(count_open_edges(soup), sum(1 for balance in runs.values() if balance))

    def test_points_that_are_near_close_what_the_same_points_do_not(self) -> None:
        whole = box(2, 3, 4)
        shaken = whole.positions + DICE.uniform(-1e-7, 1e-7, whole.positions.shape)
        for positions, open_edges in ((whole.positions, 0), (shaken, 0)):
            mesh = replace(whole, positions=positions)
            self.assertEqual(mesh.open_edges, open_edges)
        torn = replace(whole, positions=shaken, triangles=whole.triangles[1:])
        self.assertEqual(torn.open_edges, 3)

    def test_a_triangle_without_surface_counts_for_nothing(self) -> None:
        self.assertEqual(count_open_edges(np.concatenate([self.TETRAHEDRON, [[0, 0, 1]]])), 0)


class Measured(unittest.TestCase):
    def check(self, meshes: list[Mesh]) -> None:
        wanted = [(mesh.open_edges, mesh.inside_out) for mesh in map(again, meshes)]
        for given, mesh, (open_edges, inside_out) in zip(meshes, measure(meshes), wanted, strict=True):
            self.assertEqual((mesh.figures.open_edges, mesh.figures.inside_out), (open_edges, inside_out))
            self.assertEqual(
                (mesh.figures.triangles, mesh.figures.vertices), (len(mesh.triangles), len(mesh.positions))
            )
            self.assertIsNone(given.figures.open_edges, "what is given is not changed")
            self.assertFalse({"corners", "welded"} & set(mesh.__dict__))

    def test_many_at_once_are_as_one_by_one(self) -> None:
        closed = [box(1, 2, 3), box(2, 2, 2).flipped(), box(5, 1, 1)]
        whole = box(2, 3, 4)
        torn = replace(whole, triangles=whole.triangles[1:])
        empty = Mesh.nothing(0)
        self.check(closed)
        self.check([*map(again, closed), torn, empty])
        self.check([box(1, 1, 1)])
        self.check([])

    def test_equal_meshes_in_one_place_do_not_close_each_other(self) -> None:
        whole = box(2, 3, 4)
        half, rest = whole.triangles[:5], whole.triangles[5:]
        self.check([replace(whole, triangles=part) for part in (half, rest)])


def again(mesh: Mesh) -> Mesh:
    return replace(mesh)


class Welding(unittest.TestCase):
    def test_what_is_near_shares_a_number_across_any_cell_border(self) -> None:
        places = DICE.uniform(-1, 1, (200, 3))
        doubled = np.concatenate([places, places + DICE.uniform(-5e-7, 5e-7, places.shape)])
        numbers = weld_indices(doubled, 1e-6)
        np.testing.assert_array_equal(numbers[:200], numbers[200:])
        self.assertEqual(len(np.unique(numbers)), 200)

    def test_nothing_to_weld(self) -> None:
        self.assertEqual(len(weld_indices(np.zeros((0, 3)), 1.0)), 0)
        np.testing.assert_array_equal(np.sort(weld_indices(np.eye(3), 1e-9)), [0, 1, 2])


class Numbered(unittest.TestCase):
    """Equal rows by equal numbers, in the order in which they are met, as a dictionary gives them."""

    def check(self, columns: list[np.ndarray]) -> None:
        met: dict[tuple[int, ...], int] = {}
        wanted = [met.setdefault(row, len(met)) for row in zip(*(column.tolist() for column in columns), strict=True)]
        number, first = numbered(columns)
        self.assertEqual(number.tolist(), wanted)
        self.assertEqual(first.tolist(), [wanted.index(k) for k in range(len(met))])

    def test_rows_of_any_size_and_sign(self) -> None:
        for count in (0, 1, 2, 3, 64, 65, 400):
            with self.subTest(count):
                self.check([DICE.integers(-3, 3, count), DICE.integers(0, 4, count) << 60])
        self.check([np.arange(100)[::-1]])
        self.check([np.zeros(33, np.int32)])

    def test_rows_that_mix_to_the_same_are_told_apart(self) -> None:
        mixes = (
            lambda columns: np.zeros(len(columns[0]), np.uint64),
            lambda columns: columns[0].astype(np.uint64) << 62,
        )
        for mix in mixes:
            with mock.patch("hemp_ladder.core.mesh.triangles._mixed", mix):
                self.check([DICE.integers(0, 6, 300), DICE.integers(-4, 4, 300), DICE.integers(0, 2, 300)])


class Boxes(unittest.TestCase):
    def places(self, count: int) -> np.ndarray:
        matrices = np.tile(np.eye(4), (count, 1, 1))
        turns, _ = np.linalg.qr(DICE.normal(size=(count, 3, 3)))
        matrices[:, :3, :3], matrices[:, :3, 3] = turns, DICE.uniform(-50, 50, (count, 3))
        return matrices

    def test_the_box_of_many_places_is_that_of_placing_everything(self) -> None:
        """Beyond a number of places only the points of the convex hull are placed."""
        points = DICE.normal(size=(500, 3))
        for count in (1, 5, 100):
            places = self.places(count)
            whole = np.einsum("kij,nj->kni", places[:, :3, :3], points) + places[:, None, :3, 3]
            flat = whole.reshape(-1, 3)
            np.testing.assert_allclose(placed_box(points, places), [flat.min(axis=0), flat.max(axis=0)])

    def test_flat_and_few_points_have_boxes_too(self) -> None:
        flat = np.column_stack([DICE.normal(size=(30, 2)), np.zeros(30)])
        for points in (flat, flat[:2], flat[:1]):
            places = self.places(90)
            found = placed_box(points, places)
            each = np.array([placed_box(points, places[k : k + 1]) for k in range(90)])
            np.testing.assert_allclose(found, [each[:, 0].min(axis=0), each[:, 1].max(axis=0)])
