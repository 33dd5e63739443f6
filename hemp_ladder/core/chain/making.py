"""Making meshes along chains: from bodies or from a mesh on the way, each step once, what leaves a step as it is stored."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hemp_ladder.core.chain.steps import Chain, First, Job, Operation
from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.mesh.measure import measure
from hemp_ladder.core.mesh.mesh import Mesh


@dataclass(frozen=True)
class Order:
    """A chain to follow: from the bodies it begins with, or from `start`, the mesh after its first `done` steps."""

    chain: Chain
    bodies: Sequence[bytes] = ()
    start: Mesh | None = None
    done: int = 0


def _after(mesh: Mesh, step: Operation) -> Mesh:
    """The mesh after an operation; as it was where that makes no sense of it, with the sentence that says why. One that can
    be gone without is, whatever it ends in."""
    try:
        return step.apply(mesh)
    except SettingsError as error:
        return without(mesh, [step], f"{error.message} {error.remedy}".strip())
    except Exception as error:
        if not step.optional:
            raise
        return without(mesh, [step], f"It gave up: {type(error).__name__}: {error}"[:300])


def without(mesh: Mesh, steps: Sequence[Operation], why: str) -> Mesh:
    """A mesh that went without these operations, and why."""
    refused = {**mesh.figures.refused, **{step.name(): why for step in steps}}
    return replace(mesh, figures=replace(mesh.figures, refused=refused))


def make(orders: Sequence[Order]) -> list[dict[str, Mesh]]:
    """For each order the meshes that are worth storing, by key, the wanted one among them; all measured.

    First steps of a kind are made together. Chains that begin alike share what they share.
    """
    known: dict[str, Mesh] = {}
    fresh: dict[type[First], dict[str, Order]] = defaultdict(dict)
    for order in orders:
        if order.start is not None:
            known[order.chain.keys[order.done - 1]] = order.start
        else:
            fresh[type(order.chain.first)].setdefault(order.chain.keys[0], order)
    for kind, alike in fresh.items():
        made = kind.make([Job(order.chain.first, order.bodies) for order in alike.values()])
        known.update((key, mesh.settled()) for key, mesh in zip(alike, made, strict=True))
    for order in orders:
        keys = order.chain.keys
        for number, step in enumerate(order.chain.operations, 1):
            if keys[number] not in known and number >= order.done:
                known[keys[number]] = _after(known[keys[number - 1]], step).settled()
    given = {order.chain.keys[order.done - 1] for order in orders if order.start is not None}
    wanted = dict.fromkeys(key for order in orders for key in order.chain.stored if key in known and key not in given)
    suspect = {
        key for order in orders if order.chain.first.faulty or order.chain.operations for key in order.chain.stored
    }
    found = dict(zip(wanted, measure([known[key] for key in wanted], [key in suspect for key in wanted]), strict=True))
    return [{key: found[key] for key in order.chain.stored if key in found} for order in orders]
