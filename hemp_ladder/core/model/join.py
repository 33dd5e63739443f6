"""Join: the sources of a job as one model, each with its own unit, up axis and place."""

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.findings import Finding
from hemp_ladder.core.model.columns import Columns, Names, columns_of
from hemp_ladder.core.model.labels import plain, unique_label
from hemp_ladder.core.model.material import Material, look_id
from hemp_ladder.core.model.model import Matrix, Model, Node, Part
from hemp_ladder.core.model.naming import source_materials


@dataclass(frozen=True)
class Given:
    """One source of a job: what decisions call it, its name, and what was read from it."""

    ref: str
    name: str
    model: Model


@dataclass(frozen=True)
class Member:
    """Where one source stands in the joined model: its nodes and its parts are runs."""

    given: Given
    nodes: range
    parts: range

    @property
    def ref(self) -> str:
        return self.given.ref

    @property
    def model(self) -> Model:
        return self.given.model


@dataclass
class Joined(Model):
    """A model made of several. `format`, `unit` and the like are the first source's; `materials` those of all, by id."""

    members: list[Member] = field(default_factory=list)
    columns: Columns = field(default_factory=lambda: columns_of([], []))
    member_of_node: NDArray[np.int32] = field(default_factory=lambda: np.zeros(0, np.int32))
    member_of_part: NDArray[np.int32] = field(default_factory=lambda: np.zeros(0, np.int32))
    materials: dict[str, Material] = field(default_factory=dict)

    @cached_property
    def standing(self) -> Matrix:
        """Each node's placement in its source's axes, (n, 4, 4): worked out once, and not to be changed."""
        return self.world()

    @cached_property
    def parents(self) -> NDArray[np.int64]:
        """(n,) the node that each stands in, -1 at the top."""
        return np.fromiter((node.parent for node in self.nodes), np.int64, len(self.nodes))

    @cached_property
    def part_names(self) -> Names:
        """The names of all parts, to be held against patterns."""
        return Names([part.name for part in self.parts])

    @cached_property
    def node_refs(self) -> list[str]:
        """What decisions call each node: its name and eight digits of a hash of the names from the root to it; of nodes
        with the same names all the way, the later are numbered."""
        digests: list[bytes] = []
        counts: dict[str, int] = {}
        found: list[str] = []
        for node in self.nodes:
            above = digests[node.parent] if node.parent >= 0 else b""
            digest = hashlib.sha256(above + node.name.encode("utf-8", "surrogatepass")).digest()
            digests.append(digest)
            ref = f"{plain(node.name)} ·{digest.hex()[:8]}"
            counts[ref] = counts.get(ref, 0) + 1
            found.append(ref if counts[ref] == 1 else f"{ref} ({counts[ref]})")
        return found

    @cached_property
    def nodes_named(self) -> dict[str, list[int]]:
        """The nodes of each name, in their order."""
        found: dict[str, list[int]] = {}
        for index, node in enumerate(self.nodes):
            found.setdefault(node.name, []).append(index)
        return found


def join(sources: Sequence[Given]) -> Joined:
    """All sources side by side, in their order.

    Where there are several, each stands under a node of its own name. A part
    keeps what it is called in its source unless an earlier source calls a
    part of its own so: adding a source never renames what was there.
    """
    first = sources[0].model
    joined = Joined(
        first.format, first.schema, first.writer, first.unit, first.up, first.metres_per_coordinate,
        [], [], np.zeros((0, 4, 4)), first.box,
    )  # fmt: skip
    refs: set[str] = set()
    labels: set[str] = set()
    several = len(sources) > 1
    local: list[NDArray[np.float64]] = []
    layers: dict[str, None] = {}
    hidden: dict[str, None] = {}
    for given in sources:
        model = given.model
        parts, nodes = len(joined.parts), len(joined.nodes)
        if several:
            joined.nodes.append(Node(given.name, -1))
            local.append(np.eye(4)[None])
        below = len(joined.nodes)
        joined.nodes += [
            replace(
                node,
                parent=node.parent + below if node.parent >= 0 else (nodes if several else -1),
                part=node.part + parts if node.part >= 0 else -1,
            )
            for node in model.nodes
        ] if several else model.nodes  # fmt: skip
        local.append(model.local)
        styles = _styles(joined, model, given.ref)
        joined.parts += [_restyled(_called(part, labels, refs, given.ref), styles) for part in model.parts]
        joined.textures += [texture for texture in model.textures if texture not in joined.textures]
        joined.findings += [_moved(item, parts, given.ref) for item in model.findings]
        layers |= dict.fromkeys(model.layers)
        hidden |= dict.fromkeys(model.hidden)
        joined.members.append(Member(given, range(nodes, len(joined.nodes)), range(parts, len(joined.parts))))
    joined.local = np.concatenate(local)
    joined.layers, joined.hidden = list(layers), list(hidden)
    joined.columns = columns_of(joined.parts, joined.nodes)
    joined.materials = source_materials(joined.parts, joined.columns, joined.looks) | {
        look_id(name): Material(look_id(name), name or "Unnamed", look) for name, look in joined.looks.items()
    }
    joined.member_of_node = _owners([member.nodes for member in joined.members])
    joined.member_of_part = _owners([member.parts for member in joined.members])
    return joined


def as_joined(model: Model) -> Joined:
    """A lone model as the only source of a job."""
    return model if isinstance(model, Joined) else join([Given("", model.format, model)])


def _called(part: Part, labels: set[str], refs: set[str], source: str) -> Part:
    """A part by names that no part of an earlier source has."""
    ref = part.ref if part.ref not in refs else f"{part.ref} @{source}"
    refs.add(ref)
    return replace(part, label=unique_label(part.label, labels), stable=ref)


def _styles(joined: Joined, model: Model, source: str) -> dict[str, str]:
    """What the looks of a source are called in the job: as in the source, unless another looks otherwise under that
    name. They are added to the job's."""
    called = {}
    for name, look in model.looks.items():
        free = name if joined.looks.get(name, look) == look else f"{name} @{source}"
        joined.looks[free] = look
        if name in model.guesses:
            joined.guesses[free] = model.guesses[name]
        if name in model.lacking:
            joined.lacking[free] = model.lacking[name]
        called[name] = free
    return called


def _restyled(part: Part, styles: dict[str, str]) -> Part:
    if all(name == free for name, free in styles.items()):
        return part
    style = None if part.style is None else styles.get(part.style, part.style)
    return replace(part, style=style, face_styles={f: styles.get(s, s) for f, s in part.face_styles.items()})


def _moved(item: Finding, parts: int, ref: str) -> Finding:
    return replace(item, source=ref, parts=tuple(part + parts for part in item.parts))


def _owners(runs: list[range]) -> NDArray[np.int32]:
    return np.repeat(np.arange(len(runs), dtype=np.int32), [len(run) for run in runs])
