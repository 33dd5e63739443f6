"""Where rules match, found by what they look at rather than by asking every placement: for thousands of rules at once."""

from collections.abc import Sequence
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.sort.settings import Rule, Within
from hemp_ladder.core.sort.table import met, within_mask

Rows = NDArray[np.int64]


class Spots:
    """Rows of a model's columns, and which of them each rule matches where it holds."""

    def __init__(self, model: Joined, rows: Rows) -> None:
        self._model, self._rows = model, rows
        self._where = lru_cache(maxsize=1000)(lambda within: within_mask(model, within)[rows])

    def of(self, rule: Rule) -> Rows:
        """Numbers of rows, from the first, in order."""
        at = self._by_code(rule)
        if at is None:
            at = np.flatnonzero(met(self._model, rule)[self._rows])
        return at if rule.within is None else at[self._holds(rule.within)[at]]

    def _holds(self, within: Within) -> NDArray[np.bool_]:
        return self._where(within)

    def _by_code(self, rule: Rule) -> Rows | None:
        """None where it takes more than one look at what stands there: faces have looks of their own."""
        columns = self._model.columns
        if rule.by == "name":
            named, parts = (
                [int(at) for pattern in rule.match for at in names.found(pattern)]
                for names in (columns.named, self._model.part_names)
            )
            return np.union1d(self._name.at(named), self._part.at(parts))
        if rule.by == "layer":
            return self._layer.at([self._layers[word] for word in rule.match if word in self._layers])
        if rule.by == "part":
            return self._part.at([part for word in rule.match for part in self._parts.get(word, ())])
        if rule.by in ("class", "storey", "substance"):
            return self._tags.at(
                sorted({code for word in rule.match for code in self._tagged.get((rule.by, word), ())})
            )
        return None

    @cached_property
    def _name(self) -> "_Codes":
        return _Codes(self._model.columns.name, self._rows)

    @cached_property
    def _part(self) -> "_Codes":
        return _Codes(self._model.columns.part, self._rows)

    @cached_property
    def _layer(self) -> "_Codes":
        return _Codes(self._model.columns.layer, self._rows)

    @cached_property
    def _tags(self) -> "_Codes":
        return _Codes(self._model.columns.tags, self._rows)

    @cached_property
    def _layers(self) -> dict[str | None, int]:
        return {layer: code for code, layer in enumerate(self._model.columns.layers)}

    @cached_property
    def _parts(self) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for index, part in enumerate(self._model.parts):
            found.setdefault(part.decided_as, []).append(index)
        return found

    @cached_property
    def _tagged(self) -> dict[tuple[str, str], list[int]]:
        found: dict[tuple[str, str], list[int]] = {}
        for code, tags in enumerate(self._model.columns.all_tags):
            told = [
                ("class", tags.ifc_class),
                ("storey", tags.storey),
                *(("substance", word) for word in tags.materials),
            ]
            for by, word in dict.fromkeys(told):
                if word is not None:
                    found.setdefault((by, word), []).append(code)
        return found


class _Codes:
    """The rows of each code of a column."""

    def __init__(self, codes: NDArray[np.int32], rows: Rows) -> None:
        mine = codes[rows] if len(codes) else np.zeros(0, np.int32)
        self._order = np.argsort(mine, kind="stable")
        self._starts = np.searchsorted(mine[self._order], np.arange(int(mine.max(initial=-1)) + 2))

    def at(self, codes: Sequence[int]) -> Rows:
        """The rows of some codes, in order."""
        last = len(self._starts) - 1
        runs = [
            self._order[self._starts[code] : self._starts[code + 1]] for code in dict.fromkeys(codes) if code < last
        ]
        return np.sort(np.concatenate(runs)) if runs else np.zeros(0, np.int64)
