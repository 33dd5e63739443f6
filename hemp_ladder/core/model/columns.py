"""A model's placements as columns: what every rule and every choice asks, for all of them at once."""

import fnmatch
import re
from bisect import bisect_left
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.model import Colour, Node, Part, Tags

Codes = NDArray[np.int32]
_Value = TypeVar("_Value", bound=Hashable)


class Names:
    """A list of names, and which of them a pattern with * and ? matches, whatever their case: looked up once a pattern.

    Whole names are looked up in a table, beginnings and ends in lists that are in order, and what stands anywhere in one
    text of them all, so that thousands of patterns over a hundred thousand names take seconds rather than minutes.
    """

    def __init__(self, names: Sequence[str]) -> None:
        self._names = names
        self._found = lru_cache(maxsize=20_000)(self._look)

    def matching(self, pattern: str) -> NDArray[np.bool_]:
        """(n,) which names match."""
        mask = np.zeros(len(self._names), bool)
        mask[self.found(pattern)] = True
        return mask

    def found(self, pattern: str) -> NDArray[np.int64]:
        """The numbers of those that match, each once."""
        return self._found(pattern)

    def _look(self, pattern: str) -> NDArray[np.int64]:
        folded = pattern.casefold()
        inner = folded.strip("*")
        if inner and not set(inner) & set("*?["):
            before, behind = folded[0] == "*", folded[-1] == "*"
            if not before and not behind:
                return self._whole.get(inner, _NONE)
            if before and behind:
                return self._holding(inner)
            return _beginning(*(self._ends if before else self._starts), inner[::-1] if before else inner)
        pieces = re.split(r"[*?\[]", inner)
        longest = max(pieces, key=len) if "[" not in inner else ""
        some = self._holding(longest) if longest else np.arange(len(self._names))
        match = re.compile(fnmatch.translate(pattern), re.IGNORECASE).match
        return np.array([at for at in some.tolist() if match(self._names[at])], np.int64)

    @cached_property
    def _folded(self) -> list[str]:
        return [name.casefold() for name in self._names]

    @cached_property
    def _whole(self) -> dict[str, NDArray[np.int64]]:
        found: dict[str, list[int]] = {}
        for at, name in enumerate(self._folded):
            found.setdefault(name, []).append(at)
        return {name: np.array(numbers, np.int64) for name, numbers in found.items()}

    @cached_property
    def _starts(self) -> tuple[list[str], NDArray[np.int64]]:
        return _in_order(self._folded)

    @cached_property
    def _ends(self) -> tuple[list[str], NDArray[np.int64]]:
        return _in_order([name[::-1] for name in self._folded])

    @cached_property
    def _text(self) -> tuple[str, NDArray[np.int64]]:
        """All names in one text, and where each ends."""
        ends = np.cumsum([len(name) + 1 for name in self._folded]) if self._folded else np.zeros(0, np.int64)
        return "\0".join(self._folded), ends.astype(np.int64)

    def _holding(self, piece: str) -> NDArray[np.int64]:
        """Those that a piece stands in anywhere."""
        text, ends = self._text
        found, at = [], text.find(piece)
        while at >= 0:
            number = int(np.searchsorted(ends, at, side="right"))
            found.append(number)
            at = text.find(piece, int(ends[number]))
        return np.array(found, np.int64)


_NONE = np.zeros(0, np.int64)


def _in_order(names: list[str]) -> tuple[list[str], NDArray[np.int64]]:
    order = sorted(range(len(names)), key=names.__getitem__)
    return [names[at] for at in order], np.array(order, np.int64)


def _beginning(names: list[str], order: NDArray[np.int64], piece: str) -> NDArray[np.int64]:
    """Those of names in order that begin so."""
    low = bisect_left(names, piece)
    # Nothing that begins so lies behind what comes after its last letter.
    after = piece[:-1] + chr(ord(piece[-1]) + 1) if ord(piece[-1]) < 0x10FFFF else piece + "\U0010ffff"
    return np.sort(order[low : bisect_left(names, after)])


@dataclass(frozen=True)
class Columns:
    """One row for each placement of a part with a surface, in the order of the nodes.

    node, part   (p,) indices
    layer, colour, tags, name   (p,) codes into the lists of the same names;
                 layer and colour as they reach down from what stands above
    last         (n,) for every node, the last node of its branch
    named        the names, to be held against patterns
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
        Names(list(names)),
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
