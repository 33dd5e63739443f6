"""The base of every rung's settings."""

from pydantic import BaseModel, ConfigDict


class Settings(BaseModel):
    """Immutable, strict about names, and readable as JSON."""

    model_config = ConfigDict(frozen=True, extra="forbid")
