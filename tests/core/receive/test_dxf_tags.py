"""The tags of a drawing, held against the library's own way of reading them."""

import io
from itertools import zip_longest
from unittest import mock

import ezdxf
from ezdxf.lldxf.tagger import ascii_tags_loader, tag_compiler

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.receive.dxf.read import read_dxf
from hemp_ladder.core.receive.dxf.tags import tags
from hemp_ladder.core.receive.report import Kept
from tests.core.receive.test_dxf import DRAWING, REAL
from tests.support import FolderCase, read_kept

_PLAIN = "0\nSECTION\n2\nENTITIES\n"
_LINE = "0\nLINE\n5\n1F\n8\nWall\n10\n1.5\n20\n2\n{between}30\n0\n11\n4e1\n21\n5\n62\n3\n0\nENDSEC\n0\nEOF\n"


class Tags(FolderCase):
    def same(self, text: str) -> int:
        """How many tags; all as the library has them."""
        count = 0
        for ours, theirs in zip_longest(tags(io.StringIO(text)), tag_compiler(ascii_tags_loader(io.StringIO(text)))):
            self.assertEqual((type(ours), ours.code), (type(theirs), theirs.code))
            self.assertEqual((type(ours.value), ours.value), (type(theirs.value), theirs.value))
            count += 1
        return count

    def test_tags_are_the_librarys(self) -> None:
        for path in (DRAWING, REAL):
            with path.open(encoding="utf-8", errors="surrogateescape") as file:
                self.assertGreater(self.same(file.read()), 2000)

    def test_ways_of_writing_are_the_librarys(self) -> None:
        line = _PLAIN + _LINE
        for text, count in (
            (line.format(between=""), 10),
            # a comment, a whole number with a point, binary data, what comes after the end, an end without a line's end
            ("999\nby hand\n" + line.format(between=""), 10),
            (line.format(between="").replace("62\n3", "62\n3.0"), 10),
            (line.format(between="").replace("62\n3", "310\n00FF"), 10),
            (line.format(between="") + "0\nLINE\n", 10),
            (line.format(between="")[:-1], 10),
            # a point of two coordinates is followed by something else
            (line.format(between="").replace("30\n0\n", ""), 10),
            # spaces before codes and in names
            (line.format(between="").replace("\n8\nWall", "\n  8\n Wall "), 10),
        ):
            with self.subTest(text):
                self.assertEqual(self.same(text), count)

    def test_what_is_not_written_plainly_is_left_to_the_library(self) -> None:
        """Each is an error here, and read as before."""
        whole = DRAWING.read_text()
        at = whole.index("\n 20\n")
        for text in (whole[:at] + "\n999\nbetween coordinates" + whole[at:], whole.replace("\n 20\n", "\n 20x\n", 1)):
            with self.assertRaises((ValueError, RuntimeError)):
                list(tags(io.StringIO(text)))
            path = self.folder / "odd.dxf"
            path.write_text(text)
            self.assertEqual(len(read_kept(path)[0].parts), len(read_kept(DRAWING)[0].parts))

    def test_a_plain_drawing_is_read_in_one_pass(self) -> None:
        with mock.patch.object(ezdxf, "readfile", side_effect=AssertionError("read by the library's own way")):
            read_kept(DRAWING)
        binary = self.folder / "binary.dxf"
        ezdxf.readfile(DRAWING).saveas(binary, fmt="bin")
        self.assertEqual(len(read_kept(binary)[0].parts), len(read_kept(DRAWING)[0].parts))

    def test_what_is_no_drawing_is_refused_as_the_library_refuses_it(self) -> None:
        path = self.folder / "none.dxf"
        for text in ("  0\nSECTION\n  2\nnothing", "  0\nEOF\n", "  0\nLINE\n  8\n0\n  0\nEOF\n"):
            path.write_text(text)
            with self.subTest(text), self.assertRaises(UnreadableSource):
                read_dxf(path, Kept())
