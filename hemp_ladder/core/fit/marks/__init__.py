"""Marks: what can be picked exactly on a part, its corners, edges, circles and flat faces, in its own coordinates."""

from hemp_ladder.core.fit.marks.marks import MARKS_VERSION, Kind, Marks, MarksBuilder

__all__ = ["MARKS_VERSION", "Kind", "Marks", "MarksBuilder"]
