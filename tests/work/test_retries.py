"""A death that is not the part's or the file's fault is no verdict: it is tried again, and only then told."""

import os
import signal
import tempfile
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from hemp_ladder.core.chain.making import Order
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.errors import LadderError
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.work import child_jobs
from hemp_ladder.work.meshing.shelf import Maker
from hemp_ladder.work.receiving.reading import Ears, SourceRefused, receive_files
from tests.support import AS1
from tests.work.forked import ForkedCase

#: Where the children count what befell each part, by its key.
FOLDER = Path(tempfile.gettempdir())


def times(key: str) -> int:
    """How often this part, or file, was at work, this time counted."""
    with (FOLDER / key).open("a") as file:
        file.write("x")
    return (FOLDER / key).stat().st_size


def make(orders: Sequence[Order], report: Any) -> list[Mapping[str, Mesh]]:
    """Parts called `killed N` are killed N times, `raises` raises."""
    for order in orders:
        word, _, count = order.chain.part.partition(" ")
        if word == "killed" and times(order.chain.part) <= int(count):
            os.kill(os.getpid(), signal.SIGKILL)
        if word == "raises":
            times(order.chain.part)
            raise ValueError("A fault of ours.")
        if word == "refuses":
            times(order.chain.part)
            raise LadderError("Nonsense.")
    return [{order.chain.key: Mesh.nothing(1)} for order in orders]


def receive(path: str, skip: frozenset[int], careful: bool, report: Any) -> Any:
    if times("read") <= int((FOLDER / "deaths").read_text()):
        os.kill(os.getpid(), signal.SIGKILL)
    return child_jobs.receive(path, skip, careful, report)


class Retries(ForkedCase):
    def setUp(self) -> None:
        global FOLDER
        FOLDER = self.folder()
        self.instead(make=make, receive=receive)

    def made(self, *parts: str) -> tuple[set[str], dict[str, str]]:
        kept: set[str] = set()
        failed: dict[str, str] = {}
        crew = self.crew(2)
        chains = [Chain(part, 100, Facet(chord=1, angle=0.5)) for part in parts]
        maker = Maker(
            crew,
            lambda key: b"",
            lambda chain, meshes: kept.add(chain.part),
            lambda chain, why: failed.update({chain.part: why}),
        )
        maker.make(chains)
        return kept, failed

    def test_a_part_whose_process_is_killed_is_tried_alone_and_then_with_more_room(self) -> None:
        kept, failed = self.made("killed 1", "killed 2", "fine", "killed 3")
        self.assertEqual(kept, {"killed 1", "killed 2", "fine"})
        self.assertEqual(failed, {"killed 3": "Its process was ended from outside."})
        self.assertEqual((FOLDER / "killed 3").stat().st_size, 3)

    def test_what_would_come_again_is_not_tried_again(self) -> None:
        kept, failed = self.made("raises", "refuses")
        self.assertEqual(kept, set())
        self.assertIn("A fault of ours", failed["raises"])
        self.assertEqual(failed["refuses"], "Nonsense.")
        self.assertEqual([(FOLDER / name).stat().st_size for name in ("raises", "refuses")], [1, 1])

    def read(self, deaths: int) -> Any:
        (FOLDER / "deaths").write_text(str(deaths))
        bundle = FOLDER / "bundle"
        bundle.mkdir()
        return receive_files([(AS1.name, AS1)], bundle, self.crew(), Ears())

    def test_a_reader_that_is_killed_begins_again(self) -> None:
        self.assertEqual(len(self.read(2).parts), 5)

    def test_a_reader_that_is_killed_every_time_is_told_so(self) -> None:
        with self.assertRaises(SourceRefused) as caught:
            self.read(9)
        self.assertEqual(caught.exception.finding.code, "reader-crashed")
        self.assertIn("ended from outside", caught.exception.message)
