"""Meshing parts while the rest of their source is still being read.

What a part is called and where it stands is not known yet, so its chain is that of a part of which nobody decided anything
by itself. It usually holds in the end; where it does not, its key is another, and the mesh is made then.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping
from queue import SimpleQueue
from threading import Event, Thread
from types import MappingProxyType

from hemp_ladder.core.chain.making import Order
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.model import Model
from hemp_ladder.work.children import Crew
from hemp_ladder.work.meshing.allowed import allowed_seconds

#: So many chains the child follows at once, and so many seconds are waited for them in the end.
_TOGETHER, _SHORTLY = 8, 0.5
#: Work of fewer seconds than the first is done sooner by the child that is ready, when it is free, than by one that has yet
#: to import what making meshes takes: so many seconds more are waited for it.
_LITTLE, _LONGER = 0.5, 2.0


class Ahead:
    """Makes meshes in a child beside those of a crew. Use as a context; nothing goes on after it.

    bodies   has the bodies of all parts that are told of, by key
    chains   gives the chains of parts told of
    """

    def __init__(
        self, crew: Crew, bodies: Mapping[str, bytes], chains: Callable[[Model], Iterable[Chain]]
    ) -> None:  # fmt: skip
        self._crew, self._bodies, self._chains = crew, bodies, chains
        self._told: SimpleQueue[Model | None] = SimpleQueue()
        self._made: dict[str, Mesh] = {}
        self._begun: set[str] = set()
        self._enough, self._leave = Event(), Event()
        self._thread: Thread | None = None

    def __enter__(self) -> "Ahead":
        return self

    def __exit__(self, *_: object) -> None:
        self._leave.set()
        self._stop()
        if self._thread is not None:
            self._thread.join()

    def add(self, model: Model) -> None:
        """Some parts, whose bodies are there."""
        if self._thread is None:
            self._thread = Thread(target=self._work)
            self._thread.start()
        self._told.put(model)

    def made(self, wanted: Mapping[str, Chain]) -> tuple[Mapping[str, Mesh], frozenset[str]]:
        """What there is, by key, and those of the wanted keys that will be there after `rest`. From now on nothing else is
        begun, and what is being made of which nothing is wanted is given up."""
        self._stop()
        if self._thread is not None:
            # Shortly it will be done with what it has begun, and its child there for the others.
            self._thread.join(_SHORTLY)
            begun = self._begun & wanted.keys()
            if begun and sum(wanted[key].seconds() for key in wanted.keys() - begun) < _LITTLE:
                self._thread.join(_LONGER)
        done = dict(self._made)
        coming = frozenset((self._begun & wanted.keys()) - done.keys())
        if not coming:
            self._leave.set()
        return MappingProxyType(done), coming

    def rest(self) -> Mapping[str, Mesh]:
        """All that was made, after waiting for what is being made."""
        self._stop()
        if self._thread is not None:
            self._thread.join()
        return MappingProxyType(self._made)

    def _stop(self) -> None:
        self._enough.set()
        self._told.put(None)

    def _work(self) -> None:
        with self._crew.beside() as crew:
            try:
                batches = self._batches()
                for _, outcome in crew.map("make", batches, cancelled=self._leave.is_set, seconds=allowed_seconds):
                    # What failed is tried again by who needs it, and told of then.
                    for meshes in outcome if not isinstance(outcome, Exception) else ():
                        self._made.update(meshes)
            except Exception:
                # Nothing depends on it: who needs the meshes runs into the same, and tells of it.
                return

    def _batches(self) -> Iterator[tuple[list[Order]]]:
        while (model := self._told.get()) is not None and not self._enough.is_set():
            wanted = list({chain.key: chain for chain in self._chains(model) if chain.key not in self._begun}.values())
            for start in range(0, len(wanted), _TOGETHER):
                if self._enough.is_set():
                    return
                some = wanted[start : start + _TOGETHER]
                self._begun.update(chain.key for chain in some)
                yield ([Order(chain, [self._bodies[key] for key in chain.bodies]) for chain in some],)
