"""Settings measured in children, without keeping the meshes."""

from collections.abc import Callable, Iterator, Sequence

from hemp_ladder.core.chain.making import Order
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing.shelf import is_light

#: Seconds of processor that measuring one mesh may take: it is asked for lightly.
_SECONDS = 120.0
_TOGETHER = 64

Found = list[dict[str, float]] | Exception


def measured(
    chains: Sequence[Chain], crew: Crew, body: Callable[[str], bytes]
) -> Iterator[tuple[list[Chain], Found]]:  # fmt: skip
    """Chains that were measured together, and what was found of each, or the error that ended it; the heavy first. `body`
    gives a body by its key."""
    light = [chain for chain in chains if is_light(chain)]
    heavy = sorted((chain for chain in chains if not is_light(chain)), key=lambda chain: -chain.seconds())
    batches = [[chain] for chain in heavy]
    batches += [light[at : at + _TOGETHER] for at in range(0, len(light), _TOGETHER)]
    again: list[list[Chain]] = []
    for batch, found in _gauged(batches, crew, body):
        if isinstance(found, Exception) and len(batch) > 1:
            again += [[chain] for chain in batch]
        else:
            yield batch, found
    yield from _gauged(again, crew, body)


def _gauged(
    batches: list[list[Chain]], crew: Crew, body: Callable[[str], bytes]
) -> Iterator[tuple[list[Chain], Found]]:  # fmt: skip
    def inputs() -> Iterator[tuple[list[Order]]]:
        for batch in batches:
            yield ([Order(chain, [body(key) for key in chain.bodies]) for chain in batch],)

    for number, found in crew.map("gauge", inputs(), seconds=lambda orders: _SECONDS * len(orders)):
        yield batches[number], found
