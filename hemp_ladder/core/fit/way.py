"""`Way`: one move of a person at Fit."""

from typing import Any

from pydantic import Field

from hemp_ladder.core.fit.standing import Standing
from hemp_ladder.core.refs import SourceRef
from hemp_ladder.core.settings import Settings


class Way(Settings):
    """One move at Fit. `sources` it is of; all where none is named."""

    does: Any
    sources: tuple[SourceRef, ...] = Field((), max_length=1000)

    def apply(self, standing: Standing) -> Standing:
        """What stands after it. Raises SettingsError where it makes no sense."""
        raise NotImplementedError
