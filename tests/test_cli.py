"""The command line's contract, on the demo, on a file of another system, and on broken ones."""

import io
import json
import subprocess
from contextlib import chdir, redirect_stderr, redirect_stdout
from typing import Any

import numpy as np
import trimesh

from demo import shapes
from hemp_ladder.cli import main
from hemp_ladder.work.children import start_early
from house.places import PYTHON, ROOT
from tests.support import AS1, DAVIT, DEMO, HOUSE, PUBLIC, SEVERAL_FILES, SHED, FolderCase, broken_files, write_step

LADDER = str(ROOT / "ladder")


class CommandCase(FolderCase):
    """Commands in this process, where the kernel is imported once; `whole` runs the executable as people do."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        # Once for the children of all commands, each of which would import the same again.
        start_early(wholly=True)

    def run_it(self, *arguments: object, code: int | None = 0, whole: bool = False) -> subprocess.CompletedProcess[str]:
        told = [str(item) for item in arguments]
        if whole:
            done = subprocess.run([LADDER, *told], capture_output=True, text=True, cwd=self.folder, timeout=300)
        else:
            out, err = io.StringIO(), io.StringIO()
            with redirect_stdout(out), redirect_stderr(err), chdir(self.folder):
                try:
                    ended = main(told)
                except SystemExit as left:
                    ended = int(left.code or 0)
            done = subprocess.CompletedProcess(told, ended, out.getvalue(), err.getvalue())
        if code is not None:
            self.assertEqual(done.returncode, code, done.stderr[-800:])
        return done


class Inspect(CommandCase):
    def test_the_demo(self) -> None:
        report = json.loads(self.run_it("inspect", DEMO, "--json", whole=True).stdout)
        self.assertEqual(
            list(report),
            ["format", "schema", "unit", "up", "parts", "placements", "layers", "materials", "size_m", "findings"],
        )
        self.assertEqual(
            (report["format"], report["schema"], report["unit"], report["up"]), ("STEP", "AP242", "mm", "z")
        )
        self.assertEqual((report["parts"], report["placements"]), (58, 533))
        np.testing.assert_allclose(report["size_m"], [4.2, 4.36, 7.26], atol=1e-6)
        for item in report["findings"]:
            self.assertLessEqual({"code", "severity", "where", "message", "remedy"}, set(item))

    def test_words_for_people(self) -> None:
        told = self.run_it("inspect", PUBLIC / "cube-units" / "cube-in.step").stdout
        self.assertIn("1.0000 × 1.0000 × 1.0000 m", told)

    def test_what_only_converting_takes_stays_out(self) -> None:
        told = "import sys; from hemp_ladder.cli import _parser; _parser(True); print('hemp_ladder.core.climb' in sys.modules)"
        done = subprocess.run([str(PYTHON), "-c", told], capture_output=True, text=True, cwd=ROOT)
        self.assertEqual((done.returncode, done.stdout.strip()), (0, "False"), done.stderr[-500:])

    def test_an_assembly_in_several_files(self) -> None:
        report = json.loads(self.run_it("inspect", SEVERAL_FILES / "s1-c5-214.stp", "--json").stdout)
        self.assertEqual((report["parts"], report["placements"], report["findings"]), (8, 11, []))


class Several(CommandCase):
    """Several inputs, units of their own, choices and a polygon."""

    def test_inspect_tells_each_and_states_a_unit(self) -> None:
        found = json.loads(self.run_it("inspect", HOUSE, SHED, "--source-unit", "boat-shed=m", "--json").stdout)
        names = [item["name"] for item in found["sources"]]
        self.assertEqual(names, [HOUSE.name, SHED.name])
        house, shed = found["sources"]
        self.assertEqual((house["unit"], shed["unit"]), ("m", "m"))
        self.assertEqual(house["storeys"], {"Ground floor": 45, "Upper floor": 13, "Loft": 9})
        self.assertEqual(house["map"]["easting_m"], 412_300)
        np.testing.assert_allclose(shed["size_m"], [43, 16, 17.1], atol=1e-6)

    def test_convert_joins_chooses_and_cuts(self) -> None:
        done = self.run_it(
            "convert", HOUSE, DAVIT, "-o", self.folder / "a.glb", "--take", "storey=Ground floor", "--take",
            "storey=Upper floor", "--leave", "layer=3", "--within", "3,-1 5,-1 5,7.5 3,7.5", "--cut", "--json",
        )  # fmt: skip
        report = json.loads(done.stdout)
        self.assertTrue(report["receipt"]["ok"])
        scene = trimesh.load_scene(self.folder / "a.glb")
        np.testing.assert_allclose(scene.extents, [2, 5.85, 7], atol=1e-4)

    def test_every_kind_ships_with_a_good_receipt(self) -> None:
        for path in (DAVIT, SHED, PUBLIC / "cax-if-brep" / "as1_pe_203.brep"):
            report = json.loads(self.run_it("convert", path, "-o", self.folder / "b.glb", "--json").stdout)
            self.assertTrue(report["receipt"]["ok"], path.name)

    def test_what_makes_no_sense_is_said(self) -> None:
        for wrong in (
            ["--take", "colour=red"],
            ["--within", "0,0 1,1"],
            ["--source-unit", "nobody=mm"],
            ["--source-unit", "furlong"],
        ):
            done = self.run_it("convert", SHED, "-o", self.folder / "c.glb", *wrong, code=2)
            self.assertTrue(done.stderr.strip())
        self.assertIn("Two of the files", self.run_it("inspect", SHED, SHED, code=2).stderr)


class Convert(CommandCase):
    def test_the_contract_on_a_file_of_another_system(self) -> None:
        done = self.run_it("convert", AS1, "-o", "out.glb", "--chord", "0.1mm", "--angle", "20deg", "--json")
        report = json.loads(done.stdout)
        self.assertEqual(
            list(report),
            [
                "outputs",
                "parts",
                "placements",
                "triangles",
                "vertices",
                "effects",
                "size_m",
                "receipt",
                "findings",
                "by_part",
                "facet",
                "sort",
            ],
        )
        self.assertEqual((report["parts"], report["placements"]), (5, 18))
        np.testing.assert_allclose(report["size_m"], [0.2, 0.15, 0.084], atol=1e-6)
        self.assertTrue(report["receipt"]["ok"])
        self.assertEqual(set(report["receipt"]["checks"][0]), {"name", "expected", "found", "ok"})
        self.assertEqual(done.stderr, "")
        scene = trimesh.load_scene(self.folder / "out.glb")
        self.assertEqual(sum(len(g.faces) for g in scene.dump()), report["triangles"])
        np.testing.assert_allclose(scene.extents, [0.2, 0.084, 0.15], atol=1e-5)
        output = report["outputs"][0]
        self.assertEqual(output["bytes"], (self.folder / output["path"]).stat().st_size)
        self.assertEqual(len(output["sha256"]), 64)

    def test_every_option(self) -> None:
        decisions = self.folder / "decisions.json"
        decisions.write_text(json.dumps({"sort": {"rules": [{"by": "name", "match": "*", "material": "brass"}]}}))
        done = self.run_it(
            "convert", AS1, "-o", "out.obj", "--chord-relative", "0.001", "--unit", "cm", "--up", "y", "--to-unit", "ft",
            "--to-up", "z", "--group", "material", "--decisions", decisions, "--json",
        )  # fmt: skip
        report = json.loads(done.stdout)
        np.testing.assert_allclose(report["size_m"], [2.0, 0.84, 1.5], atol=1e-5)
        scene = trimesh.load_scene(self.folder / "out.obj")
        np.testing.assert_allclose(scene.extents, np.array([2.0, 0.84, 1.5]) / 0.3048, atol=1e-3)
        self.assertIn("newmtl Polished-brass", (self.folder / "out.mtl").read_text())

    def test_finer_means_more_and_a_box_stays_twelve(self) -> None:
        box = write_step(shapes.box(10, 20, 30), self.folder / "box.step")
        for chord in ("5mm", "0.001mm"):
            report = json.loads(self.run_it("convert", box, "-o", "box.stl", "--chord", chord, "--json").stdout)
            self.assertEqual(report["triangles"], 12)

    def test_inches_and_millimetres_of_the_same_shape_agree(self) -> None:
        for unit in ("MM", "INCH"):
            path = write_step(shapes.cylinder(10, 30), self.folder / f"{unit}.step", unit)
            report = json.loads(self.run_it("convert", path, "-o", "c.glb", "--json").stdout)
            np.testing.assert_allclose(report["size_m"], [0.02, 0.02, 0.03], rtol=2e-2)

    def test_wrong_usage_is_code_2(self) -> None:
        for arguments in (
            ["convert", AS1, "-o", "a.xyz"], ["convert", AS1, "-o", "a.glb", "--chord", "0.1"], ["convert", AS1],
            ["convert", AS1, "-o", "a.glb", "--chord", "1mm", "--chord-relative", "0.1"], ["convert", "nothing.step", "-o", "a.glb"],
            ["convert", AS1, "-o", "a.glb", "--up", "w"], ["convert", AS1, "-o", "no/such/a.glb"], ["inspect"], ["fly"],
            ["convert", AS1, "-o", "a.glb", "--chord", "90m"], ["convert", AS1, "-o", "a.glb", "--unit", "league"],
        ):  # fmt: skip
            done = self.run_it(*arguments, code=2)
            self.assertEqual(done.stdout, "", arguments)
            self.assertNotIn("Traceback", done.stderr)
            self.assertTrue(done.stderr)

    def test_operations_of_mend(self) -> None:
        """A nut's and bolt's vertices on one another; the same part smooth, flat, and as its surfaces are."""
        told = {}
        for name, options in {
            "plain": [], "weld": ["--weld", "0.01mm"], "flat": ["--normals", "flat"], "source": ["--normals", "source"],
            "crease": ["--weld", "10um", "--normals", "crease=35deg"],
        }.items():  # fmt: skip
            done = self.run_it("convert", AS1, "-o", f"{name}.glb", "--json", *options)
            told[name] = json.loads(done.stdout)
            self.assertTrue(told[name]["receipt"]["ok"], name)
        self.assertEqual(len({report["triangles"] for report in told.values()}), 1, "none costs a triangle")
        self.assertEqual({name: set(report["effects"]) for name, report in told.items()}, {
            "plain": set(), "weld": {"weld"}, "flat": {"normals"}, "source": set(), "crease": {"weld", "normals"},
        })  # fmt: skip
        self.assertEqual(told["weld"]["vertices"], told["plain"]["vertices"] - told["weld"]["effects"]["weld"])
        self.assertEqual(told["source"]["vertices"], told["plain"]["vertices"])
        self.assertGreater(told["flat"]["vertices"], told["plain"]["vertices"])
        mesh = trimesh.load_scene(self.folder / "flat.glb").to_mesh()
        corners = mesh.vertices[mesh.faces]
        flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        agree = np.einsum("ij,ij->i", flat, mesh.vertex_normals[mesh.faces[:, 0]]) / np.linalg.norm(flat, axis=1)
        self.assertGreater(np.nanmin(agree), 0.999)
        for wrong in (["--weld", "3"], ["--normals", "round"], ["--weld", "-1mm"]):
            self.run_it("convert", AS1, "-o", "x.glb", *wrong, code=2)

    def test_a_shell_soup_by_options_alone(self) -> None:
        """The shed as one STL: what is told of it before and after is what another library finds in the file."""
        done = self.run_it(
            "convert", ROOT / "demo" / "shed-soup.stl", "--unit", "m", "-o", "shed.glb", "--weld", "0.01mm",
            "--repair", "duplicate,t-joints,holes", "--facing", "outward", "--normals", "weighted=30deg", "--split", "--json",
        )  # fmt: skip
        report = json.loads(done.stdout)
        self.assertTrue(report["receipt"]["ok"])
        whole, *shells = report["by_part"]
        before = whole["before"]
        self.assertEqual((before["duplicate"], before["t_joints"], before["inward"]), (14, 4, 6))
        self.assertFalse(before["watertight"])
        self.assertEqual(len(shells) + 1, before["shells"])
        scene = trimesh.load_scene(self.folder / "shed.glb")
        found = []
        for mesh in scene.geometry.values():
            bare = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
            bare.merge_vertices(merge_norm=True, merge_tex=True)
            found.append(bare)
        told = [part["after"] for part in report["by_part"]]
        self.assertEqual(len(found), len(told))
        self.assertEqual(sorted(len(mesh.faces) for mesh in found), sorted(after["triangles"] for after in told))
        # The shed has one sheet that was never a body, and three bodies that touch themselves.
        self.assertEqual([after["triangles"] for after in told if after["holes"]], [2])
        plain = [after for after in told if not after["over_shared"] and not after["holes"]]
        self.assertEqual(len(plain), 33)
        self.assertEqual({after["watertight"] for after in plain}, {True})
        self.assertEqual(sum(mesh.is_watertight for mesh in found), len(plain))
        volumes = sorted(mesh.volume for mesh in found if mesh.is_watertight)
        np.testing.assert_allclose(volumes, sorted(after["volume_m3"] for after in plain), rtol=1e-3, atol=1e-6)
        self.assertGreater(min(volumes), 0)

    def test_rounding_by_options_alone(self) -> None:
        done = self.run_it("convert", AS1, "-o", "a.glb", "--round", "0.5mm", "--normals", "weighted=40deg", "--json")
        report = json.loads(done.stdout)
        self.assertTrue(report["receipt"]["ok"])
        self.assertGreater(report["effects"]["round"], 20)
        for part in report["by_part"]:
            self.assertTrue(part["after"]["watertight"], part["part"])
            self.assertLess(part["after"]["volume_m3"], part["before"]["volume_m3"] * 1.001)
        for wrong in (["--facing", "sideways"], ["--repair", "rust"], ["--round", "wide"], ["--normals", "crease"]):
            self.assertIn(".", self.run_it("convert", AS1, "-o", "x.glb", *wrong, code=2).stderr)

    def test_broken_files_end_with_a_sentence_and_code_3(self) -> None:
        for name, path in broken_files(self.folder).items():
            with self.subTest(name):
                # Some damage leaves most of a file readable; then the receipt says what came of it.
                code = None if name in ("flipped", "repointed") else 3
                done = self.run_it("convert", path, "-o", "a.glb", "--json", code=code, whole=name == "truncated")
                self.assertNotIn("Traceback", done.stderr)
                report = json.loads(done.stdout)
                self.assertIn(done.returncode, (0, 3))
                if done.returncode:
                    self.assertTrue(report["findings"][0]["message"].endswith("."))
                    self.assertTrue(report["findings"][0]["remedy"])


class Drawings(CommandCase):
    """Outlines on the command line: heights, areas, walls, units, widths and the cleaned file."""

    def converted(self, *options: object, out: str = "a.glb") -> dict[str, Any]:
        report: dict[str, Any] = json.loads(self.run_it("convert", *options, "-o", self.folder / out, "--json").stdout)
        self.assertTrue(report["receipt"]["ok"])
        return report

    def volume(self, path: str) -> float:
        return float(trimesh.load_mesh(self.folder / path).volume)

    def test_a_drawing_of_which_nothing_is_solid_says_what_there_is_and_how_it_becomes_so(self) -> None:
        import ezdxf

        doc = ezdxf.new("R2010", units=4)
        space = doc.modelspace()
        for k in range(3):
            space.add_lwpolyline([(k, 0), (k + 0.5, 0), (k + 0.5, 1)], close=True, dxfattribs={"layer": "Walls"})
        space.add_circle((9, 9), 1, dxfattribs={"layer": "Columns"})
        space.add_line((0, 5), (9, 5), dxfattribs={"layer": "Axes"})
        space.add_text("Plan", dxfattribs={"layer": "Notes"})
        doc.saveas(self.folder / "plan.dxf")
        told = self.run_it("convert", self.folder / "plan.dxf", "-o", "a.glb", code=3).stderr
        for word in (
            "3 closed outlines on Walls",
            "1 closed outline on Columns",
            "1 line",
            "1 text",
            "--height",
            "Walls=",
        ):
            self.assertIn(word, told)
        self.assertFalse((self.folder / "a.glb").exists())
        self.assertTrue(self.converted(self.folder / "plan.dxf", "--height", "Walls=2.5m")["triangles"])

    def test_where_nothing_enters_it_is_said(self) -> None:
        told = self.run_it("convert", SHED, "-o", "a.glb", "--take", "storey=Nowhere", code=3).stderr
        self.assertIn("Nothing enters", told)
        self.assertIn("--take", told)

    def test_a_drawing_in_a_stated_unit(self) -> None:
        drawing = ROOT / "demo" / "site-drawing.dxf"
        report = self.converted(
            drawing, "--unit", "mm", "--height", "Quay=1.2m", "--height", "House walls=2.6 m", "--close", "30mm"
        )
        np.testing.assert_allclose(report["size_m"], [58.041, 33, 5.2], atol=2e-3)
        report = self.converted(drawing, "--unit", "in", "--height", "1ft", "--segments", "12", out="a.stl")
        self.assertAlmostEqual(report["size_m"][0] / 25.4, 59.54, delta=0.1)

    def test_a_stencil_alternating_with_thin_bars(self) -> None:
        stencil = ROOT / "demo" / "light-stencil.svg"
        common = (stencil, "--svg-unit", "mm", "--height", "2mm", "--nozzle", "0.8mm")
        report = self.converted(*common, "--fill", "alternating", out="a.stl")
        np.testing.assert_allclose(report["size_m"], [0.11, 0.08, 0.002], atol=1e-6)
        self.assertIn("thin-wall", [item["code"] for item in report["findings"]])
        # The plate of 110 by 80 with rounded corners, less six slots of 10 by 14 and three figures.
        whole, holes = 110 * 80 - (4 - np.pi) * 16, 6 * 140
        self.assertLess(self.volume("a.stl"), (whole - holes) * 2)
        self.assertGreater(self.volume("a.stl"), (whole - holes - 1500) * 2)
        mended = self.converted(*common, "--fill", "alternating", "--thicken", out="b.stl")
        self.assertNotIn("thin-wall", [item["code"] for item in mended["findings"]])
        self.assertGreater(self.volume("b.stl"), self.volume("a.stl"))

    def test_a_ring_and_a_wanted_width(self) -> None:
        path = self.folder / "square.svg"
        path.write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm" viewBox="0 0 10 10"><rect width="10" height="10"/></svg>'
        )
        self.converted(path, "--height", "1mm", "--wall", "1mm,inward", out="a.stl")
        self.assertAlmostEqual(self.volume("a.stl"), 36, delta=0.01)
        report = self.converted(path, "--height", "1mm", "--width", "1m", out="b.stl")
        np.testing.assert_allclose(report["size_m"], [1, 1, 0.001], atol=1e-6)

    def test_a_cleaned_file_is_saved(self) -> None:
        sign, clean = ROOT / "demo" / "harbour-sign.svg", self.folder / "clean.svg"
        self.run_it("inspect", sign, "--clean-svg", clean)
        self.assertNotIn("gull-rock.invalid", clean.read_text())
        again = json.loads(self.run_it("inspect", clean, "--json").stdout)
        self.assertNotIn("foreign-namespaces", [item["code"] for item in again["findings"]])
        self.run_it("inspect", DEMO, "--clean-svg", clean, code=2)

    def test_nonsense_is_wrong_usage(self) -> None:
        sign = ROOT / "demo" / "harbour-sign.svg"
        for options in (
            ("--height", "Board=high"),
            ("--fill", "somehow"),
            ("--wall", "1mm,sideways"),
            ("--segments", "2"),
        ):
            self.run_it("convert", sign, "-o", self.folder / "a.glb", *options, code=2)


class Fitting(CommandCase):
    """`--known-length`, `--turn`, `--origin`, `--ground`, `--into-mesh`: the same as on the screen."""

    DAVIT = ROOT / "demo" / "stray-davit.step"
    SHED = ROOT / "demo" / "stray-shed.glb"

    def read(self, name: str) -> trimesh.Scene:
        return trimesh.load_scene(self.folder / name, process=False)

    def test_a_known_length_names_the_mistake_and_takes_the_unit(self) -> None:
        # The kernel counts in millimetres: what the file has as 100 of its inches is 2540 of them.
        done = self.run_it("convert", self.DAVIT, "-o", "a.glb", "--known-length", "0,0,0 2540,0,0 = 100mm")
        self.assertIn("inches and millimetres taken for each other", done.stderr)
        self.assertAlmostEqual(float(self.read("a.glb").extents[1]), 2.486, delta=2e-3)
        odd = self.run_it("convert", self.DAVIT, "-o", "b.glb", "--known-length", '0,0,0 2540,0,0 = 1 15/16"')
        self.assertIn("grows by 0.01937", odd.stderr)

    def test_lengths_that_disagree_or_make_no_sense_are_told(self) -> None:
        for options, word in (
            (("--known-length", "0,0,0 100,0,0 = 1m", "--known-length", "0,0,0 0,50,0 = 1m"), "disagree"),
            (("--known-length", "0,0,0 0,0,0 = 1m"), "same"),
            (("--known-length", "0,0,0 100,0,0 = 900km"), "city"),
            (("--known-length", "0,0,0 100,0,0 = 12 x"), "x"),
            (("--known-length", "0,0 1,1 = 1m"), "no point"),
            (("--turn", "w=90deg"), "no turn"),
            (("--origin", "corner:+w"), "no corner"),
        ):
            self.assertIn(word, self.run_it("convert", self.DAVIT, "-o", "a.glb", *options, code=2).stderr)

    def test_turned_placed_grounded_and_in_the_mesh(self) -> None:
        report = json.loads(
            self.run_it(
                "convert", self.SHED, "-o", "a.glb", "--turn", "x=-90deg", "--origin", "base-centre", "--ground", "20 cm",
                "--into-mesh", "--json",
            ).stdout
        )  # fmt: skip
        self.assertTrue(report["receipt"]["ok"])
        scene = self.read("a.glb")
        np.testing.assert_allclose(scene.bounds[:, 1], [0.2, 2.6], atol=1e-6)
        np.testing.assert_allclose(scene.bounds.mean(axis=0)[[0, 2]], 0, atol=1e-6)
        for node in scene.graph.nodes_geometry:
            np.testing.assert_array_equal(scene.graph.get(node)[0], np.eye(4))
        corner = json.loads(
            self.run_it(
                "convert", self.SHED, "-o", "b.obj", "--origin", "corner:-x,-y,-z", "--to-hand", "left", "--json"
            ).stdout
        )
        self.assertTrue(corner["receipt"]["ok"])
        np.testing.assert_allclose(self.read("b.obj").bounds[0][:2], 0, atol=1e-6)
