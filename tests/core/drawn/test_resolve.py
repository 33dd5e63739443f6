"""What becomes of each drawn part, by the rows of decisions."""

from typing import Any

import numpy as np

from hemp_ladder.core.choose.outlines.settings import Shaping
from hemp_ladder.core.climb import climb, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import SettingsError
from tests.support import FolderCase, FollowedHere, read_kept

#: A plate with a window, a disk in the window, a hole in the disk, a bar across everything, and a line.
PICTURE = """<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">
<g id="Plates"><rect id="plate" width="100" height="100" fill="#111111"/></g>
<g id="Disks"><rect id="window" x="20" y="20" width="60" height="60" fill="#ffffff"/>
<circle id="disk" cx="50" cy="50" r="20" fill="#111111"/><circle id="bore" cx="50" cy="50" r="5" fill="#ffffff"/></g>
<g id="Bars"><rect id="bar" x="-10" y="45" width="50" height="10" fill="#222222"/></g>
<g id="Lines"><path id="pen" d="M0 0 L100 100" fill="none" stroke="#333333" stroke-width="2"/></g>
</svg>"""


class Rows(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        path = self.folder / "picture.svg"
        path.write_text(PICTURE)
        self.model, self.kept = read_kept(path)

    def decided(self, *rows: dict[str, Any], **drawn: Any) -> Decisions:
        parsed = tuple(Shaping(**row) for row in rows)
        return Decisions.model_validate({"receive": {"drawn": {"rows": [r.model_dump() for r in parsed], **drawn}}})

    def shaped(self, *rows: dict[str, Any], **drawn: Any) -> dict[str, Any]:
        """By name, the solid of each part, or the role of one that has none."""
        found = plan(self.model, self.decided(*rows, **drawn))
        shaped = found.taken.shaped
        return {part.ref: shaped.solids.get(i, shaped.roles[i]) for i, part in enumerate(found.model.parts)}

    def volumes(self, *rows: dict[str, Any], **drawn: Any) -> dict[str, float]:
        """By name, in cubic millimetres."""
        result = climb(self.model, self.decided(*rows, **drawn), FollowedHere(self.kept.shapes))
        found = {}
        for i, part in enumerate(result.model.parts):
            made = result.mesh_of(i)
            if made is not None:
                self.assertTrue(made.watertight, part.ref)
                found[part.ref] = made.volume()
        return found

    def test_the_narrower_row_has_the_say_and_of_equals_the_last(self) -> None:
        found = self.shaped(
            {"by": "part", "match": "bore", "height": 0.009},
            {"by": "all", "height": 0.001},
            {"by": "colour", "match": "#ffffff", "height": 0.004},
            {"by": "layer", "match": "Disks", "height": 0.002},
            {"by": "layer", "match": "Disks", "height": 0.003},
        )
        heights = {name: round(solid.height, 6) for name, solid in found.items()}
        self.assertEqual(heights, {"plate": 1, "window": 4, "disk": 3, "bore": 9, "bar": 1, "pen": 1})

    def test_what_stands_on_something_begins_at_its_top(self) -> None:
        found = self.shaped(
            {"by": "layer", "match": "Plates", "height": 0.003},
            {"by": "layer", "match": "Disks", "height": 0.002, "on": {"by": "layer", "match": "Plates"}},
            {"by": "part", "match": "bar", "height": 0.001, "on": {"by": "part", "match": "disk"}},
        )
        self.assertAlmostEqual(found["disk"].base, 3)
        self.assertAlmostEqual(found["bar"].base, 5)

    def test_a_shape_may_stand_on_the_ground_where_its_layer_does_not(self) -> None:
        found = self.shaped(
            {"by": "all", "height": 0.002},
            {"by": "layer", "match": "Disks", "on": {"by": "layer", "match": "Plates"}},
            {"by": "part", "match": "window", "on": {"by": "ground"}},
        )
        self.assertEqual([found[name].base for name in ("disk", "bore", "window")], [2, 2, 0])

    def test_one_of_each_keeps_what_is_of_another_height(self) -> None:
        path = self.folder / "twice.svg"
        rect = "<rect width='9' height='9' fill='{}'/>"
        path.write_text(
            f"<svg xmlns='http://www.w3.org/2000/svg'>{''.join(map(rect.format, ['red', 'red', 'blue']))}</svg>"
        )
        self.model, self.kept = read_kept(path)
        rows = [{"by": "all", "height": 0.001}, {"by": "colour", "match": "#0000ff", "height": 0.002}]
        for said, left in ((rows[:1], 1), (rows, 2)):
            decided = self.decided(*said)
            one = decided.model_copy(update={"receive": decided.receive.model_copy(update={"without_copies": True})})
            self.assertEqual(len(plan(self.model, one).taken.rows), left)

    def test_what_stands_on_itself_is_refused_in_words(self) -> None:
        with self.assertRaises(SettingsError) as caught:
            self.shaped(
                {"by": "layer", "match": "Plates", "on": {"by": "layer", "match": "Disks"}},
                {"by": "layer", "match": "Disks", "on": {"by": "layer", "match": "Plates"}},
            )
        self.assertIn("stands on itself", caught.exception.message)

    def test_as_written_every_shape_is_solid(self) -> None:
        found = self.volumes({"by": "all", "height": 0.001})
        self.assertAlmostEqual(found["plate"], 10_000, places=3)
        self.assertAlmostEqual(found["disk"], np.pi * 400, delta=np.pi * 400 * 3e-2)

    def test_alternating_every_second_one_inside_another_is_a_hole(self) -> None:
        rows = {"by": "all", "height": 0.001, "areas": "alternating"}
        roles = self.shaped(rows)
        self.assertEqual([name for name, role in roles.items() if role == "hole"], ["window", "bore"])
        found = self.volumes(rows)
        self.assertAlmostEqual(found["plate"], 10_000 - 3600, places=2)
        self.assertAlmostEqual(found["disk"], np.pi * (400 - 25), delta=30)
        self.assertAlmostEqual(found["bar"], 500, places=3)  # it only overlaps: nothing lies inside it

    def test_by_hand_a_shape_is_what_one_says(self) -> None:
        rows = [
            {"by": "all", "height": 0.001, "areas": "alternating"},
            {"by": "part", "match": "bore", "hand": "solid"},
        ]
        self.assertAlmostEqual(self.volumes(*rows)["bore"], np.pi * 25, delta=3)
        # A hole by hand goes through all that it touches, inside or not.
        found = self.volumes({"by": "all", "height": 0.001}, {"by": "part", "match": "bar", "hand": "hole"})
        self.assertAlmostEqual(found["plate"], 10_000 - 400, places=2)
        self.assertAlmostEqual(found["window"], 3600 - 200, places=2)
        self.assertNotIn("bar", found)

    def test_united_shapes_of_a_layer_and_colour_are_one(self) -> None:
        rows = [{"by": "all", "height": 0.001}, {"by": "layer", "match": "Disks", "areas": "united"}]
        roles = self.shaped(*rows)
        self.assertEqual(roles["bore"], "joined")
        self.assertAlmostEqual(self.volumes(*rows)["window"], 3600, places=2)

    def test_a_fixed_width_of_lines(self) -> None:
        found = self.volumes({"by": "all", "height": 0.001}, {"by": "layer", "match": "Lines", "stroke": 0.004})
        self.assertAlmostEqual(found["pen"], 100 * np.sqrt(2) * 4, delta=0.1)

    def test_only_what_changed_is_made_anew(self) -> None:
        def keys(*rows: dict[str, Any]) -> dict[str, str]:
            found = plan(self.model, self.decided(*rows))
            return {p.ref: c.key for p, c in zip(found.model.parts, found.chains, strict=True) if c is not None}

        before = keys({"by": "all", "height": 0.001})
        after = keys({"by": "all", "height": 0.001}, {"by": "layer", "match": "Bars", "wall": 0.001})
        self.assertEqual([name for name in before if before[name] != after[name]], ["bar"])

    def test_the_size_is_known_before_the_triangles(self) -> None:
        found = plan(self.model, self.decided({"by": "layer", "match": "Plates", "height": 0.003}))
        np.testing.assert_allclose(np.ptp(found.taken.box(), axis=0)[2], 0.003)
