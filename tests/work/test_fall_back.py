"""A part whose trimming brings its child down stands as it was before, with the reason."""

import os
import signal
import unittest
from collections.abc import Mapping
from typing import Any
from unittest.mock import patch

from hemp_ladder.core.chain.came import AsItCame, write_meshed
from hemp_ladder.core.chain.making import Order
from hemp_ladder.core.chain.making import make as really
from hemp_ladder.core.chain.steps import Chain, Operation
from hemp_ladder.core.mend.weld import Weld
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.trim.flats import Flats
from hemp_ladder.core.trim.reduce import Reduce
from hemp_ladder.work.meshing.shelf import MemoryShelf
from tests.core.trim import shapes
from tests.work.forked import ForkedCase

BALL = shapes.ball(2)
BODIES = {"ball": write_meshed(BALL.positions, BALL.triangles)}


def make(orders: list[Order], report: Any) -> list[dict[str, Mesh]]:
    """Dies over whatever is trimmed."""
    if any(step.optional for order in orders for step in order.chain.operations[max(order.done - 1, 0) :]):
        os.kill(os.getpid(), signal.SIGKILL)
    return really(orders)


def chain(*steps: Operation) -> Chain:
    return Chain("ball", 1, AsItCame(), steps)


class FallBack(ForkedCase):
    def meshes(self, *chains: Chain) -> Mapping[str, Mesh]:
        self.instead(make=make)
        made = MemoryShelf(BODIES, self.crew()).meshes(chains)
        self.assertEqual(made.failed, {})
        return made.meshes

    def test_the_mesh_before_it_stays_and_the_reason_with_it(self) -> None:
        dies, lives = chain(Weld(), Flats(), Reduce(share=0.5)), chain(Weld())
        for order in ((dies, lives), (lives, dies)):
            found = self.meshes(*order)
            told, plain = found[dies.key], found[lives.key]
            self.assertEqual(told.triangles.tolist(), plain.triangles.tolist())
            self.assertEqual(len(told.triangles), len(BALL.triangles))
            self.assertEqual(set(told.figures.refused), {"flats", "reduce"})
            self.assertIn("ended from outside", told.figures.refused["reduce"])
            self.assertEqual(told.figures.triangles, len(BALL.triangles), "it is measured like any other")

    def test_an_error_nobody_thought_of_leaves_the_mesh_as_it_was(self) -> None:
        def gives_up(self: Reduce, mesh: Mesh) -> Mesh:
            raise ValueError("no such thing")

        with patch.object(Reduce, "apply", gives_up):
            made = really([Order(chain(Reduce(share=0.5)), [BODIES["ball"]])])[0][chain(Reduce(share=0.5)).key]
        self.assertEqual(made.figures.refused, {"reduce": "It gave up: ValueError: no such thing"})
        with patch.object(Weld, "apply", gives_up), self.assertRaises(ValueError):
            really([Order(chain(Weld()), [BODIES["ball"]])])


if __name__ == "__main__":
    unittest.main()
