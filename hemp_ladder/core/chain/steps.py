"""Steps: one operation with its settings each; chains: the steps that lead from a part's body to a wanted mesh.

Every mesh on the way has a key made from the key before it and the step, so
that a change redoes what comes after it and nothing else.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, ClassVar, Generic, Self, TypeVar, Union

from pydantic import Field

from hemp_ladder.core.keys import content_key
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.settings import Range, Settings


class Step(Settings):
    """One operation with its settings, validated. Lengths in a chain are in the part's source coordinates.

    Subclasses have a field `does`, a literal with the step's name.
    """

    #: Raise when the step gives other triangles for the same input.
    version: ClassVar[int] = 1
    #: Whether what it makes is worth storing when other steps follow.
    kept: ClassVar[bool] = True
    does: Any

    @cached_property
    def as_key(self) -> str:
        """What it adds to a key."""
        return f"{self.version}:{self.model_dump_json()}"

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """With other settings; what was worked out from the old ones does not go along."""
        copied = super().model_copy(update=update, deep=deep)
        copied.__dict__.pop("as_key", None)
        return copied


class First(Step):
    """A first step: triangles from a part's body."""

    #: Whether triangles that it gives may go through each other.
    faulty: ClassVar[bool] = False

    @property
    def others(self) -> tuple[str, ...]:
        """Keys of further bodies that it needs beside the part's own."""
        return ()

    @classmethod
    def make(cls, jobs: "Sequence[Job[Self]]") -> list[Mesh]:
        """A mesh for each job. Raises LadderError where a body cannot be made into one."""
        raise NotImplementedError

    @property
    def fineness(self) -> tuple[float, float] | None:
        """Chord error in source coordinates and angle in radians, where it has them."""
        return None

    def with_operation(self, operation: "Operation") -> "Self | None":
        """The step that does the operation too, where that is better than doing it to the triangles."""
        return None

    def with_sides(self, shortest: float) -> "Self | None":
        """The step that keeps sides of curves from being shorter, where that is better done before there are triangles."""
        return None

    def bare(self) -> "Self":
        """The step without any operation that it does too."""
        return self

    def seconds(self, faces: int) -> float:
        """About how long it takes, for a body of so many faces."""
        return 0.01 * faces


@dataclass(frozen=True)
class Option:
    """How an operation is asked for on the command line: `--` and its name, with a value; `alone` is what it stands for
    without one, where it may."""

    metavar: str
    help: str
    alone: str | None = None


class Operation(Step):
    """A step from a mesh to a mesh, which a person can decide on: its lengths are then in metres."""

    #: None where it cannot be asked for on the command line by itself.
    option: ClassVar[Option | None] = None
    #: What is offered for its numbers, by their names.
    ranges: ClassVar[Mapping[str, Range]] = {}
    #: Whether a part is better off without it than without a mesh, should it fail or bring its child down.
    optional: ClassVar[bool] = False

    @classmethod
    def name(cls) -> str:
        """What `does` says."""
        return str(cls.model_fields["does"].default)

    @classmethod
    def from_option(cls, text: str) -> Self | None:
        """The operation as the command line asks for it; None for "not done". Raises SettingsError for other text."""
        raise NotImplementedError

    def apply(self, mesh: Mesh) -> Mesh:
        """The mesh after it. Raises SettingsError where the settings make no sense for it."""
        raise NotImplementedError

    def in_coordinates(self, metres: float) -> Self:
        """The same with its lengths in source coordinates, one of which is so many metres."""
        return self

    def seconds(self, triangles: int) -> float:
        """About how long it takes, on a mesh of so many triangles."""
        return 2e-6 * triangles


F = TypeVar("F", bound=First)


@dataclass(frozen=True)
class Job(Generic[F]):
    """What a first step is given: its settings, and the bodies as bytes, the part's own before those of `others`."""

    step: F
    bodies: Sequence[bytes]


@dataclass(frozen=True)
class Chain:
    """The steps from the body with the key `part`, which has so many faces, to a mesh."""

    part: str
    faces: int
    first: First
    operations: tuple[Operation, ...] = ()

    @cached_property
    def keys(self) -> tuple[str, ...]:
        """The key of the mesh after each step."""
        keys = [content_key(f"{self.part}>{self.first.as_key}".encode())]
        for step in self.operations:
            keys.append(content_key(f"{keys[-1]}>{step.as_key}".encode()))
        return tuple(keys)

    def then(self, operations: Sequence[Operation]) -> "Chain":
        """With more operations behind it."""
        return Chain(self.part, self.faces, self.first, (*self.operations, *operations)) if operations else self

    def before_optional(self) -> "Chain":
        """As far as the first step that can be gone without."""
        kept = next((n for n, step in enumerate(self.operations) if step.optional), len(self.operations))
        return Chain(self.part, self.faces, self.first, self.operations[:kept])

    @property
    def key(self) -> str:
        """Of the mesh that is wanted."""
        return self.keys[-1]

    @property
    def stored(self) -> tuple[str, ...]:
        """Keys of the meshes on the way that are worth storing, the wanted one last."""
        steps = (self.first, *self.operations)
        return tuple(
            key for key, step in zip(self.keys, steps, strict=True) if step.kept or key == self.key
        )  # fmt: skip

    @property
    def bodies(self) -> tuple[str, ...]:
        """Keys of the bodies that it begins with, the part's own first."""
        return (self.part, *self.first.others)

    def seconds(self) -> float:
        """About how long all of it takes, to put heavy ones first."""
        return self.first.seconds(self.faces)

    def as_dict(self) -> dict[str, Any]:
        """For a queue that speaks JSON."""
        steps = [step.model_dump(mode="json") for step in (self.first, *self.operations)]
        return {"part": self.part, "faces": self.faces, "steps": steps}


def one_of(operations: Sequence[type[Operation]]) -> Any:
    """The type of any of these operations, told apart by what they do: for settings that hold some."""
    if len(operations) == 1:
        return operations[0]
    return Annotated[Union[tuple(operations)], Field(discriminator="does")]  # noqa: UP007


def each_once(steps: tuple[Operation, ...]) -> tuple[Operation, ...]:
    """A validator: one step of a kind. Of two the last holds."""
    return tuple({step.does: step for step in steps}.values())
