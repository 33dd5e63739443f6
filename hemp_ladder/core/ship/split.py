"""Splitting a scene into several, each to be written as files of its own; every part goes out exactly once."""

from dataclasses import replace

from hemp_ladder.core.ship.scene import Place, Scene


def by_surface(scene: Scene) -> list[tuple[str, Scene]]:
    """One scene for each surface with all its places, each in place in the whole."""
    pieces = [(surface.name, replace(scene, surfaces=[surface], places=[])) for surface in scene.surfaces]
    for place, matrix in zip(scene.places, scene.world(), strict=True):
        if place.surface >= 0:
            pieces[place.surface][1].places.append(Place(place.name, -1, matrix, 0))
    return pieces
