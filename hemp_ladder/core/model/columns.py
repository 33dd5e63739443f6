"""A model's placements as columns: what every rule and every choice asks, for all of them at once."""

import fnmatch
import re
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.model import Colour, Node, Part, Tags

Codes = NDArray[np.int32]
_Value = TypeVar("_Value", bound=Hashable)


class Names:
    """A list of names, and which of them a pattern with * and ? matches, whatever their case: looked up once a pattern."""

    def __init__(self, names: Sequence[str]) -> None:
        self._names = names
        self._folded = np.array([name.casefold() for name in names], dtype=np.dtypes.StringDType())
        self._matching = lru_cache(maxsize=1000)(self._look)

    def matching(self, pattern: str) -> NDArray[np.bool_]:
        """(n,) which names match."""
        return self._matching(pattern)

    def _look(self, pattern: str) -> NDArray[np.bool_]:
        inner = pattern.strip("*").casefold()
        if inner and not set(inner) & set("*?["):
            # The usual patterns, a hundred thousand names in a few milliseconds.
            if pattern[0] != "*" and pattern[-1] != "*":
                return np.asarray(self._folded == inner)
            if pattern[0] == "*" and pattern[-1] == "*":
                return np.asarray(np.strings.find(self._folded, inner) >= 0)
            if pattern[0] == "*":
                return np.asarray(np.strings.endswith(self._folded, inner))
            return np.asarray(np.strings.startswith(self._folded, inner))
        match = re.compile(fnmatch.translate(pattern), re.IGNORECASE).match
        return np.fromiter((match(name) is not None for name in self._names), bool, len(self._names))


@dataclass(frozen=True)
class Columns:
    """One row for each placement of a part with a surface, in the order of the nodes.

    node, part   (p,) indices
    layer, colour, tags, name   (p,) codes into the lists of the same names;
                 layer and colour as they reach down from what stands above
    last         (n,) for every node, the last node of its branch
    named, part_names  the names, and those of all parts, to be held against patterns
    """

    node: Codes
    part: Codes
    layer: Codes
    colour: Codes
    tags: Codes
    name: Codes
    layers: list[str | None]
    colours: list[Colour | None]
    all_tags: list[Tags]
    names: list[str]
    last: Codes = field(repr=False)
    named: Names = field(repr=False)
    part_names: Names = field(repr=False)


class _Coder(dict[_Value, int]):
    def __missing__(self, value: _Value) -> int:
        self[value] = len(self)
        return self[value]


def columns_of(parts: Sequence[Part], nodes: Sequence[Node]) -> Columns:
    """Walk the nodes once: a thing nearer to the surface has the say over what stands above it."""
    layers, colours, tags, names = _Coder[str | None](), _Coder[Colour | None](), _Coder[Tags](), _Coder[str]()
    above: list[tuple[str | None, Colour | None]] = []
    rows: list[tuple[int, int, int, int, int, int]] = []
    for index, node in enumerate(nodes):
        layer, colour = node.layer, node.colour
        over = above[node.parent] if node.parent >= 0 else (None, None)
        above.append((layer or over[0], colour or over[1]))
        if node.part < 0:
            continue
        part = parts[node.part]
        if part.body.has_surface:
            rows.append((
                index, node.part, layers[layer or part.layer or over[0]], colours[colour or part.colour or over[1]],
                tags[node.tags], names[node.name],
            ))  # fmt: skip
    node_of, part_of, layer_of, colour_of, tags_of, name_of = np.array(rows, dtype=np.int32).reshape(-1, 6).T
    return Columns(
        node_of, part_of, layer_of, colour_of, tags_of, name_of,
        list(layers), list(colours), list(tags), list(names), _last_of(nodes),
        Names(list(names)), Names([part.name for part in parts]),
    )  # fmt: skip


def _last_of(nodes: Sequence[Node]) -> Codes:
    """Branches are runs: readers walk depth first, so a branch ends where its last child's does."""
    last = np.arange(len(nodes), dtype=np.int32)
    parents = [node.parent for node in nodes]
    for index in range(len(nodes) - 1, -1, -1):
        parent = parents[index]
        if parent >= 0 and last[index] > last[parent]:
            last[parent] = last[index]
    return last
