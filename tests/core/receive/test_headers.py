"""What a file says of itself before it is read, by the words of its standard."""

import unittest

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.receive.readers import reader_for
from hemp_ladder.core.receive.step.header import cut_short, escape, is_step, read_header, unescape
from tests.support import FolderCase

STEP = """ISO-10303-21;
HEADER;
FILE_DESCRIPTION((''),'2;1');
FILE_NAME('lamp.stp','2026-11-25T10:00:00',('A keeper'),('Gull Rock'),'Quay writer 3','Drawing office','');
FILE_SCHEMA(('{}'));
ENDSEC;
DATA;
ENDSEC;
END-ISO-10303-21;
"""


class StepStrings(unittest.TestCase):
    """ISO 10303-21, 6.4.3: control directives of strings."""

    def test_every_directive(self) -> None:
        for written, meant in {
            "O''Grady": "O'Grady",
            r"\X2\03B103B2\X0\ and more": "αβ and more",
            r"\X2\D83DDE00\X0\ ": "😀 ",
            r"\X4\0001F600\X0\\X4\00000041\X0\ ": "😀A ",
            r"\X\E9t\X\E9": "été",
            r"\S\i": "é",
            r"C:\\parts\\lamp.stp": r"C:\parts\lamp.stp",
            r"\\X2\\": r"\X2" + "\\",
            "plain": "plain",
            r"\X2\03B1": r"\X2\03B1",
        }.items():
            with self.subTest(written):
                self.assertEqual(unescape(written), meant)
                self.assertEqual(unescape(escape(meant)), meant)
                self.assertTrue(escape(meant).isascii())


class StepHeaders(FolderCase):
    def header(self, text: str):  # type: ignore[no-untyped-def]
        path = self.folder / "a.stp"
        path.write_text(text)
        return read_header(path)

    def test_schemas_by_their_usual_names(self) -> None:
        for schema, name in {
            "AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }": "AP214",
            "CONFIG_CONTROL_DESIGN": "AP203",
            "AP203_CONFIGURATION_CONTROLLED_3D_DESIGN_OF_MECHANICAL_PARTS_AND_ASSEMBLIES_MIM_LF": "AP203",
            "AP242_MANAGED_MODEL_BASED_3D_ENGINEERING_MIM_LF": "AP242",
            "SHIP_STRUCTURES": "SHIP_STRUCTURES",
        }.items():
            self.assertEqual(self.header(STEP.format(schema)).schema, name)

    def test_who_wrote_it(self) -> None:
        self.assertEqual(self.header(STEP.format("X")).writer, "Quay writer 3, Drawing office")
        self.assertEqual(
            self.header(STEP.format("X").replace("'Drawing office'", "'Quay writer 3'")).writer, "Quay writer 3"
        )
        self.assertEqual(self.header(STEP.format("X").replace("FILE_NAME", "FILE_MANE")).writer, "")
        self.assertEqual(self.header(STEP.format("X").replace("FILE_SCHEMA", "FILE_SCHEME")).schema, "")

    def test_what_is_none_is_refused_in_words(self) -> None:
        for text, word in {
            "": "empty",
            "  \n": "empty",
            "solid lamp": "not a STEP file",
            STEP.replace("END-ISO-10303-21;", ""): "stops before its end",
        }.items():
            with self.assertRaises(UnreadableSource) as caught:
                self.header(text)
            self.assertIn(word, caught.exception.message)

    def test_its_beginning_and_its_end(self) -> None:
        for head in (b"ISO-10303-21;", b"\xef\xbb\xbf\r\n iso-10303-21; HEADER"):
            self.assertTrue(is_step(head))
        self.assertFalse(is_step(b"ISO-10303-28"))
        path = self.folder / "b.stp"
        path.write_text(STEP)
        self.assertEqual(cut_short(path, "b"), [])
        path.write_text(STEP[:-30])
        self.assertEqual([item.code for item in cut_short(path, "b")], ["cut-short"])


class Kinds(FolderCase):
    """By what a file begins with, whatever its name says."""

    def test_each_by_its_first_words(self) -> None:
        for head, kind in {
            STEP.format("CONFIG_CONTROL_DESIGN"): "STEP",
            STEP.format("IFC4"): "IFC",
            "DBRep_DrawableShape\n\nCASCADE Topology V1, (c) Matra-Datavision": "BREP",
            "CASCADE Topology V3, (c) Open Cascade": "BREP",
            "  0\nSECTION\n  2\nHEADER\n": "DXF",
            "0\r\nSECTION\r\n2\r\nENTITIES\r\n": "DXF",
            "999\nwritten by hand\n0\nSECTION\n2\nHEADER\n": "DXF",
            "Some Binary DXF\r\n\x1a\0": "DXF",
            "<svg xmlns='http://www.w3.org/2000/svg'/>": "SVG",
            "\ufeff<?xml version='1.0'?>\n<!-- drawn -->\n<!DOCTYPE svg>\n<svg/>": "SVG",
            "<?xml version='1.0'?><html><svg/></html>": None,
            "solid lamp\nfacet normal 0 0 1": "STL",
            "solid ground is what it stands on": None,
            "ply\nformat ascii 1.0\n": "PLY",
            "# a chair\nv 0.5 -1 2e-3\n": "OBJ",
            "mtllib a.mtl\nf 1/2/3 4//5 6\n": "OBJ",
            "newmtl wood\nKd 1 0 0\n": None,
            "glTF\2\0\0\0": "glTF",
            '{"scenes": [], "asset": {"version": "2.0"}}': "glTF",
            '{"name": "package"}': None,
            "": None,
        }.items():
            path = self.folder / "file.bin"
            path.write_text(head, "utf-8", newline="")
            with self.subTest(head[:40]):
                self.assertEqual(getattr(reader_for(path), "name", None), kind)


if __name__ == "__main__":
    unittest.main()
