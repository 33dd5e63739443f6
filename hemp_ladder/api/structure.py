"""The structure of a job, which decisions do not change, in columns."""

import base64
from functools import lru_cache

import numpy as np

from hemp_ladder.api.large import packed_json
from hemp_ladder.api.views import (
    DetailsView,
    MemberView,
    PartView,
    PropertySetView,
    PropertyView,
    StructureView,
    TagsView,
)  # fmt: skip
from hemp_ladder.core.keys import joined_key
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.model import DETAILS_BLOCK, Part
from hemp_ladder.store import model_blob
from hemp_ladder.work.plans import Models


@lru_cache(maxsize=1)
def structure(models: Models) -> bytes:
    """The tree and the parts of all sources, as packed JSON: it is asked for often and is large.

    Nothing of it is checked again: it was made here, and checking copies it.
    """
    model = model_blob.load_joined(models)
    counts = model.counts()
    tags = {node.tags: 0 for node in model.nodes}
    for number, item in enumerate(tags):
        tags[item] = number
    view = StructureView.model_construct(
        model_key=joined_key(list(models)),
        members=[
            MemberView(
                ref=piece.ref, name=piece.given.name, first_node=piece.nodes.start, nodes=len(piece.nodes),
                first_part=piece.parts.start, parts=len(piece.parts), detailed=piece.model.detailed,
            )
            for piece in model.members
        ],
        parts=[part_view(part, counts.get(index, 0)) for index, part in enumerate(model.parts)],
        node_names=[node.name for node in model.nodes],
        node_parents=[node.parent for node in model.nodes],
        node_parts=[node.part for node in model.nodes],
        node_tags=[tags[node.tags] for node in model.nodes],
        tags=[TagsView(kind=t.kind, ifc_class=t.ifc_class, storey=t.storey, materials=list(t.materials)) for t in tags],
        world=_world(model),
        layers=model.layers,
        colours=model.colours(),
        styles=_styles(model),
    )  # fmt: skip
    return packed_json(view)


def _world(model: Joined) -> str:
    columns = np.ascontiguousarray(model.world().transpose(0, 2, 1), dtype="<f8")
    return base64.b64encode(columns.data).decode("ascii")


def part_view(part: Part, times: int) -> PartView:
    return PartView(
        ref=part.ref, label=part.label, name=part.name, layer=part.layer, colour=part.colour.hex if part.colour else None,
        surface=part.body.has_surface, curves=part.body.curves if isinstance(part.body, Exact) else 0, times=times,
    )  # fmt: skip


def _styles(model: Joined) -> list[str]:
    found: dict[str, None] = {}
    for part in model.parts:
        found |= dict.fromkeys(style for style in (part.style, *part.face_styles.values()) if style)
    return list(found)


def details(models: Models, node: int) -> DetailsView:
    """What a source says of one node: property sets and quantities."""
    joined = model_blob.load_joined(models)
    if not 0 <= node < len(joined.nodes):
        # Behind the sources' nodes stand shells and joined parts, of which no source says anything.
        return DetailsView(sets=[])
    number = int(joined.member_of_node[node])
    piece, key = joined.members[number], models[number][2]
    # Several sources stand each under a node of its own name, which has no properties.
    own = node - piece.nodes.start - (1 if len(joined.members) > 1 else 0)
    if own < 0 or not piece.model.detailed:
        return DetailsView(sets=[])
    try:
        block = model_blob.load_details(key, own // DETAILS_BLOCK)
    except KeyError:  # only the structure is there yet
        return DetailsView(sets=[])
    sets = block[own % DETAILS_BLOCK]
    return DetailsView(
        sets=[
            PropertySetView(name=name, values=[PropertyView(name=key, value=value) for key, value in values])
            for name, values in sets
        ]
    )
