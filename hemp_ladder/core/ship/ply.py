"""PLY: one mesh of all placements, with normals and the base colour at every vertex; triangles, quads or polygons.

Triangles are binary. Faces of several sizes are text: many readers take a binary list to be of one length.
"""

import shutil
import tempfile
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.material import Material
from hemp_ladder.core.ship.format import Format, Found, Weight, Written
from hemp_ladder.core.ship.polygons import faces_in
from hemp_ladder.core.ship.scene import Scene, noted_offset

_SPOT = "%.9g %.9g %.9g %.7g %.7g %.7g %d %d %d\n"
_ROW = np.dtype([("at", "<f4", 3), ("normal", "<f4", 3), ("colour", "u1", 3)])


def write_ply(scene: Scene, path: Path) -> Written:
    """Write one PLY. Vertices and faces are streamed to files of their own first: how many there are stands before both."""
    vertices = faces = 0
    told = scene.polygons or scene.quads
    with tempfile.TemporaryFile() as spots, tempfile.TemporaryFile() as rings:
        for _, surface, matrix in scene.standing():
            for run in surface.placed(matrix):
                rows = np.zeros(len(run.positions), _ROW)
                rows["at"], rows["normal"] = run.positions, run.attributes["normal"]
                rows["colour"] = _colour(scene.materials[run.material])
                spots.write(_text(_SPOT, [rows["at"], rows["normal"], rows["colour"]]) if told else rows.tobytes())
                for ring in faces_in(run.triangles, run.sizes):
                    rings.write(_rings(ring + vertices, told))
                    faces += len(ring)
                vertices += len(rows)
        with path.open("wb") as file:
            file.write(_header(scene.note, vertices, faces, told))
            for part in (spots, rings):
                part.seek(0)
                shutil.copyfileobj(part, file)
    return Written([path])


def _header(note: str, vertices: int, faces: int, told: bool) -> bytes:
    form = "ascii" if told else "binary_little_endian"
    floats = "".join(f"property float {name}\n" for name in ("x", "y", "z", "nx", "ny", "nz"))
    colours = "".join(f"property uchar {name}\n" for name in ("red", "green", "blue"))
    return (
        f"ply\nformat {form} 1.0\ncomment Hemp Ladder, {note}\nelement vertex {vertices}\n{floats}{colours}"
        f"element face {faces}\nproperty list uchar int vertex_indices\nend_header\n"
    ).encode()


def _text(line: str, columns: list[NDArray[np.generic]]) -> bytes:
    """A line for each row of columns side by side."""
    rows = zip(*(column.tolist() for column in columns), strict=True)
    return "".join(line % tuple(value for part in row for value in part) for row in rows).encode()


def _rings(rings: NDArray[np.integer], told: bool) -> bytes:
    """Faces (m, n) of as many corners each."""
    count = rings.shape[1]
    if told:
        return _text(f"{count}{' %d' * count}\n", [rings])
    rows = np.zeros(len(rings), np.dtype([("count", "u1"), ("corners", "<i4", count)]))
    rows["count"], rows["corners"] = count, rings
    return rows.tobytes()


def _colour(material: Material) -> tuple[int, int, int]:
    """Its base colour as screens have it."""
    plain = material.finish.colour.hex.lstrip("#")
    return int(plain[0:2], 16), int(plain[2:4], 16), int(plain[4:6], 16)


def _proof(paths: Sequence[Path]) -> Found:
    from hemp_ladder.core.ship.readback import read_scenes

    return read_scenes(paths)


def _noted(path: Path) -> tuple[float, ...] | None:
    with path.open("rb") as file:
        lines = [file.readline().decode("utf-8", "replace") for _ in range(4)]
    return noted_offset(next((line for line in lines if line.startswith("comment")), ""))


def _weighs(weight: Weight) -> int:
    vertices, triangles = weight.placed
    return 300 + _ROW.itemsize * vertices + 13 * triangles


#: A PLY says neither unit nor axis: metres and Z up are common practice of scanning, where it comes from.
#: It knows no parts, so it holds one mesh.
FORMAT = Format(
    code="ply", name="PLY", suffix=".ply", unit="m", up="z", group="one", carries=frozenset({"normals", "polygons"}),
    write=write_ply, proof=_proof, noted=_noted, weighs=_weighs,
)  # fmt: skip
