"""Work that comes by the thousand: batches, children that stay, and questions about very many keys."""

import unittest
from typing import Any

import ezdxf
from sqlalchemy import column, func, select
from sqlalchemy.dialects import postgresql

from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.drawn.curves import circle
from hemp_ladder.core.drawn.shape import Shape, write_drawn
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.drawn.step import Solidify
from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.facet.step import Facet
from hemp_ladder.store.database import among
from hemp_ladder.work.actions import _batches
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing import standing
from hemp_ladder.work.meshing.shelf import Maker
from hemp_ladder.work.meshing.standing import standing_crew
from tests.support import FolderCase, HouseCase


def chain(key: str, faces: int = 1, solid: Solid | None = None) -> Chain:
    return Chain(key, faces, Solidify(chord=0.1, angle=0.3, solid=solid) if solid else Facet(chord=0.1, angle=0.3))


class Batches(unittest.TestCase):
    def test_what_was_drawn_goes_many_at_a_time(self) -> None:
        drawn = [chain(str(k), solid=Solid(height=1.0)) for k in range(1200)]
        batches = _batches(drawn)
        self.assertEqual(sorted(map(len, batches)), [400, 400, 400])
        self.assertEqual(sorted(item.part for batch in batches for item in batch), sorted(item.part for item in drawn))

    def test_exact_parts_are_spread_by_their_faces_and_apart_from_drawn_ones(self) -> None:
        heavy = [chain(f"h{k}", faces) for k, faces in enumerate([900, *([10] * 40)])]
        batches = _batches([*heavy, chain("d", solid=Solid())])
        self.assertEqual(len(batches), 17)
        self.assertIn([heavy[0]], batches)
        for batch in batches:
            self.assertEqual(len({item.first.does for item in batch}), 1)

    def test_nothing_makes_no_batch(self) -> None:
        self.assertEqual(_batches([]), [])

    def test_little_work_is_one_childs_and_more_is_that_of_all(self) -> None:
        maker = Maker(Crew(2), lambda key: b"", lambda asked, meshes: None, lambda asked, why: None)
        little = [*(chain(f"h{k}", 3) for k in range(3)), *(chain(f"d{k}", solid=Solid(height=1.0)) for k in range(20))]
        self.assertEqual(maker._batches(little), [little])
        much = [chain(f"h{k}", 60) for k in range(4)]
        batches = maker._batches([*little, *much])
        self.assertEqual([len(set(much) & set(batch)) for batch in batches[:4]], [1, 1, 1, 1])
        self.assertEqual(sum(map(len, batches)), len(little) + len(much))
        self.assertEqual(maker._batches([]), [])


class Standing(unittest.TestCase):
    def setUp(self) -> None:
        standing._dismiss()
        self.addCleanup(standing._dismiss)

    def make(self, crew: Any) -> int:
        data = write_drawn(Shape((circle(0, 0, 5),)))
        made = []
        wanted = chain("a", solid=Solid(height=1.0))
        keep = lambda asked, meshes: made.append(meshes[asked.key])  # noqa: E731
        Maker(crew, lambda key: data, keep, lambda asked, why: self.fail(why)).make([wanted])
        self.assertTrue(made[0].watertight)
        # What takes long to find out came along from the child, and nothing that is large.
        self.assertEqual(made[0].figures.open_edges, 0)
        self.assertNotIn("welded", made[0].__dict__)
        (child,) = crew._idle
        return int(child.process.pid)

    def test_the_child_stays_between_tasks(self) -> None:
        with standing_crew() as crew:
            first = self.make(crew)
        with standing_crew() as crew:
            self.assertEqual(self.make(crew), first)

    def test_two_at_once_have_one_each(self) -> None:
        with standing_crew() as one, standing_crew() as other:
            self.assertIsNot(one, other)
            self.assertNotEqual(self.make(one), self.make(other))
        self.assertEqual(len(standing._idle), 2)

    def test_after_an_error_it_is_not_used_again(self) -> None:
        with self.assertRaises(UnreadableSource), standing_crew() as crew:
            self.make(crew)
            raise UnreadableSource("No.")
        self.assertEqual(standing._idle, [])
        self.assertEqual(crew._idle, [])


class Among(unittest.TestCase):
    def test_any_number_of_values_is_one_parameter(self) -> None:
        asked = select(func.count()).where(among(column("key"), {str(k) for k in range(70_000)}))
        compiled = asked.compile(dialect=postgresql.dialect())
        longest = max(compiled.params.values(), key=len)
        self.assertEqual((len(longest.split(",")), len(compiled.params)), (70_000, 2))


class Thousands(HouseCase, FolderCase):
    def test_a_layer_of_a_thousand_is_made_anew_alone(self) -> None:
        doc = ezdxf.new("R2010", units=4)
        for k in range(1000):
            layer = {"layer": "Posts" if k % 4 else "Bollards"}
            doc.modelspace().add_circle((k % 40 * 15, k // 40 * 15), 5 + k / 1000, dxfattribs=layer)
        path = self.folder / "posts.dxf"
        doc.saveas(path)
        job = self.make_job(path)["id"]
        self.ready(job)
        for rows in (
            [{"by": "all", "height": 0.002}],
            [{"by": "all", "height": 0.002}, {"by": "layer", "match": "Bollards", "height": 0.004}],
        ):
            view = self.decide(job, "high", receive={"drawn": {"rows": rows}})
        # Before any of it is made: what is wanted of the other layer is there.
        self.assertGreaterEqual(view["climb"]["done"], 0)
        self.assertEqual(view["climb"]["total"], 1000)
        view = self.ready(job)
        self.assertEqual(view["climb"]["done"], 1000)
        found = self.http.get(f"/api/jobs/{job}/outlines").json()["shapes"]
        heights = {(shape["layer"], round(shape["height"], 6)) for shape in found}
        self.assertEqual(heights, {("Posts", 0.002), ("Bollards", 0.004)})
        result = self.http.get(f"/api/jobs/{job}/result").json()
        self.assertEqual((result["open_parts"], result["inside_out"]), ([], []))


if __name__ == "__main__":
    unittest.main()
