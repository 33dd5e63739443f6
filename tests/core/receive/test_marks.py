"""Texts with marks of encoding: made plain a little at a time, whatever they grow to."""

import tempfile
import tracemalloc
import unittest
from pathlib import Path

from hemp_ladder.core.receive.bundle import open_bundle

MEGABYTE = 1 << 20


class Marks(unittest.TestCase):
    def test_a_large_text_is_never_held_whole(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "long.dxf"
            line = "999\nnothing to see\n".encode("utf-16-le") * 4096
            with path.open("wb") as out:
                out.write(b"\xff\xfe")
                for _ in range(40 * MEGABYTE // len(line)):
                    out.write(line)
            laid = Path(folder) / "laid"
            laid.mkdir()
            tracemalloc.start()
            try:
                bundle = open_bundle([(path.name, path)], laid)
                peak = tracemalloc.get_traced_memory()[1]
            finally:
                tracemalloc.stop()
            self.assertLess(peak, 16 * MEGABYTE)
            with bundle.root.open("rb") as plain:
                self.assertEqual(plain.read(19), b"999\nnothing to see\n")
