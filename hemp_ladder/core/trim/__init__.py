"""Trim: fewer triangles, same look. Which lighter levels of the job there are beside the full one."""

from hemp_ladder.core.trim.settings import FULL, Level, TrimSettings

__all__ = ["FULL", "Level", "TrimSettings"]
