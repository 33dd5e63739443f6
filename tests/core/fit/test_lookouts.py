"""Lookouts stand where Fit puts their source, and see what the stage saw."""

import math
import unittest
from dataclasses import replace
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.fit.lookouts import LookoutsWay, LookoutWay, Seen, View, lookouts_of
from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.model.join import as_joined
from hemp_ladder.core.model.model import Lookout, Model, Node
from tests.core.sort.test_rules import model, part


def camera(name: str = "Quay", at: tuple[float, float, float] = (1000, 2000, 3000), **more: Any) -> Lookout:
    matrix = np.eye(4)
    matrix[:3, 3] = at
    return Lookout(name, tuple(matrix.ravel().tolist()), 0.0 if "reach" in more else 0.6, **more)


def quay(*cameras: Lookout, up: str = "z") -> Model:
    """In millimetres."""
    return replace(model([part("Bollard")], [Node("", -1, 0)]), lookouts=list(cameras), up=up)


def seen(subject: Model, **fit: Any) -> list[View]:
    settings = FitSettings.model_validate(fit)
    return lookouts_of(climb_fit(subject, settings), settings)


def standing(subject: Model, **fit: Any) -> Standing:
    return Standing(as_joined(subject), FitSettings.model_validate(fit))


class Cameras(unittest.TestCase):
    def test_a_camera_looks_along_its_minus_z_in_metres(self) -> None:
        (view,) = seen(quay(camera(wide=1.5)))
        np.testing.assert_allclose([view.eye, view.way, view.up], [[1, 2, 3], [0, 0, -1], [0, 1, 0]])
        self.assertEqual((view.name, view.tall, view.wide, view.camera), ("Quay", 0.6, 1.5, True))

    def test_it_goes_along_with_what_fit_does(self) -> None:
        """Of a source whose Y is up, which Fit lays on its back: y becomes z, z becomes -y."""
        (view,) = seen(quay(camera(), up="y"))
        np.testing.assert_allclose([view.eye, view.way, view.up], [[1, -3, 2], [0, 1, 0], [0, 0, 1]], atol=1e-12)
        # What a view without vanishing points sees is a length.
        (view,) = seen(quay(camera(reach=4000.0)))
        self.assertAlmostEqual(view.reach, 4)

    def test_what_makes_no_picture_is_left_out(self) -> None:
        flat, nowhere, aside, upright = (np.eye(4) for _ in range(4))
        flat[:3, :3], nowhere[0, 3], aside[:3, 2], upright[:3, 1] = 0, np.nan, 0, 0
        bad = [Lookout("Bad", tuple(matrix.ravel().tolist()), 0.6) for matrix in (flat, nowhere, aside, upright)]
        self.assertEqual([view.name for view in seen(quay(*bad, camera("Good")))], ["Good"])

    def test_a_persons_list_counts_and_what_is_gone_from_it_is_left_out(self) -> None:
        subject = quay(camera("One"), camera("Two"))
        ref = climb_fit(subject, FitSettings()).model.members[0].ref
        told = [
            {"name": "Second", "camera": {"source": ref, "number": 1}}, {"name": "Ninth", "camera": {"source": ref, "number": 8}},
            {"name": "Lost", "camera": {"source": "other", "number": 0}},
        ]  # fmt: skip
        self.assertEqual([view.name for view in seen(subject, lookouts=told)], ["Second"])
        self.assertEqual(seen(subject, lookouts=[]), [])


class Kept(unittest.TestCase):
    def kept(self, subject: Model, view: Seen, at: int | None = None, **fit: Any) -> Standing:
        return LookoutWay(does="lookout", name="Kept", at=at, seen=view).apply(standing(subject, **fit))

    def test_what_the_stage_saw_is_what_a_lookout_sees_however_the_source_stands(self) -> None:
        dice = np.random.default_rng(3)
        for up in ("z", "y", "-x"):
            turn = Rotation.random(random_state=dice).as_matrix()
            eye, way, above = (tuple(row) for row in (dice.normal(size=3) * 9, turn[0], turn[2]))
            view = Seen(eye=eye, way=way, up=above, tall=0.7, wide=1.6, reach=2.5)
            after = self.kept(quay(up=up), view)
            (found,) = lookouts_of(after.fitted, after.settings)
            np.testing.assert_allclose([found.eye, found.way, found.up], [eye, way, above], atol=1e-9)
            self.assertEqual((found.name, found.tall, found.wide, found.camera), ("Kept", 0.7, 1.6, False))
            self.assertAlmostEqual(found.reach, 2.5)

    def test_an_up_that_leans_is_made_upright_and_one_along_the_view_is_refused(self) -> None:
        after = self.kept(quay(), Seen(eye=(0, 0, 0), way=(0, 2, 0), up=(0, 3, 4), tall=1))
        (found,) = lookouts_of(after.fitted, after.settings)
        np.testing.assert_allclose([found.way, found.up], [[0, 1, 0], [0, 0, 1]])
        with self.assertRaises(SettingsError):
            self.kept(quay(), Seen(eye=(0, 0, 0), way=(0, 2, 0), up=(0, 1, 0), tall=1))

    def test_it_stands_still_on_its_source_when_that_is_moved(self) -> None:
        """A lookout that was kept belongs to the first source: what it sees of it stays the same."""
        after = self.kept(quay(), Seen(eye=(0, -5, 1), way=(0, 1, 0), up=(0, 0, 1), tall=math.pi / 4))
        told = after.settings.model_dump()
        turned = FitSettings.model_validate({**told, "up": "y"})
        fitted = climb_fit(quay(), turned)
        (found,) = lookouts_of(fitted, turned)
        # y becomes z, z becomes -y.
        np.testing.assert_allclose([found.eye, found.way], [[0, -1, -5], [0, 0, 1]], atol=1e-9)

    def test_one_is_changed_and_none_that_is_not_there(self) -> None:
        view = Seen(eye=(0, 0, 0), way=(1, 0, 0), up=(0, 0, 1), tall=1)
        after = self.kept(quay(camera("One"), camera("Two")), view, at=1)
        self.assertEqual([entry.name for entry in after.settings.lookouts or ()], ["One", "Kept"])
        with self.assertRaises(SettingsError):
            self.kept(quay(camera("One")), view, at=1)


class Order(unittest.TestCase):
    def ordered(self, order: tuple[int, ...], names: tuple[str, ...] = ()) -> list[str]:
        way = LookoutsWay(does="lookouts", order=order, names=names)
        after = way.apply(standing(quay(camera("One"), camera("Two"), camera("Three"))))
        return [entry.name for entry in after.settings.lookouts or ()]

    def test_by_number_with_other_names_and_without_some(self) -> None:
        self.assertEqual(self.ordered((2, 0, 1)), ["Three", "One", "Two"])
        self.assertEqual(self.ordered((1, 2), ("Pier",)), ["Pier", "Three"])
        self.assertEqual(self.ordered(()), [])
        for order in ((3,), (-1,), (0, 0)):
            with self.assertRaises(SettingsError):
                self.ordered(order)


if __name__ == "__main__":
    unittest.main()
