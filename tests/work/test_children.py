"""Children that crash, hang or eat memory end their job and nothing else."""

import gc
import importlib
import os
import signal
import tempfile
import time
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from hemp_ladder.core.errors import Cancelled, UnreadableSource
from hemp_ladder.work import child_jobs
from hemp_ladder.work.children import ChildDied, Crew, Limits


def crash(report: Any) -> None:
    os.kill(os.getpid(), signal.SIGSEGV)


def hang(report: Any) -> None:
    time.sleep(600)


def spin(report: Any) -> None:
    while True:
        pass


def eat(report: Any) -> int:
    return len(bytearray(1 << 36))


def refuse(report: Any) -> None:
    raise UnreadableSource("No.", "Yes.")


def double(value: int, report: Any) -> int:
    report("seen", value)
    return 2 * value


def collects(report: Any) -> bool:
    return gc.isenabled()


def passed_over(report: Any) -> int:
    return gc.get_freeze_count()


def who(report: Any) -> int:
    return os.getpid()


TRIALS = {
    "crash": crash,
    "hang": hang,
    "spin": spin,
    "eat": eat,
    "refuse": refuse,
    "double": double,
    "collects": collects,
    "who": who,
    "passed over": passed_over,
}


class Children(unittest.TestCase):
    """Jobs are looked up by name in the child, so each trial is put where the child looks."""

    @classmethod
    def setUpClass(cls) -> None:
        # Children are forked from a server that imported the jobs before; `fork` sees ours.
        import multiprocessing

        cls.context = multiprocessing.get_context("fork")
        child_jobs.JOBS.update(TRIALS)
        cls.addClassCleanup(lambda: [child_jobs.JOBS.pop(name) for name in TRIALS])

    def crew(self, **limits: Any) -> Crew:
        crew = Crew(2, Limits(**limits))
        crew._context = self.context
        self.addCleanup(crew.close)
        return crew

    def test_a_crash_ends_as_a_sentence_and_the_crew_goes_on(self) -> None:
        crew = self.crew()
        with self.assertRaises(ChildDied) as caught:
            crew.run("crash")
        self.assertIn("SIGSEGV", caught.exception.message)
        self.assertFalse(caught.exception.limit)
        self.assertEqual(crew.run("double", 4), 8)

    def test_limits(self) -> None:
        for job, limits in (("hang", {"wall_seconds": 0.5}), ("spin", {"cpu_seconds": 1}), ("eat", {})):
            with self.assertRaises(ChildDied) as caught:
                self.crew(**limits).run(job)
            self.assertTrue(caught.exception.limit, job)

    def test_errors_and_reports_come_through(self) -> None:
        crew, seen = self.crew(), []
        with self.assertRaises(UnreadableSource) as caught:
            crew.run("refuse")
        self.assertEqual((caught.exception.message, caught.exception.remedy), ("No.", "Yes."))
        outcomes = dict(
            crew.map("double", [(i,) for i in range(9)], on_report=lambda word, values: seen.append(values))
        )
        self.assertEqual(outcomes, {i: 2 * i for i in range(9)})
        self.assertEqual(sorted(seen), [(i,) for i in range(9)])

    def test_cancel_stops_at_once(self) -> None:
        started = time.monotonic()
        with self.assertRaises(Cancelled):
            # The job hangs for ten minutes: that this ends at all is what is tested.
            self.crew().run("hang", cancelled=lambda: time.monotonic() > started + 0.3)

    def test_cycles_are_not_looked_for_while_a_file_is_read_and_are_afterwards(self) -> None:
        with mock.patch.dict(child_jobs.JOBS, receive=collects):
            crew = self.crew()
            crew.size = 1
            self.assertEqual([crew.run(job) for job in ("collects", "receive", "collects")], [True, False, True])

    def test_what_the_server_imported_is_not_looked_over_for_cycles(self) -> None:
        # The kernel's binding alone makes a hundred thousand objects.
        self.assertGreater(self.crew().run("passed over"), 100_000)
        self.assertTrue(gc.isenabled())

    def test_what_is_imported_at_leisure_gives_way_to_a_job(self) -> None:
        met: list[str] = []
        with mock.patch.object(importlib, "import_module", met.append):
            child_jobs.at_leisure()
            every = len(met)
            met.clear()
            child_jobs.at_leisure(lambda: len(met) == 2)
        self.assertGreater(every, 2)
        self.assertEqual(len(met), 2)

    def test_the_first_to_be_ready_is_the_first_that_works_beside(self) -> None:
        with tempfile.TemporaryDirectory() as folder:

            def at_leisure(asked: Any) -> None:
                Path(folder, str(os.getpid())).touch()

            with mock.patch.object(child_jobs, "at_leisure", at_leisure):
                crew = self.crew()
                crew.warm(1)
            while not (ready := list(Path(folder).iterdir())):
                time.sleep(0.01)
            with crew.beside() as beside:
                self.assertEqual(str(beside.run("who")), ready[0].name)

    def test_children_that_are_ended_while_they_wait_are_passed_over(self) -> None:
        crew = self.crew()
        crew.warm()
        for child in crew._idle:
            child.process.kill()
            child.process.join()
        self.assertEqual(sorted(crew.map("double", [(1,), (2,), (3,)])), [(0, 2), (1, 4), (2, 6)])
