"""Leftovers: what came along and nobody wants in a picture, counted by kind and left out in one move."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.settings import Choice, ReceiveSettings
from hemp_ladder.core.choose.take import Taken, later_copies
from hemp_ladder.core.model.bodies import Exact

Kind = Literal["hidden layers", "tiny parts", "copies in place", "annotation", "spaces", "openings", "inside others"]
#: What is left behind at the door already: it has no surface, and nothing of it is ever shipped as one.
_EXTRA: dict[str, Kind] = {"annotation": "annotation", "space": "spaces", "opening": "openings"}
#: A part smaller than this is a speck at arm's length, in metres (common practice: screws, washers, text solids).
TINY = 0.005


@dataclass(frozen=True)
class Leftover:
    """A kind of leftovers: how many placements of how many parts enter because nothing keeps them out, which parts; or how
    many of them there are that stay out anyway (`left`)."""

    kind: str
    placements: int
    parts: tuple[int, ...] = ()
    left: int = 0


def leftovers(taken: Taken, tiny: float = TINY, inside: NDArray[np.integer] | None = None) -> list[Leftover]:
    """By kind what enters and could stay out; `tiny` is the diagonal in metres below which a part is; `inside` the nodes of
    what stands wholly inside others, where somebody looked."""
    model, rows, columns = taken.model, taken.rows, taken.model.columns
    found: list[Leftover] = []

    def told(kind: Kind, mask: NDArray[np.bool_], left: int = 0) -> None:
        parts = tuple(np.unique(columns.part[rows[mask]]).tolist())
        if parts or left:
            found.append(Leftover(kind, int(np.count_nonzero(mask)), parts, left))

    told("hidden layers", _of_layers(taken, set(model.hidden)))
    told("tiny parts", _tiny(taken, tiny))
    if inside is not None:
        told("inside others", np.isin(taken.placements, inside))
    entered = np.zeros(len(columns.node), bool)
    entered[rows] = True
    told("copies in place", later_copies(model, entered, taken.shaped.solids)[rows])
    kinds = np.array([tags.kind for tags in columns.all_tags] or ["body"], dtype=object)
    for kind, name in _EXTRA.items():
        mask = kinds[columns.tags[rows]] == kind if len(rows) else np.zeros(0, bool)
        all_of_it = int(np.count_nonzero(kinds[columns.tags] == kind)) if len(columns.tags) else 0
        told(name, mask, all_of_it - int(np.count_nonzero(mask)))
    groups = {node.parent for node in model.nodes}
    counts = {"curves": sum(part.body.curves for part in model.parts if isinstance(part.body, Exact)), "cameras": 0}
    for piece in model.members:
        counts["cameras"] += len(piece.model.lookouts)
        for left, count in piece.model.leftovers.items():
            counts[left] = counts.get(left, 0) + count
    counts["empty groups"] = sum(1 for i, node in enumerate(model.nodes) if node.part < 0 and i not in groups)
    found += [Leftover(left, 0, (), count) for left, count in counts.items() if count]
    return found


def dropped(
    settings: ReceiveSettings, taken: Taken, kinds: Sequence[str], tiny: float = TINY,
    inside: NDArray[np.integer] | None = None,
) -> ReceiveSettings:  # fmt: skip
    """What enters, without these kinds of leftovers; arguments as above."""
    model = taken.model
    choices = dict.fromkeys(settings.choices)

    def out(by: Literal["layer", "part", "placement"], match: str) -> None:
        choices[Choice(by=by, match=match)] = None

    if "hidden layers" in kinds:
        for layer in model.hidden:
            out("layer", layer)
    if "tiny parts" in kinds:
        for part in np.unique(model.columns.part[taken.rows[_tiny(taken, tiny)]]).tolist():
            out("part", model.parts[part].decided_as)
    if "inside others" in kinds and inside is not None:
        mask = np.isin(taken.placements, inside)
        part = model.columns.part[taken.rows]
        # A part that is seen elsewhere stays there.
        seen = set(part[~mask].tolist())
        for row in np.flatnonzero(mask).tolist():
            if int(part[row]) in seen:
                out("placement", model.node_refs[int(taken.placements[row])])
            else:
                out("part", model.parts[int(part[row])].decided_as)
    also = settings.also - {extra for extra, name in _EXTRA.items() if name in kinds}
    changes: dict[str, object] = {"choices": tuple(choices), "also": also}
    if "copies in place" in kinds:
        changes["without_copies"] = True
    return ReceiveSettings.model_validate({**settings.model_dump(), **changes})


def _tiny(taken: Taken, tiny: float) -> NDArray[np.bool_]:
    """(r,) placements of parts that are smaller everywhere than so many metres."""
    model = taken.model
    scales = np.array([float(source.scale) for source in taken.fitted.sources])
    sizes = np.array([part.size for part in model.parts]) * scales[model.member_of_part] if model.parts else np.zeros(0)
    part = model.columns.part[taken.rows]
    # A placement may stretch what it places.
    stretch = np.linalg.norm(model.standing[taken.placements][:, :3, :3], axis=(1, 2)) / np.sqrt(3)
    return np.asarray(sizes[part] * stretch < tiny) if len(part) else np.zeros(0, bool)


def _of_layers(taken: Taken, layers: set[str]) -> NDArray[np.bool_]:
    columns = taken.model.columns
    wanted = np.array([layer in layers for layer in columns.layers], bool)
    return np.asarray(wanted[columns.layer[taken.rows]]) if len(taken.rows) else np.zeros(0, bool)
