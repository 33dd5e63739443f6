"""Shelves: where a climb finds its meshes, or has them made by children."""

from collections.abc import Callable, Iterator, Mapping, Sequence

from hemp_ladder.core.chain.making import Order, without
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.climb import Made
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.work.children import ChildDied, Crew
from hemp_ladder.work.meshing.ahead import Ahead
from hemp_ladder.work.meshing.allowed import allowed_seconds

#: Light chains that a child follows at once, at the most.
_TOGETHER = 128
#: Heavy chains of few faces that a child follows at once, at the most; their work together, in seconds; and into how
#: many rounds a child's share is divided at the least.
_FEW, _SMALL_WORK, _ROUNDS = 8, 1.2, 6
#: A chain that takes less than this, in seconds, is light.
_LIGHT = 0.005
#: Work of fewer seconds in all is one child's: another has often yet to import what making meshes takes, for longer.
_LITTLE = 0.25
#: Called with how many of how many meshes are made.
Progress = Callable[[int, int], None]


def is_light(chain: Chain) -> bool:
    """Whether following it takes less than handing it to a child."""
    return chain.seconds() < _LIGHT


class Maker:
    """Follows chains in a crew's children and hands over what is made as it is made.

    body   gives a body by its key
    keep   takes the chain and the meshes worth storing that were made along it, by key
    fail   takes a chain that gave no mesh, and why
    begun  for a chain of which a beginning is stored: how many steps are done, and the mesh after them
    """

    def __init__(
        self,
        crew: Crew,
        body: Callable[[str], bytes],
        keep: Callable[[Chain, Mapping[str, Mesh]], None],
        fail: Callable[[Chain, str], None],
        begun: Callable[[Chain], tuple[int, Mesh] | None] = lambda chain: None,
    ) -> None:
        self._crew, self._body, self._keep, self._fail, self._begun = crew, body, keep, fail, begun
        self._lame: list[tuple[Chain, str]] = []

    def make(self, chains: Sequence[Chain], cancelled: Callable[[], bool] = lambda: False) -> None:
        """Follow every chain.

        The heavy ones go first, so that no child is left alone with one at
        the end; light ones, which take a millisecond each, go many at a time.
        Bodies are loaded when their turn comes. Where a child dies over
        several, each is tried alone. A death alone may be no fault of the
        part: it is tried again, and then with twice the room; an error that
        would come again is not. What fails for good goes without the steps
        that can be gone without; what fails then is told to `fail`, and the
        rest goes on.
        """
        left = self._round(self._crew, self._batches(chains), False, cancelled)
        left = self._round(self._crew, left, False, cancelled)
        if left:
            with self._crew.roomier() as crew:
                self._round(crew, left, True, cancelled)
        for chain, why in self._lame:
            self._fall_back(chain, why, cancelled)
        self._lame.clear()

    def _fall_back(self, chain: Chain, why: str, cancelled: Callable[[], bool]) -> None:
        """Have a chain that failed end before the steps that can be gone without, where it has any."""
        kept = chain.before_optional()
        gone = chain.operations[len(kept.operations) :]
        if not gone:
            self._fail(chain, why)
            return
        begun = self._begun(kept)
        made: Mapping[str, Mesh] = {kept.key: begun[1]} if begun and begun[0] == len(kept.keys) else {}
        if not made:
            try:
                orders = [self._order(kept)]
            except KeyError:
                self._fail(chain, why)
                return
            for _, outcome in self._crew.map("make", iter([(orders,)]), cancelled=cancelled, seconds=allowed_seconds):
                if isinstance(outcome, Exception):
                    self._fail(chain, why)
                    return
                made = outcome[0]
        self._keep(chain, {**made, chain.key: without(made[kept.key], gone, why)})

    def _round(
        self, crew: Crew, batches: list[list[Chain]], last: bool, cancelled: Callable[[], bool]
    ) -> list[list[Chain]]:
        """Follow the chains of all batches; those whose child died, each alone, unless this was the last round."""
        again: list[list[Chain]] = []
        for number, outcome in crew.map("make", self._inputs(batches), cancelled=cancelled, seconds=allowed_seconds):
            batch = batches[number]
            if not isinstance(outcome, Exception):
                for chain, meshes in zip(batch, outcome, strict=True):
                    self._keep(chain, meshes)
            elif len(batch) == 1 and (last or not isinstance(outcome, ChildDied) or outcome.raised):
                self._lame.append((batch[0], str(outcome)))
            else:
                again += [[chain] for chain in batch]
        return again

    def _batches(self, chains: Sequence[Chain]) -> list[list[Chain]]:
        """Chains that begin alike go together, so that what they share is made once."""
        if chains and sum(chain.seconds() for chain in chains) < _LITTLE:
            return [list(chains)]
        alike: dict[str, list[Chain]] = {}
        light: list[Chain] = []
        for chain in chains:
            if is_light(chain):
                light.append(chain)
            else:
                alike.setdefault(chain.keys[0], []).append(chain)
        heavy = self._few_at_once(sorted(alike.values(), key=lambda batch: -batch[0].seconds()))
        share = max(1, min(_TOGETHER, -(-len(light) // self._crew.size)))
        count = -(-len(light) // share)
        return [*heavy, *(light[number::count] for number in range(count))]

    def _few_at_once(self, groups: list[list[Chain]]) -> list[list[Chain]]:
        """Heavy ones, the heaviest first, a few of small ones at a time: those share the work of starting each pass.
        Of few in all, and of the last, each goes alone, so that every child has some to the end."""
        size = self._crew.size
        most = min(_FEW, max(1, len(groups) // (_ROUNDS * size)))
        batches: list[list[Chain]] = []
        count, weight = 0, 0.0
        for left, group in zip(range(len(groups), 0, -1), groups, strict=True):
            seconds = group[0].seconds()
            if not batches or count >= min(most, left // size) or weight + seconds > _SMALL_WORK:
                batches.append([])
                count, weight = 0, 0.0
            batches[-1] += group
            count, weight = count + 1, weight + seconds
        return batches

    def _inputs(self, batches: list[list[Chain]]) -> Iterator[tuple[list[Order]]]:
        for batch in batches:
            orders = []
            for chain in list(batch):
                try:
                    orders.append(self._order(chain))
                except KeyError:
                    batch.remove(chain)
                    self._fail(chain, "What it is made from is not in the store any more. Read its source again.")
            yield (orders,)

    def _order(self, chain: Chain) -> Order:
        begun = self._begun(chain)
        if begun is not None:
            return Order(chain, start=begun[1], done=begun[0])
        return Order(chain, [self._body(key) for key in chain.bodies])


class MemoryShelf:
    """Keeps meshes in memory for one run of the command line; `ahead` has some that were made while it read."""

    def __init__(
        self,
        bodies: Mapping[str, bytes],
        crew: Crew,
        progress: Progress = lambda done, total: None,
        ahead: Ahead | None = None,
    ) -> None:
        self._bodies = bodies
        self._ahead = ahead
        self._crew = crew
        self._progress = progress
        self._kept: dict[str, Mesh] = {}
        self._failed: dict[str, str] = {}

    def meshes(self, chains: Sequence[Chain]) -> Made:
        coming: frozenset[str] = frozenset()
        if self._ahead is not None:
            made, coming = self._ahead.made({chain.key: chain for chain in chains})
            self._kept.update(made)
        missing = [chain for chain in chains if chain.key not in self._kept and chain.key not in self._failed]
        done = 0
        self._progress(0, len(missing))

        def ended() -> None:
            nonlocal done
            done += 1
            self._progress(done, len(missing))

        def keep(chain: Chain, meshes: Mapping[str, Mesh]) -> None:
            self._kept.update(meshes)
            ended()

        def fail(chain: Chain, why: str) -> None:
            self._failed[chain.key] = why
            ended()

        maker = Maker(self._crew, self._bodies.__getitem__, keep, fail, self._begun)
        maker.make([chain for chain in missing if chain.key not in coming])
        if self._ahead is not None and coming:
            self._kept.update(self._ahead.rest())
            maker.make([chain for chain in missing if chain.key in coming and chain.key not in self._kept])
        return Made(self._kept, self._failed)

    def _begun(self, chain: Chain) -> tuple[int, Mesh] | None:
        for done in range(len(chain.operations), 0, -1):
            if chain.keys[done - 1] in self._kept:
                return done, self._kept[chain.keys[done - 1]]
        return None
