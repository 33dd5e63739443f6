"""Chains: keys, what is made and what is not made again, and that it is the same from wherever it comes."""

import json
import unittest
from dataclasses import replace

import numpy as np

from demo import shapes
from hemp_ladder.core.chain.making import Order, make
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.choose.cut import Cut
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.kernel.shapes import write_shape
from hemp_ladder.core.mend.facing import Facing
from hemp_ladder.core.mend.normals import Normals
from hemp_ladder.core.mend.repair.repair import Repair
from hemp_ladder.core.mend.weld import Weld
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.operations import chain_from_dict
from hemp_ladder.store import packs

DICE = np.random.default_rng(5)
BALL = write_shape(shapes.sphere(10))
STRIP = ((-20.0, -20.0), (3.0, -20.0), (3.0, 20.0), (-20.0, 20.0))
HERE = tuple(np.eye(4).reshape(-1).tolist())


def chain(*steps: object, chord: float = 0.1) -> Chain:
    return Chain("ball", 1, Facet(chord=chord, angle=0.5), tuple(steps))  # type: ignore[arg-type]


class Keys(unittest.TestCase):
    def test_a_key_is_made_from_what_comes_before_and_the_step(self) -> None:
        plain, welded, cut = chain(), chain(Weld(tolerance=0.01)), chain(Cut(matrix=HERE, polygon=STRIP), Weld())
        self.assertEqual(plain.key, welded.keys[0])
        self.assertEqual(welded.keys[0], cut.keys[0])
        self.assertEqual(len({plain.key, welded.key, *cut.keys}), 4)
        self.assertNotEqual(chain(Weld(tolerance=0.02)).key, welded.key)
        self.assertNotEqual(chain(chord=0.2).key, plain.key)
        self.assertNotEqual(replace(plain, part="other").key, plain.key)

    def test_the_polygon_and_the_place_are_in_the_key(self) -> None:
        keys = {
            chain(Cut(matrix=HERE, polygon=STRIP)).key,
            chain(Cut(matrix=HERE, polygon=STRIP[::-1])).key,
            chain(Cut(matrix=tuple(np.diag([1.0, 1, 1, 2]).reshape(-1).tolist()), polygon=STRIP)).key,
        }
        self.assertEqual(len(keys), 3)

    def test_another_version_of_a_step_changes_the_keys_from_there_on(self) -> None:
        class Later(Weld):
            version = 99

        now, then = chain(Weld(tolerance=0.01)), chain(Later(tolerance=0.01))
        self.assertEqual(now.keys[0], then.keys[0])
        self.assertNotEqual(now.key, then.key)

    def test_a_chain_survives_json(self) -> None:
        given = chain(Cut(matrix=HERE, polygon=STRIP), Weld(tolerance=0.25))
        again = chain_from_dict(json.loads(json.dumps(given.as_dict())))
        self.assertEqual((again, again.keys), (given, given.keys))


class Redone(unittest.TestCase):
    def test_a_changed_setting_redoes_the_steps_after_it_and_no_others(self) -> None:
        from hemp_ladder.work.children import Crew
        from hemp_ladder.work.meshing.shelf import MemoryShelf

        class Counting(MemoryShelf):
            made: int

            def meshes(self, chains):  # type: ignore[no-untyped-def]
                before = len(self._kept)
                found = super().meshes(chains)
                self.made = len(self._kept) - before
                return found

        mended = [Weld(tolerance=0.01), Repair(), Facing(), Normals(degrees=30)]
        with Crew(1) as crew:
            shelf = Counting({"ball": BALL}, crew)
            counts = []
            for step, other in (
                (0, Weld(tolerance=0.01)), (3, Normals(degrees=50)), (2, Facing(kind="consistent")), (0, Weld(tolerance=0.02)),
            ):  # fmt: skip
                mended[step] = other
                shelf.meshes([chain(*mended)])
                counts.append(shelf.made)
        self.assertEqual(counts, [5, 1, 2, 4])


class Makes(unittest.TestCase):
    def made(self, *chains: Chain, **more: Mesh) -> list[dict[str, Mesh]]:
        return make([Order(item, [BALL], **more) for item in chains])

    def assert_same(self, one: Mesh, other: Mesh) -> None:
        np.testing.assert_array_equal(one.positions, other.positions)
        np.testing.assert_array_equal(one.triangles, other.triangles)
        np.testing.assert_array_equal(one.normals, other.normals)
        self.assertEqual(one.figures, other.figures)

    def test_what_is_fresh_is_what_comes_from_the_store(self) -> None:
        """Also where the rest is made from a stored beginning, far from the origin."""
        far = np.eye(4)
        far[:3, 3] = 4e5, 3e5, 20
        polygon = tuple((x + 4e5, y + 3e5) for x, y in STRIP)
        whole = chain(Cut(matrix=tuple(far.reshape(-1).tolist()), polygon=polygon), Weld(tolerance=0.01))
        (fresh,) = self.made(whole)
        self.assertEqual(list(fresh), list(whole.keys))
        stored = packs.decode(packs.encode(fresh))
        for key in whole.keys:
            self.assert_same(stored[key], fresh[key])
        for done in (1, 2):
            (rest,) = make([Order(whole, start=stored[whole.keys[done - 1]], done=done)])
            self.assertEqual(list(rest), list(whole.keys[done:]))
            self.assert_same(rest[whole.key], fresh[whole.key])

    def test_chains_that_begin_alike_share_their_beginning(self) -> None:
        made = 0

        class Counted(Facet):
            @classmethod
            def make(cls, jobs):  # type: ignore[no-untyped-def]
                nonlocal made
                made += len(jobs)
                return [tessellate(job.bodies[0], job.step.chord, job.step.angle) for job in jobs]

        first = Counted(chord=0.1, angle=0.5)
        self.made(Chain("b", 1, first), Chain("b", 1, first, (Weld(),)), Chain("b", 1, first, (Weld(tolerance=0.02),)))
        self.assertEqual(made, 1)

    def test_figures_are_measured_of_what_is_given_out(self) -> None:
        (made,) = self.made(chain(Weld(tolerance=0.001)))
        mesh = made[chain(Weld(tolerance=0.001)).key]
        self.assertEqual((mesh.figures.triangles, mesh.figures.open_edges), (len(mesh.triangles), 0))
        np.testing.assert_allclose(mesh.figures.box, [[-10] * 3, [10] * 3], atol=0.1)
        self.assertEqual(Figures.from_dict(json.loads(json.dumps(mesh.figures.as_dict()))), mesh.figures)


class Rounding(unittest.TestCase):
    def test_settling_again_changes_nothing_wherever_it_lies(self) -> None:
        for shift in (0.0, 1e-6, 1.0, 12_345.678, 4e5, 1e9):
            for size in (1e-3, 1.0, 1e4):
                positions = DICE.normal(size=(500, 3)) * size + shift
                normals = DICE.normal(size=(500, 3)).astype(np.float32)
                mesh = Mesh.of(positions, normals, np.arange(498, dtype=np.int32).reshape(-1, 3), np.array([0, 166]))
                once = mesh.settled()
                twice = packs.decode(packs.encode({"k": once.settled()}))["k"]
                np.testing.assert_array_equal(twice.positions, once.positions)
                np.testing.assert_array_equal(twice.normals, once.normals)
                reach = max(np.ptp(positions), abs(shift) * 1e-7)
                self.assertLessEqual(np.abs(once.positions - positions).max(), reach * 1e-7)

    def test_runs_of_any_labels_come_back(self) -> None:
        for labels in ([], [3], [0, 0, 1, 1, 1], [2, 0, 2, 2, 1]):
            runs = Runs.labelled(np.array(labels, np.int32), 4)
            self.assertEqual(runs.labels.tolist(), labels)


if __name__ == "__main__":
    unittest.main()


class Divided(unittest.TestCase):
    """What hangs on vertices and triangles goes through every operation, and into the store and out of it."""

    def test_shells_materials_maps_and_colours_stay_with_their_triangles(self) -> None:
        ball = tessellate(BALL, 0.5, 0.5)
        upper = (ball.positions[ball.triangles].mean(axis=1)[:, 2] > 0).astype(np.int32)
        turning = np.arctan2(ball.positions[:, 1], ball.positions[:, 0])
        given = replace(
            ball,
            attributes={
                **ball.attributes,
                "uv": np.column_stack([ball.positions[:, 0], ball.positions[:, 2]]).astype(np.float32),
                "colour": np.column_stack([np.cos(turning) ** 2] * 4).astype(np.float32),
            },
            runs={**ball.runs, "shell": Runs.labelled(upper, 2), "material": Runs.labelled(1 - upper, 2)},
        )
        for step in (Cut(matrix=HERE, polygon=STRIP), Weld(tolerance=0.001), Normals(kind="flat"), Normals(degrees=40)):
            made = packs.decode(packs.encode({"": step.apply(given).settled()}))[""]
            walls = made.faces.labels == ball.faces.count
            self.assertEqual(walls.any(), step.does == "cut")
            middles = made.positions[made.triangles].mean(axis=1)[~walls]
            above = (middles[:, 2] > 0).astype(int)
            clear = np.abs(middles[:, 2]) > 0.5
            self.assertEqual(made.runs["shell"].labels[~walls][clear].tolist(), above[clear].tolist(), step)
            self.assertEqual(made.runs["material"].labels[~walls][clear].tolist(), (1 - above)[clear].tolist(), step)
            self.assertEqual(set(made.runs["shell"].labels[walls].tolist()), {2} if walls.any() else set())
            used = np.unique(made.triangles[~walls])
            there = made.positions[used]
            np.testing.assert_allclose(made.attributes["uv"][used], there[:, [0, 2]], atol=1e-4)
            self.assertEqual(made.attributes["colour"].shape, (len(made.positions), 4))
            self.assertTrue((made.attributes["colour"][np.unique(made.triangles[walls])] == 1).all())
