"""Whom a name or a group is for."""

import unittest

from hemp_ladder.core.sort import Rule, SortSettings
from hemp_ladder.core.sort.order.settings import Whom
from hemp_ladder.core.sort.order.whom import whom_mask
from tests.core.sort.test_order import climbed


class Meant(unittest.TestCase):
    def test_by_everything_that_placements_have(self) -> None:
        """Of the quay: two leaves of a door in a house; a lamp and a body in a tower."""
        settings = SortSettings(rules=(Rule(by="layer", match="Doors", material="brass"),))
        taken, sorted_ = climbed(settings)
        leaf = taken.model.node_refs[int(taken.placements[1])]
        for by, match, meant in (
            ("all", (), [1, 1, 1, 1]), ("material", ("brass",), [1, 1, 0, 0]), ("material", ("brass", "undecided"), [1, 1, 1, 1]),
            ("source", ("other",), [0, 0, 0, 0]), ("placement", (leaf,), [0, 1, 0, 0]),
            ("group", ("House",), [1, 1, 0, 0]), ("group", ("Room",), [0, 0, 1, 0]), ("group", ("House", "Tower"), [1, 1, 1, 1]),
            ("group", ("Nowhere",), [0, 0, 0, 0]), ("layer", ("Lights",), [0, 0, 1, 0]), ("storey", ("Ground", "Lantern"), [1, 0, 1, 0]),
            ("part", (taken.model.parts[2].decided_as,), [0, 0, 0, 1]), ("name", ("leaf*",), [1, 1, 0, 0]),
        ):  # fmt: skip
            with self.subTest(by=by, match=match):
                mask = whom_mask(taken, sorted_, Whom.model_validate({"by": by, "match": match}))
                self.assertEqual(mask.astype(int).tolist(), meant)


if __name__ == "__main__":
    unittest.main()
