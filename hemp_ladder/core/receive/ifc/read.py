"""Reading a building. Runs in a child process that may die."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import ifcopenshell
import numpy as np

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import Finding, clip, finding, names
from hemp_ladder.core.kernel.extents import overall_box
from hemp_ladder.core.kernel.parts import named_layers
from hemp_ladder.core.kernel.shapes import hush
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Matrix, Model
from hemp_ladder.core.receive.ifc.ask import Asker
from hemp_ladder.core.receive.ifc.bodies import Bodies, read_bodies
from hemp_ladder.core.receive.ifc.details import write_details
from hemp_ladder.core.receive.ifc.looks import Looks
from hemp_ladder.core.receive.ifc.place import declared_length, map_place, metres_a_coordinate
from hemp_ladder.core.receive.ifc.sick import sick
from hemp_ladder.core.receive.ifc.tree import Tree, build_tree
from hemp_ladder.core.receive.report import Report, shape_sink
from hemp_ladder.core.receive.step.header import cut_short
from hemp_ladder.core.receive.step.points import absurd_points


def read_ifc(path: Path, report: Report) -> Model:
    """The model in an IFC file (IFC2x3, IFC4, IFC4x3). Coordinates are metres, whatever unit the file has; only in one
    without a project they are the file's own.

    The structure goes to `report.skeleton` before any shape is built. Every
    product with a body is in the model or in a finding.

    Raises UnreadableSource when nothing can be got from the file.
    """
    hush()
    report.stage("reading", 0)
    file = _open(path)
    ask = Asker(file.schema_identifier)
    looks = Looks(file, ask)
    tree = build_tree(file, looks, ask)
    if not tree.nodes:
        raise UnreadableSource("The file holds no project and no product.", "Ask for another export of it.")
    unit, metres = declared_length(file)
    model = Model(
        format="IFC", schema=file.schema_identifier, writer=_writer(file), unit=unit, up="z",
        metres_per_coordinate=metres_a_coordinate(file), parts=[], nodes=tree.nodes,
        local=np.broadcast_to(np.eye(4), (len(tree.nodes), 4, 4)), box=np.zeros((2, 3)),
        hidden=looks.hidden, place=map_place(file), detailed=True,
    )  # fmt: skip
    report.skeleton(model)
    _with_units(file)
    write_details(
        file, tree.products, looks.type_of, ask, lambda number, data: report.blob("details", str(number), data)
    )
    report.stage("translating", 0)
    with_body = [item for item in tree.products if looks.bodies(item)]
    left = sick(with_body, report.skip, ask)
    tried = [item for item in with_body if item.id() not in left]
    bodies = read_bodies(
        file, tried, shape_sink(report), report.about, lambda count: report.stage("parts", count), report.careful
    )
    _name(bodies, tree, looks)
    model.parts = bodies.parts
    model.local = _stand(tree, bodies)
    model.layers = named_layers([*(node.layer for node in model.nodes), *looks.layers])
    model.leftovers = _leftovers(tree, looks)
    model.findings = [*_failed(with_body, bodies, left), *_absurd(path), *cut_short(path, "IFC")]
    if unit is None and metres is not None:
        message = f"Its unit of length is {metres:g} m, which is none of the usual ones. It was used as it stands."
        model.findings.append(finding("unit-odd", "IFC", message))
    _measure(model, bodies)
    return model


def _with_units(file: Any) -> None:
    """Give a project that lost its units the metre, without which the format library builds no shape: the numbers then
    stay as they stand."""
    for project in file.by_type("IfcProject"):
        units = project.UnitsInContext
        if units is None or not units.is_a("IfcUnitAssignment"):
            metre = file.create_entity("IfcSIUnit", UnitType="LENGTHUNIT", Name="METRE")
            project.UnitsInContext = file.create_entity("IfcUnitAssignment", Units=[metre])


def _open(path: Path) -> Any:
    try:
        return ifcopenshell.open(str(path))
    except Exception as error:  # the library raises what it likes
        raise UnreadableSource(
            f"The file begins like IFC, but it cannot be parsed: {clip(str(error), 200) or type(error).__name__}.",
            "It was damaged on its way or badly written. Ask for it again, as IFC2x3, IFC4 or IFC4x3.",
        ) from error


def _writer(file: Any) -> str:
    try:
        return str(file.wrapped_data.header.file_name_py().originating_system or "")
    except (AttributeError, RuntimeError):
        try:
            return str(file.header.file_name.originating_system or "")
        except (AttributeError, RuntimeError):
            return ""


def _name(bodies: Bodies, tree: Tree, looks: Looks) -> None:
    """A part that stands once is called like its product; one that stands often like their type, or like the first."""
    users: dict[int, list[Any]] = {}
    for product in tree.products:
        if product.id() in bodies.placed:
            users.setdefault(bodies.placed[product.id()][0], []).append(product)
    refs: set[str] = set()
    for index, part in enumerate(bodies.parts):
        first, *others = users.get(index) or [None]
        name = (first.Name or "") if first is not None else ""
        if others:
            type_ = looks.type_of.get(first.id())
            name = (type_.Name if type_ is not None else None) or name
        part.name = name.strip()
        fallback = f"{first.is_a().removeprefix('Ifc')} #{first.id()}" if first is not None else ""
        part.label = unique_label(part.name or fallback, refs)


def _stand(tree: Tree, bodies: Bodies) -> Matrix:
    """Give nodes their parts and placements: products stand in the world, and so do the groups above them.

    A product with a body and things below it keeps its own axes to itself.
    """
    world: Matrix = np.broadcast_to(np.eye(4), (len(tree.nodes), 4, 4)).copy()
    for index, (node, product) in enumerate(zip(tree.nodes, tree.products, strict=True)):
        found = bodies.placed.get(product.id())
        if found is not None:
            node.part, world[index] = found
    local = world.copy()
    for index, node in enumerate(tree.nodes):
        if node.parent >= 0 and tree.nodes[node.parent].part >= 0:
            local[index] = np.linalg.inv(world[node.parent]) @ world[index]
    return local


def _measure(model: Model, bodies: Bodies) -> None:
    placed = np.array([i for i in model.placements if model.nodes[i].tags.kind == "body"], dtype=np.int64)
    if not len(placed):
        placed = np.array(model.placements, dtype=np.int64)
    if len(placed):
        parts = np.array([model.nodes[i].part for i in placed], dtype=np.int64)
        model.box = overall_box([part.box for part in model.parts], parts, model.world()[placed], bodies.shapes)


def _leftovers(tree: Tree, looks: Looks) -> dict[str, int]:
    """Products without a body that draw something, by class, as the schema calls it."""
    bare = [item for item in tree.products if not looks.bodies(item)]
    found = Counter(item.is_a() for item in bare if getattr(item, "Representation", None))
    return dict(sorted(found.items()))


def _absurd(path: Path) -> list[Finding]:
    points = absurd_points(path)
    if not points:
        return []
    many = f"{len(points):,} points have" if len(points) > 1 else "A point has"
    message = f"{many} coordinates that are no lengths: {names(points)}. What stands on them is wrong or missing."
    return [finding("unreadable-entity", "IFC", message)]


def _failed(with_body: Sequence[Any], bodies: Bodies, left: dict[int, str]) -> list[Finding]:
    """Products with a body that did not come out: one finding for each class and reason, all of them named in it."""
    failed: dict[tuple[str, str], list[str]] = {}
    for item in with_body:
        if item.id() not in bodies.placed:
            name = f"#{item.id()} “{clip(item.Name or 'without a name', 60)}”"
            why = left.get(item.id(), "could not be built")
            failed.setdefault((item.is_a(), why), []).append(name)
    out: list[Finding] = []
    for (kind, why), named in failed.items():
        count = "1 body" if len(named) == 1 else f"{len(named):,} bodies"
        shown = names(named)
        found = finding("unreadable-entity", kind, f"{count} of {kind} {why}: {shown}.")
        out.append(replace(found, where=", ".join(named)))
    return out
