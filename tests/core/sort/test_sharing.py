"""Parts that give way to their copies."""

import unittest

import numpy as np
import trimesh

from hemp_ladder.core.model.model import Colour
from hemp_ladder.core.sort import SortSettings
from hemp_ladder.core.sort.settings import Shared
from hemp_ladder.core.sort.sharing import as_shared, shareable, with_shared
from tests.core.sort.test_copies import as_mesh, lump, moved
from tests.core.sort.test_order import climbed


class Sharing(unittest.TestCase):
    def test_a_copy_gives_way_and_its_leader_stands_where_it_stood(self) -> None:
        taken, _ = climbed(SortSettings())
        model = taken.model
        other, matrix = moved(lump(), np.random.default_rng(1))
        found = shareable(model, {0: as_mesh(lump()), 1: other}, 1e-6, {0: 1.0, 1: 1.0})
        # The one is on another layer: they do not look the same.
        self.assertEqual(found, [])
        model.parts[1].layer = model.parts[0].layer
        (copy,) = shareable(model, {0: as_mesh(lump()), 1: other}, 1e-6, {0: 1.0, 1: 1.0})
        (entry,) = as_shared(model, [copy])
        self.assertEqual((entry.part, entry.of), (model.parts[1].ref, model.parts[0].ref))
        shared = with_shared(taken, [entry])
        self.assertEqual(sorted(shared.model.columns.part[shared.rows].tolist()), [0, 0, 0, 2])
        stood = next(
            node for node in shared.placements.tolist()
            if node >= len(model.nodes) or (shared.model.nodes[node].part == 0 and node not in taken.placements)
        )  # fmt: skip
        np.testing.assert_allclose(shared.model.standing[stood], matrix, atol=1e-6)

    def test_looks_of_faces_keep_copies_apart(self) -> None:
        taken, _ = climbed(SortSettings())
        model = taken.model
        model.parts[1].layer = model.parts[0].layer
        model.parts[1].face_colours = {2: Colour(1, 0, 0)}
        both = {0: as_mesh(lump()), 1: moved(lump(), np.random.default_rng(1))[0]}
        self.assertEqual(shareable(model, both, 1e-6, {0: 1.0, 1: 1.0}), [])
        self.assertEqual(shareable(model, {}, 1e-6, {}), [])

    def test_the_tolerance_is_in_metres(self) -> None:
        taken, _ = climbed(SortSettings())
        taken.model.parts[1].layer = taken.model.parts[0].layer
        whole = as_mesh(trimesh.creation.box((1, 2, 3)))
        bent = as_mesh(trimesh.creation.box((1, 2, 3.001)))
        for tolerance, count in ((2e-6, 1), (2e-7, 0)):
            found = shareable(taken.model, {0: whole, 1: bent}, tolerance, {0: 0.001, 1: 0.001})
            self.assertEqual(len(found), count, tolerance)

    def test_entries_about_what_is_not_there_or_gives_way_itself_change_nothing(self) -> None:
        taken, _ = climbed(SortSettings())
        refs = [part.ref for part in taken.model.parts]
        still = tuple(np.eye(4).ravel().tolist())
        for entries in (
            [Shared(part="gone", of=refs[0], matrix=still)], [Shared(part=refs[1], of="gone", matrix=still)],
            [Shared(part=refs[0], of=refs[1], matrix=still), Shared(part=refs[1], of=refs[0], matrix=still)],
        ):  # fmt: skip
            self.assertIs(with_shared(taken, entries), taken)


if __name__ == "__main__":
    unittest.main()
