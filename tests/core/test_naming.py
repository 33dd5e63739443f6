"""Names that a target does not take are told before anything ships."""

import unittest

from hemp_ladder.core.ship.naming import review_names
from hemp_ladder.core.ship.settings import Target


class Names(unittest.TestCase):
    def test_what_does_not_fit_is_told_before_it_ships(self) -> None:
        target = Target.model_validate({"longest_name": 8, "plain_names": True})
        found = list(review_names(target, ["Bollard", "Bollard left", "Bollard right", "Quai à"], ["Oak"]))
        (finding,) = found
        self.assertEqual(finding.code, "unfit-names")
        self.assertIn(
            "3 names do not fit the target (at most 8 letters, A to Z, digits, dash and underscore)", finding.message
        )
        self.assertIn("2 of them become", finding.message)
        (material,) = review_names(target, ["Bollard"], ["Eiche, geölt"])
        self.assertIn("1 material does not fit", material.message)
        self.assertNotIn("namesake", material.message)

    def test_without_limits_everything_fits(self) -> None:
        self.assertEqual(list(review_names(Target(), ["Quai à" * 99], ["x" * 999])), [])


if __name__ == "__main__":
    unittest.main()
