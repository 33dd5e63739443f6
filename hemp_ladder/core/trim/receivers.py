"""Limits to start from, by what receives the mesh. Common practice, no source: objects for light planning and for web tools
stay under one to two megabytes, and triangles matter more to them than bytes; a hall of a scene is drawn from a few million."""

from hemp_ladder.core.trim.settings import Limit

RECEIVERS: tuple[Limit, ...] = (
    Limit(target="Light planning", triangles=50_000, bytes=1_000_000),
    Limit(target="Web page", triangles=100_000, bytes=2_000_000, pixels=2048, draw_calls=100),
    Limit(target="Hand-held", triangles=200_000, bytes=10_000_000, pixels=2048, draw_calls=50),
    Limit(target="Presentation", triangles=1_000_000, bytes=50_000_000, pixels=4096, draw_calls=1000),
    Limit(target="Render scene", triangles=4_000_000, bytes=500_000_000, pixels=8192),
)
