"""The receipt: what was written, read back by others and held against what was meant."""

import json
import subprocess
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np

from hemp_ladder.core.climb import Result
from hemp_ladder.core.fit import turn_from_z
from hemp_ladder.core.ship.names import file_stem
from hemp_ladder.core.ship.readback import Found, read_back
from hemp_ladder.core.ship.scene import Scene
from hemp_ladder.core.sort.library import find
from hemp_ladder.core.units import UNITS

_WEB = Path(__file__).resolve().parents[3] / "web"
#: Normals come from the true surface, winding from the flat triangle: across a
#: tight curve, slivers may disagree. More surface than this means a fault.
_ASTRAY = 1e-3


@dataclass(frozen=True)
class Check:
    """One thing held against what was meant."""

    name: str
    expected: Any
    found: Any
    ok: bool


@dataclass(frozen=True)
class Receipt:
    ok: bool
    checks: list[Check]

    def as_dict(self) -> dict[str, Any]:
        return {"ok": self.ok, "checks": [asdict(check) for check in self.checks]}


def write_receipt(result: Result, scene: Scene, paths: list[Path]) -> Receipt:
    """Read the files back and compare. The glTF validator runs beside the reader, on the other core."""
    form = scene.target.format
    with ThreadPoolExecutor(1) as pool:
        verdict = pool.submit(_validate, paths[0]) if form == "glb" else None
        try:
            found = read_back(paths, form)
        except Exception as error:  # the reader is a stranger; whatever it raises is a failed receipt
            checks = [Check("readable", True, f"{type(error).__name__}: {error}"[:200], False)]
        else:
            checks = list(_compare(result, scene, found))
        if verdict is not None:
            checks.append(verdict.result())
    return Receipt(all(check.ok for check in checks), checks)


def _compare(result: Result, scene: Scene, found: Found) -> list[Check]:
    form, group = scene.target.format, scene.target.written_group
    unit = scene.target.written_unit
    checks = [_size(axis, name, result, scene, found, unit) for axis, name in enumerate("xyz")]
    checks.append(_equal("triangles", result.triangles, found.triangles))
    standing = sum(1 for place in scene.places if place.surface >= 0)
    if form == "stl":
        files = 1 if group == "one" else len(scene.surfaces)
        checks.append(_equal("files", files, len(found.meshes)))
    elif form == "glb":
        checks.append(_equal("meshes", len(scene.surfaces), len(found.meshes)))
        checks.append(_equal("placements", standing, found.placements))
    if form != "stl":
        taken: set[str] = set()
        named = [find(id_).name for id_ in scene.materials]
        meant = sorted(set(named) if form == "glb" else {file_stem(name, taken) for name in named})
        checks.append(_equal("materials", meant, sorted(found.materials)))
    checks.append(Check("normals", "present", "present" if found.normals else "missing", found.normals))
    share = round(100 * found.astray, 4)
    checks.append(Check("normals against the winding, % of surface", 0, share, found.astray <= _ASTRAY))
    checks += _shut(result, scene, found)
    return checks


def _size(axis: int, name: str, result: Result, scene: Scene, found: Found, unit: str) -> Check:
    """Against the box of the triangles; a 32 bit number holds seven digits of the farthest coordinate."""
    box = result.box / float(UNITS[unit].metres)
    turned = box @ turn_from_z(scene.target.written_up)[:3, :3].T
    low, high = turned.min(axis=0), turned.max(axis=0)
    meant = float(high[axis] - low[axis])
    slack = max(float(np.abs(turned).max()) * 2e-6, float((high - low).max()) * 1e-5)
    size = float(found.size[axis])
    return Check(f"size {name}, {unit}", round(meant, 6), round(size, 6), abs(meant - size) <= slack)


def _shut(result: Result, scene: Scene, found: Found) -> list[Check]:
    """Watertight or not, mesh by mesh, where each mesh is a part; else for the whole."""
    if scene.target.format == "obj" or scene.target.written_group == "material":
        return []
    if scene.target.written_group == "one":
        whole = all(surface.watertight for surface in scene.surfaces)
        return [_equal("watertight", True, not found.open)] if whole else []
    if scene.target.format == "stl":
        return []
    meant = sum(1 for surface in scene.surfaces if surface.watertight)
    shut = len(found.meshes) - len(found.open)
    return [_equal("watertight meshes", meant, shut)]


def _equal(name: str, expected: Any, found: Any) -> Check:
    return Check(name, expected, found, expected == found)


def _validate(path: Path) -> Check:
    """The glTF validator's count of errors; a validator that cannot run is a failed check."""
    script = Path(__file__).with_name("validate.mjs")
    try:
        run = subprocess.run(
            ["node", "--max-old-space-size=4096", str(script), str(_WEB), str(path)],
            capture_output=True, text=True, timeout=600, check=True,
        )  # fmt: skip
        verdict = json.loads(run.stdout)
    except (OSError, subprocess.SubprocessError, ValueError) as error:
        return Check("glTF validator errors", 0, f"could not run: {type(error).__name__}", False)
    words = verdict["errors"]
    if words:
        words = f"{verdict['errors']}: {verdict['messages'][0].get('message', '')}"[:200]
    return Check("glTF validator errors", 0, words, verdict["errors"] == 0)
