"""What a reader says on its way, and what it hands over before it is done."""

from typing import Protocol

from hemp_ladder.core.model.bodies import BodySink
from hemp_ladder.core.model.model import Model


class Report(Protocol):
    """The reader's line to whoever waits for it.

    `skip` names entities that brought an earlier attempt down: the reader
    lists them as failed and does not touch their geometry. `careful` asks to
    go one by one, however slow, so that `about` is right every time.
    """

    skip: frozenset[int]
    careful: bool

    def stage(self, name: str, count: int) -> None:
        """How far it is: "reading", "translating", "parts", with a count."""

    def blob(self, kind: str, name: str, data: bytes) -> None:
        """Bytes that are kept beside the model, by kind and name.

        shapes    a part's body, under its key
        details   a block of properties of nodes, by its number from 0
        previews  outlines of drawn parts as lines on a plan (`core/drawn/preview.py`)
        clean     the file without what is foreign to its format, where there was anything
        """

    def skeleton(self, model: Model) -> None:
        """The structure, known before any shape is."""

    def ahead(self, model: Model) -> None:
        """Some parts whose bodies were handed over, in a model of their own, each at one place without a name: before it is
        known what they are called and where they stand. What is decided for all parts alike can be done to them."""

    def about(self, entity: int) -> None:
        """Which entity is handed to native code next, should that be the last that is heard."""


def shape_sink(report: Report) -> BodySink:
    """Where bodies go, for those who give nothing else."""
    return lambda key, data: report.blob("shapes", key, data)


class Kept:
    """A report that keeps all it is told, for whoever reads in one process."""

    def __init__(self, skip: frozenset[int] = frozenset(), careful: bool = False) -> None:
        self.skip = skip
        self.careful = careful
        self.blobs: dict[str, dict[str, bytes]] = {}
        self.stages: list[tuple[str, int]] = []
        self.skeletons: list[Model] = []
        self.early: list[Model] = []
        self.suspects: list[int] = []

    @property
    def shapes(self) -> dict[str, bytes]:
        """Bodies by key."""
        return self.blobs.setdefault("shapes", {})

    def of(self, kind: str) -> list[bytes]:
        """All blobs of a kind, as they came."""
        return list(self.blobs.get(kind, {}).values())

    def stage(self, name: str, count: int) -> None:
        self.stages.append((name, count))

    def blob(self, kind: str, name: str, data: bytes) -> None:
        self.blobs.setdefault(kind, {})[name] = data

    def skeleton(self, model: Model) -> None:
        self.skeletons.append(model)

    def ahead(self, model: Model) -> None:
        self.early.append(model)

    def about(self, entity: int) -> None:
        self.suspects.append(entity)
