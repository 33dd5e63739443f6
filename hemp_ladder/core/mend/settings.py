"""What a person decides at Mend."""

from pydantic import Field

from hemp_ladder.core.settings import Settings


class MendSettings(Settings):
    """Which parts are turned inside out by hand."""

    flipped: frozenset[str] = Field(frozenset(), description="parts whose facing is reversed")
