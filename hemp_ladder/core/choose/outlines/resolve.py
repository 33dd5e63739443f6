"""From rows of decisions to what becomes of each drawn part: its prism, or the reason why it has none.

Works on rows, not on curves: which shape lies inside which was found when
the source was read.
"""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np

from hemp_ladder.core.choose.outlines.settings import DrawnSettings, Shaping
from hemp_ladder.core.drawn.solid import Other, Solid
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.model.model import Part

#: solid, a hole in others, joined to another shape, a line that encloses nothing, an outline that awaits a height.
Role = Literal["solid", "hole", "joined", "line", "waiting"]
_KINDS = ("all", "layer", "colour", "part")


@dataclass
class Shaped:
    """What of the drawn parts, by index in the model, is solid and how; and the part each of them plays."""

    solids: dict[int, Solid] = field(default_factory=dict)
    roles: dict[int, Role] = field(default_factory=dict)

    def without_body(self) -> set[int]:
        return self.roles.keys() - self.solids.keys()


@dataclass(frozen=True)
class _Said:
    """What the rows say of one part, merged."""

    height: float | None = None
    on: Any = None
    wall: float = 0.0
    side: Any = "outward"
    stroke: float | None = None
    areas: Any = "written"
    hand: Any = None


_NOTHING = _Said()


def shape_drawn(fitted: Fitted, settings: DrawnSettings, segments: int | None = None) -> Shaped:
    """What becomes of every drawn part of the model.

    Raises SettingsError where something stands on itself.
    """
    return _Table(fitted, settings, segments).shaped()


class _Table:
    def __init__(self, fitted: Fitted, settings: DrawnSettings, segments: int | None) -> None:
        self._fitted, self._settings, self._segments = fitted, settings, segments
        self.parts = {i: part for i, part in enumerate(fitted.model.parts) if part.drawn and not part.cut}
        self._rows: dict[tuple[str, str], list[Shaping]] = defaultdict(list)
        for row in settings.rows:
            self._rows[row.by, row.match if row.by != "all" else ""].append(row)
        self._pieces = [piece.ref for piece in fitted.model.members]
        self._scales = [float(source.scale) for source in fitted.sources]
        self.said = {i: self._merged(i, part) for i, part in self.parts.items()}
        self._tops: dict[tuple[str, str, int], float] = {}
        self._asked: set[tuple[str, str, int]] = set()

    def _piece(self, index: int) -> int:
        return int(self._fitted.model.member_of_part[index])

    def _merged(self, index: int, part: Part) -> _Said:
        if not self._rows:
            return _NOTHING
        ref = self._pieces[self._piece(index)]
        names = ("", part.layer or "", part.colour.hex[:7] if part.colour else "", part.decided_as)
        told: dict[str, Any] = {}
        for kind, name in zip(_KINDS, names, strict=True):
            for row in self._rows.get((kind, name), ()):
                if row.source is None or row.source == ref:
                    told.update(
                        (key, value)
                        for key in ("height", "on", "wall", "side", "stroke", "areas", "hand")
                        if (value := getattr(row, key)) is not None
                    )
        return _Said(**told) if told else _NOTHING

    def _height(self, index: int) -> float:
        """In source coordinates; as the drawing says where nobody else does."""
        said = self.said[index].height
        drawn = self.parts[index].drawn
        assert drawn is not None
        return abs(drawn.thickness) if said is None else said / self._scales[self._piece(index)]

    def _base(self, index: int) -> float:
        on = self.said[index].on
        if on is not None and on.by == "ground":
            return 0.0
        if on is not None:
            return self._top(on.by, on.match, self._piece(index))
        drawn = self.parts[index].drawn
        assert drawn is not None
        return min(drawn.thickness, 0.0) if self.said[index].height is None else 0.0

    def _top(self, by: str, match: str, piece: int) -> float:
        key = (by, match, piece)
        if key in self._tops:
            return self._tops[key]
        if key in self._asked:
            raise SettingsError(
                f"“{match}” stands on itself, by way of what it stands on.", "Stand it on something else."
            )
        self._asked.add(key)
        tops = [self._base(i) + self._height(i) for i in self._named(by, match) if self._piece(i) == piece]
        self._tops[key] = max(tops, default=0.0)
        return self._tops[key]

    def _named(self, by: str, match: str) -> Iterator[int]:
        for i, part in self.parts.items():
            name = {"layer": part.layer, "colour": part.colour and part.colour.hex[:7], "part": part.decided_as}[by]
            if name == match:
                yield i

    def shaped(self) -> Shaped:
        found = Shaped()
        holes = {i for i in self.parts if self._is_hole(i)}
        for i in self.parts:
            if i in holes:
                found.roles[i] = "hole"
                continue
            solid = self._solid(i)
            if solid is not None:
                found.solids[i], found.roles[i] = solid, "solid"
            else:
                found.roles[i] = "waiting" if self._encloses(i) else "line"
        self._cut_out(found, holes)
        self._unite(found)
        return found

    def _is_hole(self, index: int) -> bool:
        said, drawn = self.said[index], self.parts[index].drawn
        assert drawn is not None
        if said.hand is not None:
            return bool(said.hand == "hole")
        if said.areas != "alternating" or not self._encloses(index):
            return False
        over = [j for j in drawn.inside if j in self.said and self.said[j].areas == "alternating"]
        return len(over) % 2 == 1

    def _encloses(self, index: int) -> bool:
        drawn = self.parts[index].drawn
        assert drawn is not None
        near = drawn.gap * self._scales[self._piece(index)] <= self._settings.close
        return drawn.fill or drawn.closed or (near and self._settings.close > 0)

    def _solid(self, index: int) -> Solid | None:
        said, drawn, scale = self.said[index], self.parts[index].drawn, self._scales[self._piece(index)]
        assert drawn is not None
        solid = Solid(
            height=self._height(index), base=self._base(index), wall=said.wall / scale, side=said.side,
            stroke=said.stroke / scale if said.stroke is not None and drawn.stroke > 0 else None,
            segments=self._segments, nozzle=self._settings.nozzle / scale, thicken=self._settings.thicken,
        )  # fmt: skip
        if drawn.fill or drawn.stroke > 0 or said.wall > 0:
            return solid
        if self._encloses(index):
            return solid if solid.height > 0 else None
        return replace(solid, ribbon=True) if drawn.thickness else None

    def _cut_out(self, found: Shaped, holes: set[int]) -> None:
        minus: dict[int, list[Other]] = defaultdict(list)
        for hole in sorted(holes):
            drawn = self.parts[hole].drawn
            assert drawn is not None
            over = list(reversed(drawn.inside))
            if self.said[hole].hand == "hole":
                over = self._touching(hole)
            for j in over:
                if j in found.solids:
                    minus[j].append(self._other(hole, j, "minus"))
                elif j in holes and self.said[hole].hand != "hole":
                    break
        for j, others in minus.items():
            found.solids[j] = replace(found.solids[j], others=tuple(others))

    def _touching(self, index: int) -> list[int]:
        """Other shapes of its sheet whose boxes overlap with its own."""
        drawn = self.parts[index].drawn
        assert drawn is not None
        same = [i for i, p in self.parts.items() if p.drawn and p.drawn.sheet == drawn.sheet and i != index
                and self._piece(i) == self._piece(index)]  # fmt: skip
        if not same:
            return []
        boxes = np.array([self._place(i) for i in same])
        mine = self._place(index)
        hit = (boxes[:, 0] <= mine[1]).all(axis=1) & (boxes[:, 1] >= mine[0]).all(axis=1)
        return [same[k] for k in np.flatnonzero(hit)]

    def _place(self, index: int) -> np.ndarray:
        part = self.parts[index]
        assert part.drawn is not None
        return np.asarray(part.box[:, :2] + [part.drawn.x, part.drawn.y])

    def _other(self, which: int, seen_from: int, does: Any) -> Other:
        there, here = self.parts[which].drawn, self.parts[seen_from].drawn
        assert there is not None and here is not None
        scale = self._scales[self._piece(which)]
        stroke = self.said[which].stroke
        wide = stroke / scale if stroke is not None and there.stroke > 0 else None
        return Other(self.parts[which].key, there.x - here.x, there.y - here.y, does, wide)

    def _unite(self, found: Shaped) -> None:
        groups: dict[Any, list[int]] = defaultdict(list)
        for i, solid in found.solids.items():
            if self.said[i].areas == "united" and not solid.ribbon:
                part = self.parts[i]
                assert part.drawn is not None
                alike = replace(solid, others=(), stroke=None)
                groups[self._piece(i), part.drawn.sheet, part.layer, part.colour, alike].append(i)
        for first, *rest in groups.values():
            solid = found.solids[first]
            plus = [self._other(i, first, "plus") for i in rest]
            minus = [
                replace(o, x=o.x + shift.x, y=o.y + shift.y)
                for i, shift in zip(rest, plus, strict=True)
                for o in found.solids[i].others
            ]
            found.solids[first] = replace(solid, others=(*plus, *solid.others, *minus))
            for i in rest:
                del found.solids[i]
                found.roles[i] = "joined"
