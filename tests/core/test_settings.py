"""What every section of the decisions refuses, and takes, whatever it is about."""

import unittest
from typing import Any

from pydantic import ValidationError

from hemp_ladder.core.facet.settings import FacetSettings
from hemp_ladder.core.settings import Settings, is_text


class Lamp(Settings):
    lit: bool = False
    height: float = 1.0
    spot: tuple[float, float] = (0.0, 0.0)
    name: str | None = None
    keys: dict[str, bool] = {}


class Plain(unittest.TestCase):
    def refused(self, said: str, **given: Any) -> None:
        with self.assertRaises(ValidationError) as caught:
            Lamp.model_validate(given)
        self.assertIn(said, str(caught.exception))

    def test_true_is_no_number_and_stays_what_it_is_where_it_belongs(self) -> None:
        self.refused("height: true and false are no numbers", height=True)
        self.refused("spot: true and false are no numbers", spot=[1, False])
        self.refused("name: true and false are no numbers", name=True)
        lamp = Lamp(lit=True, height=1, spot=(0, 1), keys={"a": True})
        self.assertEqual((lamp.lit, lamp.height, lamp.keys), (True, 1.0, {"a": True}))

    def test_a_section_has_its_own_fields(self) -> None:
        # What is found out of one class once is not taken for another's.
        self.refused("height", height=False)
        with self.assertRaises(ValidationError):
            FacetSettings.model_validate({"degrees": True})
        self.refused("Extra inputs", degrees=9)

    def test_text_that_nothing_can_store_is_refused_and_all_other_taken(self) -> None:
        for text in ("a\0", "\0", "\ud800", "läng\udfff"):
            with self.subTest(repr(text)):
                self.assertFalse(is_text(text))
                self.refused("it holds a character that is none", name=text)
        for text in ("", "Quay", "Längre brygga", "灯台", "🗼", "\u2028", "\x7f"):
            with self.subTest(repr(text)):
                self.assertTrue(is_text(text))
                self.assertEqual(Lamp(name=text).name, text)


if __name__ == "__main__":
    unittest.main()
