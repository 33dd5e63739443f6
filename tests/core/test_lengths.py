"""Typed lengths, in the notations of several trades and countries."""

import unittest
from fractions import Fraction

from hemp_ladder.core.lengths import LengthError, parse_length, read_length
from hemp_ladder.core.units import say_metric

INCH = Fraction("0.0254")


class Notations(unittest.TestCase):
    def test_metric_and_imperial(self) -> None:
        cases = {
            "0.1mm": Fraction(1, 10_000),
            "1/32in": INCH / 32,
            "1⁄32″": INCH / 32,
            "0.5 ft": INCH * 6,
            "13' 1 15/16\"": INCH * (13 * 12 + 1 + Fraction(15, 16)),
            "13ft 1 15/16in": INCH * (13 * 12 + 1 + Fraction(15, 16)),
            "13′-1 15/16″": INCH * (13 * 12 + 1 + Fraction(15, 16)),
            "13' 1": INCH * (13 * 12 + 1),
            "39.5 in": INCH * Fraction("39.5"),
            "2 yd": Fraction("1.8288"),
            "1 km": Fraction(1000),
            "1e-3 m": Fraction(1, 1000),
            "2m + 35cm": Fraction("2.35"),
            "2 m 35 cm": Fraction("2.35"),
            "12 µm": Fraction(12, 1_000_000),
            "3 US survey feet": Fraction(3600, 3937),
        }
        for text, metres in cases.items():
            self.assertEqual((read_length(text).metres, read_length(text).other), (metres, None), text)

    def test_thousands_and_decimals_by_country(self) -> None:
        for text in (
            "1 850 mm",
            "1\u00a0850 mm",
            "1\u202f850 mm",
            "1850mm",
            "1 850,0 mm",
            "1,850.00 mm",
            "1.850,00 mm",
            "1,85 m",
        ):
            self.assertEqual(read_length(text).metres, Fraction("1.85"), text)
            self.assertIsNone(read_length(text).other, text)
        self.assertEqual(read_length("1,234,567 mm").metres, Fraction("1234.567"))
        self.assertEqual(read_length("0,850 m").metres, Fraction("0.85"))

    def test_a_mark_that_can_be_either_is_told_both_ways(self) -> None:
        self.assertEqual((read_length("1,850 m").metres, read_length("1,850 m").other), (1850, Fraction("1.85")))
        self.assertEqual((read_length("1.850 m").metres, read_length("1.850 m").other), (Fraction("1.85"), 1850))

    def test_what_we_show_is_read_as_it_is_meant(self) -> None:
        for metres in (1850, 9999, 0.5, 12.3, 1234, 4.2, 0.0001, 45_000):
            said = say_metric(metres)
            self.assertEqual(say_metric(float(read_length(said).metres)), said)

    def test_a_bare_number_has_the_unit_of_its_field(self) -> None:
        self.assertEqual(read_length("35", bare="mm").metres, Fraction("0.035"))
        self.assertEqual(read_length("-2.5", bare="m", signed=True).metres, Fraction("-2.5"))
        self.assertEqual(read_length("1 850", bare="mm").metres, Fraction("1.85"))


class Refused(unittest.TestCase):
    def test_no_length(self) -> None:
        for text in (
            "",
            "12",
            "mm",
            "1/0 in",
            "1 banana",
            "--3mm",
            "1.2.3 m",
            "1,23,456 m",
            "3 +",
            "1e99 m",
            "9" * 99 + "m",
        ):
            with self.assertRaises(LengthError, msg=text):
                parse_length(text)

    def test_where_reading_stopped(self) -> None:
        for text, doubt in {
            "2 m + 3 banana": "banana",
            "  5 parsec": "parsec",
            "2m, 5": ", 5",
            "-3 mm": "-",
            "1.2.3 m": "1.2.3",
            "4 m + 12": "12",
        }.items():
            with self.assertRaises(LengthError) as caught:
                read_length(text)
            error = caught.exception
            self.assertEqual(text[error.at : error.at + error.length], doubt)
