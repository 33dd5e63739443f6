"""Binary STL: 80 bytes of header, a count, then 50 bytes a triangle."""

import struct
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from hemp_ladder.core.mesh.triangles import cross
from hemp_ladder.core.ship.format import Format, Found, Written
from hemp_ladder.core.ship.scene import Scene, noted_offset

#: Normal, three corners, two bytes of attribute.
ROW = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def write_stl(scene: Scene, path: Path) -> Written:
    """Write one STL. The placements are streamed, so that memory holds one at a time."""
    count = 0
    with path.open("wb") as file:
        # The header must not begin with "solid", which marks the text form.
        note = f"Ladder, {scene.note}".replace("1 unit = 1 ", "")
        # An offset with more digits than fit is in the receipt only: a part of it would be another offset.
        note = note if len(note) <= 80 else note.partition(", offset")[0]
        file.write(note.encode("ascii").ljust(80, b" ") + b"\0\0\0\0")
        for _, surface, matrix in scene.standing():
            for run in surface.placed(matrix):
                corners = run.positions[run.triangles]
                across = cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
                length = np.linalg.norm(across, axis=1, keepdims=True)
                rows = np.zeros(len(corners), dtype=ROW)
                rows["normal"] = np.divide(across, length, out=np.zeros_like(across), where=length > 0)
                rows["corners"] = corners
                file.write(rows.tobytes())
                count += len(rows)
        file.seek(80)
        file.write(struct.pack("<I", count))
    return Written([path])


def _proof(paths: Sequence[Path]) -> Found:
    from hemp_ladder.core.ship.readback import read_scenes

    def normals(path: Path) -> np.ndarray:
        # The library drops normals that oppose the winding, so these are read as they lie in the file.
        return np.asarray(np.fromfile(path, ROW, offset=84)["normal"], np.float64)

    return read_scenes(paths, facet_normals=normals)


def _noted(path: Path) -> tuple[float, ...] | None:
    with path.open("rb") as file:
        return noted_offset(file.read(80).decode("ascii", "replace"))


#: An STL says neither unit nor axis: millimetres and Z up are common practice of slicers.
#: It knows no parts, so it holds one mesh.
FORMAT = Format(
    code="stl", name="STL", suffix=".stl", unit="mm", up="z", group="one", carries=frozenset(),
    write=write_stl, proof=_proof, noted=_noted,
    weighs=lambda weight: 84 + 50 * weight.placed[1],
)  # fmt: skip
