"""Mend: join, smooth, face outward. Operations on meshes, and which parts are turned by hand."""

from collections.abc import Sequence

from hemp_ladder.core.chain.steps import Chain, Operation
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.mend.operations import OPERATIONS
from hemp_ladder.core.mend.settings import MendOverride, MendSettings
from hemp_ladder.core.model.model import Model

__all__ = ["OPERATIONS", "MendOverride", "MendSettings", "climb_mend", "flipped_parts"]


def climb_mend(fitted: Fitted, settings: MendSettings, chains: Sequence[Chain | None]) -> list[Chain | None]:
    """The chains with the operations that are in force for each part behind them."""
    if not settings.steps and not settings.parts:
        return list(chains)
    scales = [float(source.scale) for source in fitted.sources]
    owners = fitted.model.member_of_part
    known: dict[tuple[float, str], tuple[Operation, ...]] = {}
    mended: list[Chain | None] = []
    for index, (part, chain) in enumerate(zip(fitted.model.parts, chains, strict=True)):
        if chain is None:
            mended.append(None)
            continue
        scale, ref = scales[owners[index]], part.decided_as
        case = (scale, ref if ref in settings.parts else "")
        if case not in known:
            known[case] = tuple(step.in_coordinates(scale) for step in settings.in_force(ref))
        mended.append(chain.then(known[case]))
    return mended


def flipped_parts(model: Model, settings: MendSettings) -> list[bool]:
    """For each part, whether its triangles are reversed.

    A flip costs no new mesh: whoever draws or writes the part reverses it.
    """
    return [part.decided_as in settings.flipped for part in model.parts]
