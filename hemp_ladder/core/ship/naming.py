"""Names held against what the target takes, before anything ships."""

from collections import Counter
from collections.abc import Iterable, Iterator

from hemp_ladder.core.findings import Finding, clip, finding, plural
from hemp_ladder.core.ship.names import Fitting
from hemp_ladder.core.ship.settings import Target

#: So many are told with what they become.
_SHOWN = 3


def review_names(target: Target, things: Iterable[str], materials: Iterable[str]) -> Iterator[Finding]:
    """What of the names of placements, parts and materials the target does not take, and what it ships as."""
    if not target.limits_names:
        return
    fitting = Fitting(target.longest_name, target.plain_names)
    for what, several, found in (("name", "names", things), ("material", "materials", materials)):
        times = Counter(found)
        told = {name: fitting.alone(name, "part" if what == "name" else "material") for name in times}
        unfit = [name for name, fit in told.items() if fit != name]
        if not unfit:
            continue
        taken = Counter(told.values())
        alike = sum(taken[told[name]] > 1 for name in unfit)
        shown = ", ".join(f"“{clip(name, 40)}” as “{clip(told[name], 40)}”" for name in unfit[:_SHOWN])
        also = (
            f" {plural(alike, 'of them becomes', 'of them become')} another's namesake and gets a number."
            if alike
            else ""
        )
        yield finding(
            "unfit-names", several,
            f"{plural(len(unfit), what, several)} {'does' if len(unfit) == 1 else 'do'} not fit the target "
            f"({_limits(target)}) and will ship otherwise: {shown}{' and so on' if len(unfit) > _SHOWN else ''}.{also}",
        )  # fmt: skip


def _limits(target: Target) -> str:
    told = []
    if target.longest_name is not None:
        told.append(f"at most {target.longest_name} letters")
    if target.plain_names:
        told.append("A to Z, digits, dash and underscore")
    return ", ".join(told)
