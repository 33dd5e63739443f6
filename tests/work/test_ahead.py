"""Parts are meshed while the rest of their source is still being read, and nothing is lost where that fails."""

import io
import json
import os
import signal
import tempfile
import time
import unittest
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import redirect_stdout
from fractions import Fraction
from pathlib import Path
from threading import Timer
from typing import Any
from unittest import mock
from unittest.mock import patch

import numpy as np

from hemp_ladder.cli import main
from hemp_ladder.core.chain.making import Order
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.model import Model, Part
from hemp_ladder.core.receive.report import Kept
from hemp_ladder.core.receive.step.read import read_step
from hemp_ladder.work import child_jobs
from hemp_ladder.work.meshing.ahead import Ahead
from hemp_ladder.work.meshing.shelf import Maker, MemoryShelf
from hemp_ladder.work.receiving.reading import Ears, receive_files
from tests.support import AS1, PUBLIC
from tests.work.forked import ForkedCase

FOLDER = Path(tempfile.gettempdir())


def make(orders: Sequence[Order], report: Any) -> list[Mapping[str, Mesh]]:
    """Notes who is at work at what. `dies` ends its process the first time, `waits` lasts until it is let go."""
    for order in orders:
        part = order.chain.part
        with (FOLDER / "made").open("a") as file:
            file.write(f"{part}\n")
        if part == "dies" and made().count(part) == 1:
            os._exit(3)
        while part == "waits" and not (FOLDER / "go").exists():
            time.sleep(0.01)
    return [{order.chain.key: Mesh.nothing(1)} for order in orders]


def made() -> list[str]:
    path = FOLDER / "made"
    return path.read_text().split() if path.exists() else []


def chain(part: str) -> Chain:
    return Chain(part, 100, Facet(chord=1, angle=0.5))


def chains(model: Model) -> Iterable[Chain]:
    return [chain(part.key) for part in model.parts]


def told(*parts: str) -> Model:
    body = Exact(np.zeros((2, 3)), faces=1)
    return Model("STEP", "", "", "mm", "z", Fraction(1), [Part("", "", key, body) for key in parts], [],
                 np.zeros((0, 4, 4)), np.zeros((2, 3)))  # fmt: skip


class WhileReading(ForkedCase):
    def setUp(self) -> None:
        global FOLDER
        FOLDER = self.folder()
        self.instead(make=make)
        self.two = self.crew(2)
        self.bodies = dict.fromkeys(("one", "two", "three", "dies", "waits"), b"")

    def meshes(self, ahead: Ahead, *parts: str) -> list[str]:
        """Which of the parts have a mesh in the end."""
        shelf = MemoryShelf(self.bodies, self.two, ahead=ahead)
        found = shelf.meshes([chain(part) for part in parts])
        return [part for part in parts if chain(part).key in found.meshes]

    def until(self, part: str) -> None:
        while part not in made():
            time.sleep(0.01)

    def test_what_was_made_is_not_made_again(self) -> None:
        with Ahead(self.two, self.bodies, chains) as ahead:
            ahead.add(told("one", "two"))
            self.until("two")
            self.assertEqual(self.meshes(ahead, "one", "three"), ["one", "three"])
        self.assertEqual(sorted(made()), ["one", "three", "two"])
        # Its child is the crew's again, and made the third.
        self.assertEqual(len(self.two._idle), 1)

    def test_what_is_being_made_is_waited_for_and_nothing_more_begun(self) -> None:
        with Ahead(self.two, self.bodies, chains) as ahead:
            ahead.add(told("waits"))
            self.until("waits")
            ahead.add(told("two"))
            _, coming = ahead.made({item.key: item for item in (chain("waits"), chain("two"))})
            self.assertEqual(coming, {chain("waits").key})
            (FOLDER / "go").touch()
            self.assertEqual(self.meshes(ahead, "waits", "two"), ["waits", "two"])
        self.assertEqual(sorted(made()), ["two", "waits"])

    def test_a_little_more_waits_for_the_child_that_is_ready(self) -> None:
        with Ahead(self.two, self.bodies, chains) as ahead:
            ahead.add(told("waits"))
            self.until("waits")
            later = Timer(1.0, (FOLDER / "go").touch)
            later.start()
            self.addCleanup(later.join)
            with mock.patch("hemp_ladder.work.meshing.ahead._LITTLE", 2 * chain("two").seconds()):
                self.assertEqual(self.meshes(ahead, "waits", "two"), ["waits", "two"])
        # No other has been begun for it.
        self.assertEqual(len(self.two._idle), 1)

    def test_what_nobody_wants_after_all_is_not_waited_for(self) -> None:
        with Ahead(self.two, self.bodies, chains) as ahead:
            ahead.add(told("waits"))
            self.until("waits")
            self.assertEqual(self.meshes(ahead, "two"), ["two"])
            # It is given up at once, not only with everything else.
            assert ahead._thread is not None
            ahead._thread.join(20)
            self.assertFalse(ahead._thread.is_alive())

    def test_what_failed_is_made_by_those_who_need_it(self) -> None:
        with Ahead(self.two, self.bodies, chains) as ahead:
            ahead.add(told("dies", "one"))
            ahead.add(told("two"))
            self.until("two")
            self.assertEqual(self.meshes(ahead, "dies", "one", "two"), ["dies", "one", "two"])
        self.assertEqual(made().count("two"), 1)

    def test_leaving_waits_for_nothing(self) -> None:
        with Ahead(self.two, self.bodies, chains) as ahead:
            ahead.add(told("waits"))
            self.until("waits")
        self.assertFalse((FOLDER / "go").exists())

    def test_decisions_that_cannot_be_planned_are_somebody_elses_to_tell(self) -> None:
        def refuse(model: Model) -> Iterable[Chain]:
            raise ValueError("A fault.")

        with Ahead(self.two, self.bodies, refuse) as ahead:
            ahead.add(told("one"))
            self.assertEqual(self.meshes(ahead, "one"), ["one"])


class FromTheReader(ForkedCase):
    def test_what_brings_the_reader_down_beforehand_is_left_to_the_whole(self) -> None:
        told: list[Model] = []

        def deadly(reader: Any, about: Callable[[int], None]) -> Iterator[Any]:
            about(1)
            os.kill(os.getpid(), signal.SIGSEGV)
            yield

        self.instead(receive=child_jobs.receive)
        with patch("hemp_ladder.core.receive.step.read.shapes_ahead", deadly):
            model = receive_files([(AS1.name, AS1)], self.folder(), self.crew(), Ears(ahead=told.append))
        self.assertEqual((len([part for part in model.parts if part.body.has_surface]), told), (5, []))

    def test_strange_types_bring_nothing_down(self) -> None:
        """Files of another system, some of whose types the kernel does not know."""
        strange = sorted(PUBLIC.rglob("*-tu-203.stp"))
        self.assertTrue(strange)
        for path in strange:
            kept = Kept()
            read_step(path, kept)
            self.assertEqual(kept.suspects[-1], 0)


class OnTheCommandLine(unittest.TestCase):
    def converted(self, *options: str) -> list[str]:
        """Parts of a file of solids that were meshed after it was read, when all could be before."""
        after: list[str] = []
        make, done, told_of_nothing = Maker.make, Ahead.made, told()

        def noted(self: Maker, chains: Sequence[Chain], cancelled: Callable[[], bool] = lambda: False) -> None:
            after.extend(chain.part for chain in chains)
            make(self, chains, cancelled)

        def late(self: Ahead, wanted: Mapping[str, Chain]) -> Any:
            # Nothing is taken up before all that was told of earlier has been begun.
            self._told.put(told_of_nothing)
            while self._thread is not None and self._thread.is_alive() and not self._told.empty():
                time.sleep(0.01)
            return done(self, wanted)

        with (
            tempfile.TemporaryDirectory() as folder,
            patch.object(Maker, "make", noted),
            patch.object(Ahead, "made", late),
            redirect_stdout(io.StringIO()) as printed,
        ):
            code = main(["convert", str(AS1), "-o", f"{folder}/out.glb", "--json", *options])
        self.assertEqual((code, json.loads(printed.getvalue())["parts"]), (0, 5))
        return after

    def test_parts_are_meshed_while_the_file_is_read(self) -> None:
        self.assertEqual(self.converted("--chord", "1mm"), [])

    def test_of_a_size_of_ones_own_only_when_it_was_read(self) -> None:
        with patch.object(Ahead, "add") as add:
            for said in (("--source-unit", "in"), ("--known-length", "0,0,0 100,0,0 = 2 cm")):
                self.assertEqual(len(self.converted(*said)), 5)
        add.assert_not_called()
