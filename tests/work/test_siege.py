"""A house is killed piece by piece while it works, and every job comes to its end with nothing lost.

The short form, a kill of each kind; `python -m bench.siege` is the long one.
"""

import unittest

from tests.kills import KeptHouse, Siege


class Killed(unittest.TestCase):
    def test_whatever_dies_the_job_ends_well(self) -> None:
        house = KeptHouse()
        self.addCleanup(house.close)
        Siege(house, seed=7).run(4)


if __name__ == "__main__":
    unittest.main()
