"""IGES and BREP: the same part as STEP has the same volume and area; loose surfaces are sewn; what the files say of themselves."""

import math
import unittest
from pathlib import Path

import numpy as np
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools
from OCP.GProp import GProp_GProps
from OCP.IGESControl import IGESControl_Writer
from OCP.TopoDS import TopoDS_Shape

from demo import shapes
from hemp_ladder.core.facet.tessellate import tessellate
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.kernel.sew import sew
from hemp_ladder.core.kernel.shapes import faces_of, hush, read_shape
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.iges.header import read_header
from hemp_ladder.core.receive.report import Kept
from hemp_ladder.core.receive.review import review
from tests.support import DAVIT, PUBLIC, FolderCase, read_kept, write_step

CUBE = PUBLIC / "cube-10x10mm" / "Cube 10x10.igs"
BREP = PUBLIC / "cax-if-brep" / "as1_pe_203.brep"


def write_iges(shape: TopoDS_Shape, path: Path, unit: str = "MM", solids: bool = False) -> Path:
    hush()
    writer = IGESControl_Writer(unit, int(solids))
    writer.AddShape(shape)
    writer.ComputeModel()
    assert writer.Write(str(path), False)
    return path


def measures(model: Model, kept: Kept) -> tuple[float, float]:
    """Volume and area of all parts, exact by the kernel, in millimetres."""
    volume = area = 0.0
    for part in model.parts:
        if part.body.has_surface:
            found = GProp_GProps()
            BRepGProp.VolumeProperties_s(read_shape(kept.shapes[part.key]), found)
            volume += found.Mass()
            found = GProp_GProps()
            BRepGProp.SurfaceProperties_s(read_shape(kept.shapes[part.key]), found)
            area += found.Mass()
    return volume, area


def bracket() -> TopoDS_Shape:
    """Planes, cylinders, fillets: 60 x 40 x 12 mm with a boss and a bore."""
    body = shapes.fuse(shapes.box(60, 40, 12), shapes.cylinder(12, 30))
    return shapes.fillet(shapes.cut(body, shapes.cylinder(7, 60, (0, 0, -5))), 1.5, [0, 1, 2])


class SamePart(FolderCase):
    def test_iges_and_step_have_the_same_volume_and_area(self) -> None:
        shape = bracket()
        step = measures(*read_kept(write_step(shape, self.folder / "a.step")))
        for unit in ("MM", "IN", "M"):
            for solids in (False, True):
                model, kept = read_kept(write_iges(shape, self.folder / f"{unit}{solids}.igs", unit, solids))
                found = measures(model, kept)
                np.testing.assert_allclose(found, step, rtol=2e-6, err_msg=f"{unit} solids {solids}")
                self.assertEqual((len(model.parts), model.parts[0].body.open_edges), (1, 0))
                self.assertEqual(model.unit, unit.lower())
                size = np.ptp(climb_fit(model, FitSettings()).box(), axis=0)
                np.testing.assert_allclose(size, [0.06, 0.04, 0.03], atol=1e-7)

    def test_brep_text_is_the_shape_itself(self) -> None:
        shape = bracket()
        path = self.folder / "a.brep"
        BRepTools.Write_s(shape, str(path))
        model, kept = read_kept(path)
        step = measures(*read_kept(write_step(shape, self.folder / "a.step")))
        np.testing.assert_allclose(measures(model, kept), step, rtol=1e-9)
        self.assertEqual([item.code for item in review(model)], ["unit-missing", "no-material"])

    def test_a_mesh_of_sewn_surfaces_is_closed_and_faces_outward(self) -> None:
        for solids in (False, True):
            model, kept = read_kept(write_iges(bracket(), self.folder / "a.igs", solids=solids))
            mesh = tessellate(kept.shapes[model.parts[0].key], 0.05, math.radians(15))
            self.assertTrue(mesh.watertight, f"solids {solids}")
            self.assertAlmostEqual(mesh.volume(), measures(model, kept)[0], delta=100)


class Sewing(FolderCase):
    def test_a_box_without_its_lid_stays_open_and_is_told(self) -> None:
        path = self.folder / "tray.igs"
        writer = IGESControl_Writer("MM", 0)
        for face in faces_of(shapes.box(10, 20, 30))[:-1]:
            writer.AddShape(face)
        writer.ComputeModel()
        writer.Write(str(path), False)
        model, _ = read_kept(path)
        found = {item.code: item.message for item in review(model)}
        self.assertEqual(model.parts[0].body.open_edges, 4)
        self.assertIn("into 0 closed and 1 open shells", found["sewn"])
        self.assertIn("4 open edges", found["open-shell"])

    def test_sewing_turns_what_faces_the_wrong_way(self) -> None:
        from OCP.BRep import BRep_Builder
        from OCP.TopoDS import TopoDS_Compound

        builder, loose = BRep_Builder(), TopoDS_Compound()
        builder.MakeCompound(loose)
        for number, face in enumerate(faces_of(shapes.box(1, 1, 1))):
            builder.Add(loose, face.Reversed() if number == 2 else face)
        found = sew(loose, 1e-4)
        self.assertEqual(found.turned, 1)


class Declared(unittest.TestCase):
    def test_a_file_of_another_system(self) -> None:
        model, kept = read_kept(CUBE)
        np.testing.assert_allclose(measures(model, kept), [1000, 600], rtol=1e-6)

    def test_the_davit_in_inches(self) -> None:
        """95.4 inches and the arm's radius high, by the points it was drawn from."""
        header = read_header(DAVIT)
        self.assertEqual((header.unit, header.version, header.trimmed, header.whole), ("in", "IGES 5.3", 60, True))
        model, _ = read_kept(DAVIT)
        named = {part.name: part for part in model.parts}
        self.assertEqual(set(named), {"Socket", "Arm", "Sheave 1", "Sheave 2", "Cleat", "Fall"})
        self.assertEqual({part.layer for part in model.parts}, {"1", "2", "3"})
        colour = named["Fall"].colour
        assert colour
        self.assertEqual(colour.hex, "#a2743a")
        np.testing.assert_allclose(np.ptp(named["Socket"].box, axis=0) / 25.4, [16, 16, 15], atol=1e-6)
        self.assertTrue(all(part.body.open_edges == 0 for part in model.parts))

    def test_brep_of_a_whole_assembly(self) -> None:
        model, _ = read_kept(BREP)
        self.assertEqual((len(model.parts), len(model.placements)), (10, 18), "its writer copied some parts")
        self.assertIsNone(model.unit)
        found = next(item for item in review(model) if item.code == "unit-missing")
        self.assertTrue({offer.values["unit"] for offer in found.offers} >= {"mm", "in", "m"})


if __name__ == "__main__":
    unittest.main()
