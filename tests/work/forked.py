"""Crews whose children are forked from the test, so that they know the jobs that it puts in the place of ours."""

import multiprocessing
import tempfile
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any

from hemp_ladder.work import child_jobs
from hemp_ladder.work.children import Crew, Limits


class ForkedCase(unittest.TestCase):
    def folder(self) -> Path:
        """Where children can leave word."""
        keeper = tempfile.TemporaryDirectory()
        self.addCleanup(keeper.cleanup)
        return Path(keeper.name)

    def instead(self, **jobs: Callable[..., Any]) -> None:
        """Jobs by name, for this test."""
        before = dict(child_jobs.JOBS)
        child_jobs.JOBS.update(jobs)

        def back() -> None:
            child_jobs.JOBS.clear()
            child_jobs.JOBS.update(before)

        self.addCleanup(back)

    def crew(self, size: int = 1) -> Crew:
        crew = Crew(size, Limits())
        crew._context = multiprocessing.get_context("fork")
        self.addCleanup(crew.close)
        return crew
