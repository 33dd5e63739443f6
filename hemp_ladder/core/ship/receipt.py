"""The receipt: what was written, read back by others and held against what was meant."""

import io
from collections.abc import Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from hemp_ladder.core.climb import Result
from hemp_ladder.core.fit import turn_from_z
from hemp_ladder.core.ship.directions import largest_shift, largest_turn, meant_facets
from hemp_ladder.core.ship.format import Format, Found, Verdict, Written
from hemp_ladder.core.ship.scene import Scene
from hemp_ladder.core.units import UNITS

#: Normals come from the true surface, winding from the flat triangle: across a
#: tight curve, slivers may disagree. More surface than this means a fault.
_ASTRAY = 1e-3
#: What rounding to 32 bit numbers and to seven digits may turn a normal by, in degrees.
_TURNED = 0.1
#: How far a UV may lie from where it was meant, in widths of its picture; seven digits hold more up to ten widths out.
_SHIFTED = 1e-5


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


def write_receipt(result: Result, scene: Scene, form: Format, written: Sequence[tuple[Scene, Written]]) -> Receipt:
    """Read the files back and compare. A validator runs beside the reader, on another core.

    `written` are the scenes that `scene` was split into, or itself alone, with their files.
    """
    paths = [path for _, files in written for path in files.paths]
    with ThreadPoolExecutor(1) as pool:
        verdicts: list[Future[Verdict]] = []
        if form.validate is not None:
            verdicts = [pool.submit(form.validate, files.paths[0]) for _, files in written]
        try:
            found = form.proof(paths)
        except Exception as error:  # the reader is a stranger; whatever it raises is a failed receipt
            checks = [Check("readable", True, f"{type(error).__name__}: {error}"[:200], False)]
        else:
            checks = list(_compare(result, scene, form, written, found))
        for verdict in [item.result() for item in verdicts]:
            checks.append(Check(verdict.name, 0, verdict.errors, verdict.errors == 0))
    return Receipt(all(check.ok for check in checks), checks)


def _compare(
    result: Result, scene: Scene, form: Format, written: Sequence[tuple[Scene, Written]], found: Found
) -> list[Check]:
    checks = [_size(axis, name, result, scene, found) for axis, name in enumerate("xyz")]
    if result.made.failed:
        lost = len([1 for chain in result.chains if chain is not None and chain.key in result.made.failed])
        checks.append(Check("parts that could not be made", 0, lost, False))
    checks.append(_equal("triangles", result.triangles, found.triangles))
    if form.one_mesh:
        checks.append(_equal("files", len(written), len(found.meshes)))
    if "instances" in form.carries:
        checks.append(_equal("meshes", sum(len(piece.surfaces) for piece, _ in written), len(found.meshes)))
        checks.append(_equal("placements", sum(1 for _ in scene.standing()), found.placements))
    if "materials" in form.carries:
        called = {name for _, files in written for name in files.materials.values()}
        checks.append(_equal("materials", sorted(called), sorted(found.materials)))
    if scene.worn and form.shows:
        names = {id_: name for _, files in written for id_, name in files.materials.items()}
        meant = {
            f"{names[id_]}, {slot}": _pixels(scene.pictures[worn.picture])
            for id_, slots in scene.worn.items() if id_ in names
            for slot, worn in slots.items() if slot in form.shows
        }  # fmt: skip
        checks.append(_equal("pictures by material", dict(sorted(meant.items())), dict(sorted(found.pictures.items()))))
    checks.append(Check("normals", "present", "present" if found.normals else "missing", found.normals))
    share = round(100 * found.astray, 4)
    checks.append(Check("normals against the winding, % of surface", 0, share, found.astray <= _ASTRAY))
    if "normals" in form.carries and found.normals:
        facing = [facets for piece, _ in written for facets in meant_facets(piece, form)]
        turned = round(float(largest_turn(facing, found.facets)), 3)
        checks.append(Check("normals off, degrees", 0, turned, turned <= _TURNED))
        if "uv" in form.carries and any(facets.uv is not None for facets in facing):
            shifted = float(largest_shift(facing, found.facets))
            checks.append(
                Check("UV off", 0, round(shifted, 7) if np.isfinite(shifted) else "missing", shifted <= _SHIFTED)
            )
    checks += _shut(scene, form, found)
    return checks


def _pixels(data: bytes) -> str:
    from PIL import Image

    from hemp_ladder.core.ship.readback import told_pixels

    with Image.open(io.BytesIO(data)) as picture:
        return told_pixels(picture)


def _size(axis: int, name: str, result: Result, scene: Scene, found: Found) -> Check:
    """Against the box of the triangles; a 32 bit number holds seven digits of the farthest coordinate."""
    box = result.box / float(UNITS[scene.unit].metres)
    turned = box @ turn_from_z(scene.up)[:3, :3].T
    low, high = turned.min(axis=0), turned.max(axis=0)
    meant = float(high[axis] - low[axis])
    slack = max(float(np.abs(turned).max()) * 2e-6, float((high - low).max()) * 1e-5)
    size = float(found.box[1, axis] - found.box[0, axis])
    return Check(f"size {name}, {scene.unit}", round(meant, 6), round(size, 6), abs(meant - size) <= slack)


def _shut(scene: Scene, form: Format, found: Found) -> list[Check]:
    """Watertight or not, mesh by mesh, where each mesh is a part; else for the whole."""
    if scene.group == "one":
        whole = all(surface.watertight for surface in scene.surfaces)
        told = whole and (form.one_mesh or "instances" in form.carries)
        return [_equal("watertight", True, not found.open)] if told else []
    if scene.group == "material" or "instances" not in form.carries:
        return []
    meant = sum(1 for surface in scene.surfaces if surface.watertight)
    shut = len(found.meshes) - len(found.open)
    return [_equal("watertight meshes", meant, shut)]


def _equal(name: str, expected: Any, found: Any) -> Check:
    return Check(name, expected, found, expected == found)
