"""What is written, as another library reads it; and receipts that must fail."""

import json
import shutil
import tempfile
import unittest
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
import trimesh

from hemp_ladder.core.climb import Result, climb
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.facet.review import review_meshes
from hemp_ladder.core.findings import Finding
from hemp_ladder.core.mesh.figures import Figures
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.report import Kept
from hemp_ladder.core.receive.step.read import read_step
from hemp_ladder.core.ship import gltf_validator
from hemp_ladder.core.ship.deliver import Shipped, climb_ship
from hemp_ladder.core.ship.format import Written
from hemp_ladder.core.ship.formats import FORMATS
from hemp_ladder.core.ship.names import file_stem, label
from hemp_ladder.core.ship.receipt import write_receipt
from hemp_ladder.core.ship.settings import Target
from hemp_ladder.store import packs
from tests.support import DEMO, FolderCase, FollowedHere

COARSE = Decisions.model_validate({"facet": {"chord": {"kind": "absolute", "metres": "5mm"}, "degrees": 40}})


@cache
def received() -> tuple[Model, FollowedHere]:
    """The demo, and a shelf that keeps its meshes between tests."""
    kept = Kept()
    return read_step(DEMO, kept), FollowedHere(kept.shapes)


def demo(decisions: Decisions = COARSE) -> Result:
    return climb(received()[0], decisions, received()[1])


class Targets(FolderCase):
    def test_every_format_and_grouping_has_a_good_receipt(self) -> None:
        for form in ("glb", "obj", "stl"):
            for group in ("part", "material", "one"):
                with self.subTest(form=form, group=group):
                    folder = self.folder / f"{form}-{group}"
                    folder.mkdir()
                    target = Target.model_validate({"format": form, "group": group})
                    shipped = climb_ship(demo(), target, folder / f"lantern.{form}")
                    bad = [check for check in shipped.receipt.checks if not check.ok]
                    self.assertEqual(bad, [])

    def test_what_validates_loads_while_the_file_is_written(self) -> None:
        seen: list[int] = []
        form = Target().written_format

        def write(scene: Any, path: Path) -> Any:
            seen.append(len(gltf_validator._waiting))
            return form.write(scene, path)

        with mock.patch.object(Target, "written_format", replace(form, write=write)):
            shipped = climb_ship(demo(), Target(), self.folder / "a.glb")
        self.assertEqual((seen, len(gltf_validator._waiting), shipped.receipt.ok), ([1], 0, True))

    def test_unit_and_up_axis_of_the_target(self) -> None:
        """The lantern stands 7.26 m high on Z; written in feet with X up it is 23.82 along X."""
        target = Target(format="glb", unit="ft", up="x")
        shipped = climb_ship(demo(), target, self.folder / "a.glb")
        self.assertTrue(shipped.receipt.ok)
        scene = trimesh.load_scene(shipped.paths[0])
        self.assertAlmostEqual(scene.extents[0], 7.26 / 0.3048, places=3)

    def test_instances_share_their_mesh(self) -> None:
        shipped = climb_ship(demo(), Target(), self.folder / "a.glb")
        document = glb_json(shipped.paths[0])
        names = [mesh["name"] for mesh in document["meshes"]]
        bolt = names.index("Bolt M20")
        self.assertEqual(sum(1 for node in document["nodes"] if node.get("mesh") == bolt), 144)
        self.assertEqual(len(names), len(set(names)))

    def test_a_mirrored_placement_keeps_its_outside_out(self) -> None:
        """Baked into STL, the bracket and its mirror image both enclose a positive volume, and the same."""
        result = demo()
        shipped = climb_ship(result, Target(format="stl", group="part"), self.folder / "a.stl")
        path = next(p for p in shipped.paths if "Stile-bracket" in p.name)
        pieces = trimesh.load_mesh(path).split(only_watertight=True)
        self.assertEqual(len(pieces), 2)
        self.assertAlmostEqual(pieces[0].volume, pieces[1].volume, places=1)
        self.assertGreater(pieces[0].volume, 0)

    def test_stl_is_in_millimetres_with_z_up(self) -> None:
        mesh = trimesh.load_mesh(climb_ship(demo(), Target(format="stl"), self.folder / "a.stl").paths[0])
        self.assertAlmostEqual(mesh.extents[2], 7260, places=1)

    def test_faces_of_their_own_colour_become_primitives(self) -> None:
        document = glb_json(climb_ship(demo(), Target(), self.folder / "a.glb").paths[0])
        drum = next(mesh for mesh in document["meshes"] if mesh["name"] == "Tower drum")
        self.assertEqual(len(drum["primitives"]), 2)
        materials = [document["materials"][p["material"]]["name"] for p in drum["primitives"]]
        self.assertEqual(materials, ["Masonry, cream", "Masonry, rust"])


@cache
def _in_order(form: str) -> Shipped:
    folder = Path(tempfile.mkdtemp(prefix="ladder-shipped-"))
    unittest.addModuleCleanup(shutil.rmtree, folder)
    shipped = climb_ship(demo(), Target.model_validate({"format": form}), folder / f"a.{form}")
    assert shipped.receipt.ok
    return shipped


class Faults(FolderCase):
    """A receipt that cannot fail is worth nothing."""

    def ship(self, form: str) -> tuple[Result, list[Path], object]:
        """A delivery in order, in files of its own to spoil."""
        shipped = _in_order(form)
        paths = [Path(shutil.copy(path, self.folder)) for path in shipped.paths]
        return demo(), paths, shipped.scene

    def failed(self, result: Result, paths: list[Path], scene: object) -> set[str]:
        form = FORMATS[paths[0].suffix[1:]]
        names = {} if form.code == "stl" else form.write(scene, self.folder / "b").materials  # type: ignore[arg-type]
        written = Written(paths, names)
        receipt = write_receipt(result, scene, Target(format=form.code), [(scene, written)])  # type: ignore[arg-type]
        self.assertFalse(receipt.ok)
        return {check.name for check in receipt.checks if not check.ok}

    def test_wrong_size(self) -> None:
        result, paths, scene = self.ship("obj")
        text = paths[0].read_text().replace("v ", "v 1", 1)
        paths[0].write_text(text)
        self.assertTrue(any(name.startswith("size") for name in self.failed(result, paths, scene)))

    def test_winding_turned_over(self) -> None:
        result, paths, scene = self.ship("stl")
        data = bytearray(paths[0].read_bytes())
        row = np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("a", "<u2")])
        rows = np.frombuffer(data, row, offset=84)
        rows["c"][: len(rows) // 2] = rows["c"][: len(rows) // 2, ::-1].copy()
        paths[0].write_bytes(data)
        self.assertIn("normals against the winding, % of surface", self.failed(result, paths, scene))

    def test_cut_short(self) -> None:
        result, paths, scene = self.ship("glb")
        paths[0].write_bytes(paths[0].read_bytes()[:-5000])
        self.assertIn("glTF validator errors", self.failed(result, paths, scene))

    def test_a_lost_material(self) -> None:
        result, paths, scene = self.ship("obj")
        paths[0].write_text(paths[0].read_text().replace("usemtl Masonry-rust", "usemtl Masonry-cream"))
        self.assertIn("materials", self.failed(result, paths, scene))


def noticed(result: Result) -> list[Finding]:
    return review_meshes(result.fitted, result.chains, result.flipped, result.figures, result.times)


class Facing(unittest.TestCase):
    def test_a_flipped_part_is_found_inside_out(self) -> None:
        self.assertEqual([f.code for f in noticed(demo())], [])
        turned = Decisions.model_validate({**COARSE.model_dump(), "mend": {"flipped": ["Cupola"]}})
        self.assertEqual([(f.code, f.where) for f in noticed(demo(turned))], [("inside-out", "Cupola")])


class Failed(unittest.TestCase):
    """Faces and parts without triangles, from a mesh's figures alone."""

    def codes(self, **figures: object) -> list[tuple[str, str]]:
        result = demo()
        part = next(i for i, chain in enumerate(result.chains) if chain)
        chain = result.chains[part]
        assert chain is not None
        mesh = Figures(**{"triangles": 5, "open_edges": 0, **figures})  # type: ignore[arg-type]
        found = review_meshes(result.fitted, result.chains, result.flipped, {chain.key: mesh}, result.times)
        return [(f.code, f.severity) for f in found if f.where == result.model.parts[part].ref]

    def test_each_fault_has_its_code(self) -> None:
        self.assertEqual(self.codes(), [])
        self.assertEqual(self.codes(triangles=0, failed=tuple(range(9))), [("failed-part", "error")])
        self.assertEqual(self.codes(failed=(0,), open_edges=3), [("failed-face", "warning")])
        self.assertEqual(self.codes(inside_out=True), [("inside-out", "warning")])

    def test_an_open_part_has_no_inside_to_be_out(self) -> None:
        self.assertEqual(self.codes(inside_out=True, open_edges=3), [])


class Names(FolderCase):
    def test_file_stems_are_safe(self) -> None:
        taken: set[str] = set()
        nasty = ["../../etc/passwd", "con", "a/b\\c", "Ümläut ×", "\u202egnp.exe", "x" * 10_000, "", "a/b\\c", "..."]
        stems = [file_stem(name, taken) for name in nasty]
        self.assertEqual(len({stem.lower() for stem in stems}), len(stems))
        for stem in stems:
            self.assertRegex(stem, r"^[A-Za-z0-9_-]{1,80}$")
            self.assertNotEqual(stem.lower(), "con")

    def test_labels_stay_on_one_line_and_keep_their_script(self) -> None:
        self.assertEqual(label('a\n"b"\u202e\u05d0', set()), 'a "b" \u05d0')


class Packs(unittest.TestCase):
    def test_what_the_browser_gets_is_what_was_made(self) -> None:
        meshes = {key: mesh for key, mesh in demo().made.meshes.items() if len(mesh.triangles)}
        again = packs.decode(packs.encode(meshes))
        self.assertEqual(set(again), set(meshes))
        for key, mesh in meshes.items():
            np.testing.assert_array_equal(again[key].positions, mesh.positions)
            np.testing.assert_array_equal(again[key].normals, mesh.normals)
            np.testing.assert_array_equal(again[key].triangles, mesh.triangles)
            np.testing.assert_array_equal(again[key].faces.labels, mesh.faces.labels)
            self.assertEqual(again[key].figures, mesh.figures)


def glb_json(path: Path) -> dict:  # type: ignore[type-arg]
    data = path.read_bytes()
    return json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])  # type: ignore[no-any-return]
