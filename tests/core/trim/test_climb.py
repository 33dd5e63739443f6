"""Trim in the climb: who is meant, what levels add, what is found and put back, what a receiver allows."""

import json
import unittest
from typing import Any

import numpy as np

from hemp_ladder.core.chain.came import AsItCame, write_meshed
from hemp_ladder.core.chain.making import Order
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.join import Given, join
from hemp_ladder.core.offers import take_offer
from hemp_ladder.core.ship.costs import Costs, Load, advise, cost_of, excess, say_gauge
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.core.sort import Dress, Sorted
from hemp_ladder.core.trim.match import coarser, match
from hemp_ladder.core.trim.reduce import Reduce
from hemp_ladder.core.trim.settings import Level, Limit, TrimSettings
from house.places import ROOT
from tests.core.trim import shapes
from tests.support import read_kept


def settings(**told: Any) -> TrimSettings:
    return TrimSettings.model_validate(told)


QUARTER = {"does": "reduce", "share": 0.25}


class InForce(unittest.TestCase):
    def test_exceptions_come_before_the_job_and_flats_before_reduction(self) -> None:
        trim = settings(
            steps=[QUARTER, {"does": "flats"}],
            exceptions=[
                {"by": "smaller", "size": 0.1, "without": ["reduce"]},
                {"by": "parts", "parts": ["a"], "steps": [{"does": "reduce", "error": 0.001}]},
            ],
        )
        self.assertEqual(list(trim.in_force()), ["flats", "reduce"])
        self.assertEqual(trim.in_force((1,))["reduce"][0].model_dump()["error"], 0.001)
        self.assertEqual(trim.in_force((1,))["reduce"][1], 1)
        self.assertEqual(list(trim.in_force((0, 1))), ["flats"])

    def test_levels_have_names_of_their_own_and_one_step(self) -> None:
        for wrong in ([{"name": "full"}], [{"name": "a"}, {"name": "a"}], [{"name": "a", "steps": [QUARTER, QUARTER]}]):
            with self.assertRaises(ValueError):
                settings(levels=wrong)
        self.assertEqual(settings(levels=[{"name": "50 %", "steps": [QUARTER]}]).levels[0].coarser, 1.0)

    def test_a_copy_with_other_settings_has_a_key_of_its_own(self) -> None:
        step = Reduce(share=0.5)
        self.assertNotEqual(step.as_key, step.model_copy(update={"share": 0.25}).as_key)
        self.assertEqual(Reduce(error=0.1).in_coordinates(0.01).error, 10.0)


class _Parts:
    """As much of a model as offers about parts need."""

    def __init__(self, *refs: str) -> None:
        self.parts = [type("P", (), {"decided_as": ref, "ref": ref, "label": ref.title()}) for ref in refs]


class PutBack(unittest.TestCase):
    def take(self, decisions: Decisions, does: str, found: list[int], **values: Any) -> Decisions:
        from hemp_ladder.core.findings import Offer

        model: Any = _Parts("a", "b", "c")
        return take_offer(model, decisions, Offer("", does, values), "", found)

    def test_parts_are_held_by_what_reduces_them(self) -> None:
        start = Decisions.model_validate({
            "trim": {"steps": [QUARTER], "exceptions": [
                {"by": "parts", "parts": ["b"], "steps": [{"does": "reduce", "error": 0.002}]}]},
        })  # fmt: skip
        held = self.take(start, "hold", [0, 1], share=0.05).trim
        own = {entry.parts: entry.steps[0].model_dump() for entry in held.exceptions}
        self.assertEqual((own["a",]["share"], own["a",]["hold"]), (0.25, 0.05))
        self.assertEqual((own["b",]["error"], own["b",]["hold"]), (0.002, 0.05))
        only = self.take(start, "hold", [0, 1, 2], share=0.05, parts=[2]).trim
        self.assertEqual([entry.parts for entry in only.exceptions if entry.steps[0].model_dump()["hold"]], [("c",)])

    def test_a_level_is_held_as_a_whole(self) -> None:
        start = Decisions.model_validate(
            {"trim": {"levels": [{"name": "x", "steps": [QUARTER]}, {"name": "y", "coarser": 3}]}}
        )
        held = self.take(start, "hold", [0], share=0.1, level="x").trim.levels
        self.assertEqual(held[0].steps[0].model_dump()["hold"], 0.1)
        self.assertEqual(held[1], Level(name="y", coarser=3))

    def test_coarser_facets_multiply_what_is_in_force(self) -> None:
        start = Decisions.model_validate({"facet": {"chord": {"kind": "absolute", "metres": 0.001}, "degrees": 10}})
        once = self.take(start, "coarser", [1], times=4)
        twice = self.take(once, "coarser", [1], times=4)
        entry = twice.facet.exceptions[0]
        self.assertEqual((entry.parts, entry.degrees), (("b",), 40.0))
        self.assertAlmostEqual(entry.chord.metres, 0.016)  # type: ignore[union-attr]

    def test_a_lighter_level_has_fewer_segments_where_those_are_told(self) -> None:
        """Sixteen times the chord error is a quarter of the segments (the height of an arc goes with the square of its
        angle)."""
        model = join([Given("a", "a", read_kept(ROOT / "demo" / "harbour-sign.svg")[0])])
        decided = json.loads((ROOT / "demo" / "harbour-sign-decisions.json").read_text())
        decided |= {"facet": {"segments": 24}, "trim": {"levels": [{"name": "light", "coarser": 16}]}}
        planned = plan(model, Decisions.model_validate(decided))
        segments = [
            {chain.first.solid.segments for chain in planned.levels[level] if chain is not None}  # type: ignore[attr-defined]
            for level in ("full", "light")
        ]
        self.assertEqual(segments, [{24}, {6}])

    def test_reduction_pictures_and_grouping(self) -> None:
        reduced = self.take(Decisions(), "reduce", [], share=0.25, parts=[0, 2])
        self.assertEqual(reduced.trim.exceptions[0].parts, ("a", "c"))
        self.assertEqual(self.take(Decisions(), "pictures", [], side=512).ship.target.texture_limit, 512)
        self.assertEqual(self.take(Decisions(), "group", [], group="material").ship.target.group, "material")
        with self.assertRaises(SettingsError):
            self.take(Decisions(), "reduce", [0])


def load(*triangles: int, exact: bool = False, times: int = 1) -> Load:
    """Parts of so many triangles, each standing so often, in one material."""
    first = Facet(chord=0.1, angle=0.3) if exact else AsItCame()
    chains = [Chain(f"part {k}", 1, first) for k in range(len(triangles))]
    figures = {
        chain.key: Figures(triangles=count, vertices=count // 2) for chain, count in zip(chains, triangles, strict=True)
    }
    parts = np.repeat(np.arange(len(triangles), dtype=np.int32), times)
    zeros = np.zeros(len(parts), np.int64)
    sorted_ = Sorted(parts, parts, zeros, [Dress(("steel", "brass"), (-1, -1))], zeros.astype(np.int32), [None], {})
    return Load(chains, figures, [times] * len(triangles), sorted_, {})


class Limits(unittest.TestCase):
    def setUp(self) -> None:
        # No picture is worn, so the palette is not asked.
        from unittest.mock import patch

        patched = patch("hemp_ladder.core.ship.costs._worn", return_value=[])
        patched.start()
        self.addCleanup(patched.stop)

    def test_costs_by_format_and_grouping(self) -> None:
        heavy = load(1000, 200, times=3)
        glb, stl = cost_of(heavy, Target(format="glb")), cost_of(heavy, Target(format="stl"))
        self.assertEqual((glb.triangles, glb.draw_calls), (3600, 6 * 2))
        self.assertEqual(stl.bytes, 84 + 50 * 3600, "as the format's header and records say")
        one = cost_of(heavy, Target(format="glb", group="material"))
        self.assertEqual(one.draw_calls, 2)
        self.assertGreater(one.bytes, glb.bytes, "placements share no triangles any more")

    def test_the_step_that_buys_most_comes_first_and_is_enough(self) -> None:
        heavy = load(80_000, 20_000, 5000, 50)
        limit = Limit(triangles=40_000, draw_calls=4)
        steps = advise(heavy, Target(), limit, [False] * 4)
        self.assertEqual([step.buys for step in steps], sorted((step.buys for step in steps), reverse=True))
        over = excess(cost_of(heavy, Target()), limit)
        self.assertEqual(over, {"triangles": 105_050 - 40_000, "draw_calls": 4})
        self.assertGreaterEqual(steps[0].buys, over["triangles"])
        self.assertEqual(steps[0].parts, (0, 1))
        single = next(step for step in steps if step.parts == (0,))
        self.assertEqual((single.offer.does, single.buys, single.sure), ("reduce", 60_000, True))
        self.assertTrue(any(step.offer.does == "group" for step in steps))

    def test_exact_shapes_are_offered_coarser_facets_and_trimmed_ones_nothing(self) -> None:
        steps = advise(load(80_000, 9000, exact=True), Target(), Limit(triangles=1000), [False, True])
        self.assertEqual({step.offer.does for step in steps}, {"coarser"})
        self.assertEqual({part for step in steps for part in step.parts}, {0})
        self.assertEqual(advise(load(80_000), Target(), Limit(triangles=90_000), [False]), [])
        self.assertEqual(excess(Costs(5, 5, 5, 5, 0), None), {})

    def test_gauges_in_words(self) -> None:
        self.assertEqual(
            [say_gauge(gauge, 52_000) for gauge in ("triangles", "bytes", "pixels", "draw_calls")],
            ["52,000 triangles", "52 kB", "52,000 px", "52,000 draw calls"],
        )  # fmt: skip


class Exact(unittest.TestCase):
    def test_both_ways_are_measured_against_the_true_surface(self) -> None:
        """On a drum coarser facets win; on a ball, cut along its circles of latitude, they need not. What is said of a
        ball's facets is what its closed form says."""
        from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere

        from hemp_ladder.core.chain.making import make
        from hemp_ladder.core.kernel.shapes import write_shape

        drum = write_shape(BRepPrimAPI_MakeCylinder(10.0, 5.0).Shape())
        found = match(Chain("drum", 3, Facet(chord=0.005, angle=0.1)), [drum], 100)
        self.assertLess(abs(found.triangles - 100), 20)
        self.assertLess(found.off, found.reduced_off)
        ball = write_shape(BRepPrimAPI_MakeSphere(10.0).Shape())
        chain = Chain("ball", 1, Facet(chord=0.01, angle=0.35))
        found = match(chain, [ball], 600)
        self.assertLess(abs(found.triangles - 600), 120)
        self.assertLess(abs(found.reduced - found.triangles), 0.1 * found.triangles + 4)
        told = Chain("ball", 1, coarser(chain.first, found.times))
        corners = make([Order(told, [ball])])[0][told.key].corners
        self.assertEqual(len(corners), found.triangles)
        deepest = 10 - np.linalg.norm(corners.mean(axis=1), axis=1).min()
        self.assertGreater(found.off, 0.95 * deepest)
        self.assertLess(found.off, 1.5 * deepest)

    def test_what_is_not_exact_has_no_chord_error(self) -> None:
        from hemp_ladder.core.errors import LadderError

        with self.assertRaises(LadderError):
            coarser(AsItCame(), 2.0)


class Together(unittest.TestCase):
    def test_deviations_of_two_steps_add_up_and_settle(self) -> None:
        from hemp_ladder.core.chain.making import make

        ring: Mesh = shapes.torus(80, 40)
        body = write_meshed(ring.positions, ring.triangles, None, None)
        chain = Chain("ring", 1, AsItCame(), (Reduce(share=0.5), Reduce(share=0.3)))
        whole = make([Order(chain, [body])])[0]
        half, less = whole[chain.keys[1]], whole[chain.key]
        self.assertEqual(less.figures.trimmed["triangles"], len(ring.triangles))
        self.assertGreater(less.figures.trimmed["there"], half.figures.trimmed["there"])
        again = make([Order(chain, start=half, done=2)])[0][chain.key]
        self.assertEqual(again.triangles.tolist(), less.triangles.tolist())
        self.assertEqual(again.figures.trimmed, less.figures.trimmed)
        self.assertEqual(Figures.from_dict(less.figures.as_dict()), less.figures)


if __name__ == "__main__":
    unittest.main()
