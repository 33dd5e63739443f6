"""What a STEP file declares, comes out of its tree, and is remarked on."""

import json
import re
import unittest
import zipfile
from pathlib import Path
from unittest.mock import patch

import numpy as np
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.gp import gp_Trsf, gp_Vec
from OCP.TopLoc import TopLoc_Location

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.kernel.parts import Known
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Colour, Model
from hemp_ladder.core.receive.bundle import open_bundle
from hemp_ladder.core.receive.readers import need_reader, reader_for
from hemp_ladder.core.receive.report import Kept
from hemp_ladder.core.receive.review import review
from hemp_ladder.core.receive.step.header import unescape
from hemp_ladder.core.receive.step.read import read_step
from hemp_ladder.store import model_blob
from tests.support import AS1, DEMO, PUBLIC, SEVERAL_FILES, FolderCase


def read(path: Path) -> Model:
    return read_step(path, Kept())


class TheDemo(unittest.TestCase):
    model: Model

    @classmethod
    def setUpClass(cls) -> None:
        cls.model = read(DEMO)

    def test_holds_what_it_promises(self) -> None:
        model, counts = self.model, self.model.counts()
        depth = [0] * len(model.nodes)
        for i, node in enumerate(model.nodes):
            depth[i] = depth[node.parent] + 1 if node.parent >= 0 else 0
        self.assertGreaterEqual(sum(1 for p in model.parts if p.body.has_surface), 40)
        self.assertGreaterEqual(len(model.placements), 250)
        self.assertGreaterEqual(max(depth), 3)
        self.assertGreaterEqual(len(model.layers), 8)
        self.assertGreaterEqual(len(model.colours()), 10)
        self.assertGreaterEqual(max(counts.values()), 100)
        self.assertTrue(any(p.face_colours for p in model.parts))
        self.assertTrue(any(n.colour for n in model.nodes))
        bare = [p for p in model.parts if p.body.has_surface and not (p.colour or p.layer or p.face_colours)]
        self.assertEqual(len([p for p in bare if p.ref != "Ladder grip"]), 6)
        self.assertEqual(sum(1 for p in model.parts if not p.name), 3)
        self.assertEqual(sum(p.body.curves for p in model.parts), 4)
        self.assertEqual((model.schema, model.unit, model.up), ("AP242", "mm", "z"))

    def test_parts_are_told_of_before_their_names(self) -> None:
        """Each with its body, as the same part will have it; and all is as where nothing was asked for before the whole."""
        kept, plain = Kept(), Kept()
        model = read_step(DEMO, kept)
        with patch("hemp_ladder.core.receive.step.read.shapes_ahead", lambda reader, about: iter(())):
            other = read_step(DEMO, plain)
        early = [part for told in kept.early for part in told.parts]
        later = {part.key for part in model.parts if part.body.has_surface} - {part.key for part in early}
        self.assertEqual([part.name for part in model.parts if part.key in later], ["Ladder grip"])
        self.assertEqual(len({part.key for part in early}), len(early))
        self.assertEqual([told.unit for told in kept.early], ["mm"] * len(kept.early))
        self.assertTrue(all(told.nodes[k].part == k for told in kept.early for k in range(len(told.parts))))
        self.assertEqual(plain.early, [])
        self.assertEqual(kept.shapes, plain.shapes)
        self.assertEqual(model_blob.encode(model), model_blob.encode(other))

    def test_one_placement_is_a_mirror_image(self) -> None:
        handed = np.linalg.det(self.model.world()[:, :3, :3])
        mirrored = np.flatnonzero(handed < 0)
        self.assertEqual([self.model.nodes[i].name for i in mirrored], ["Stile bracket right"])
        np.testing.assert_allclose(np.abs(handed), 1, atol=1e-9)

    def test_findings(self) -> None:
        found = {item.code: item for item in review(self.model)}
        self.assertEqual(set(found), {"no-material", "unnamed", "leftovers"})
        self.assertIn("6 parts", found["no-material"].message)
        self.assertTrue(all(item.why and item.remedy for item in found.values()))

    def test_survives_being_stored(self) -> None:
        again = model_blob.decode(model_blob.encode(self.model))
        np.testing.assert_array_equal(again.world(), self.model.world())
        self.assertEqual([p.label for p in again.parts], [p.label for p in self.model.parts])
        self.assertEqual(again.colours(), self.model.colours())
        self.assertEqual(again.metres_per_coordinate, self.model.metres_per_coordinate)


class PublicFiles(unittest.TestCase):
    def test_an_assembly_of_another_system(self) -> None:
        """as1-oc-214.stp: 5 parts, 18 placements, 200 x 150 x 84 mm; read off the file by hand."""
        model = read(AS1)
        self.assertEqual((len(model.parts), len(model.placements)), (5, 18))
        np.testing.assert_allclose(np.ptp(model.box, axis=0), [200, 150, 84], atol=1e-5)

    def test_a_metre_an_inch_and_a_millimetre_file_of_the_same_cube(self) -> None:
        """1000 mm in each of three units; NIST SP 811 for the inch."""
        for name, code in (("in", "in"), ("m", "m"), ("mm", "mm")):
            model = read(PUBLIC / "cube-units" / f"cube-{name}.step")
            self.assertEqual(model.unit, code)
            size = np.ptp(climb_fit(model, FitSettings()).box(), axis=0)
            np.testing.assert_allclose(size, [1, 1, 1], atol=1e-9)

    def test_a_stated_unit_and_up_axis(self) -> None:
        model = read(AS1)
        fitted = climb_fit(model, FitSettings(unit="in", up="y"))
        np.testing.assert_allclose(np.ptp(fitted.box(), axis=0), np.array([200, 84, 150]) * 0.0254, atol=1e-6)
        self.assertGreater(np.linalg.det(fitted.sources[0].matrix[:3, :3]), 0)


class SeveralFiles(FolderCase):
    def files(self) -> list[tuple[str, Path]]:
        return [(path.name, path) for path in sorted(SEVERAL_FILES.glob("*.stp"))]

    def test_an_assembly_spread_over_files(self) -> None:
        bundle = open_bundle(self.files(), self.folder)
        self.assertEqual((bundle.root.name, bundle.findings), ("s1-c5-214.stp", []))
        self.assertEqual(len(read(bundle.root).placements), 11)

    def test_a_zip_of_it_in_folders(self) -> None:
        archive = self.folder / "all.zip"
        with zipfile.ZipFile(archive, "w") as out:
            for name, path in self.files():
                out.write(path, f"../deep/{name}")
        inside = self.folder / "inside"
        inside.mkdir()
        bundle = open_bundle([("all.zip", archive)], inside)
        self.assertEqual(len(read(bundle.root).placements), 11)
        self.assertEqual([p for p in self.folder.iterdir() if p.is_dir()], [inside])

    def test_a_missing_member_is_named_and_the_rest_kept(self) -> None:
        files = [(name, path) for name, path in self.files() if name != "TAIL_TURBINE.stp"]
        bundle = open_bundle(files, self.folder)
        self.assertEqual([item.code for item in bundle.findings], ["missing-member"])
        self.assertIn("TAIL_TURBINE.stp", bundle.findings[0].message)
        self.assertGreater(len(read(bundle.root).placements), 5)

    def test_a_reference_out_of_the_bundle_is_cut_down(self) -> None:
        root = self.folder / "in.stp"
        text = (SEVERAL_FILES / "s1-c5-214.stp").read_bytes().replace(b"'TAIL.stp'", b"'../../secret/TAIL.stp'")
        root.write_bytes(text)
        inside = self.folder / "inside"
        inside.mkdir()
        bundle = open_bundle([("in.stp", root), *[f for f in self.files() if f[0] != "s1-c5-214.stp"]], inside)
        self.assertIn("outside-reference", [item.code for item in bundle.findings])
        self.assertNotIn(b"secret", bundle.root.read_bytes())
        self.assertIn(b"secret", root.read_bytes(), "what came in is never touched")

    def test_bombs_and_broken_archives_are_refused(self) -> None:
        bomb = self.folder / "bomb.zip"
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as out:
            out.writestr("a.step", b"\0" * (300 << 20))
        broken = self.folder / "broken.zip"
        broken.write_bytes(bomb.read_bytes()[:2000])
        for path in (bomb, broken):
            with self.assertRaises(UnreadableSource):
                open_bundle([(path.name, path)], self.folder)


class Words(FolderCase):
    def test_escapes_of_iso_10303_21(self) -> None:
        """Section 6.4.3: \\X2\\ gives UTF-16, \\X\\ one byte, \\S\\ the upper half of ISO 8859-1, '' a quote."""
        self.assertEqual(unescape(r"caf\X2\00E9\X0\ \X\E9 \S\i it''s"), "café é é it's")

    def test_refs_are_readable_unique_and_bounded(self) -> None:
        taken: set[str] = set()
        names = ["Bolt", "Bolt", "", "", "a\nb\u202e<b>", "x" * 10_000, "x" * 10_001]
        refs = [unique_label(name, taken) for name in names]
        self.assertEqual(refs[:4], ["Bolt", "Bolt (2)", "unnamed", "unnamed (2)"])
        self.assertEqual(len(set(refs)), len(refs))
        self.assertTrue(all(len(ref) <= 90 and "\n" not in ref and "\u202e" not in ref for ref in refs))

    def test_kind_is_told_from_content(self) -> None:
        path = self.folder / "picture.png"
        path.write_bytes(AS1.read_bytes())
        self.assertEqual(need_reader(path).name, "STEP")
        for data in (b"", b"\0" * 50, b"solid x"):
            path.write_bytes(data)
            self.assertIsNone(reader_for(path))
            with self.assertRaises(UnreadableSource):
                need_reader(path)

    def test_names_of_a_hostile_file_arrive_whole_and_harmless(self) -> None:
        nasty = "<img src=x onerror=alert(1)> \"quoted\" it''s \\X2\\202E05D005D1\\X0\\ "
        text = AS1.read_text("latin-1")
        path = self.folder / "nasty.step"
        path.write_text(text.replace("PRODUCT('nut','nut'", f"PRODUCT('{nasty}','{nasty + 'y' * 10_000}'"), "latin-1")
        self.assertTrue(re.search("onerror", path.read_text("latin-1")))
        model = read(path)
        ref = next(p.ref for p in model.parts if "onerror" in p.ref)
        self.assertLessEqual(len(ref), 90)
        json.dumps(ref)


class KnownBefore(unittest.TestCase):
    def test_a_shape_is_known_as_it_lies_and_faces(self) -> None:
        """The same surface turned over, or moved, is another part; a name and colours are each one's own."""
        found: dict[str, bytes] = {}
        known = Known()
        box = BRepPrimAPI_MakeBox(1, 2, 3).Shape()
        early = known.add(box, found.__setitem__)
        assert early is not None
        self.assertIsNone(known.add(box, found.__setitem__))
        part, faces = known.part_of(box, "Crate", "Crate", found.__setitem__)
        self.assertEqual((part.name, part.key, faces.Extent(), len(found)), ("Crate", early.key, 6, 1))
        part.face_colours[0] = Colour(1, 2, 3)
        self.assertEqual(early.face_colours, {})
        move = gp_Trsf()
        move.SetTranslation(gp_Vec(0, 0, 5))
        others = {known.part_of(shape, "", "", found.__setitem__)[0].key
                  for shape in (box.Reversed(), box.Moved(TopLoc_Location(move)))}  # fmt: skip
        self.assertEqual(len(others | {part.key}), 3)
