"""Reading a STEP file with the kernel. Runs in a child process that may die."""

import time
from fractions import Fraction
from pathlib import Path

import numpy as np
from OCP.collections import Sequence_TCollection_AsciiString
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.STEPCAFControl import STEPCAFControl_Reader

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import names
from hemp_ladder.core.kernel.document import TreeWalk, new_document
from hemp_ladder.core.kernel.extents import overall_box
from hemp_ladder.core.kernel.parts import Known, named_layers
from hemp_ladder.core.kernel.shapes import hush
from hemp_ladder.core.model.model import Matrix, Model, Node, Part
from hemp_ladder.core.receive.report import Report, shape_sink
from hemp_ladder.core.receive.step.ahead import shapes_ahead
from hemp_ladder.core.receive.step.header import read_header
from hemp_ladder.core.receive.step.mirrors import find_mirrors, mirrored
from hemp_ladder.core.receive.step.points import absurd_points
from hemp_ladder.core.units import UNITS, Unit

#: So often, in seconds, parts are told of while the rest is translated: large ones soon, thousands of small ones together.
_OFTEN = 0.1

_UNIT_WORDS = {
    "millimetre": "mm", "millimeter": "mm", "milli-metre": "mm", "mm": "mm",
    "centimetre": "cm", "centimeter": "cm", "cm": "cm",
    "metre": "m", "meter": "m", "m": "m", "kilometre": "km", "kilometer": "km", "km": "km",
    "micrometre": "um", "micrometer": "um", "micron": "um", "um": "um", "µm": "um",
    "inch": "in", "inches": "in", "in": "in", "mil": "mil", "mile": "mi",
    "foot": "ft", "feet": "ft", "ft": "ft", "yard": "yd",
}  # fmt: skip


def read_step(path: Path, report: Report) -> Model:
    """The model in a STEP file; every part's exact shape is reported as it is found.

    The kernel scales all lengths to millimetres while it transfers, so a
    coordinate of the model is one millimetre whatever the file's unit.

    Shape healing while transferring is switched off: it takes a third of the
    time and most files need none of it. Facet heals the parts whose triangles
    show that they do.

    Raises UnreadableSource when nothing can be got from the file.
    """
    header = read_header(path)
    _refuse_absurd(path)
    hush()
    report.stage("reading", 0)
    reader = STEPCAFControl_Reader()
    Interface_Static.SetCVal_s("FromSTEP.exec.op", "")
    reader.SetColorMode(True)
    reader.SetNameMode(True)
    reader.SetLayerMode(True)
    for unused in ("SetGDTMode", "SetMatMode", "SetPropsMode", "SetMetaMode", "SetViewMode"):
        getattr(reader, unused)(False)
    if reader.ReadFile(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise UnreadableSource(
            "The file begins like STEP, but its data section cannot be parsed.",
            "It was damaged on its way or badly written. Ask for it again.",
        )
    unit = _declared_unit(reader)
    report.stage("translating", 0)
    known = Known() if report.careful else _ahead(reader, report, unit)
    document = new_document()
    if not reader.Transfer(document):
        raise UnreadableSource(
            "The file holds no shape that can be translated.",
            "Ask for an export with solids or surfaces; drawings and pure structure have none.",
        )
    mirrors = find_mirrors(path)
    harvest = TreeWalk(
        document, shape_sink(report), lambda count: report.stage("parts", count),
        lambda matrix, name: mirrored(matrix, name, mirrors), known,
    ).run()  # fmt: skip
    local = np.array(harvest.local) if harvest.local else np.zeros((0, 4, 4))
    model = _model(unit, harvest.parts, harvest.nodes, local)
    model.schema, model.writer = header.schema, header.writer
    model.layers = named_layers([part.layer for part in harvest.parts] + [node.layer for node in harvest.nodes])
    placed = np.array(model.placements, dtype=np.int64)
    if len(placed):
        parts = np.array([model.nodes[i].part for i in placed], dtype=np.int64)
        boxes = [part.box for part in model.parts]
        model.box = overall_box(boxes, parts, model.world()[placed], harvest.shapes)
    return model


def _model(unit: Unit | None, parts: list[Part], nodes: list[Node], local: Matrix) -> Model:
    return Model(
        format="STEP", schema="", writer="", unit=unit.code if unit else None, up="z",
        metres_per_coordinate=Fraction(1, 1000), parts=parts, nodes=nodes, local=local, box=np.zeros((2, 3)),
    )  # fmt: skip


def _ahead(reader: STEPCAFControl_Reader, report: Report, unit: Unit | None) -> Known:
    """Have parts translated one by one and told of, some at a time. Should one bring the reader down, the file is read again
    without this, which is more than the whole asks of the kernel."""
    known = Known()
    waiting: list[Part] = []
    count, last = 0, time.monotonic()

    def tell() -> None:
        places = [Node("", -1, part) for part in range(len(waiting))]
        report.ahead(_model(unit, list(waiting), places, np.tile(np.eye(4), (len(places), 1, 1))))
        waiting.clear()

    for count, shape in enumerate(shapes_ahead(reader.ChangeReader(), report.about), 1):
        part = known.add(shape, shape_sink(report))
        if part is not None and part.body.has_surface:
            waiting.append(part)
        if waiting and time.monotonic() - last > _OFTEN:
            last = time.monotonic()
            report.stage("translating", count)
            tell()
    if waiting:
        tell()
    return known


def _declared_unit(reader: STEPCAFControl_Reader) -> Unit | None:
    """The file's own unit of length, asked of the basic reader before transfer."""
    lengths, angles, solid_angles = (Sequence_TCollection_AsciiString() for _ in range(3))
    reader.ChangeReader().FileUnits(lengths, angles, solid_angles)
    if not len(lengths):
        return None
    code = _UNIT_WORDS.get(lengths.Value(1).ToCString().strip().lower())
    return UNITS[code] if code else None


def _refuse_absurd(path: Path) -> None:
    """Such a point makes the kernel work for minutes on nothing."""
    absurd = absurd_points(path)
    if absurd:
        many = f"{len(absurd):,} points have" if len(absurd) > 1 else "A point has"
        raise UnreadableSource(
            f"{many} coordinates that are no lengths: {names(absurd)}.",
            "The export went wrong there. Ask for it again; a damaged or infinite piece must be taken out where it was made.",
        )
