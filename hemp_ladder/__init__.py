"""Hemp Ladder: from CAD, BIM and vector models to render-ready meshes."""

__version__ = "0.1.0"
