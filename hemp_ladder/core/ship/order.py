"""The job's own order on a scene: its names, its tree, and what of it is to be one mesh."""

from dataclasses import replace

import numpy as np

from hemp_ladder.core.climb import Result
from hemp_ladder.core.ship.scene import Place, Scene, is_alone
from hemp_ladder.core.units import UNITS


def named(scene: Scene, result: Result) -> Scene:
    """Its places and surfaces by the names that were given to placements and parts."""
    order, nodes = result.order, result.model.nodes
    if order.names is None:
        return scene
    told = dict(zip(result.sorted.placements.tolist(), order.names.names, strict=True))
    of_surface: dict[int, int] = {}
    alone: dict[int, str] = {}
    for place in scene.places:
        if place.surface >= 0 and place.node >= 0:
            place.name = told.get(place.node, place.name)
            of_surface.setdefault(place.surface, nodes[place.node].part)
            if is_alone(scene.surfaces[place.surface].geometry):
                alone[place.surface] = place.name
    scene.surfaces = [
        replace(surface, name=alone.get(number) or order.parts.get(of_surface.get(number, -1), surface.name))
        for number, surface in enumerate(scene.surfaces)
    ]
    return scene


def in_own_tree(scene: Scene, result: Result, up: np.ndarray) -> Scene:
    """Its places in the job's own tree, each where it stands. `up` (3, 3) turns metres, Z up, to the scene's axes, in its
    unit. Groups stand at their pivots, others at the origin."""
    tree = result.order.tree
    if tree is None:
        return scene
    group_of = dict(zip(result.sorted.placements.tolist(), tree.of.tolist(), strict=True))
    held = np.array(tree.counts) > 0
    places = [Place("model", -1, np.eye(4))]
    points = [np.zeros(3)]
    number = {-1: 0}
    for index, group in enumerate(tree.groups):
        if not held[index]:
            continue
        above = number[group.parent]
        point = points[above] if group.pivot is None else up @ np.array(group.pivot)
        matrix = np.eye(4)
        matrix[:3, 3] = point - points[above]
        number[index] = len(places)
        places.append(Place(group.name, above, matrix, fixed=group.pivot is not None))
        points.append(point)
    for place, world in zip(scene.places, scene.world(), strict=True):
        if place.surface >= 0:
            above = number[group_of.get(place.node, -1)]
            matrix = world.copy()
            matrix[:3, 3] -= points[above]
            places.append(replace(place, parent=above, matrix=matrix))
    scene.places = places
    return scene


def turned_unit(turn: np.ndarray, unit: str) -> np.ndarray:
    """From metres, Z up, to a target's axes and unit, (3, 3)."""
    return np.asarray(turn[:3, :3] / float(UNITS[unit].metres))
