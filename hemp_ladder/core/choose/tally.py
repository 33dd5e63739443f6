"""Tally: what each layer, class, storey and group holds, so that one can choose what enters."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.settings import TakeBy
from hemp_ladder.core.model.join import Joined, as_joined
from hemp_ladder.core.model.model import Model

#: More of one kind than this is no list to choose from by eye.
_MOST = 400
#: Triangles a face when nothing is meshed yet: between a box (2) and an engineered part (10 and more).
_A_FACE = 4.0


@dataclass(frozen=True)
class Tally:
    """One value of one source: how many parts and placements have it, how many entered, what they weigh."""

    by: TakeBy
    match: str
    source: str
    parts: int
    placements: int
    taken: int
    triangles: int
    estimated: bool
    off: bool = False


def tally(model: Joined, rows: NDArray[np.int64], known: Mapping[int, int]) -> list[Tally]:
    """All tallies of a model; `rows` entered, `known` gives a part's triangles where it is meshed.

    The others are reckoned by their faces, at as many triangles a face as
    the meshed parts have.
    """
    columns = model.columns
    count = len(columns.node)
    entered = np.zeros(count, dtype=bool)
    entered[rows] = True
    weight, guessed = _weights(model, known)
    matter = np.array([tags.kind == "body" for tags in columns.all_tags], dtype=bool)
    out: list[Tally] = []
    for number, piece in enumerate(model.members):
        mine = (model.member_of_node[columns.node] == number) & (matter[columns.tags] if count else entered)
        hidden = set(piece.model.hidden)
        for by, match, mask in _values(model, number):
            chosen = np.flatnonzero(mask & (mine if by != "class" else model.member_of_node[columns.node] == number))
            if not len(chosen):
                continue
            parts = np.unique(columns.part[chosen])
            out.append(
                Tally(
                    by, match, piece.ref, len(parts), len(chosen), int(entered[chosen].sum()),
                    round(float(weight[columns.part[chosen]].sum())), bool(guessed[parts].any()),
                    by == "layer" and match in hidden,
                )
            )  # fmt: skip
    return out


def tally_all(model: Model) -> list[Tally]:
    """The tallies of one source as it came, when nothing is left out and nothing is meshed."""
    joined = as_joined(model)
    return tally(joined, np.arange(len(joined.columns.node)), {})


def _weights(model: Joined, known: Mapping[int, int]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    faces = np.array([part.body.face_count for part in model.parts], dtype=float)
    meshed = np.array(sorted(known), dtype=int)
    told = np.array([known[i] for i in meshed], dtype=float)
    rate = float(told.sum() / faces[meshed].sum()) if len(meshed) and faces[meshed].sum() else _A_FACE
    weight = faces * rate
    weight[meshed] = told
    guessed = np.ones(len(faces), dtype=bool)
    guessed[meshed] = False
    return weight, guessed


def _values(model: Joined, piece: int) -> Iterator[tuple[TakeBy, str, NDArray[np.bool_]]]:
    columns = model.columns
    for code, layer in enumerate(columns.layers):
        if layer is not None:
            yield "layer", layer, columns.layer == code
    classes = sorted({tags.ifc_class for tags in columns.all_tags if tags.ifc_class})
    for name in classes:
        yield "class", name, np.array([tags.ifc_class == name for tags in columns.all_tags])[columns.tags]
    for name in dict.fromkeys(tags.storey for tags in columns.all_tags if tags.storey):
        yield "storey", name, np.array([tags.storey == name for tags in columns.all_tags])[columns.tags]
    groups: dict[str, NDArray[np.bool_]] = {}
    nodes = model.members[piece].nodes
    for index in range(nodes.start, nodes.stop):
        if columns.last[index] <= index or model.nodes[index].part >= 0:
            continue
        name = model.nodes[index].name
        if name not in groups and len(groups) >= _MOST:
            continue
        inside = (columns.node > index) & (columns.node <= columns.last[index])
        groups[name] = groups[name] | inside if name in groups else inside
    for name, mask in groups.items():
        yield "group", name, mask
