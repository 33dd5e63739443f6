"""What a reader says on its way, and what it hands over before it is done."""

from typing import Protocol

from hemp_ladder.core.model import Model


class Report(Protocol):
    """The reader's line to whoever waits for it.

    `skip` names entities that brought an earlier attempt down: the reader
    lists them as failed and does not touch their geometry.
    """

    skip: frozenset[int]

    def stage(self, name: str, count: int) -> None:
        """How far it is: "reading", "translating", "parts", with a count."""

    def shape(self, key: str, data: bytes) -> None:
        """A part's exact shape in the kernel's binary form, under its key."""

    def outline(self, model: Model) -> None:
        """The structure, known before any shape is."""

    def details(self, data: bytes) -> None:
        """The next block of properties, for `Model.details`."""

    def about(self, entity: int) -> None:
        """Which entity is handed to native code next, should that be the last that is heard."""
