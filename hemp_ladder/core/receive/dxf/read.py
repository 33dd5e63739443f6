"""Reading drawings. Runs in a child process that may die."""

import logging
import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
from ezdxf import recover
from ezdxf.document import Drawing
from ezdxf.filemanagement import dxf_file_info
from ezdxf.lldxf.validator import is_binary_dxf_file, is_dxf_file

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import Finding, clip, finding, names, plural
from hemp_ladder.core.model.model import Model, Node
from hemp_ladder.core.receive.boxes import whole_box
from hemp_ladder.core.receive.dxf.content import Collector, Content, Insert
from hemp_ladder.core.receive.dxf.looks import Look, Looks
from hemp_ladder.core.receive.dxf.mend import mended, out_of_step
from hemp_ladder.core.receive.dxf.notices import Noticed, notices
from hemp_ladder.core.receive.dxf.plain import Plains, Unplain
from hemp_ladder.core.receive.dxf.tags import tags
from hemp_ladder.core.receive.dxf.units import INSUNITS, code_of
from hemp_ladder.core.receive.report import Report, shape_sink
from hemp_ladder.core.receive.sketch import Sketch

#: A drawing with more things in it, counted over all inserts of inserts, is a bomb or no drawing.
MOST_NODES = 400_000
_DEEPEST = 64
_ABOVE = Look()
#: The version from which on entities say what they are by subclasses (R2000).
_SUBCLASSED = "AC1015"


def read_dxf(path: Path, report: Report) -> Model:
    """The model in a DXF file, R12 or later, text or binary: outlines, areas and surfaces of model space as parts,
    blocks as groups. One coordinate is one drawing unit; X, Y and Z are the drawing's own, Z up.

    Raises UnreadableSource when nothing can be got from the file.
    """
    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)
    report.stage("reading", 0)
    doc, plains, found = _open(path)
    report.stage("translating", 0)
    tree = _Tree(doc, plains, report)
    tree.grow()
    report.blob("previews", "", tree.sketch.preview())
    metres = INSUNITS.get(int(doc.header.get("$INSUNITS", 0) or 0))
    model = Model(
        format="DXF", schema=doc.dxfversion, writer="", unit=code_of(metres) if metres else None, up="z",
        metres_per_coordinate=metres or Fraction(1, 1000), parts=tree.sketch.parts, nodes=tree.nodes,
        local=np.array(tree.local).reshape(-1, 4, 4), box=np.zeros((2, 3)),
        layers=_used([part.layer for part in tree.sketch.parts], [node.layer for node in tree.nodes]),
        leftovers={kind: count for kind, count in sorted(tree.noticed.leftovers.items()) if count},
    )  # fmt: skip
    used = set(model.layers)
    model.hidden = [name for name in tree.looks.hidden if name in used]
    model.box = whole_box(model)
    if metres and model.unit is None:
        message = (
            f"Its unit of length is {float(metres):g} m, which is none of the usual ones. It was used as it stands."
        )
        found.append(finding("unit-odd", "DXF", message))
    tree.noticed.crossing = tree.sketch.crossing
    tree.noticed.layouts = [name for name in doc.layouts.names() if name != "Model" and len(doc.layouts.get(name)) > 1]
    model.findings = [*found, *notices(tree.noticed, model)]
    return model


def _used(*layers: list[str | None]) -> list[str]:
    """Each layer that anything is on once, as they are met."""
    return list(dict.fromkeys(name for some in layers for name in some if name))


def _open(path: Path) -> tuple[Any, Plains, list[Finding]]:
    """The document, put in order where it is damaged; its plain entities; and what was noticed on the way."""
    found = [] if _ended(path) else [_CUT]
    for plains in (Plains(), None):
        try:
            return _quick(path, plains), plains or Plains(), found
        except Unplain:
            continue
        except Exception:  # the library raises what it likes, and knows more ways of writing
            break
    try:
        return ezdxf.readfile(path), Plains(), found
    except OSError as error:
        raise UnreadableSource(f"The file begins like DXF, but it is none: {clip(str(error), 150)}.") from error
    except Exception:  # the library raises what it likes; what it is, the recovery finds out
        doc, lost = _recovered(path)
    if not lost:
        return doc, Plains(), found
    told = f": {names(lost)}"
    many = plural(len(lost), "thing was", "things were")
    found.append(finding("recovered", "DXF", f"The file was damaged and put in order; {many} mended or lost{told}."))
    return doc, Plains(), found


def _quick(path: Path, plains: Plains | None) -> Any:
    """The document in a text file that is written plainly, but for the entities that `plains` takes.

    Raises Unplain where it can take none, and anything for a file of another kind.
    """
    if is_binary_dxf_file(str(path)) or not is_dxf_file(str(path)):
        raise ValueError("binary, or none")
    info = dxf_file_info(path)
    if plains is not None and not info.version >= _SUBCLASSED:
        raise Unplain("its entities have no subclasses")
    with path.open(encoding=info.encoding, errors="surrogateescape") as file:
        doc = Drawing.from_tags(tags(file, plains))
    if plains is not None and doc.block_records.get("*Paper_Space").dxf.handle in plains.owners:
        raise Unplain("some are on paper")
    doc.filename = str(path)
    return doc


def _recovered(path: Path) -> tuple[Any, list[str]]:
    """The document put in order, and what was mended or lost, in words."""
    found: list[tuple[int, Any, list[str]]] = []
    wrong: Exception = ValueError()
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "mended.dxf"
        for by_look in (False, True):
            if by_look and found and not out_of_step(path):
                break  # it takes as long again, and would find the same
            try:
                lost = mended(path, copy, by_look)
                doc, auditor = recover.readfile(copy, errors="ignore")
            except Exception as error:  # the library raises what it likes
                wrong = error
                continue
            told = [*lost, *(clip(item.message, 80) for item in [*auditor.errors, *auditor.fixes])]
            saved = sum(map(len, doc.blocks))
            if saved or not by_look:
                found.append((saved, doc, told))
    if found:
        # Whichever way saves more; of equals the one that changes less.
        _, doc, told = max(found, key=lambda item: item[0])
        return doc, told
    raise UnreadableSource(
        f"The file begins like DXF, but it cannot be put in order: {clip(str(wrong), 150) or type(wrong).__name__}.",
        "It was damaged on its way or badly written. Ask for it again, as DXF of 2000 or later.",
    ) from wrong


_CUT = finding(
    "cut-short", "DXF", "The file stops before its end: the closing EOF is missing. What came before was read."
)


def _ended(path: Path) -> bool:
    size = path.stat().st_size
    with path.open("rb") as file:
        file.seek(max(0, size - 64))
        return b"EOF" in file.read()


class _Tree:
    """Nodes for everything in model space, blocks unfolded, each block read once for each look."""

    def __init__(self, doc: Any, plains: Plains, report: Report) -> None:
        self._doc, self._plains, self._report = doc, plains, report
        self.looks = Looks(doc)
        self.sketch = Sketch(shape_sink(report))
        self.noticed = Noticed()
        self.nodes: list[Node] = []
        self.local: list[np.ndarray] = []
        self._collector = Collector(self.looks, self.sketch, self.noticed)
        self._known: dict[tuple[str, Look], Content] = {}
        self._plain: dict[str, bool] = {}

    def grow(self) -> None:
        whole = self._collector.collect(self._plains.among(self._doc.modelspace()), _ABOVE)
        self._unfold(whole)
        self.sketch.finish(drawn_first=False)

    def _unfold(self, whole: Content) -> None:
        self._parts(whole, -1)
        # (insert, node above, names of the blocks around, the frozen layer that hides all in it)
        steps: list[tuple[Insert, int, tuple[str, ...], str | None]]
        steps = [(item, -1, (), None) for item in reversed(whole.inserts)]
        while steps:
            insert, above, around, frozen = steps.pop()
            # Common practice: off hides what is on the layer itself, frozen also all that a block on it holds.
            if frozen is None and insert.look.layer in self.looks.frozen:
                frozen = insert.look.layer
            name = insert.block.casefold()
            if name in around:
                self.noticed.circles.setdefault(insert.block)
                continue
            if len(self.nodes) > MOST_NODES or len(around) > _DEEPEST:
                self.noticed.too_many = MOST_NODES
                return
            content = self._content(insert.block, insert.look)
            if content is None:
                self.noticed.missing[insert.block] += 1
                continue
            index = len(self.nodes)
            self.nodes.append(Node(insert.block, above))
            self.local.append(insert.matrix)
            self._parts(content, index, frozen)
            steps += [(item, index, (*around, name), frozen) for item in reversed(content.inserts)]

    def _parts(self, content: Content, above: int, layer: str | None = None) -> None:
        for part, matrix in content.parts:
            self.nodes.append(Node(self.sketch.parts[part].name, above, part, layer))
            self.local.append(matrix)

    def _content(self, name: str, look: Look) -> Content | None:
        block = self._doc.blocks.get(name)
        if block is None or block.block.dxf.get("flags", 0) & 4 or block.block_record.is_xref:
            return None
        # A block in which nothing looks up is the same under every insert.
        key = (name.casefold(), look if self._looks_up(name.casefold(), block) else _ABOVE)
        if key not in self._known:
            self._known[key] = self._collector.collect(block, key[1])
            self._report.stage("parts", len(self.sketch.parts))
        return self._known[key]

    def _looks_up(self, name: str, block: Any) -> bool:
        """Whether anything in a block is on layer 0 or has its insert's colour. What an insert in it hands down counts
        by the insert itself, which is one of the things in it."""
        if name not in self._plain:
            told = (entity.dxf.all_existing_dxf_attribs() for entity in block)
            self._plain[name] = any(item.get("layer", "0") == "0" or item.get("color", 256) == 0 for item in told)
        return self._plain[name]
