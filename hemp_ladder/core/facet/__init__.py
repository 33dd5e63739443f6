"""Facet: every part becomes triangles once, whatever its number of placements."""

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from types import MappingProxyType

import numpy as np

from hemp_ladder.core.chain.steps import Chain, First, Operation
from hemp_ladder.core.choose.cut import Cut
from hemp_ladder.core.drawn.solid import Solid
from hemp_ladder.core.exceptions import Numbers
from hemp_ladder.core.facet.even import Even
from hemp_ladder.core.facet.longest import Longest
from hemp_ladder.core.facet.settings import (
    PURPOSES,
    Absolute,
    EdgesInForce,
    FacetException,
    FacetSettings,
    Relative,
)  # fmt: skip
from hemp_ladder.core.facet.shortest import Shortest
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.model.bodies import Wish
from hemp_ladder.core.model.model import Part

__all__ = [
    "PURPOSES",
    "Absolute",
    "FacetException",
    "FacetSettings",
    "Relative",
    "climb_facet",
    "with_edges",
]


def climb_facet(
    fitted: Fitted,
    settings: FacetSettings,
    holding: Mapping[int, Numbers] = MappingProxyType({}),
    wanted: Collection[int] | None = None,
    solids: Mapping[int, Solid] | None = None,
    coarser: float = 1.0,
) -> list[Chain | None]:
    """For each part of the model, the chain to its triangles as far as Facet; None where it has no surface, or is not
    among the wanted. Parts of equal geometry under equal settings share a key. Shells are faceted with what they are
    taken from; what is joined has none yet.

    `holding` has for each part the numbers of the exceptions that hold for it.

    `coarser` is a factor on every chord error, for a lighter level of the same job; angles follow with its root, as
    the height of an arc goes with the square of its angle.
    """
    scales = [float(source.scale) for source in fitted.sources]
    owners = fitted.model.member_of_part
    solids = solids or {}
    sizes = [0.0] * len(fitted.model.parts)
    if fitted.model.parts:
        boxes = np.array([part.box for part in fitted.model.parts])
        sizes = np.sqrt(np.square(boxes[:, 1] - boxes[:, 0]).sum(axis=1)).tolist()
    firsts: dict[tuple[str, float, float], First | None] = {}
    chains: list[Chain | None] = []
    for index, part in enumerate(fitted.model.parts):
        if wanted is not None and index not in wanted:
            chains.append(None)
            continue
        if part.shells is not None and part.shells.of != index:
            chains.append(chains[part.shells.of])
            continue
        in_force = settings.in_force(holding.get(index, ()))
        solid = solids.get(index)
        if solid is not None and solid.segments and coarser != 1:
            # As angles do: half as many segments a curve are four times as far off.
            solid = replace(solid, segments=max(3, round(solid.segments / math.sqrt(coarser))))
        wish = _wish(in_force, sizes[index], scales[owners[index]], solid, coarser)
        if wish.solid is not None:
            first = part.body.first_step(wish)
        else:
            # Thousands of parts wish the same: one step, whose key is worked out once.
            case = (part.body.kind, wish.chord, wish.angle) if part.body.has_surface else ("", 0.0, 0.0)
            if case not in firsts:
                firsts[case] = part.body.first_step(wish) if part.body.has_surface else None
            first = firsts[case]
        chains.append(_chain(part, first) if first else None)
    return chains


def with_edges(
    fitted: Fitted, settings: FacetSettings, holding: Mapping[int, Numbers], chains: Sequence[Chain | None],
    coarser: float = 1.0,
) -> list[Chain | None]:  # fmt: skip
    """The chains with what holds for the sides of triangles: short ones joined, long thin triangles cut across, long ones
    divided; behind what mends, which rounds exact edges before there are triangles."""
    nothing = EdgesInForce(None, None, None)
    if settings.edges_in_force() == nothing and all(
        (entry.shortest, entry.even, entry.longest) == nothing for entry in settings.exceptions
    ):
        return list(chains)
    scales = [float(source.scale) for source in fitted.sources]
    owners = fitted.model.member_of_part
    found: list[Chain | None] = []
    for index, chain in enumerate(chains):
        edges = settings.edges_in_force(holding.get(index, ()))
        times = math.sqrt(coarser) / scales[owners[index]]
        steps: list[Operation] = []
        if edges.shortest is not None and chain is not None:
            first = chain.first.with_sides(edges.shortest * times)
            if first is None:
                steps.append(Shortest(edge=edges.shortest * times))
            else:
                chain = replace(chain, first=first)
        if edges.even is not None:
            steps.append(Even(more=edges.even))
        if edges.longest is not None:
            steps.append(Longest(edge=edges.longest * times))
        found.append(chain and chain.then(steps))
    return found


def _wish(
    in_force: tuple[Absolute | Relative, float], size: float, scale: float, solid: Solid | None, coarser: float
) -> Wish:
    chord, angle = in_force
    length = chord.share * size if isinstance(chord, Relative) else chord.metres / scale
    # A part flatter than rounding has size 0; any positive chord error will do for it.
    return Wish(max(length * coarser, size * 1e-6, 1e-9), min(angle * math.sqrt(coarser), math.pi / 2), solid)


def _chain(part: Part, first: First) -> Chain:
    cut = (Cut(matrix=part.cut.matrix, polygon=part.cut.polygon),) if part.cut else ()
    return Chain(part.key, part.body.face_count, first, cut)
