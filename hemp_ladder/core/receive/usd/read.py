"""Reading USD by its own library: the tree, instances, meshes with subsets, preview surfaces, cameras."""

import re
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from pxr import Ar, Gf, Sdf, Tf, Usd, UsdGeom, UsdShade

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import clip, finding, names, plural
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.receive.meshed.parts import Builder
from hemp_ladder.core.receive.meshed.tree import DEEPEST, MOST_NODES
from hemp_ladder.core.receive.meshed.zips import opened
from hemp_ladder.core.receive.report import Report
from hemp_ladder.core.receive.usd.materials import Materials, display_colour
from hemp_ladder.core.receive.usd.mesh import GPRIMS, polygons_of
from hemp_ladder.core.receive.usd.values import wholes
from hemp_ladder.core.units import UNITS

#: Of each instancer so many placements are taken.
_MOST_INSTANCES = 1_000_000


def read_usd(path: Path, report: Report) -> Model:
    """The model in a USD file, in the unit and with the up axis that it says, centimetres and Y where it says none, as the
    format has it. Files that it refers to outside of the bundle are not opened.

    Raises UnreadableSource when nothing can be got from the file.
    """
    report.stage("reading", 0)
    builder = Builder(report, path)
    try:
        stage = Usd.Stage.Open(_alone(path, builder), Usd.Stage.LoadAll)
    except Tf.ErrorException as error:
        told = re.search(r":(\d+):\d+: ([^\n]*)", _said(error))
        why = f" in line {int(told[1]):,}: {clip(told[2], 100)}" if told else ""
        raise UnreadableSource(f"The USD file cannot be read{why}.", "It was damaged. Ask for it again.") from error
    if stage is None:
        raise UnreadableSource("The USD file cannot be read.", "It was damaged. Ask for it again.")
    report.stage("translating", 0)
    try:
        _Walk(stage, builder).all()
    except Tf.ErrorException:
        # What was met before the damage is kept.
        builder.dangling.append("the rest of the tree")
    metres = Fraction(UsdGeom.GetStageMetersPerUnit(stage)).limit_denominator(10**9)
    if not Fraction(1, 10**9) < metres < 10**9:
        metres = Fraction(1, 100)
    code = next((code for code, item in UNITS.items() if item.metres == metres), None)
    model = builder.model(
        "USD", metres, code, str(UsdGeom.GetStageUpAxis(stage)).lower(), schema=_kind(path),
        writer=str(stage.GetRootLayer().customLayerData.get("creator", "") or "")[:80],
    )  # fmt: skip
    model.sized = code is None
    return model


def _said(error: Exception) -> str:
    """What the library says; it quotes the file, which need not be text."""
    try:
        return str(error)
    except UnicodeDecodeError:
        return ""


def _kind(path: Path) -> str:
    with path.open("rb") as file:
        head = file.read(8)
    return "package" if head[:2] == b"PK" else "binary" if head == b"PXR-USDC" else "text"


def _alone(path: Path, builder: Builder) -> Sdf.Layer:
    """The layer without what it composes from elsewhere: opening such a file would open whatever it names."""
    layer = Sdf.Layer.OpenAsAnonymous(str(path))
    if layer is None:
        raise UnreadableSource("The USD file cannot be read.", "It was damaged. Ask for it again.")
    others = [asset for asset in layer.GetCompositionAssetDependencies() if asset]
    if _kind(path) != "package":
        for asset in others:
            layer.UpdateCompositionAssetDependency(asset, "")
        if others:
            message = f"It refers to {plural(len(others), 'other file')}, which are not read: {names(others)}."
            builder.findings.append(finding("missing-member", path.name, message))
        return layer
    # What a package refers to lies in it; of one that leads out of itself only the first layer is taken, and alone.
    found = Sdf.Layer.FindOrOpen(str(path))
    if found is None or _leads_out(path, others):
        for asset in others:
            layer.UpdateCompositionAssetDependency(asset, "")
        return layer
    return found


def _leads_out(path: Path, assets: list[str]) -> bool:
    """Whether a layer of the package refers to anything outside of it."""
    with opened(path, "USD") as archive:
        layers = [name for name in archive.namelist() if name.lower().endswith((".usd", ".usda", ".usdc"))][:1000]
    for name in layers:
        layer = Sdf.Layer.FindOrOpen(Ar.JoinPackageRelativePath([str(path), name]))
        assets = [*assets, *(layer.GetCompositionAssetDependencies() if layer is not None else ())]
    return any(asset.startswith(("/", "\\")) or ".." in asset or ":" in asset for asset in assets)


class _Walk:
    def __init__(self, stage: Usd.Stage, builder: Builder) -> None:
        self._stage, self._builder = stage, builder
        self._materials = Materials(builder)
        self._parts: dict[str, int | None] = {}
        self._met: dict[Sdf.Path, int | None] = {}
        self._looks = UsdShade.MaterialBindingAPI
        self._moving = self._rounded = 0

    def all(self) -> None:
        stack: list[tuple[Usd.Prim, int, int]] = [
            (prim, -1, 0) for prim in reversed(self._below(self._stage.GetPseudoRoot()))
        ]
        while stack:
            prim, above, depth = stack.pop()
            if depth > DEEPEST or len(self._builder.nodes) >= MOST_NODES:
                raise UnreadableSource("The tree of the USD file has no end.", "Ask for it again.")
            if not self._is_shown(prim):
                continue
            here = above
            if prim.IsA(UsdGeom.Imageable):
                here = self._node(prim, above)
            elif prim.IsA(UsdShade.Material) or prim.IsA(UsdShade.Shader):
                continue
            if prim.IsA(UsdGeom.PointInstancer):
                self._instances(UsdGeom.PointInstancer(prim), here)
                continue
            stack += [(child, here, depth + 1) for child in reversed(self._below(prim))]
        self._builder.leave(
            "light", sum(1 for p in self._stage.Traverse() if p.HasAPI("LightAPI") or "Light" in p.GetTypeName())
        )
        if self._moving:
            message = f"{plural(self._moving, 'thing')} can be posed, move or change shape; they come in at rest."
            self._builder.findings.append(finding("at-rest", "USD", message))
        if self._rounded:
            message = (
                f"{plural(self._rounded, 'mesh is', 'meshes are')} meant to be subdivided; the cage comes in as it is."
            )
            self._builder.findings.append(finding("cage", "USD", message))

    def _below(self, prim: Usd.Prim) -> list[Usd.Prim]:
        return list(
            prim.GetFilteredChildren(
                Usd.TraverseInstanceProxies(Usd.PrimIsActive & Usd.PrimIsDefined & ~Usd.PrimIsAbstract)
            )
        )

    def _is_shown(self, prim: Usd.Prim) -> bool:
        """Guides and proxies are for those who work on the scene."""
        if not prim.IsA(UsdGeom.Imageable):
            return True
        shape = UsdGeom.Imageable(prim)
        if shape.GetPurposeAttr().Get() in ("proxy", "guide"):
            return False
        return str(shape.GetVisibilityAttr().Get()) != "invisible"

    def _node(self, prim: Usd.Prim, above: int) -> int:
        local = self._local(prim)
        part = self._part(prim)
        here = self._builder.node(_named(prim), above, part, local)
        if prim.IsA(UsdGeom.Camera):
            self._camera(UsdGeom.Camera(prim), prim.GetName(), here)
        elif prim.GetTypeName() == "DistantLight":
            self._builder.sun(here)
        elif (
            prim.IsA(UsdGeom.Xformable) and UsdGeom.Xformable(prim).TransformMightBeTimeVarying()
        ) or prim.GetTypeName() in ("SkelRoot", "Skeleton"):
            self._moving += 1
        if prim.IsA(UsdGeom.BasisCurves) or prim.IsA(UsdGeom.NurbsCurves):
            self._builder.leave("curve")
        elif prim.IsA(UsdGeom.Points):
            self._builder.leave("point")
        return here

    def _local(self, prim: Usd.Prim) -> Matrix:
        """A prim's placement in what holds it."""
        if not prim.IsA(UsdGeom.Xformable):
            return np.eye(4)
        try:
            matrix = UsdGeom.Xformable(prim).GetLocalTransformation(Usd.TimeCode.EarliestTime())
        except Tf.ErrorException:
            self._builder.dangling.append(f"the place of {prim.GetName()}")
            return np.eye(4)
        local = np.array(matrix).T
        return local if np.isfinite(local).all() else np.eye(4)

    def _part(self, prim: Usd.Prim) -> int | None:
        """The part that a prim is, where it is one that can be used. Those below an instancer are asked for at each place."""
        path = prim.GetPath()
        if path not in self._met:
            try:
                self._met[path] = self._made(prim)
            except Tf.ErrorException:
                self._builder.dangling.append(prim.GetName())
                self._met[path] = None
        return self._met[path]

    def _made(self, prim: Usd.Prim) -> int | None:
        """Of instances the prototype's, once; dressed alike, for materials are bound in the prototype."""
        if prim.GetTypeName() not in GPRIMS:
            return None
        source = prim.GetPrimInPrototype() if prim.IsInstanceProxy() else prim
        key = str(source.GetPath())
        bound, _ = self._looks(prim).ComputeBoundMaterial()
        style = self._materials.style(bound) if bound else None
        colour = display_colour(prim) if style is None else None
        case = f"{key}>{style}>{colour and colour.hex}"
        if case not in self._parts:
            mesh, rounded = polygons_of(source, style, lambda subset: self._subset(subset, style))
            self._rounded += rounded
            number = self._parts[case] = self._builder.part(_named(prim), mesh)
            if number is not None and self._builder.parts[number].style is None:
                self._builder.parts[number].colour = colour
        return self._parts[case]

    def _subset(self, prim: Usd.Prim, style: str | None) -> str | None:
        bound, _ = self._looks(prim).ComputeBoundMaterial()
        return self._materials.style(bound) if bound else style

    def _instances(self, instancer: Any, above: int) -> None:
        """Every placement of an instancer's prototypes."""
        targets = instancer.GetPrototypesRel().GetTargets()
        which = wholes(instancer.GetProtoIndicesAttr().Get()).tolist()
        when = Usd.TimeCode.EarliestTime()
        matrices = instancer.ComputeInstanceTransformsAtTime(when, when) or []
        for index, matrix in list(zip(which, matrices, strict=False))[:_MOST_INSTANCES]:
            prim = self._stage.GetPrimAtPath(targets[index]) if 0 <= index < len(targets) else None
            if not prim or len(self._builder.nodes) >= MOST_NODES:
                continue
            # The prototype's own placement is in the matrix already.
            here = self._builder.node(_named(prim), above, self._part(prim), np.array(matrix).T)
            self._copy(prim, here, 0)

    def _copy(self, prim: Usd.Prim, above: int, depth: int) -> None:
        for child in self._below(prim) if depth < DEEPEST else ():
            if child.IsA(UsdGeom.Imageable) and self._is_shown(child) and len(self._builder.nodes) < MOST_NODES:
                local = self._local(child)
                here = self._builder.node(_named(child), above, self._part(child), local)
                self._copy(child, here, depth + 1)

    def _camera(self, camera: Any, name: str, here: int) -> None:
        told = camera.GetCamera(Usd.TimeCode.EarliestTime())
        wide = float(told.aspectRatio) if told.verticalAperture else 0.0
        if told.projection == Gf.Camera.Orthographic:
            # Apertures are tenths of a unit.
            self._builder.lookout(name, here, wide=wide, reach=float(told.verticalAperture) / 10)
            return
        tall = float(np.radians(told.GetFieldOfView(Gf.Camera.FOVVertical)))
        self._builder.lookout(name, here, tall=tall if 0 < tall < 3.1 else 0.7, wide=wide)


def _named(prim: Any) -> str:
    """What people call it, else the identifier that the format demands."""
    return str(prim.GetDisplayName() or prim.GetName())
