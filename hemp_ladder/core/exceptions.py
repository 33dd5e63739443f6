"""Exceptions: one ordered list of who differs from the job, the same for every rung that has any.

An entry says for whom it holds and what is different. Of the entries that
hold for a part, the first that speaks of a setting decides it.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, Literal, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from hemp_ladder.core.lengths import Metres
from hemp_ladder.core.refs import PartRef, SourceRef
from hemp_ladder.core.settings import MOST_PARTS, Settings

For = Literal["parts", "layer", "material", "class", "source", "selection", "smaller", "larger"]
#: Entries of a list, at the most.
MOST_ENTRIES = 2000


class Excepted(Settings):
    """For whom an entry holds: the base of every rung's exceptions.

    `parts` those named; `layer` what stands on it anywhere; `material` what
    wears it anywhere, by id; `class` what a building calls so; `source` what
    it brought; `selection` what is kept under that name, the parts of single
    placements too; `smaller` and `larger` what is so by the diagonal of its
    box.
    """

    by: For
    parts: tuple[PartRef, ...] = Field((), max_length=MOST_PARTS)
    match: str = Field("", max_length=500, description="name of the layer, class or selection, or the material's id")
    source: SourceRef | None = None
    size: Annotated[Metres, Field(ge=0, le=1e9)] | None = Field(None, description="in metres")

    @model_validator(mode="after")
    def _says_whom(self) -> "Excepted":
        named = dict.fromkeys(("layer", "material", "class", "selection"), self.match)
        told = {**named, "parts": self.parts, "source": self.source is not None}
        if not told.get(self.by, self.size is not None):
            raise ValueError("an exception does not say for whom it holds")
        return self


@dataclass(frozen=True)
class Crowd:
    """All parts of a job, as exceptions see them.

    names    what decisions call each part, and what it was taken from, if anything
    sources  what decisions call each part's source
    sizes    the diagonals of their boxes in metres, (p,)
    layers, materials, classes, selections   for a name, the indices of the parts that it holds for
    """

    names: Sequence[tuple[str, ...]]
    sources: Sequence[str]
    sizes: Callable[[], NDArray[np.float64]]
    layers: Callable[[str], Iterable[int]]
    materials: Callable[[str], Iterable[int]]
    classes: Callable[[str], Iterable[int]]
    selections: Callable[[str], Iterable[int]]

    @cached_property
    def _named(self) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for index, names in enumerate(self.names):
            for name in names:
                found.setdefault(name, []).append(index)
        return found

    def met(self, entry: Excepted) -> Iterable[int]:
        """Indices of the parts that an entry holds for."""
        if entry.by == "parts":
            return sorted({index for ref in entry.parts for index in self._named.get(ref, ())})
        if entry.by == "layer":
            return self.layers(entry.match)
        if entry.by == "material":
            return self.materials(entry.match)
        if entry.by == "class":
            return self.classes(entry.match)
        if entry.by == "selection":
            return self.selections(entry.match)
        if entry.by == "source":
            return (index for index, ref in enumerate(self.sources) if ref == entry.source)
        sizes = self.sizes()
        limit = float(entry.size or 0)
        return np.flatnonzero(sizes < limit if entry.by == "smaller" else sizes > limit).tolist()


Numbers = tuple[int, ...]


def holding(entries: Sequence[Excepted], crowd: Crowd) -> dict[int, Numbers]:
    """For each part that any entry holds for, by index, the numbers of those entries in their order."""
    found: dict[int, list[int]] = {}
    for number, entry in enumerate(entries):
        for index in crowd.met(entry):
            found.setdefault(index, []).append(number)
    return {index: tuple(numbers) for index, numbers in found.items()}


def from_parts(given: Any) -> Any:
    """What was kept as overrides by part, before there was a list: those that are alike as one entry each."""
    if not isinstance(given, Mapping) or not isinstance(given.get("parts"), Mapping):
        return given
    told = dict(given)
    alike: dict[str, tuple[Any, list[str]]] = {}
    for ref, own in told.pop("parts").items():
        plain = own if isinstance(own, Mapping) else own.model_dump(mode="json")
        alike.setdefault(repr(sorted(plain.items(), key=str)), (plain, []))[1].append(ref)
    entries = [{"by": "parts", "parts": refs, **own} for own, refs in alike.values()]
    told["exceptions"] = [*entries, *told.get("exceptions", ())]
    return told


_Entry = TypeVar("_Entry", bound=Excepted)


def with_own(
    entries: Sequence[_Entry], refs: Sequence[str], make: Callable[[_Entry | None], _Entry]
) -> tuple[_Entry, ...]:
    """The list with an entry of these parts' own: the one there is for just them, changed, or a new one before all."""
    wanted = set(refs)
    for number, entry in enumerate(entries):
        if entry.by == "parts" and set(entry.parts) == wanted:
            return (*entries[:number], make(entry), *entries[number + 1 :])
    return (make(None), *entries)
