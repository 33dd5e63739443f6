"""The true surface of a face, asked at many places in one call."""

from hemp_ladder.core.facet.surface.face import TrueSurface as TrueSurface
