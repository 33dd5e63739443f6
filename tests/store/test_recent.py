"""What is kept of what was worked out, and what goes first."""

import unittest

from hemp_ladder.store.recent import recent


class Recent(unittest.TestCase):
    def setUp(self) -> None:
        self.asked: list[str] = []

        @recent(2, lambda name: name.endswith("?"))
        def work(name: str) -> str:
            self.asked.append(name)
            return name.upper()

        self.work = work

    def test_is_worked_out_once(self) -> None:
        self.assertEqual([self.work("a"), self.work("a")], ["A", "A"])
        self.assertEqual(self.asked, ["a"])

    def test_the_one_not_asked_for_longest_goes(self) -> None:
        for name in ("a", "b", "a", "c", "a", "b"):
            self.work(name)
        self.assertEqual(self.asked, ["a", "b", "c", "b"])

    def test_what_is_for_the_time_being_goes_when_something_comes_that_stays(self) -> None:
        self.work("a?")
        self.work("b?")
        self.assertEqual(self.work("a?"), "A?")
        self.assertEqual(self.asked, ["a?", "b?"])
        self.work("a")
        self.work("b?")
        self.assertEqual(self.asked, ["a?", "b?", "a", "b?"])
