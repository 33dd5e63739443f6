"""Trim: fewer triangles, same look. What every part is made lighter by, and which lighter levels there are beside the full
one."""

from collections.abc import Mapping, Sequence

from hemp_ladder.core.chain.steps import Chain, Operation
from hemp_ladder.core.exceptions import Numbers
from hemp_ladder.core.fit import Fitted
from hemp_ladder.core.trim.settings import FULL, Level, Limit, TrimException, TrimSettings

__all__ = ["FULL", "Level", "Limit", "TrimException", "TrimSettings", "climb_trim"]


def climb_trim(
    fitted: Fitted, settings: TrimSettings, holding: Mapping[int, Numbers], chains: Sequence[Chain | None],
    level: Level | None = None,
) -> list[Chain | None]:  # fmt: skip
    """The chains with the operations that are in force for each part behind them, and behind those what makes the level.

    `holding` has for each part the numbers of the exceptions that hold for it.
    """
    if not settings.steps and not settings.exceptions and not (level and level.steps):
        return list(chains)
    scales = [float(source.scale) for source in fitted.sources]
    owners = fitted.model.member_of_part
    known: dict[tuple[float, Numbers], list[Operation]] = {}

    def steps(index: int) -> list[Operation]:
        case = (scales[owners[index]], holding.get(index, ()))
        if case not in known:
            own = [step for step, _ in settings.in_force(case[1]).values()]
            known[case] = [step.in_coordinates(case[0]) for step in (*own, *(level.steps if level else ()))]
        return known[case]

    return [chain.then(steps(index)) if chain is not None else None for index, chain in enumerate(chains)]
