"""Mend: facing. Which parts are turned by hand, and what each mesh says of itself."""

from hemp_ladder.core.mend.settings import MendSettings
from hemp_ladder.core.model import Model

__all__ = ["MendSettings", "climb_mend"]


def climb_mend(model: Model, settings: MendSettings) -> list[bool]:
    """For each part, whether its triangles are reversed.

    A flip costs no new mesh: whoever draws or writes the part reverses it.
    """
    return [part.decided_as in settings.flipped for part in model.parts]
