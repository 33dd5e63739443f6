"""Colour difference against the published pairs, and materials that look the same."""

import unittest

import numpy as np

from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.difference import ciede2000, lab
from hemp_ladder.core.model.finish import Finish, Map
from hemp_ladder.core.model.material import Material
from hemp_ladder.core.sort.alike import alike

#: Sharma, Wu and Dalal 2005, table 1: two colours in CIELAB and their CIEDE2000.
PAIRS = """
50.0000 2.6772 -79.7751 50.0000 0.0000 -82.7485 2.0425
50.0000 3.1571 -77.2803 50.0000 0.0000 -82.7485 2.8615
50.0000 2.8361 -74.0200 50.0000 0.0000 -82.7485 3.4412
50.0000 -1.3802 -84.2814 50.0000 0.0000 -82.7485 1.0000
50.0000 -1.1848 -84.8006 50.0000 0.0000 -82.7485 1.0000
50.0000 -0.9009 -85.5211 50.0000 0.0000 -82.7485 1.0000
50.0000 0.0000 0.0000 50.0000 -1.0000 2.0000 2.3669
50.0000 -1.0000 2.0000 50.0000 0.0000 0.0000 2.3669
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0009 7.1792
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0010 7.1792
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0011 7.2195
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0012 7.2195
50.0000 -0.0010 2.4900 50.0000 0.0009 -2.4900 4.8045
50.0000 -0.0010 2.4900 50.0000 0.0010 -2.4900 4.8045
50.0000 -0.0010 2.4900 50.0000 0.0011 -2.4900 4.7461
50.0000 2.5000 0.0000 50.0000 0.0000 -2.5000 4.3065
50.0000 2.5000 0.0000 73.0000 25.0000 -18.0000 27.1492
50.0000 2.5000 0.0000 61.0000 -5.0000 29.0000 22.8977
50.0000 2.5000 0.0000 56.0000 -27.0000 -3.0000 31.9030
50.0000 2.5000 0.0000 58.0000 24.0000 15.0000 19.4535
50.0000 2.5000 0.0000 50.0000 3.1736 0.5854 1.0000
50.0000 2.5000 0.0000 50.0000 3.2972 0.0000 1.0000
50.0000 2.5000 0.0000 50.0000 1.8634 0.5757 1.0000
50.0000 2.5000 0.0000 50.0000 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082
"""


class Difference(unittest.TestCase):
    def test_the_published_pairs(self) -> None:
        table = np.array([line.split() for line in PAIRS.strip().splitlines()], float)
        self.assertEqual(len(table), 34)
        np.testing.assert_allclose(ciede2000(table[:, :3], table[:, 3:6]), table[:, 6], atol=5e-5)

    def test_white_and_black_in_lab(self) -> None:
        np.testing.assert_allclose(lab(Colour(1, 1, 1)), [100, 0, 0], atol=0.02)
        np.testing.assert_allclose(lab(Colour(0, 0, 0)), [0, 0, 0], atol=1e-9)


class Alike(unittest.TestCase):
    def test_by_name_only_or_by_nothing_that_is_seen(self) -> None:
        grey = Finish(Colour.from_hex("#808080"))
        told = {
            "a": grey, "b": grey, "c": Finish(Colour.from_hex("#818080")), "d": Finish(Colour.from_hex("#888080")),
            "e": Finish(Colour.from_hex("#808080"), roughness=0.7), "f": Finish(grey.colour, maps=(("normal", Map("x")),)),
            "g": Finish(Colour.from_hex("#808080"), roughness=0.71),
        }  # fmt: skip
        groups = alike([Material(id_, id_, finish) for id_, finish in told.items()])
        self.assertEqual([[item.id for item in group] for group in groups], [["a", "b", "c"], ["e", "g"]])
        self.assertEqual(alike([]), [])
