"""Units against NIST Special Publication 811 (2008), appendix B.8, and lengths as people write them."""

import unittest
from fractions import Fraction

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.units import UNITS, parse_angle, say_imperial, say_metric, unit


class Factors(unittest.TestCase):
    def test_exact_factors_of_nist_sp_811(self) -> None:
        """B.8: foot 3.048 E-01, inch 2.54 E-02, mil 2.54 E-05, yard 9.144 E-01, mile 1.609344 E+03, all exact;
        survey foot 3.048006 E-01."""
        exact = {"ft": "0.3048", "in": "0.0254", "mil": "0.0000254", "yd": "0.9144", "mi": "1609.344", "um": "0.000001"}
        for code, metres in exact.items():
            self.assertEqual(UNITS[code].metres, Fraction(metres), code)
        self.assertEqual(UNITS["usft"].metres, Fraction(1200, 3937))
        self.assertAlmostEqual(float(UNITS["usft"].metres), 0.3048006, places=7)

    def test_spellings(self) -> None:
        for text, code in {"inches": "in", "Feet": "ft", "µm": "um", "metres": "m", "US survey foot": "usft"}.items():
            self.assertEqual(unit(text).code, code)
        with self.assertRaises(SettingsError):
            unit("furlong")


class Angles(unittest.TestCase):
    def test_angles(self) -> None:
        self.assertAlmostEqual(parse_angle("20deg"), 0.349065850)
        self.assertAlmostEqual(parse_angle("20°"), 0.349065850)
        self.assertEqual(parse_angle("0.5rad"), 0.5)
        for text in ("20", "deg", "1.2.3deg"):
            with self.assertRaises(SettingsError):
                parse_angle(text)

    def test_said_in_both_systems(self) -> None:
        self.assertEqual(say_metric(4.2), "4.20 m")
        self.assertEqual(say_metric(0.0008), "0.80 mm")
        self.assertEqual(say_imperial(4.2), "13′ 9 3/8″")
        self.assertEqual(say_imperial(0.3048), "1′ 0″")
        self.assertEqual(say_imperial(0.0008), "0.031″")
