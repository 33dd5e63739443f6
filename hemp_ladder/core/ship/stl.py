"""Binary STL: 80 bytes of header, a count, then 50 bytes a triangle."""

import struct
from pathlib import Path

import numpy as np

from hemp_ladder.core.ship.names import file_stem
from hemp_ladder.core.ship.scene import Scene, placed_runs

_ROW = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def write_stl(scene: Scene, path: Path) -> list[Path]:
    """Write one STL; when parts or materials stay apart, one file for each beside `path`."""
    if scene.target.written_group == "one":
        return [_write(scene, list(range(len(scene.places))), path)]
    taken: set[str] = set()
    files: list[Path] = []
    for number, surface in enumerate(scene.surfaces):
        stem = file_stem(surface.name, taken)
        places = [i for i, place in enumerate(scene.places) if place.surface == number]
        files.append(_write(scene, places, path.with_name(f"{path.stem}-{stem}.stl")))
    return files


def _write(scene: Scene, places: list[int], path: Path) -> Path:
    """Stream the placements, so that memory holds one at a time."""
    world = scene.world()
    count = 0
    with path.open("wb") as file:
        # The header must not begin with "solid", which marks the text form.
        note = f"Hemp Ladder, 1 unit = 1 {scene.target.written_unit}, {scene.target.written_up} up"
        file.write(note.encode("ascii").ljust(80, b" ") + b"\0\0\0\0")
        for index in places:
            place = scene.places[index]
            if place.surface < 0:
                continue
            for _, positions, _, triangles in placed_runs(scene.surfaces[place.surface], world[index]):
                corners = positions[triangles]
                cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
                length = np.linalg.norm(cross, axis=1, keepdims=True)
                rows = np.zeros(len(triangles), dtype=_ROW)
                rows["normal"] = np.divide(cross, length, out=np.zeros_like(cross), where=length > 0)
                rows["corners"] = corners
                file.write(rows.tobytes())
                count += len(rows)
        file.seek(80)
        file.write(struct.pack("<I", count))
    return path
