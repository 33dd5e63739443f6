"""What a reader says on its way, and what it hands over before it is done."""

from collections.abc import Callable
from typing import Protocol

from hemp_ladder.core.model import Model

#: Takes a part's key and its exact shape as bytes.
ShapeSink = Callable[[str, bytes], None]


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

    def shape(self, key: str, data: bytes) -> None:
        """A part's exact shape in the kernel's binary form, under its key."""

    def outline(self, model: Model) -> None:
        """The structure, known before any shape is."""

    def details(self, data: bytes) -> None:
        """The next block of properties, for `Model.details`."""

    def preview(self, data: bytes) -> None:
        """Outlines of drawn parts as lines on a plan (`core/drawn/preview.py`)."""

    def clean(self, data: bytes) -> None:
        """The file without what is foreign to its format, where there was anything."""

    def about(self, entity: int) -> None:
        """Which entity is handed to native code next, should that be the last that is heard."""


class Kept:
    """A report that keeps all it is told, for whoever reads in one process."""

    def __init__(self, skip: frozenset[int] = frozenset(), careful: bool = False) -> None:
        self.skip = skip
        self.careful = careful
        self.shapes: dict[str, bytes] = {}
        self.stages: list[tuple[str, int]] = []
        self.outlines: list[Model] = []
        self.blocks: list[bytes] = []
        self.previews: list[bytes] = []
        self.cleaned: list[bytes] = []
        self.suspects: list[int] = []

    def stage(self, name: str, count: int) -> None:
        self.stages.append((name, count))

    def shape(self, key: str, data: bytes) -> None:
        self.shapes[key] = data

    def outline(self, model: Model) -> None:
        self.outlines.append(model)

    def details(self, data: bytes) -> None:
        self.blocks.append(data)

    def preview(self, data: bytes) -> None:
        self.previews.append(data)

    def clean(self, data: bytes) -> None:
        self.cleaned.append(data)

    def about(self, entity: int) -> None:
        self.suspects.append(entity)
