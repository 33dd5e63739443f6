"""Fit: unit, up axis and place as one double-precision matrix a source."""

from hemp_ladder.core.fit.matrix import (
    Fitted,
    FittedSource,
    climb_fit,
    corners_of,
    metres_in,
    moved_box,
    turn_from_z,
    turn_to_z,
)
from hemp_ladder.core.fit.settings import AXES, Axis, FitSettings, SourceFit, Spot

__all__ = [
    "AXES",
    "Axis",
    "FitSettings",
    "Fitted",
    "FittedSource",
    "SourceFit",
    "Spot",
    "climb_fit",
    "corners_of",
    "metres_in",
    "moved_box",
    "turn_from_z",
    "turn_to_z",
]
