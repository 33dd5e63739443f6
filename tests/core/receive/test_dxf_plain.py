"""Plain entities of a drawing, taken past the library, against the library's own reading of the same file."""

from pathlib import Path
from typing import Any
from unittest import mock

import ezdxf
import numpy as np
from ezdxf.document import Drawing

from hemp_ladder.core.receive.dxf import read
from hemp_ladder.core.receive.dxf.plain import Plains
from hemp_ladder.core.receive.report import Kept
from tests.core.receive.test_dxf import DRAWING, REAL
from tests.support import FolderCase

#: An entity of each kind as it is put into a file: {head} before the first marker, {common} and {own} after others.
_LINE = "0\nLINE\n5\nA1\n{head}100\nAcDbEntity\n8\nWall\n{common}100\nAcDbLine\n10\n1\n20\n2\n30\n3\n11\n7\n21\n5\n31\n3\n{own}"
_CIRCLE = "0\nCIRCLE\n5\nA2\n{head}100\nAcDbEntity\n8\nWall\n{common}100\nAcDbCircle\n10\n1\n20\n2\n40\n3\n{own}"
_ARC = (
    "0\nARC\n5\nA3\n{head}100\nAcDbEntity\n8\nWall\n{common}100\nAcDbCircle\n10\n1\n20\n2\n30\n4\n40\n3\n{own}"
    "100\nAcDbArc\n50\n350\n51\n80\n"
)
_POLYLINE = (
    "0\nLWPOLYLINE\n5\nA4\n{head}100\nAcDbEntity\n8\nWall\n{common}100\nAcDbPolyline\n90\n3\n70\n1\n{own}"
    "10\n0\n20\n0\n91\n7\n10\n4\n20\n0\n42\n0.5\n10\n4\n20\n3\n"
)


def each(head: str = "", common: str = "", own: str = "") -> str:
    """One of each kind, all of which say this besides."""
    return "".join(kind.format(head=head, common=common, own=own) for kind in (_LINE, _CIRCLE, _ARC, _POLYLINE))


class Plainly(FolderCase):
    def read(self, path: Path, plainly: bool) -> tuple[Any, int]:
        """All that a drawing is read as, and how many of its entities were taken past the library."""
        kept, taken = Kept(), 0
        take = Plains.take

        def counted(self: Plains, kind: str, codes: list[int], values: list[str]) -> bool:
            nonlocal taken
            took = take(self, kind, codes, values)
            taken += took
            return took

        with (
            mock.patch.object(Plains, "take", counted),
            mock.patch.object(read, "_SUBCLASSED", read._SUBCLASSED if plainly else "AC9999"),
        ):
            model = read.read_dxf(path, kept)
        parts = [(part.ref, part.key, part.name, part.layer, part.colour, part.body.__dict__) for part in model.parts]
        told = model.layers, model.hidden, model.leftovers, model.findings
        return repr((parts, model.nodes, model.local.tolist(), model.box.tolist(), told)), taken

    def taken(self, path: Path) -> int:
        """How many of its entities were taken; the drawing is what it is without that."""
        whole, none = self.read(path, plainly=False)
        plain, taken = self.read(path, plainly=True)
        self.assertEqual(none, 0)
        self.assertEqual(plain, whole)
        return taken

    def drawing(self, text: str, change: Any = None) -> Path:
        """A drawing of two layers, in which the entities of `text` stand between others that are the library's."""
        doc: Drawing = ezdxf.new("R2010", setup=False)
        doc.layers.add("Wall", color=3)
        doc.layers.add("Base", true_color=0x336699)
        space = doc.modelspace()
        space.add_ellipse((9, 9), (2, 0), 0.5)
        space.add_ellipse((19, 9), (2, 0), 0.5)
        path = self.folder / "drawing.dxf"
        doc.saveas(path)
        written = path.read_text()
        self.paper = doc.block_records.get("*Paper_Space").dxf.handle
        at = written.rindex("  0\nELLIPSE\n")
        path.write_text(written[:at] + text + written[at:])
        return path

    def test_whole_drawings_are_the_same(self) -> None:
        self.assertGreater(self.taken(DRAWING), 10)
        self.taken(REAL)

    def test_of_everything_at_random_in_the_order_of_the_file(self) -> None:
        dice = np.random.default_rng(3)
        doc: Drawing = ezdxf.new("R2018")
        doc.layers.add("Wall", color=3)
        space = doc.modelspace()
        block = doc.blocks.new("Post")
        block.add_circle((0, 0), 1)
        for k in range(300):
            x, y = dice.uniform(0, 50, 2)
            look: dict[str, Any] = {"layer": ("Wall", "0", "Unlisted")[k % 3]}
            look |= ({}, {"color": 1}, {"true_color": 0x102030}, {"color": 0}, {"thickness": 2.0}, {"lineweight": 30})[
                k % 6
            ]
            match k % 9:
                case 0:
                    space.add_line((x, y), (x + 3, y + 1), look)
                case 1:
                    space.add_line((x, y, 1), (x + 3, y + 1, 2), look)
                case 2:
                    space.add_circle((x, y, 2), 0.5, look)
                case 3:
                    space.add_arc((x, y), 0.7, 30, 300, dxfattribs=look)
                case 4:
                    space.add_lwpolyline([(x, y), (x + 1, y, 0, 0, 0.3), (x, y + 1)], close=k % 2 == 0, dxfattribs=look)
                case 5:
                    space.add_lwpolyline([(x, y, 0.1, 0.2), (x + 1, y)], dxfattribs=look)
                case 6:
                    space.add_lwpolyline([(x, y), (x + 1, y)], dxfattribs={**look, "const_width": 0.2, "elevation": 3})
                case 7:
                    space.add_blockref("Post", (x, y), {"layer": look["layer"]})
                case 8:
                    space.add_circle((x, y), 0.5, {**look, "extrusion": (0, 0, -1)})
        path = self.folder / "all.dxf"
        doc.saveas(path)
        # All but those out of plane (the second), blocks, and those drawn in planes of their own.
        self.assertEqual(self.taken(path), 300 - 3 * 33 - 1)

    def test_what_changes_nothing_is_passed_over(self) -> None:
        for head, common, own in (
            ("", "", ""),
            ("330\n1F\n", "6\nDASHED\n48\n2.5\n370\n25\n", "39\n2\n"),
            ("", "62\n5\n", "210\n0\n220\n0\n230\n1.0\n"),
            ("", "420\n255\n62\n5\n", "39\n-2\n210\n0\n220\n0\n230\n1\n"),
            ("", "62\n0\n", ""),
        ):
            text = each(head, common, own)
            with self.subTest(text):
                self.assertEqual(self.taken(self.drawing(text)), 4)

    def test_what_says_more_is_the_librarys(self) -> None:
        whole = each()
        for head, common, own in (
            ("102\n{ACAD_REACTORS\n330\n1F\n102\n}\n", "", ""),
            ("", "67\n1\n", ""),
            ("", "60\n1\n", ""),
            ("", "440\n33554559\n", ""),
            ("", "62\n300\n", ""),
            ("", "62\n256.0\n", ""),
            ("", "8\nBase\n", ""),
            ("", "", "210\n0\n220\n0\n230\n-1\n"),
            ("", "", "210\n0\n220\n0\n"),
            ("", "", "1001\nACAD\n1000\nof theirs\n"),
            ("", "", "39\n1\n39\n2\n"),
        ):
            text = each(head, common, own)
            with self.subTest(text):
                self.assertEqual(self.taken(self.drawing(text)), 0)
        for old, new, taken in (
            ("AcDbLine", "AcDbRay", 3),
            ("5\nA1\n100\nAcDbEntity\n8\nWall\n", "5\nA1\n100\nAcDbEntity\n", 3),
            ("8\nWall\n100\nAcDbCircle\n10\n1\n20\n2\n40", "8\nW<all\n100\nAcDbCircle\n10\n1\n20\n2\n40", 3),
            ("40\n3\n0", "40\n0\n0", 3),
            ("11\n7\n21\n5\n31\n3", "11\n7\n21\n5\n31\n4", 3),
            ("11\n7\n21\n5\n31\n3", "11\n1\n21\n2\n31\n3", 3),
            ("51\n80\n", "", 3),
            ("91\n7\n", "40\n0.1\n40\n0.2\n", 3),
            ("10\n0\n20\n0\n91\n7\n", "42\n0.3\n10\n0\n20\n0\n", 3),
            ("10\n0\n20\n0\n91", "10\n0\n20\n0\n30\n5\n91", 3),
            ("40\n3\n0", "40\nnan\n0", 3),
            ("40\n3\n0", "40\n1e300\n0", 4),
            ("8\nWall\n100\nAcDbCircle", "8\nWall\n62\n3.0\n100\nAcDbCircle", 3),
            ("10\n1\n20\n2\n30\n3\n11", "20\n2\n10\n1\n30\n3\n11", 0),
            ("10\n4\n20\n3", "10\n4\n42\n0.1\n20\n3", 3),
            ("5\nA3\n", "5\nA3\n100\nAcDbEntity\n", 3),
        ):
            self.assertIn(old, whole)
            with self.subTest(new):
                self.assertEqual(self.taken(self.drawing(whole.replace(old, new, 1))), taken)

    def test_what_cannot_be_told_apart_is_read_by_the_library_as_a_whole(self) -> None:
        whole = each()
        paper = self.drawing(whole) and self.paper
        point = "0\nPOINT\n5\nA9\n100\nAcDbEntity\n8\nWall\n100\nAcDbPoint\n10\n1\n20\n2\n30\n0\n"
        whole += point
        self.assertEqual(self.taken(self.drawing(whole)), 4)
        for old, new in (
            ("5\nA3\n", ""),
            ("5\nA3\n", "5\nA2\n"),
            ("5\nA3\n", f"5\nA3\n330\n{paper}\n"),
            ("5\nA9\n", ""),
            ("5\nA9\n", "5\nA1\n"),
            ("5\nA9\n100\nAcDbEntity\n", "100\nAcDbEntity\n5\nA9\n"),
        ):
            with self.subTest(new), mock.patch.object(Plains, "among", side_effect=lambda entities: entities) as among:
                self.taken(self.drawing(whole.replace(old, new, 1)))
                self.assertEqual(among.call_count, 2)
        # In the first version to have no subclasses nothing is.
        path = self.folder / "old.dxf"
        ezdxf.readfile(self.drawing(whole)).saveas(path)
        doc: Drawing = ezdxf.new("R12")
        doc.modelspace().add_circle((0, 0), 1)
        doc.saveas(path)
        self.assertEqual(self.taken(path), 0)

    def test_a_number_that_is_none_is_found_out_as_ever(self) -> None:
        path = self.drawing(
            _LINE.format(head="", common="", own="").replace("11\n7", "11\nseven")
            + _CIRCLE.format(head="", common="", own="")
        )
        self.taken(path)
