"""The ways to fit: turns, mirrors, origins, known lengths and pairs of points, held against closed forms and random data."""

import unittest
from fractions import Fraction

import numpy as np
from scipy.spatial.transform import Rotation

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit import FitSettings, SourceFit, Spot, climb_fit
from hemp_ladder.core.fit.doubts.mistakes import mistake_of
from hemp_ladder.core.fit.hulls import outermost
from hemp_ladder.core.fit.pairs import aligned
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.fit.turning import angles_of, turned_about, turned_by, turned_onto
from hemp_ladder.core.fit.ways import AskedAgain, fit_by, way_from
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Model, Node, Part
from hemp_ladder.core.units import UNITS

BOX = np.array([[10.0, 20, 30], [110, 80, 50]])


def source(box: np.ndarray = BOX, unit: str | None = "mm", up: str | None = "z") -> Model:
    part = Part("Block", "Block", "block", Exact(box, faces=6))
    scale = UNITS[unit].metres if unit else Fraction(1, 1000)
    return Model("STEP", "", "", unit, up, scale, [part], [Node("Block", -1, 0)], np.eye(4)[None], box)


def job(**sources: Model) -> Joined:
    return join([Given(ref, ref, model) for ref, model in sources.items()])


def spot(at: tuple[float, float, float], ref: str = "a", **more: object) -> dict[str, object]:
    return {"source": ref, "at": at, "kind": "corner", **more}


def after(model: Joined, settings: FitSettings, **way: object) -> FitSettings:
    return fit_by(Standing(model, settings), way_from(way))


class Turning(unittest.TestCase):
    def test_angles_come_back_as_the_turn_they_were_of(self) -> None:
        for turn in Rotation.random(500, random_state=7).as_matrix():
            np.testing.assert_allclose(turned_by(*angles_of(turn)), turn, atol=1e-12)

    def test_against_a_reference_library(self) -> None:
        for x, y, z in ((10, 20, 30), (-90, 45, 170), (12.5, -88, 3)):
            meant = Rotation.from_euler("xyz", (x, y, z), degrees=True).as_matrix()
            np.testing.assert_allclose(turned_by(x, y, z), meant, atol=1e-15)

    def test_quarters_are_exact_however_many(self) -> None:
        turn = np.eye(3)
        for step in range(1000):
            turn = turned_about(step % 3, 90 * (1 + step % 3)) @ turn
            turn = turned_by(*angles_of(turn))
        self.assertEqual(set(np.abs(turn).reshape(-1).tolist()), {0.0, 1.0})

    def test_one_direction_onto_another_also_onto_its_opposite(self) -> None:
        ways = np.random.default_rng(3).normal(size=(50, 3))
        for way, wanted in zip(ways, [*ways[1:], -ways[-1]], strict=True):
            turn = turned_onto(way, wanted)
            np.testing.assert_allclose(turn @ way / np.linalg.norm(way), wanted / np.linalg.norm(wanted), atol=1e-12)
            self.assertAlmostEqual(np.linalg.det(turn), 1)


class Pairs(unittest.TestCase):
    def test_random_rigid_moves_are_found_as_the_closed_form_of_another_library_finds_them(self) -> None:
        rng = np.random.default_rng(11)
        for count in (3, 4, 12):
            for turn in Rotation.random(20, random_state=count).as_matrix():
                points = rng.normal(size=(count, 3)) * 10
                onto = points @ turn.T + rng.normal(size=3) * 100 + rng.normal(size=(count, 3)) * 0.01
                found = aligned(points, onto)
                other, rms = Rotation.align_vectors(onto - onto.mean(axis=0), points - points.mean(axis=0))
                np.testing.assert_allclose(found.turn, other.as_matrix(), atol=1e-9)
                self.assertAlmostEqual(float(np.sqrt((found.residuals**2).sum())), rms, places=8)

    def test_one_pair_moves_two_turn_about_the_up_axis(self) -> None:
        one = aligned(np.array([[1.0, 2, 3]]), np.array([[4.0, 4, 4]]))
        np.testing.assert_array_equal(one.move, [3, 2, 1])
        two = aligned(np.array([[0.0, 0, 0], [1, 0, 0.5]]), np.array([[5.0, 5, 0], [5, 7, 1]]))
        np.testing.assert_allclose(two.turn @ [1, 0, 0], [0, 1, 0], atol=1e-12)
        np.testing.assert_allclose(two.residuals[0], 0, atol=1e-12)
        self.assertAlmostEqual(two.residuals[1], np.hypot(1, 0.5))

    def test_what_says_not_where_to_turn_is_refused(self) -> None:
        line = np.outer([0.0, 1, 2], [1, 2, 3])
        for points in (line, np.zeros((2, 3)), np.array([[0.0, 0, 0], [0, 0, 1]]), np.zeros((3, 3))):
            with self.subTest(points=points), self.assertRaises(SettingsError):
                aligned(points, points + 1)
        with self.assertRaises(SettingsError):
            aligned(np.array([[np.nan, 0, 0]]), np.zeros((1, 3)))


class Ways(unittest.TestCase):
    def test_quarter_turns_about_a_picked_point_leave_it_where_it_is(self) -> None:
        model = job(a=source())
        picked = spot((110, 80, 30))
        before = Standing(model, FitSettings())
        for axis in "xyz":
            settings = after(model, FitSettings(), does="turn", axis=axis, degrees=90, about=picked)
            now = Standing(model, settings)
            np.testing.assert_allclose(now.where(Spot(**picked)), before.where(Spot(**picked)), atol=1e-9)
            np.testing.assert_allclose(np.sort(np.ptp(now.box(), axis=0)), [0.02, 0.06, 0.1], atol=1e-12)

    def test_a_face_laid_down_lies_on_the_ground(self) -> None:
        model = job(a=source())
        face = spot((110, 50, 40), kind="face centre", way=(1.0, 0, 0))
        now = Standing(model, after(model, FitSettings(), does="lay", face=face))
        low, high = now.box()
        self.assertAlmostEqual(low[2], 0, places=12)
        self.assertAlmostEqual(high[2], 0.1, places=12)
        self.assertAlmostEqual(now.where(Spot(**face))[2], 0, places=12)

    def test_an_edge_goes_to_the_nearer_end_of_an_axis(self) -> None:
        model = job(a=source())
        edge = spot((0, 0, 0), kind="edge middle", way=(-0.6, 0.8, 0))
        now = Standing(model, after(model, FitSettings(), does="along", edge=edge, axis="x"))
        np.testing.assert_allclose(now.fitted.sources[0].matrix[:3, :3] @ [-0.6, 0.8, 0], [-1e-3, 0, 0], atol=1e-15)

    def test_a_mirror_turns_over_about_the_middle_and_twice_is_nothing(self) -> None:
        model = job(a=source())
        start = after(model, FitSettings(), does="turn", axis="x", degrees=33)
        for axis in "xyz":
            once = after(model, start, does="mirror", axis=axis)
            self.assertLess(np.linalg.det(climb_fit(model, once).sources[0].matrix[:3, :3]), 0)
            np.testing.assert_allclose(Standing(model, once).box(), Standing(model, start).box(), atol=1e-9)
            twice = climb_fit(model, after(model, once, does="mirror", axis=axis)).sources[0].matrix
            np.testing.assert_allclose(twice, climb_fit(model, start).sources[0].matrix, atol=1e-9)

    def test_origins(self) -> None:
        model = job(a=source())
        cases = {
            ("centre", (0, 0, 0)): [[-0.05, -0.03, -0.01], [0.05, 0.03, 0.01]],
            ("base centre", (0, 0, 0)): [[-0.05, -0.03, 0], [0.05, 0.03, 0.02]],
            ("box", (-1, -1, -1)): [[0, 0, 0], [0.1, 0.06, 0.02]],
            ("box", (1, 0, 0)): [[-0.1, -0.03, -0.01], [0, 0.03, 0.01]],
        }
        for (named, side), box in cases.items():
            settings = after(model, FitSettings(), does="origin", named=named, side=side)
            np.testing.assert_allclose(Standing(model, settings).box(), box, atol=1e-12)
            # The origin stays that point of the model when the unit turns out to be another.
            inches = settings.model_copy(update={"unit": "in"})
            np.testing.assert_allclose(Standing(model, inches).box(), np.array(box) * 25.4, atol=1e-9)
            turned = after(model, settings, does="turn", axis="y", degrees=90)
            np.testing.assert_allclose(
                Standing(model, turned).box().mean(axis=0)[:2], np.array(box).mean(axis=0)[:2]
                if named != "box" else Standing(model, turned).box().mean(axis=0)[:2], atol=1e-12,
            )  # fmt: skip
        picked = after(model, FitSettings(), does="origin", named="picked", spot=spot((110, 80, 50)))
        np.testing.assert_allclose(Standing(model, picked).box()[1], 0, atol=1e-15)

    def test_ground_and_lift_by_the_lowest_point_however_it_is_turned(self) -> None:
        model = job(a=source())
        ball = Rotation.random(4000, random_state=1).apply([0, 0, 30]) + np.array([60, 50, 40])
        hulls = {"a": outermost(ball)}
        for degrees in (0, 17, 45, 200):
            settings = FitSettings(sources={"a": SourceFit(tip=(degrees, 5), turn=3)})
            told = fit_by(Standing(model, settings, hulls), way_from({"does": "ground", "lift": 0.25}))
            low = Standing(model, told, hulls).box()[0, 2]
            self.assertAlmostEqual(low, 0.25, places=12)
            again = fit_by(Standing(model, told, hulls), way_from({"does": "turn", "axis": "x", "degrees": 61}))
            self.assertAlmostEqual(Standing(model, again, hulls).box()[0, 2], 0.25, places=12)

    def test_one_of_two_sources_is_moved_and_the_other_stays(self) -> None:
        model = job(a=source(), b=source(BOX * 10))
        settings = after(
            model, FitSettings(), does="align", sources=["a"],
            pairs=[{"point": spot((10, 20, 30)), "onto": spot((1100, 800, 500), "b")}],
        )  # fmt: skip
        now = Standing(model, settings)
        np.testing.assert_allclose(now.box(["a"])[0], [1.1, 0.8, 0.5], atol=1e-12)
        np.testing.assert_array_equal(now.fitted.sources[1].matrix, climb_fit(model, FitSettings()).sources[1].matrix)
        own = after(model, FitSettings(), does="origin", named="base centre", sources=["b"], to=(1, 2, 0))
        np.testing.assert_allclose(Standing(model, own).box(["b"]).mean(axis=0)[:2], [1, 2], atol=1e-12)
        same = after(model, settings, does="like", source="a")
        self.assertEqual(same.sources["a"].move, same.sources["b"].move)

    def test_three_pairs_fix_it_wholly(self) -> None:
        model = job(a=source(), b=source())
        turn = Rotation.from_euler("xyz", (20, -40, 75), degrees=True)
        corners = np.array([[10.0, 20, 30], [110, 20, 30], [10, 80, 30], [10, 20, 50]])
        onto = turn.apply(corners) / 1000 + [3, 4, 5]
        pairs = [
            {"point": spot(tuple(a)), "onto": tuple(b)} for a, b in zip(corners.tolist(), onto.tolist(), strict=True)
        ]
        now = Standing(model, after(model, FitSettings(), does="align", sources=["a"], pairs=pairs))
        for corner, place in zip(corners.tolist(), onto, strict=True):
            np.testing.assert_allclose(now.where(Spot(**spot(tuple(corner)))), place, atol=1e-9)

    def test_absurd_ways_are_refused_with_a_sentence(self) -> None:
        model = job(a=source(), b=source())
        for way in (
            {"does": "true", "first": spot((0, 0, 0)), "second": spot((0, 0, 0)), "length": 1},
            {"does": "true", "first": spot((0, 0, 0)), "second": spot((1, 0, 0)), "length": -1},
            {"does": "true", "first": spot((0, 0, 0)), "second": spot((1, 0, 0)), "length": float("inf")},
            {"does": "true", "first": spot((0, 0, 0)), "second": spot((1, 0, 0), "b"), "length": 1},
            {"does": "lay", "face": spot((0, 0, 0))},
            {"does": "origin", "named": "picked"},
            {"does": "ground", "sources": ["nobody"]},
            {"does": "align", "pairs": [{"point": spot((0, 0, 0)), "onto": spot((1, 0, 0))}]},
        ):
            with self.subTest(way=way), self.assertRaises(SettingsError):
                after(model, FitSettings(), **way)


class KnownLengths(unittest.TestCase):
    def test_a_unit_explains_the_factor_or_a_factor_is_kept(self) -> None:
        model = job(a=source())
        ends = {"first": spot((10, 20, 30)), "second": spot((110, 20, 30))}
        inch = after(model, FitSettings(), does="true", **ends, length="100in", unit="in")
        self.assertEqual(inch.sources["a"].unit, "in")
        odd = after(model, FitSettings(), does="true", **ends, length="123.4mm")
        self.assertAlmostEqual(float(np.ptp(Standing(model, odd).box(), axis=0)[0]), 0.1234, places=15)

    def test_what_would_be_sand_or_a_city_is_asked_and_can_be_had(self) -> None:
        model = job(a=source())
        ends = {"first": spot((10, 20, 30)), "second": spot((110, 20, 30))}
        for length in ("0.05 mm", "80 km"):
            with self.assertRaises(AskedAgain):
                after(model, FitSettings(), does="true", **ends, length=length)
            sure = after(model, FitSettings(), does="true", **ends, length=length, sure=True)
            self.assertIsNotNone(sure.sources["a"].each)

    def test_common_mistakes_are_named(self) -> None:
        """Common practice: 39.5 in read as 39,500 in is a factor of 1000; 1.85 m read as 185 m is 100."""
        millimetre = UNITS["mm"].metres
        for factor, metres, said, unit in (
            (39.5 / 39_500, UNITS["in"].metres, "a thousand", "mil"),
            (1.85 / 185, UNITS["m"].metres, "a hundred", "cm"),
            (1000, millimetre, "a thousand", "m"),
            (25.4, millimetre, "25.4", "in"),
            (25.4 * 1.004, millimetre, "25.4", "in"),
            (304.8, millimetre, "304.8", "ft"),
            (0.0254, UNITS["m"].metres, "39.37", "in"),
            (0.3048, UNITS["m"].metres, "3.281", "ft"),
            (1200 / 3937, UNITS["m"].metres, "survey", "usft"),
            (10, millimetre, "ten", "cm"),
        ):
            with self.subTest(factor=factor):
                found = mistake_of(factor, metres)
                assert found is not None
                self.assertIn(said, found.said)
                self.assertEqual(found.unit, unit)
        self.assertIsNone(mistake_of(1.004, millimetre))
        self.assertIsNone(mistake_of(7.7, millimetre))
        self.assertIsNone(mistake_of(float("inf"), millimetre))


class Far(unittest.TestCase):
    def test_five_kilometres_out_nothing_is_lost(self) -> None:
        """0.1 mm features 5 km out, off by less than 0.01 mm after the origin is near: here by less than a nanometre."""
        box = np.array([[5e6, 5e6, 0], [5e6 + 0.1, 5e6 + 20, 7]])
        model = job(a=source(box))
        now = Standing(model, after(model, FitSettings(), does="origin", named="base centre"))
        np.testing.assert_allclose(np.ptp(now.box(), axis=0), [0.0001, 0.02, 0.007], rtol=0, atol=1e-9)
        self.assertEqual(now.fitted.offset[0], 5000.00005)

    def test_decisions_of_before_mean_what_they_meant(self) -> None:
        told = {"sources": {"a": {"unit": "in", "up": "y", "turn": 90, "move": [1, 2, 3]}}, "datum": [10, 0, 0]}
        settings = Decisions.model_validate({"fit": told}).fit
        matrix = climb_fit(job(a=source()), settings).sources[0].matrix
        np.testing.assert_allclose(matrix @ [1, 0, 0, 1], [-9, 2 + 0.0254, 3, 1], atol=1e-15)
        np.testing.assert_allclose(matrix @ [0, 1, 0, 1], [-9, 2, 3 + 0.0254, 1], atol=1e-15)
