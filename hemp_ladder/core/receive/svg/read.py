"""Reading vector art. Runs in a child process that may die."""

from collections import Counter
from fractions import Fraction
from pathlib import Path

import numpy as np

from hemp_ladder.core.drawn.curves import Affine
from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import Finding, clip, finding, names, plural
from hemp_ladder.core.model.bodies import NOWHERE, Drawn
from hemp_ladder.core.model.model import Model, Node
from hemp_ladder.core.receive.report import Report, shape_sink
from hemp_ladder.core.receive.sketch import Sketch
from hemp_ladder.core.receive.svg.clean import clean_svg
from hemp_ladder.core.receive.svg.document import Document, local, open_svg
from hemp_ladder.core.receive.svg.here import Group
from hemp_ladder.core.receive.svg.place import UNITS, Viewport, fit, physical, view_box
from hemp_ladder.core.receive.svg.style import Styles
from hemp_ladder.core.receive.svg.walk import Walk
from hemp_ladder.core.units import UNITS as LENGTHS

_PIXEL = LENGTHS["px"].metres


def read_svg(path: Path, report: Report) -> Model:
    """The model in an SVG file: every shape a part, groups as groups, one coordinate one user unit of the outermost
    view box, X to the right, Y up, the lower left corner of the page at the origin.

    Raises UnreadableSource when nothing can be got from the file.
    """
    report.stage("reading", 0)
    document = open_svg(path)
    styles = Styles(document)
    frame = _Frame(document)
    walk = Walk(document, styles, frame.to_sheet, frame.port)
    sketch = Sketch(shape_sink(report))
    report.stage("translating", 0)
    placed: list[tuple[int, int, float, float]] = []
    for found in walk.run():
        drawn = Drawn(NOWHERE, fill=found.width == 0, stroke=found.width, closed=found.width == 0)
        index, (x, y) = sketch.add(found.shape, found.name, found.kind, None, found.colour, drawn)
        placed.append((index, found.group, x, y))
        if len(placed) % 500 == 0:
            report.stage("parts", len(placed))
    sketch.finish()
    report.blob("previews", "", sketch.preview())
    model = _model(walk.groups, sketch, placed, frame)
    model.findings = _noticed(document, walk, sketch, model)
    if document.foreign or document.outside_entities or walk.outside or styles.outside or document.scripts:
        report.blob("clean", "", clean_svg(path))
    if not model.parts and not walk.texts and not walk.noticed["image"]:
        raise _empty(document)
    return model


def _empty(document: Document) -> UnreadableSource:
    """Why nothing is drawn: most such files only keep things for others to use."""
    kept = Counter(local(element) for element in document.root.iter())
    for kind, word in (("symbol", "symbol"), ("glyph", "letter")):
        if kept[kind]:
            return UnreadableSource(
                f"The file is SVG, but it only keeps {plural(kept[kind], word)} for others and places none of them.",
                "Ask for the one that is wanted as a drawing of its own.",
            )
    return UnreadableSource(
        "The file is SVG, but it draws nothing.", "Check that it shows something in a browser, or ask for it again."
    )


class _Frame:
    """The outermost view box: how user units lie on the sheet, how large the page is, and what a unit measures."""

    def __init__(self, document: Document) -> None:
        root = document.root
        # SVG 2 has no such attribute any more.
        self.version = (root.get("version") or "2").strip()[:8]
        box = view_box(root.get("viewBox"))
        wide, high = physical(root.get("width")), physical(root.get("height"))
        width, height = _pixels(wide), _pixels(high)
        if box is None:
            box = (0.0, 0.0, width or 300.0, height or 150.0)
            self.paged = bool(width and height)
        else:
            self.paged = True
        # What is not told follows from the other by the shape of the box.
        width = width or (height * box[2] / box[3] if height else box[2])
        height = height or width * box[3] / box[2]
        place = fit(box, width, height, root.get("preserveAspectRatio"))
        self.pixels_a_unit = place[0]
        # User units of the box, but for a stretch in Y where the file asks for one; Y up. The page may be larger than
        # the box, or smaller, where their shapes differ.
        pixel = 1 / place[0]
        self.to_sheet: Affine = (1.0, 0.0, place[2] * pixel, 0.0, -place[4] * pixel, (height - place[5]) * pixel)
        self.port = Viewport(box[2], box[3])
        self.page = np.array([[0.0, 0.0], [width * pixel, height * pixel]])
        self.told = next((told[1] for told in (wide, high) if told and told[1] not in ("", "px")), None)
        self.metres = Fraction(self.pixels_a_unit).limit_denominator(10**9) * _PIXEL


def _pixels(told: tuple[float, str] | None) -> float:
    """Of a width or height; 0 for none that a page can have."""
    if told is None or not 0 < told[0] < 1e12:
        return 0.0
    return float(Fraction(told[0]) * UNITS[told[1]])


def _model(
    groups: list[Group], sketch: Sketch, placed: list[tuple[int, int, float, float]], frame: _Frame
) -> Model:  # fmt: skip
    version = frame.version
    layer_of = _layers(groups, [group for _, group, _, _ in placed])
    nodes: list[Node] = []
    local = []
    number: dict[int, int] = {}

    def group_node(group: int) -> int:
        """Groups as they are met, so that every branch is a run."""
        if group < 0:
            return -1
        chain = []
        while group >= 0 and group not in number:
            chain.append(group)
            group = groups[group].parent
        for one in reversed(chain):
            parent = groups[one].parent
            number[one] = len(nodes)
            nodes.append(Node(groups[one].name, number[parent] if parent >= 0 else -1))
            local.append(np.eye(4))
        return number[chain[0]] if chain else number[group]

    for index, group, x, y in placed:
        parent = group_node(group)
        part = sketch.parts[index]
        part.layer = layer_of.get(group)
        nodes.append(Node(part.name or part.label, parent, index))
        matrix = np.eye(4)
        matrix[:2, 3] = x, y
        local.append(matrix)
    boxes = [part.box[:, :2] + [x, y] for part, (_, _, x, y) in zip(sketch.parts, placed, strict=True)]
    box = np.zeros((2, 3))
    if boxes:
        box[0, :2], box[1, :2] = np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)
    code = next((c for c, u in LENGTHS.items() if frame.told and u.metres == frame.metres), None)
    return Model(
        format="SVG", schema=version, writer="", unit=code, up="z", metres_per_coordinate=frame.metres,
        parts=sketch.parts, nodes=nodes, local=np.array(local).reshape(-1, 4, 4), box=box,
        layers=list(dict.fromkeys(part.layer for part in sketch.parts if part.layer)),
        page=frame.page if frame.paged else None, sized=frame.told is not None,
    )  # fmt: skip


def _layers(groups: list[Group], used: list[int]) -> dict[int, str]:
    """For each group the layer that its shapes are on: the outermost named group that does not hold everything."""
    chains: dict[int, list[int]] = {}
    for group in set(used):
        chain, at = [], group
        while at >= 0:
            chain.append(at)
            at = groups[at].parent
        chains[group] = chain[::-1]
    everything = set(chains[used[0]]) if used else set()
    for group in set(used):
        everything &= set(chains[group])
    found = {}
    for group, chain in chains.items():
        name = next((groups[one].name for one in chain if groups[one].named and one not in everything), None)
        if name is None:
            name = next((groups[one].name for one in reversed(chain) if groups[one].named), None)
        if name:
            found[group] = name
    return found


def _noticed(document: Document, walk: Walk, sketch: Sketch, model: Model) -> list[Finding]:
    found: list[Finding] = []
    if walk.texts:
        told = names([f"“{clip(text, 30)}”" for text in walk.texts])
        count = plural(len(walk.texts), "piece of text is", "pieces of text are")
        found.append(finding("live-text", told, f"{count} letters to be set in a font, no outlines: {told}."))
    pictures = walk.noticed.pop("image", 0)
    if pictures:
        many = plural(pictures, "bitmap is", "bitmaps are")
        found.append(finding("bitmap", "image", f"{many} placed in the drawing; there are no outlines in it."))
    if walk.unfollowed:
        told = ", ".join(plural(count, kind) for kind, count in sorted(walk.unfollowed.items()))
        message = f"{told}: not followed. Masked shapes come whole, patterned ones plain grey."
        found.append(finding("unfollowed", told, message))
    outside = [*walk.outside, *walk.styles.outside]
    if document.outside_entities:
        outside.append("entities")
    if outside:
        found.append(
            finding("outside-link", names(outside), f"It reaches outside for {names(outside)}. It was not followed.")
        )
    if document.foreign:
        told = names([space.rstrip("/").rpartition("/")[2] or space for space in document.foreign])
        message = f"It holds {plural(sum(document.foreign.values()), 'thing')} of other namespaces: {told}."
        found.append(finding("foreign-namespaces", names(list(document.foreign)), message))
    if walk.hidden:
        many = plural(len(walk.hidden), "element is", "elements are")
        found.append(
            finding("hidden-elements", names(walk.hidden), f"{many} hidden in the file: {names(walk.hidden)}.")
        )
    if walk.circles:
        told = names(list(dict.fromkeys(walk.circles)))
        found.append(finding("unreadable-entity", told, f"A use contains itself: {told}. Each stands once."))
    if walk.broken:
        told = names(walk.broken)
        found.append(
            finding("unreadable-entity", told, f"Path data with an error: {told}. All before the error is there.")
        )
    if walk.too_many:
        found.append(
            finding("unreadable-entity", "SVG", "Uses of uses draw shapes without end. The rest is not in the model.")
        )
    if sketch.crossing:
        parts = sketch.crossing
        refs = names([model.parts[i].label for i in parts])
        found.append(
            finding(
                "self-crossing",
                refs,
                f"{plural(len(parts), 'outline crosses itself', 'outlines cross themselves')}: {refs}.",
                parts=parts,
            )
        )
    if model.parts and all(part.drawn and not part.drawn.fill for part in model.parts):
        found.append(
            finding("strokes-only", "SVG", f"All {len(model.parts):,} shapes are lines of a pen; nothing is filled.")
        )
    model.leftovers = {kind: count for kind, count in sorted(walk.noticed.items()) if count}
    return found
