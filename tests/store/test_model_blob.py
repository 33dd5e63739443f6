"""A model put away and taken out again is the same, to the last bit of its placements."""

import unittest
from fractions import Fraction

import numpy as np

from hemp_ladder.core.findings import finding
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.model import Colour, Model, Node, Part
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.store import model_blob


def model() -> Model:
    red, glass = Colour.from_hex("#b5432b"), Colour.from_hex("#3c7a8f66")
    parts = [
        Part(
            label="Bolt “M8”\n", name="Bolt", key="k1", body=Exact(np.array([[0.1, 0, 0], [1, 2, 1 / 3]]), 9, 1, 2, 4, 5), layer="Läger",
            colour=red, face_colours={3: glass}, stable="Bolt ·0000000a",
        ),
        Part(label="unnamed", name="", key="k2", body=Exact(np.zeros((2, 3))), stable="unnamed ·00000002"),
    ]  # fmt: skip
    nodes = [Node("Yard", -1), Node("", 0, 0, layer="Steel", colour=glass), Node("x", 0, 1)]
    local = np.random.default_rng(2).normal(size=(3, 4, 4)) * 1e7
    return Model(
        format="STEP", schema="AP242", writer="somebody", unit="in", up="z", metres_per_coordinate=Fraction(127, 5000),
        parts=parts, nodes=nodes, local=local, box=np.array([[0.0] * 3, [1e7, 1 / 7, 3]]), layers=["Läger", "Steel"],
        findings=[finding("unnamed", "unnamed", "One part has no name.")],
        textures=[Texture("ab" * 32, "maps/plänk.png", 2048, 1024, "base colour", "srgb")],
    )  # fmt: skip


class RoundTrip(unittest.TestCase):
    def test_everything_comes_back(self) -> None:
        before = model()
        after = model_blob.decode(model_blob.encode(before))
        np.testing.assert_array_equal(after.local, before.local)
        np.testing.assert_array_equal(after.box, before.box)
        self.assertEqual(after.nodes, before.nodes)
        self.assertEqual(after.findings, before.findings)
        self.assertEqual(after.metres_per_coordinate, before.metres_per_coordinate)
        for name in ("format", "schema", "writer", "unit", "up", "layers", "textures"):
            self.assertEqual(getattr(after, name), getattr(before, name), name)
        for old, new in zip(before.parts, after.parts, strict=True):
            np.testing.assert_array_equal(new.box, old.box)
            self.assertEqual(new.body.as_dict(), old.body.as_dict())
            for name in (
                "label",
                "stable",
                "name",
                "key",
                "layer",
                "colour",
                "face_colours",
            ):
                self.assertEqual(getattr(new, name), getattr(old, name), name)
        np.testing.assert_array_equal(after.world(), before.world())

    def test_a_damaged_blob_is_an_error_and_not_another_model(self) -> None:
        data = model_blob.encode(model())
        for broken in (b"", data[: len(data) // 2], data[:-1]):
            with self.assertRaises((OSError, EOFError, ValueError)):
                model_blob.decode(broken)
