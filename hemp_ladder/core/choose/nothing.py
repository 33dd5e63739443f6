"""What to say when nothing solid enters a job: what there is instead, and how it becomes solid."""

from collections import Counter

from hemp_ladder.core.choose.take import Taken
from hemp_ladder.core.findings import plural
from hemp_ladder.core.units import say_metric

#: So many layers are told one by one.
_MOST = 6


def why_nothing(taken: Taken) -> tuple[str, str]:
    """A sentence that says what there is instead of triangles, and one that says what to do."""
    model, roles = taken.model, taken.shaped.roles
    closed = Counter(model.parts[i].layer or "no layer" for i, role in roles.items() if role == "waiting")
    lines = sum(1 for role in roles.values() if role == "line")
    left = {kind: n for piece in model.members for kind, n in piece.model.leftovers.items() if n}
    there = [f"{plural(n, 'closed outline')} on {layer}" for layer, n in closed.most_common(_MOST)]
    if len(closed) > _MOST:
        there.append(f"more on {plural(len(closed) - _MOST, 'other layer')}")
    if lines:
        there.append(plural(lines, "line"))
    solid = len(roles) - sum(closed.values()) - lines
    there += [plural(n, kind) for kind, n in left.items()]
    if closed or lines:
        told = f"Nothing of it is solid yet: there {'is' if sum(closed.values()) + lines == 1 else 'are'} {', '.join(there)}."
        largest = closed.most_common(1)
        example = f"--height “{largest[0][0]}={say_metric(2.5)}”" if largest else f"--wall {say_metric(0.1)}"
        ways = (
            "Outlines become solid by a height, of all or of a layer"
            if closed
            else "Lines become walls by a width and a height"
        )
        return told, f"{ways}: on the outlines board at Receive, or {example} on the command line."
    if (len(model.columns.node) and not len(taken.rows)) or solid:
        count = plural(len(model.columns.node), "placement")
        return (
            f"Nothing enters: {count} {'is' if len(model.columns.node) == 1 else 'are'} left out by what was chosen.",
            "Take more: look at what enters at Receive, or at --take, --leave and --within on the command line.",
        )
    if there:
        return f"There is no surface in it, only {', '.join(there)}.", "Ask for the outlines or the solids themselves."
    return "There is no surface in it.", "Ask for an export with solids, surfaces or outlines."
