"""A tree of objects that hold one another, as several formats keep it: laid out as nodes, each placement one."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.model.model import Matrix
from hemp_ladder.core.receive.meshed.parts import Builder

#: Levels and nodes of a tree that are taken: a kilobyte of doublings is a million placements.
DEEPEST, MOST_NODES = 500, 1_000_000


@dataclass(frozen=True)
class Below:
    """Something that stands in an object: its id there, its placement, a name of its own."""

    id: str
    local: Matrix
    name: str = ""


@dataclass(frozen=True)
class Thing:
    """An object: its name, the part it is, and what stands in it."""

    name: str
    part: int | None
    below: Sequence[Below] = ()


def lay_out(builder: Builder, find: Callable[[str], Thing | None], roots: Sequence[Below], what: str) -> None:
    """Nodes for what stands below the roots. Raises UnreadableSource for a tree that goes in a circle or has no end."""
    #: What is open above, as ids: one that is met again below itself is a circle.
    stack: list[tuple[Below, int, frozenset[str]]] = [(root, -1, frozenset()) for root in reversed(roots)]
    while stack:
        item, above, path = stack.pop()
        thing = find(item.id)
        if thing is None:
            builder.dangling.append(item.id)
            continue
        if item.id in path or len(path) > DEEPEST or len(builder.nodes) >= MOST_NODES:
            raise UnreadableSource(
                f"The {what} file is damaged: its tree goes in a circle or has no end.", "Ask for it again."
            )
        label = builder.parts[thing.part].label if thing.part is not None else ""
        # What holds one thing and is nothing itself is that thing.
        here = builder.node((item.name or thing.name or label or "group")[:500], above, thing.part, item.local)
        stack += [(child, here, path | {item.id}) for child in reversed(thing.below)]
