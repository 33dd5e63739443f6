"""A small picture of a model that brought triangles: points spread over its surfaces, the nearest seen."""

import io
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.finish import Map
from hemp_ladder.core.model.laying import laid
from hemp_ladder.core.model.model import Model, Part

Array = NDArray[np.float64]
#: Points in all, and at least on each placement; placements that are drawn.
_POINTS, _LEAST, _MOST_PLACEMENTS = 600_000, 60, 4000
#: From where it is seen, with Z up: as the stage's first view. And where light comes from.
_FROM, _LIGHT = np.array([0.42, -1.0, 0.34]), np.array([-0.45, -0.65, 0.75])
_PLAIN = (0.74, 0.71, 0.66)
#: Sides of a texture that is looked at.
_SAMPLED = 256


@dataclass(frozen=True)
class _Points:
    places: Array
    normals: Array
    colours: Array


def glance(
    model: Model, turn: Array, mesh_of: Callable[[Part], Mesh | None], picture: Callable[[str], bytes],
    width: int, height: int,
) -> bytes | None:  # fmt: skip
    """The model as a PNG with clear ground, seen from the front right above after `turn` (3, 3) put it upright; None where
    it has no triangles."""
    found = list(_spread(model, mesh_of, picture))
    if not found:
        return None
    places, normals, colours = (
        np.concatenate([getattr(item, name) for item in found]) for name in ("places", "normals", "colours")
    )
    places, normals = places @ turn.T, normals @ turn.T
    back = _FROM / np.linalg.norm(_FROM)
    right = np.cross([0.0, 0.0, 1.0], back)
    right /= np.linalg.norm(right)
    up = np.cross(back, right)
    flat = places @ np.column_stack([right, up])
    low, high = flat.min(axis=0), flat.max(axis=0)
    scale = 0.94 * min(width / max(high[0] - low[0], 1e-12), height / max(high[1] - low[1], 1e-12))
    spots = (flat - (low + high) / 2) * scale
    across, down = (
        np.rint(spots[:, 0] + width / 2 - 0.5).astype(int),
        np.rint(height / 2 - 0.5 - spots[:, 1]).astype(int),
    )
    # Either side is lit: which one faces out is not what a glance is for.
    facing = np.where((normals @ back < 0)[:, None], -normals, normals)
    light = 0.38 + 0.62 * np.clip(facing @ (_LIGHT / np.linalg.norm(_LIGHT)), 0, 1)
    shown = np.clip(colours * light[:, None], 0, 1)
    # Far ones first: what is nearer is written over them.
    order = np.argsort(places @ back)
    image = np.zeros((height, width, 4), np.uint8)
    for right_by, down_by in ((1, 1), (0, 1), (1, 0), (0, 0)):
        x, y = across[order] + right_by, down[order] + down_by
        inside = (x >= 0) & (x < width) & (y >= 0) & (y < height)
        own = np.concatenate([np.rint(shown[order][inside] * 255), np.full((int(inside.sum()), 1), 255.0)], axis=1)
        image[y[inside], x[inside]] = own.astype(np.uint8)
    return _png(image)


def _png(image: NDArray[np.uint8]) -> bytes:
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(image).save(out, "PNG")
    return out.getvalue()


def _spread(model: Model, mesh_of: Callable[[Part], Mesh | None], picture: Callable[[str], bytes]) -> Iterator[_Points]:
    """Points by area over every placement."""
    world = model.world()
    meshes: dict[int, Mesh | None] = {}
    areas: list[tuple[int, float]] = []
    for node in model.placements[:_MOST_PLACEMENTS]:
        part = model.nodes[node].part
        if part not in meshes:
            meshes[part] = mesh_of(model.parts[part])
        mesh = meshes[part]
        if mesh is not None and len(mesh.triangles):
            size = abs(float(np.linalg.det(world[node][:3, :3]))) ** (2 / 3)
            areas.append((node, max(mesh.area() * size, 1e-30)))
    whole = sum(area for _, area in areas)
    chance = np.random.default_rng(1)
    pictures: dict[str, Array | None] = {}
    for node, area in areas:
        part = model.nodes[node].part
        mesh = meshes[part]
        assert mesh is not None
        count = max(_LEAST, int(_POINTS * area / whole))
        yield _on(mesh, model, model.parts[part], world[node], count, chance, pictures, picture)


def _on(
    mesh: Mesh, model: Model, part: Part, matrix: Array, count: int, chance: np.random.Generator,
    pictures: dict[str, Array | None], picture: Callable[[str], bytes],
) -> _Points:  # fmt: skip
    corners = (mesh.positions @ matrix[:3, :3].T + matrix[:3, 3])[mesh.triangles]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(across, axis=1)
    share = np.cumsum(area)
    chosen = np.searchsorted(share, chance.random(count) * share[-1]).clip(0, len(area) - 1)
    # Evenly over a triangle (G. Turk, "Generating random points in triangles", Graphics Gems, 1990).
    root, other = np.sqrt(chance.random(count)), chance.random(count)
    weights = np.stack([1 - root, root * (1 - other), root * other], axis=1)
    places = np.einsum("nk,nkd->nd", weights, corners[chosen])
    normals = across[chosen] / np.maximum(area[chosen, None], 1e-300)
    colours = np.empty((count, 3))
    colours[:] = _PLAIN
    groups = mesh.faces.labels[chosen]
    for group in np.unique(groups):
        own = groups == group
        look = model.looks.get(part.face_styles.get(int(group), part.style or "") or "")
        colour = look.colour if look else part.face_colours.get(int(group), part.colour)
        if colour is not None:
            colours[own] = (colour.red, colour.green, colour.blue)
        worn = look.map("base colour") if look else None
        if worn is not None and "uv" in mesh.attributes:
            uv = np.einsum("nk,nkd->nd", weights[own], mesh.attributes["uv"][mesh.triangles[chosen[own]]].astype(float))
            shown = _sampled(worn, uv, pictures, picture)
            if shown is not None:
                colours[own] *= shown
    return _Points(places, normals, colours)


def _sampled(worn: Map, uv: Array, pictures: dict[str, Array | None], picture: Callable[[str], bytes]) -> Array | None:
    """A picture's colours at UV, from a small copy of it."""
    from PIL import Image

    if worn.picture not in pictures:
        try:
            with Image.open(io.BytesIO(picture(worn.picture))) as opened:
                opened.draft("RGB", (_SAMPLED, _SAMPLED))
                small = opened.convert("RGB")
            small.thumbnail((_SAMPLED, _SAMPLED))
            pictures[worn.picture] = np.asarray(small).astype(float) / 255
        except (KeyError, OSError):
            pictures[worn.picture] = None
    image = pictures[worn.picture]
    if image is None:
        return None
    tall, wide = image.shape[:2]
    u, v = laid(uv, worn).T
    v = 1 - v
    return np.asarray(image[(np.floor(v * tall) % tall).astype(int), (np.floor(u * wide) % wide).astype(int)])
