"""Shells as parts of their own and parts joined: dressed, placed and shipped apart, and read back by another library."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
import trimesh

from demo import soup
from hemp_ladder.core.climb import Result, climb, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.mend.shells.loose import shells_of
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.references import name_parts
from hemp_ladder.core.ship.deliver import climb_ship
from hemp_ladder.core.ship.settings import Target
from tests.core.mend import meshes
from tests.support import SHED, FolderCase, FollowedHere, read_kept


class Apart(FolderCase):
    """A box and a ball in one mesh that stands twice."""

    def setUp(self) -> None:
        super().setUp()
        both = meshes.together(meshes.box(), meshes.ball(0.5, (3, 0, 0)))
        path = self.folder / "two.glb"
        scene = trimesh.Scene()
        made = trimesh.Trimesh(both.positions, both.triangles, process=False)
        scene.add_geometry(made, node_name="here", geom_name="pair")
        moved = trimesh.transformations.translation_matrix([0, 5, 0])
        scene.graph.update(frame_to="there", matrix=moved, geometry="pair")
        path.write_bytes(scene.export(file_type="glb"))
        model, kept = read_kept(path)
        self.model = join([Given("two", "two.glb", name_parts(model))])
        self.shelf = FollowedHere(kept.shapes)
        self.ref = self.model.parts[0].ref

    def climbed(self, **mend: object) -> Result:
        return climb(
            self.model,
            Decisions.model_validate({"fit": {"up": "z", "unit": "m"}, **({"mend": mend} if mend else {})}),
            self.shelf,
        )

    def test_a_shell_taken_out_stands_wherever_its_part_does(self) -> None:
        result = self.climbed(apart=[{"part": self.ref, "at": (3, 0, 0.5), "name": "Globe"}])
        self.assertEqual([part.name for part in result.model.parts[-1:]], ["Globe"])
        counts = {result.model.parts[i].name: times for i, times in enumerate(result.times) if times}
        self.assertEqual(sorted(counts.values()), [2, 2])
        volumes = [mesh.volume() for i in sorted(result.fitted_parts) if (mesh := result.mesh_of(i))]
        np.testing.assert_allclose(volumes, [1.0, meshes.ball(0.5).volume()], rtol=1e-5)
        world = result.fitted.placements()
        new = [
            node
            for node, part in zip(result.sorted.placements, result.sorted.parts, strict=True)
            if part == len(self.model.parts)
        ]
        old = [node for node, part in zip(result.sorted.placements, result.sorted.parts, strict=True) if part == 0]
        np.testing.assert_allclose(world[new], world[old])

    def test_what_it_is_taken_from_may_be_left_out(self) -> None:
        """Of such a shell nothing stands, and the sides of triangles and names are asked of every part."""
        mend = {"apart": [{"part": self.ref, "at": (3, 0, 0.5)}]}
        sort = {"names": [{"whom": {"by": "name", "match": ["pair*"]}, "to": "P_{n}"}]}
        for facet in ({"shortest": 0.01}, {"longest": 0.2}):
            left = {"choices": [{"by": "part", "match": self.ref}]}
            decided = {"receive": left, "facet": facet, "mend": mend, "sort": sort}
            result = climb(self.model, Decisions.model_validate(decided), self.shelf)
            self.assertEqual((len(result.sorted.placements), result.fitted_parts), (0, set()))
            self.assertEqual(len(result.model.member_of_part), len(result.model.parts))

    def test_it_is_placed_by_itself(self) -> None:
        """Moved in metres whatever its source's unit and axes."""
        apart = {"part": self.ref, "at": (3, 0, 0.5), "move": (0.5, 0, 2)}
        for fit in ({"up": "y", "unit": "mm"}, {"up": "z", "unit": "ft"}):
            plain = climb(self.model, Decisions.model_validate({"fit": fit}), self.shelf)
            decided = Decisions.model_validate({"fit": fit, "mend": {"apart": [apart]}})
            moved = climb(self.model, decided, self.shelf)
            nodes = moved.sorted.placements[moved.sorted.parts == len(self.model.parts)]
            old = plain.sorted.placements[plain.sorted.parts == 0]
            shift = moved.fitted.placements()[nodes] - plain.fitted.placements()[old]
            np.testing.assert_allclose(shift[:, :3, 3], [[0.5, 0, 2]] * 2, atol=1e-9)
            np.testing.assert_allclose(shift[:, :3, :3], 0, atol=1e-9)
            shipped = climb_ship(moved, Target(format="glb"), self.folder / "moved.glb")
            self.assertTrue(shipped.receipt.ok, shipped.receipt.as_dict())

    def test_it_is_dressed_and_shipped_by_itself_and_another_library_finds_both(self) -> None:
        apart = [{"part": self.ref, "at": (3, 0, 0.5), "name": "Globe"}]
        globe = plan(self.model, Decisions.model_validate({"mend": {"apart": apart}})).model.parts[-1].ref
        rules = [{"by": "part", "match": globe, "material": "brass"}, {"by": "name", "match": "*", "material": "clay"}]
        decided = Decisions.model_validate({
            "fit": {"up": "z", "unit": "m"}, "mend": {"apart": apart}, "sort": {"rules": rules},
        })  # fmt: skip
        shipped = climb_ship(climb(self.model, decided, self.shelf), Target(format="glb"), self.folder / "out.glb")
        self.assertTrue(shipped.receipt.ok, shipped.receipt.as_dict())
        scene = trimesh.load_scene(self.folder / "out.glb")
        self.assertEqual(len(scene.geometry), 2)
        worn = {mesh.visual.material.name: mesh for mesh in scene.geometry.values()}
        self.assertEqual(len(worn), 2)
        self.assertEqual(len(scene.graph.nodes_geometry), 4)
        self.assertTrue(
            all(mesh.body_count == 1 for mesh in (meshes.other(meshes.from_library(m)) for m in worn.values()))
        )

    def test_every_shell_is_found_again_by_the_point_that_tells_of_it(self) -> None:
        mesh = self.climbed().mesh_of(0)
        assert mesh is not None
        told = shells_of(mesh)
        self.assertEqual([shell.triangles for shell in told], [12, 1280])
        for shell in told:
            result = self.climbed(apart=[{"part": self.ref, "at": shell.at}])
            found = result.mesh_of(len(self.model.parts))
            assert found is not None
            self.assertEqual(len(found.triangles), shell.triangles)

    def test_operations_before_it_are_the_whole_s_and_those_after_it_its_own(self) -> None:
        apart = [{"part": self.ref, "at": (3, 0, 0.5)}]
        globe = plan(self.model, Decisions.model_validate({"mend": {"apart": apart}})).model.parts[-1].ref
        smooth = {"by": "parts", "parts": [globe], "steps": [{"does": "normals", "degrees": 60}]}
        result = self.climbed(apart=apart, exceptions=[smooth], steps=[{"does": "weld"}])
        whole, own = result.chains[0], result.chains[-1]
        assert whole is not None and own is not None
        self.assertEqual([step.does for step in whole.operations], ["weld", "split", "pick"])
        self.assertEqual([step.does for step in own.operations], ["weld", "split", "pick", "normals"])
        self.assertEqual(whole.keys[:3], own.keys[:3], "what they share is made once")

    def test_shells_of_a_part_that_is_called_otherwise_now_stay_with_it(self) -> None:
        earlier = self.ref[:-1] + ("0" if self.ref[-1] != "0" else "1")
        globe = f"{earlier} / shell 12345678"
        decided = Decisions.model_validate({"sort": {"rules": [{"by": "part", "match": globe, "material": "brass"}]}})
        self.assertEqual(plan(self.model, decided).decisions.sort.rules[0].match, (f"{self.ref} / shell 12345678",))


class Joins(unittest.TestCase):
    """Parts of the shed become one."""

    model: Joined
    shelf: FollowedHere

    @classmethod
    def setUpClass(cls) -> None:
        model, kept = read_kept(SHED)
        cls.model = join([Given("shed", "shed.ifc", model)])
        cls.shelf = FollowedHere(kept.shapes)

    def test_joined_parts_are_one_with_all_their_placements_and_colours(self) -> None:
        plain = climb(self.model, Decisions(), self.shelf)
        chosen = [i for i in sorted(plain.fitted_parts) if self.model.parts[i].name.startswith(("Post", "Board"))]
        self.assertGreater(len(chosen), 1)
        refs = [self.model.parts[i].ref for i in chosen]
        joined = climb(
            self.model, Decisions.model_validate({"mend": {"joined": [{"parts": refs, "name": "Frame"}]}}), self.shelf
        )
        self.assertEqual(joined.triangles, plain.triangles)
        made = len(self.model.parts)
        self.assertEqual((joined.model.parts[made].name, joined.times[made]), ("Frame", 1))
        self.assertTrue(all(joined.times[i] == 0 for i in chosen))
        mesh = joined.mesh_of(made)
        assert mesh is not None
        parts = sum(plain.times[i] * plain.mesh_of(i).volume() for i in chosen)  # type: ignore[union-attr]
        self.assertAlmostEqual(mesh.volume(), parts, delta=1e-4 * parts)
        np.testing.assert_allclose(joined.box, plain.box, atol=1e-3)
        worn = {dress.materials for dress in joined.sorted.dresses}
        self.assertEqual(
            {material for dress in plain.sorted.dresses for material in dress.materials},
            {material for materials in worn for material in materials},
        )

    def test_a_joined_part_ships_as_one_mesh_that_stands_where_they_stood(self) -> None:
        plain = climb(self.model, Decisions(), self.shelf)
        refs = [self.model.parts[i].ref for i in sorted(plain.fitted_parts)][:3]
        decided = Decisions.model_validate({"mend": {"joined": [{"parts": refs}], "steps": [{"does": "weld"}]}})
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "one.glb"
            shipped = climb_ship(climb(self.model, decided, self.shelf), Target(format="glb"), out)
            self.assertTrue(shipped.receipt.ok, [check for check in shipped.receipt.checks if not check.ok])

    def test_parts_of_two_sources_are_not_joined(self) -> None:
        once = self.model.members[0].model
        two = join([Given("a", "a", once), Given("b", "b", once)])
        alone = next(i for i, times in sorted(two.counts().items()) if times == 1 and two.parts[i].body.has_surface)
        other = two.parts[alone + len(once.parts)].ref
        decided = Decisions.model_validate({"mend": {"joined": [{"parts": [two.parts[alone].ref, other]}]}})
        self.assertEqual(len(plan(two, decided).model.parts), len(two.parts))


class Soup(unittest.TestCase):
    def test_the_planted_shed_comes_out_sound_but_for_what_it_had(self) -> None:
        """Welded, repaired of doubles, T-joints and holes, and turned outward: the volume of the sound one again."""
        from hemp_ladder.core.mend.facing import Facing, face
        from hemp_ladder.core.mend.repair.repair import Repair, repair
        from hemp_ladder.core.mend.weld import Weld, weld

        sound = soup.whole()
        planted = soup.planted(sound)
        mesh = meshes.mesh_of(planted.reshape(-1, 3), np.arange(3 * len(planted))).settled()
        made = repair(
            weld(mesh, Weld(tolerance=1e-5)), Repair.model_validate({"kinds": ["duplicate", "t-joints", "holes"]})
        )
        made = face(made, Facing())
        told, was = (
            meshes.figures(made),
            meshes.figures(meshes.mesh_of(sound.reshape(-1, 3), np.arange(3 * len(sound)))),
        )
        self.assertEqual(
            (told.duplicate, told.t_joints, told.inward, told.shells, told.holes),
            (0, 0, 0, was.shells, was.holes),
        )


if __name__ == "__main__":
    unittest.main()
