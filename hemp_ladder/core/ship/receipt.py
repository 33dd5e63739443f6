"""The receipt: what was written, read back by others and held against what was meant."""

import io
from collections.abc import Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np

from hemp_ladder.core.climb import Result
from hemp_ladder.core.fit.notes import Measured, single_precision
from hemp_ladder.core.ship.arrange import target_turn
from hemp_ladder.core.ship.directions import largest_shift, largest_turn, meant_facets
from hemp_ladder.core.ship.format import Format, Found, Verdict, Written
from hemp_ladder.core.ship.proven import facets_told
from hemp_ladder.core.ship.scene import Scene
from hemp_ladder.core.ship.settings import Target
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
    """`told` is what stands beside the checks: the offset, what single precision rounds to, measurements."""

    ok: bool
    checks: list[Check]
    told: dict[str, Any] = field(default_factory=dict)

    def as_dict(self) -> dict[str, Any]:
        return {"ok": self.ok, "checks": [asdict(check) for check in self.checks], "told": self.told}


def write_receipt(
    result: Result, scene: Scene, target: Target, written: Sequence[tuple[Scene, Written]],
    measured: Sequence[Measured] = (),
) -> Receipt:  # fmt: skip
    """Read the files back and compare. A validator runs beside the reader, on another core.

    `written` are the scenes that `scene` was split into, or itself alone, with their files.
    """
    form = target.written_format
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
            checks = list(_compare(result, scene, target, written, found))
            checks += _offset(scene, form, written)
        for verdict in [item.result() for item in verdicts]:
            checks.append(Check(verdict.name, 0, verdict.errors, verdict.errors == 0))
    checks += [
        Check(_told(item), item.note.should, item.lost or round(item.value, 9), item.agrees and not item.lost)
        for item in measured if item.note.should is not None
    ]  # fmt: skip
    return Receipt(all(check.ok for check in checks), checks, _beside(result, measured))


def _told(item: Measured) -> str:
    kind = {"along": f"along {item.note.axis or 'z'}"}.get(item.note.kind, item.note.kind)
    return f"measured {item.note.label or kind}, {'degrees' if item.note.kind == 'angle' else 'm'}"


def _beside(result: Result, measured: Sequence[Measured]) -> dict[str, Any]:
    """The offset in metres, Z up, exactly as it is kept; millimetres that single precision would round the farthest
    coordinate by where the sources have it, and does where it is; and every measurement that stands."""
    told: dict[str, Any] = {"meshes": _meshes(result), **_trimmed(result)}
    facets = facets_told(result)
    if facets["worst"] is not None:
        told["facets"] = {
            "largest distance, m": facets["off"], "of": facets["worst"], "points": facets["samples"],
            **({"bound, m": facets["bound"]} if "bound" in facets else {}),
        }  # fmt: skip
    if any(result.fitted.offset):
        far, near = single_precision(result.fitted, result.box)
        told["offset_m"] = list(result.fitted.offset)
        told["single_precision_mm"] = {"as received": far * 1000, "as shipped": near * 1000}
    if measured:
        told["measurements"] = [
            {
                "of": _told(item), "is": item.lost or (list(item.box) if item.box else item.value),
                "should_be": item.note.should, "was": item.changed,
            }
            for item in measured
        ]  # fmt: skip
    return told


def _meshes(result: Result) -> dict[str, Any]:
    """Of the parts as they are shipped: how many are watertight, what is wrong with their triangles, each part counted
    once, and what was not done because it made no sense."""
    known = [
        (figures, result.flipped[part])
        for part in sorted(result.fitted_parts)
        if (chain := result.chains[part]) is not None
        and (figures := result.figures.get(chain.key))
        and figures.triangles
    ]
    counts = {
        "open edges": sum(item.open_edges or 0 for item, _ in known),
        "over-shared edges": sum(item.over_shared for item, _ in known),
        "holes": sum(item.holes for item, _ in known),
        "T-joints": sum(item.t_joints or 0 for item, _ in known),
        "double triangles": sum(item.duplicate for item, _ in known),
        "triangles without area": sum(item.degenerate for item, _ in known),
        "crossing triangles": sum(item.crossing or 0 for item, _ in known),
        "parts where crossings were not looked for": sum(item.crossing is None for item, _ in known),
        "shells": sum(item.shells for item, _ in known),
        "parts inside out": sum(item.watertight and item.inside_out != flipped for item, flipped in known),
        "edges left sharp": int(sum(item.effects.get("round.sharp", 0) for item, _ in known)),
        "operations not done": sum(len(item.refused) for item, _ in known),
    }
    shut = sum(item.watertight for item, _ in known)
    return {"parts": len(known), "watertight": shut, **{name: count for name, count in counts.items() if count}}


def _trimmed(result: Result) -> dict[str, Any]:
    """What was made lighter: how many parts, their triangles before and after over all placements, and the largest
    deviation that was measured, with the part that it is of."""
    rows = [
        (part, known, result.times[part])
        for part in sorted(result.fitted_parts)
        if (chain := result.chains[part]) is not None
        and (known := result.figures.get(chain.key)) and known.trimmed
    ]  # fmt: skip
    if not rows:
        return {}
    apart = {
        part: max(known.trimmed["there"], known.trimmed["back"]) * float(result.fitted.scale_of(part))
        for part, known, _ in rows
    }  # fmt: skip
    worst = max(apart, key=lambda part: apart[part])
    return {"trimmed": {
        "parts": len(rows), "triangles before": int(sum(known.trimmed["triangles"] * times for _, known, times in rows)),
        "triangles": sum(known.triangles * times for _, known, times in rows),
        "largest deviation, m": apart[worst], "of": result.model.parts[worst].label,
    }}  # fmt: skip


def _offset(scene: Scene, form: Format, written: Sequence[tuple[Scene, Written]]) -> list[Check]:
    """The offset as every file says it; what does not fit into a short header is in the receipt only."""
    if not any(scene.offset):
        return []
    noted = [form.noted(files.paths[0]) for _, files in written]
    if all(item is None for item in noted):
        return []
    kept = all(item == scene.offset for item in noted)
    return [Check(f"offset in every file, {scene.unit}", list(scene.offset), list(noted[0] or ()), kept)]


def _compare(
    result: Result, scene: Scene, target: Target, written: Sequence[tuple[Scene, Written]], found: Found
) -> list[Check]:
    form = target.written_format
    checks = [check for axis, name in enumerate("xyz") for check in _place(axis, name, result, target, found)]
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


def _place(axis: int, name: str, result: Result, target: Target, found: Found) -> list[Check]:
    """Size and lowest coordinate against the box of the triangles; a 32 bit number holds seven digits of the farthest
    coordinate."""
    unit = target.written_unit
    turned = result.box / float(UNITS[unit].metres) @ target_turn(target)[:3, :3].T
    low, high = turned.min(axis=0), turned.max(axis=0)
    meant = float(high[axis] - low[axis])
    slack = max(float(np.abs(turned).max()) * 2e-6, float((high - low).max()) * 1e-5)
    size, lowest = float(found.box[1, axis] - found.box[0, axis]), float(found.box[0, axis])
    return [
        Check(f"size {name}, {unit}", round(meant, 6), round(size, 6), abs(meant - size) <= slack),
        Check(
            f"lowest {name}, {unit}",
            round(float(low[axis]), 6),
            round(lowest, 6),
            abs(float(low[axis]) - lowest) <= slack,
        ),
    ]


def _shut(scene: Scene, form: Format, found: Found) -> list[Check]:
    """Watertight or not, mesh by mesh, where each mesh is a part; else for the whole."""
    if scene.group == "one":
        whole = all(surface.watertight for surface in scene.surfaces)
        told = whole and (form.one_mesh or "instances" in form.carries)
        return [_equal("watertight", True, not found.open)] if told else []
    if scene.group != "part" or "instances" not in form.carries:
        return []
    meant = sum(1 for surface in scene.surfaces if surface.watertight)
    shut = len(found.meshes) - len(found.open)
    return [_equal("watertight meshes", meant, shut)]


def _equal(name: str, expected: Any, found: Any) -> Check:
    return Check(name, expected, found, expected == found)
