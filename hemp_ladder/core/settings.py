"""The base of every rung's settings, and what is offered for a number among them."""

from dataclasses import dataclass

from pydantic import BaseModel, ConfigDict


class Settings(BaseModel):
    """Immutable, strict about names, and readable as JSON."""

    model_config = ConfigDict(frozen=True, extra="forbid")


@dataclass(frozen=True)
class Range:
    """Values that make sense for a number, and the one to start from. What can be typed may go further."""

    least: float
    most: float
    start: float
