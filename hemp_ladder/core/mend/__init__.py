"""Mend: join, put right, face outward, round, smooth. Operations on meshes, and what is turned, split and joined by hand."""

from collections import defaultdict
from collections.abc import Mapping, Sequence

from hemp_ladder.core.chain.steps import Chain, Operation
from hemp_ladder.core.exceptions import Numbers
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.mend.operations import BEFORE_SHELLS, OPERATIONS
from hemp_ladder.core.mend.settings import HandTurn, MendException, MendSettings
from hemp_ladder.core.mend.shells.pick import Pick
from hemp_ladder.core.mend.shells.split import Split
from hemp_ladder.core.mend.shells.turned import Turn
from hemp_ladder.core.model.model import Model, Part

__all__ = ["OPERATIONS", "MendException", "MendSettings", "climb_mend", "flipped_parts"]

_EARLY = frozenset(operation.name() for operation in OPERATIONS[:BEFORE_SHELLS])


def climb_mend(
    fitted: Fitted, settings: MendSettings, holding: Mapping[int, Numbers], chains: Sequence[Chain | None]
) -> list[Chain | None]:
    """The chains with the operations that are in force for each part behind them.

    A shell is taken out once its part is welded, repaired and faced; what
    comes after is its own. `holding` has for each part the numbers of the
    exceptions that hold for it.
    """
    parts = fitted.model.parts
    apart = any(part.shells for part in parts)
    if not settings.steps and not settings.exceptions and not settings.turned and not apart:
        return list(chains)
    scales = [float(source.scale) for source in fitted.sources]
    owners = fitted.model.member_of_part
    known: dict[tuple[float, Numbers], tuple[list[Operation], list[Operation]]] = {}
    turns = _turns(settings.turned)

    def steps(index: int) -> tuple[list[Operation], list[Operation]]:
        case = (scales[owners[index]], holding.get(index, ()))
        if case not in known:
            found = [step.in_coordinates(case[0]) for step, _ in settings.in_force(case[1]).values()]
            early = [step for step in found if step.name() in _EARLY]
            known[case] = early, [step for step in found if step.name() not in _EARLY]
        return known[case]

    mended: list[Chain | None] = []
    for index, (part, chain) in enumerate(zip(parts, chains, strict=True)):
        if chain is None:
            mended.append(None)
            continue
        whole = part.shells.of if part.shells else index
        turn = turns.get(parts[whole].ref)
        by_hand = [*([turn] if turn else []), *_picked(part)]
        mended.append(_with(chain, [*steps(whole)[0], *by_hand, *steps(index)[1]]))
    return mended


def _picked(part: Part) -> list[Operation]:
    """What makes a part of shells of what is there."""
    return [Split(), Pick(points=part.shells.points, rest=part.shells.rest)] if part.shells else []


def _turns(turned: Sequence[HandTurn]) -> dict[str, Turn]:
    """What was turned by hand, by part."""
    found: dict[str, list[HandTurn]] = defaultdict(list)
    for item in turned:
        found[item.part].append(item)
    return {
        ref: Turn(
            shells=tuple(item.at for item in items if item.what == "shell"),
            faces=tuple(item.at for item in items if item.what == "face"),
        )
        for ref, items in found.items()
    }  # fmt: skip


def _with(chain: Chain, steps: Sequence[Operation]) -> Chain:
    """The chain with operations behind it, but those that its first step does itself where nothing stands between."""
    left = []
    for step in steps:
        first = chain.first.with_operation(step) if not chain.operations else None
        if first is None:
            left.append(step)
        else:
            chain = Chain(chain.part, chain.faces, first)
    return chain.then(left)


def flipped_parts(model: Model, settings: MendSettings) -> list[bool]:
    """For each part, whether its triangles are reversed.

    A flip costs no new mesh: whoever draws or writes the part reverses it.
    """
    return [part.decided_as in settings.flipped for part in model.parts]
