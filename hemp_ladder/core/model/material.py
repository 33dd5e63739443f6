"""Materials, wherever they come from: the house, a source, or the job."""

from collections.abc import Mapping
from dataclasses import dataclass

from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.finish import Finish


@dataclass(frozen=True)
class Material:
    """A finish with a name, and an id by which rules give it."""

    id: str
    name: str
    finish: Finish

    @property
    def colour(self) -> Colour:
        return self.finish.colour


#: All materials that a job may use, by id.
Palette = Mapping[str, Material]

#: What a loose end wears until someone decides.
UNDECIDED = Material("undecided", "Undecided", Finish(Colour.from_hex("#bdb6a8"), roughness=0.8))


def look_id(style: str) -> str:
    """The id of the material that a source describes under this name."""
    return f"look:{style}"


def source_id(colour: Colour) -> str:
    """The id of the material that a colour of a source stands for."""
    return f"source:{colour.hex}"
