"""Wavefront OBJ with its MTL beside it: everything in place, one object for each placement."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.ship.names import file_stem, label
from hemp_ladder.core.ship.scene import Scene, placed_runs
from hemp_ladder.core.sort.library import Material, find


def write_obj(scene: Scene, path: Path) -> list[Path]:
    """Write the OBJ at `path` and the MTL with the same stem. Indices count from 1."""
    library = path.with_suffix(".mtl")
    taken: set[str] = set()
    names = {id_: file_stem(find(id_).name, taken) for id_ in scene.materials}
    with library.open("w", encoding="utf-8", newline="\n") as file:
        file.write("# Hemp Ladder\n")
        for id_, name in names.items():
            file.write(_material(name, find(id_)))
    objects: set[str] = set()
    start = 1
    with path.open("w", encoding="utf-8", newline="\n") as file:
        file.write(f"# Hemp Ladder, 1 unit = 1 {scene.target.written_unit}, {scene.target.written_up} up\n")
        file.write(f"mtllib {library.name}\n")
        for place, matrix in zip(scene.places, scene.world(), strict=True):
            if place.surface < 0:
                continue
            file.write(f"o {label(place.name, objects).replace(' ', '_')}\n")
            for material, positions, normals, triangles in placed_runs(scene.surfaces[place.surface], matrix):
                file.write(_rows("v %.9g %.9g %.9g", positions))
                file.write(_rows("vn %.5f %.5f %.5f", normals))
                file.write(f"usemtl {names[material]}\n")
                shown = np.repeat(triangles + start, 2, axis=1)
                file.write(_rows("f %d//%d %d//%d %d//%d", shown))
                start += len(positions)
    return [path, library]


def _rows(form: str, values: NDArray[np.generic]) -> str:
    """One line for each row: formatting whole rows at once runs at about a million lines a second."""
    if not len(values):
        return ""
    return "\n".join(map(form.__mod__, map(tuple, values.tolist()))) + "\n"


def _material(name: str, material: Material) -> str:
    """Kd and d of the classic MTL, Pr and Pm of its physically based extension."""
    colour = material.colour
    return (
        f"\nnewmtl {name}\nKd {colour.red:.4f} {colour.green:.4f} {colour.blue:.4f}\n"
        f"Ks 0.0400 0.0400 0.0400\nd {colour.alpha:.4f}\nillum 2\n"
        f"Pr {material.roughness:.3f}\nPm {material.metalness:.3f}\n"
    )
