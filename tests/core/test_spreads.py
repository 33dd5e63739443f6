"""Settings worked out for the parts of a job: within an allowance, or as lookouts show them; on parts whose triangles are
known by a law instead of by a kernel."""

import unittest
from collections.abc import Sequence
from fractions import Fraction
from typing import Any

import numpy as np

from hemp_ladder.core import byview
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Plan, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.facet.settings import FacetSettings, SeenFrom
from hemp_ladder.core.facet.sight import Sight
from hemp_ladder.core.fit.settings import FitSettings
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.model import Model, Node, Part
from hemp_ladder.core.ship.format import Weight
from hemp_ladder.core.ship.settings import ShipSettings, Target
from hemp_ladder.core.spreads import NEAR, Outcome, Spreading, by_size, chord_of
from hemp_ladder.core.tries import Ladder, heaviest, rungs, tried

#: How round parts are: one this many times as round has as many times the triangles at the same chord error.
ROUND = {"a": 1.0, "b": 30.0, "c": 0.2}


def quay(**facet: Any) -> Plan:
    """Three parts of 1, 10 and 0.1 m, the first standing four times."""
    sides = {"a": 1000.0, "b": 10_000.0, "c": 100.0}
    parts = [Part(ref, ref, ref, Exact(np.array([[0.0] * 3, [side, 0, 0]]), faces=4)) for ref, side in sides.items()]
    nodes = [Node("", -1, number) for number in (0, 0, 0, 0, 1, 2)]
    local = np.tile(np.eye(4), (len(nodes), 1, 1))
    model = Model("STEP", "AP242", "", "mm", "z", Fraction(1, 1000), parts, nodes, local, np.zeros((2, 3)))
    return plan(model, Decisions.model_validate({"facet": facet}))


def measured(chains: Sequence[Chain]) -> dict[str, dict[str, float]]:
    """Errors are what was asked for; triangles go with one over their root, as on a cylinder."""
    told = {}
    for chain in chains:
        assert chain.first.fineness is not None
        chord = chain.first.fineness[0]
        count = float(np.ceil(1000 * ROUND[chain.part] / np.sqrt(chord)))
        told[chain.key] = {"triangles": count, "vertices": count / 2 + 2, "off": chord}
    return told


def solved(
    now: Plan, weights: Any = None, failed: dict[str, str] | None = None, **allowance: Any
) -> tuple[Outcome, Spreading]:
    """As the queue does: what is asked for is measured, until it is enough."""
    wanted = FacetSettings.model_validate({"allowance": allowance}).allowance
    assert wanted is not None
    spreading = Spreading(
        now, wanted, now.decisions.ship.target, by_size(now) if weights is None else np.array(weights)
    )
    told = measured([chain for chain in now.chains if chain is not None])
    for _ in range(60):
        found = spreading.solve(told, failed or {})
        if isinstance(found, Outcome):
            return found, spreading
        told |= measured([chain for chain in found if chain.key not in (failed or {})])
    raise AssertionError("never solved")


class Ladders(unittest.TestCase):
    def test_rungs_go_by_the_root_of_two_with_what_is_among_them(self) -> None:
        told = rungs(2, 2)
        np.testing.assert_allclose(told, [0.5, 0.5**0.5, 1, 2**0.5, 2])
        self.assertEqual(heaviest({1: 5, 2: 90, 3: 7, 9: 90}, 3), [2, 3, 9])

    def test_who_is_free(self) -> None:
        """Not who differs by hand in chord or angle, nor who is locked; who was worked out is free again."""
        by_hand = {"by": "parts", "parts": ["a"], "chord": {"kind": "absolute", "metres": 0.001}}
        for entry, free in (
            (None, [0, 1, 2]), (by_hand, [1, 2]), ({**by_hand, "made": "allowance"}, [0, 1, 2]),
            ({**by_hand, "made": "view", "pinned": True}, [1, 2]), ({"by": "parts", "parts": ["a"], "longest": 0.1}, [0, 1, 2]),
        ):  # fmt: skip
            self.assertEqual(Ladder(quay(exceptions=[entry] if entry else [])).free, free, entry)
        now = quay()
        locked = now.decisions.sort.model_copy(update={"locked": frozenset({"b"})})
        self.assertEqual(
            Ladder(plan(now.model.members[0].model, now.decisions.model_copy(update={"sort": locked}))).free, [0, 2]
        )

    def test_what_is_tried_is_all_that_holds_for_it(self) -> None:
        now = quay(exceptions=[{"by": "parts", "parts": ["a"], "chord": {"kind": "absolute", "metres": 0.001}}])
        coarse = FacetSettings.model_validate({"chord": {"kind": "absolute", "metres": 0.02}})
        chains = tried(now, [0, 1], coarse)
        self.assertEqual([chains[part].first.fineness[0] for part in (0, 1)], [20, 20])  # type: ignore[index]

    def test_times_become_entries_for_all_that_are_alike(self) -> None:
        told = Ladder(quay()).decided({0: 2.0, 1: 1.0, 2: 2.0}, "allowance")
        (entry,) = told.exceptions
        self.assertEqual((entry.parts, entry.made, entry.stays), (("a", "c"), "allowance", False))
        start = FacetSettings()
        self.assertEqual(entry.chord, start.chord.model_copy(update={"metres": 2 * start.chord.metres}))  # type: ignore[union-attr]
        # An arc is as high as the square of its angle.
        self.assertAlmostEqual(entry.degrees or 0, start.degrees * 2**0.5, places=1)


class Allowances(unittest.TestCase):
    def test_it_is_used_up_and_never_passed(self) -> None:
        for value in (10_000, 20_000, 60_000, 200_000):
            found, _ = solved(quay(), by="count", value=value)
            self.assertLessEqual(found.total, value)
            # Where one part has nine tenths of all, its steps of four hundredths are as near as it comes.
            self.assertGreaterEqual(found.total, 0.96 * value, value)
            self.assertEqual(found.triangles, sum(found.after.values()))
            self.assertEqual((found.total, found.error), (found.triangles, max(found.errors.values())))
            self.assertLessEqual(found.more, found.error)

    def test_what_was_found_is_what_its_settings_make(self) -> None:
        now = quay()
        found, spreading = solved(now, by="count", value=20_000)
        decided = spreading.decided(found)
        self.assertEqual(decided.allowance, spreading.allowance)
        again = quay(**decided.model_dump())
        told = measured([chain for chain in again.chains if chain is not None])
        count = {0: 4, 1: 1, 2: 1}
        total = sum(
            count[part] * told[chain.key]["triangles"] for part, chain in enumerate(again.chains) if chain is not None
        )
        self.assertEqual(total, found.total)
        worst = max(chord_of(again, part) * by_size(again)[part] for part in range(3))
        self.assertAlmostEqual(worst, found.error)

    def test_brute_force_finds_nothing_better_among_what_was_measured(self) -> None:
        found, spreading = solved(quay(), by="count", value=12_000)
        every = {times for own in spreading._tried for times in own}
        _, curves = spreading._curves(measured([chain for times in every for chain in spreading._row(times).values()]))
        best = np.inf
        for one in range(len(curves[0].costs)):
            for two in range(len(curves[1].costs)):
                for three in range(len(curves[2].costs)):
                    at = (one, two, three)
                    if sum(curve.costs[k] for curve, k in zip(curves, at, strict=True)) <= 12_000:
                        best = min(best, max(curve.errors[k] for curve, k in zip(curves, at, strict=True)))
        self.assertAlmostEqual(found.error, best)

    def test_what_is_not_seen_falls_to_background_and_no_further(self) -> None:
        now = quay()
        found, _ = solved(now, weights=[1.0, 0.0, 1.0], by="count", value=20_000)
        self.assertLessEqual(found.more, found.error)
        # Background is 5 mm, ten times what holds.
        self.assertEqual((found.errors[1], found.times[1]), (0, 8))
        self.assertLess(found.times[0], found.times[1])

    def test_what_is_fixed_counts_and_may_leave_nothing(self) -> None:
        fixed = [{"by": "parts", "parts": ["b"], "chord": {"kind": "absolute", "metres": 0.0005}}]
        found, _ = solved(quay(exceptions=fixed), by="count", value=60_000)
        self.assertEqual(found.fixed, np.ceil(30_000 / 0.5**0.5))
        self.assertEqual(set(found.times), {0, 2})
        with self.assertRaises(SettingsError):
            solved(quay(exceptions=fixed), by="count", value=10_000)
        with self.assertRaises(SettingsError) as raised:
            solved(quay(exceptions=[{"by": "parts", "parts": ["a", "b", "c"], "degrees": 5}]), by="count", value=10_000)
        self.assertIn("free", raised.exception.message)

    def test_bytes_are_those_of_the_format_with_shared_meshes_once(self) -> None:
        """In a GLB the mesh that stands four times is written once, in an OBJ four times."""
        for code, value in (("glb", 400_000), ("obj", 3_000_000)):
            now = quay()
            target = Target.model_validate({"format": code})
            now = plan(
                now.model.members[0].model, now.decisions.model_copy(update={"ship": ShipSettings(target=target)})
            )
            found, _ = solved(now, by="bytes", value=value)
            self.assertLessEqual(found.total, value)
            self.assertGreaterEqual(found.total, NEAR * value)
            placed = sum(found.after.values())
            own = sum(count // times for count, times in zip(found.after.values(), (4, 1, 1), strict=True))
            weight = Weight((own // 2 + 6, own), (placed // 2 + 12, placed), False, 6)
            self.assertAlmostEqual(target.written_format.weighs(weight), found.total, delta=0.01 * value)

    def test_a_setting_that_fails_is_passed_over(self) -> None:
        now = quay()
        _, spreading = solved(now, by="count", value=20_000)
        bad = {chain.key: "no" for chain in spreading._row(4.0).values()}
        found, _ = solved(now, failed=bad, by="count", value=20_000)
        self.assertNotIn(4.0, found.times.values())
        self.assertLessEqual(found.total, 20_000)


class Views(unittest.TestCase):
    def seen(self, pixels: Sequence[float], outline: Sequence[bool], allowed: float = 0.5) -> byview.ByView:
        sight = Sight(np.array(pixels), np.array(outline), True)
        return byview.by_view(quay(), SeenFrom(pixels=allowed), sight)

    def test_an_outline_is_off_by_no_more_than_the_pixels_that_were_asked_for(self) -> None:
        """The setting in force is 0.5 mm: at 1,000 pixels a metre half a pixel."""
        found = self.seen([1000, 4000, 10], [True] * 3)
        self.assertEqual((found.times[0], found.times[1]), (1, 0.25))
        for part, pixels in ((0, 1000), (1, 4000), (2, 10)):
            off = 0.0005 * found.times[part] * pixels
            self.assertLessEqual(off, 0.5)
            # The next rung would be too coarse.
            self.assertGreater(off * 2**0.5, 0.5)
        self.assertEqual((found.near, found.middle, found.far, found.unseen), ([1], [0], [2], []))

    def test_what_shows_no_outline_may_be_four_times_as_coarse_and_what_is_not_seen_is_background(self) -> None:
        found = self.seen([1000, 1000, 0], [True, False, True])
        self.assertEqual((found.times[0], found.times[1]), (1, 4))
        self.assertEqual(found.unseen, [2])
        self.assertTrue(0.005 / 2**0.5 < 0.0005 * found.times[2] <= 0.005)

    def test_it_ends_somewhere(self) -> None:
        found = self.seen([1e9, 1e-9, 1], [True] * 3)
        self.assertEqual((found.times[0], found.times[1]), (2**-8, 2**8))

    def test_what_was_found_is_decided_with_from_where_it_was_seen(self) -> None:
        found = self.seen([1000, 4000, 10], [True] * 3)
        told = byview.decided(quay(), SeenFrom(pixels=0.5, width=800), found)
        self.assertEqual((told.seen.width, {entry.made for entry in told.exceptions}), (800, {"view"}))
        self.assertEqual([entry.parts for entry in told.exceptions], [("b",), ("c",)])

    def test_nobody_looks_and_nobody_is_free(self) -> None:
        with self.assertRaises(SettingsError) as raised:
            byview.views_of(quay(), SeenFrom())
        self.assertIn("no lookout", raised.exception.message)
        with self.assertRaises(SettingsError) as raised:
            byview.views_of(quay(), SeenFrom(lookouts=("Moon",)))
        self.assertIn("Moon", raised.exception.message)
        two = [
            {"name": name, "source": "s1", "matrix": np.eye(4).ravel().tolist(), "tall": 1} for name in ("Near", "Far")
        ]
        looked = quay()
        (ref,) = [piece.ref for piece in looked.model.members]
        fit = FitSettings.model_validate({"lookouts": [{**entry, "source": ref} for entry in two]})
        now = plan(looked.model.members[0].model, looked.decisions.model_copy(update={"fit": fit}))
        self.assertEqual(
            [view.name for view in byview.views_of(now, SeenFrom(lookouts=("Far", "Near")))], ["Far", "Near"]
        )
        self.assertEqual(len(byview.views_of(now, SeenFrom())), 2)
        self.assertGreater(len(byview.views_of(now, SeenFrom(path=True))), 2)
        fixed = quay(exceptions=[{"by": "parts", "parts": ["a", "b", "c"], "degrees": 5}])
        with self.assertRaises(SettingsError):
            byview.by_view(fixed, SeenFrom(), Sight(np.ones(3), np.ones(3, bool), True))


if __name__ == "__main__":
    unittest.main()
