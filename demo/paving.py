"""The quay as somebody else's program sent it: flats cut into thousands of triangles, bollards as fine as for a macro lens."""

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.ship.glb import GlbWriter

Array = NDArray[np.float64]
#: The deck is so long and deep, in metres, with drains of so many sides in it.
LONG, DEEP, THICK = 14.0, 5.0, 0.45
DRAINS, SIDES = 10, 12
#: Each triangle of the deck's least cover is divided into four so often.
FINE = 2
BOLLARDS = (1.2, 4.1, 7.0, 9.9, 12.8)


def least() -> int:
    """Triangles of the deck's least cover: n + 2 h - 2 above and below, two for every wall."""
    corners = 4 + DRAINS * SIDES
    return 2 * (corners + 2 * DRAINS - 2) + 2 * corners


def write_paving(path: Path) -> None:
    writer = GlbWriter()
    looks = {"Granite": (0.31, 0.29, 0.26, 0.9, 0.0), "Bollard paint": (0.02, 0.022, 0.025, 0.45, 0.0),
             "Galvanised": (0.52, 0.53, 0.53, 0.4, 1.0)}  # fmt: skip
    names = list(looks)
    meshes: list[dict[str, Any]] = []

    def mesh(name: str, spots: Array, normals: Array, triangles: NDArray[np.int32], look: str) -> int:
        told = writer.vertices(spots, {"normal": normals.astype(np.float32)})
        indices = writer.indices(triangles, len(spots))
        meshes.append({
            "name": name, "primitives": [{"attributes": told, "indices": indices, "material": names.index(look)}],
        })  # fmt: skip
        return len(meshes) - 1

    deck, kerb = mesh("Deck", *_deck(), "Granite"), mesh("Kerb", *_kerb(), "Granite")
    bollard = mesh("Bollard", *_turned(_PROFILE, 96), "Bollard paint")
    ring = mesh("Mooring ring", *_ring(), "Galvanised")
    nodes: list[dict[str, Any]] = [
        {"name": "Deck", "mesh": deck},
        {"name": "Kerb", "mesh": kerb, "translation": [0, THICK, 0]},
    ]
    for k, x in enumerate(BOLLARDS):
        nodes.append({"name": f"Bollard {k + 1}", "mesh": bollard, "translation": [x, THICK, 0.7]})
        nodes.append({"name": f"Ring {k + 1}", "mesh": ring, "translation": [x + 1.3, 0.2, -0.03]})
    nodes.append(_camera(writer.json))
    writer.json["meshes"] = meshes
    writer.json["materials"] = [
        {"name": name, "pbrMetallicRoughness": {
            "baseColorFactor": [*look[:3], 1], "roughnessFactor": look[3], "metallicFactor": look[4]}}
        for name, look in looks.items()
    ]  # fmt: skip
    writer.json["nodes"] = nodes
    writer.json["scenes"] = [{"nodes": list(range(len(nodes)))}]
    writer.json["asset"] = {"version": "2.0", "generator": "Gull Rock model shelf"}
    head = writer.head()
    with path.open("wb") as file:
        writer.write(file, head)


def _camera(document: dict[str, Any]) -> dict[str, Any]:
    """From a boat: level, 24 m off."""
    document["cameras"] = [
        {
            "name": "From the boat",
            "type": "perspective",
            "perspective": {"yfov": 0.35, "aspectRatio": 1.78, "znear": 0.1},
        }
    ]
    turn = [0, 1, 0, 0]
    return {"name": "From the boat", "camera": 0, "translation": [LONG / 2, 1.6, -24], "rotation": turn}


def _deck() -> tuple[Array, Array, NDArray[np.int32]]:
    """A slab with drains through it, up along Y."""
    import manifold3d as m3
    import trimesh

    flat = m3.CrossSection.square((LONG, DEEP))
    for k in range(DRAINS):
        flat -= m3.CrossSection.circle(0.12, SIDES).translate((0.8 + 1.35 * k, 2.4 + 0.6 * (k % 2)))
    body = m3.Manifold.extrude(flat, THICK).to_mesh64()
    spots, triangles = np.array(body.vert_properties)[:, :3], np.array(body.tri_verts).astype(int)
    for _ in range(FINE):
        spots, triangles = trimesh.remesh.subdivide(spots, triangles)
    # Across and up become Z and Y, which turns triangles over.
    return _flat(spots[:, [0, 2, 1]], triangles[:, ::-1])


def _kerb() -> tuple[Array, Array, NDArray[np.int32]]:
    import trimesh

    box = trimesh.creation.box((LONG, 0.12, 0.3))
    box.apply_translation((LONG / 2, 0.06, 0.15))
    for _ in range(4):
        box = box.subdivide()
    return _flat(np.array(box.vertices), np.array(box.faces))


def _flat(spots: Array, triangles: NDArray[np.integer]) -> tuple[Array, Array, NDArray[np.int32]]:
    """With a vertex for each place and flat normal."""
    corners = spots[triangles]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = np.round(across / np.linalg.norm(across, axis=1)[:, None], 9) + 0.0
    rows = np.concatenate([corners.reshape(-1, 3), np.repeat(normals, 3, axis=0)], axis=1)
    kept, index = np.unique(rows, axis=0, return_inverse=True)
    return kept[:, :3], kept[:, 3:], index.reshape(-1, 3).astype(np.int32)


#: Radius and height along a bollard, in metres.
_PROFILE = (
    (0.0, 0.0), (0.3, 0.0), (0.3, 0.05), (0.22, 0.09), (0.17, 0.16), (0.155, 0.26), (0.16, 0.36), (0.2, 0.43), (0.245, 0.47),
    (0.25, 0.52), (0.22, 0.57), (0.13, 0.605), (0.0, 0.615),
)  # fmt: skip


def _turned(profile: tuple[tuple[float, float], ...], around: int) -> tuple[Array, Array, NDArray[np.int32]]:
    """A profile turned about Y, smoothed on the way by a spline; triangles at the poles lie on one place."""
    from scipy.interpolate import PchipInterpolator

    told = np.array(profile)
    at = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(told, axis=0), axis=1))])
    fine = np.linspace(0, at[-1], 61)
    radius, height = (PchipInterpolator(at, told[:, k])(fine) for k in range(2))
    return _sheet(lambda turn: (radius * np.cos(turn), height, radius * np.sin(turn)), around, len(fine))


def _ring() -> tuple[Array, Array, NDArray[np.int32]]:
    """A ring that hangs from the wall."""
    small = np.linspace(0, 2 * np.pi, 33)
    out = 0.11 + 0.016 * np.cos(small)
    return _sheet(lambda turn: (out * np.cos(turn), out * np.sin(turn), 0.016 * np.sin(small)), 72, 33)


def _sheet(curve: Any, around: int, along: int) -> tuple[Array, Array, NDArray[np.int32]]:
    """A curve swept around, with normals by its neighbours; facing outward."""
    turns = np.linspace(0, 2 * np.pi, around + 1)
    turns[-1] = 0.0
    spots = np.stack([np.stack(np.broadcast_arrays(*curve(turn)), axis=-1) for turn in turns])
    i, j = np.meshgrid(np.arange(around), np.arange(along - 1), indexing="ij")
    a = (i * along + j).reshape(-1)
    b, c, d = a + along, a + along + 1, a + 1
    triangles = np.concatenate([np.column_stack([a, c, b]), np.column_stack([a, d, c])])
    places = spots.reshape(-1, 3)
    corners = places[triangles]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    triangles = triangles[np.linalg.norm(across, axis=1) > 1e-12]
    corners = places[triangles]
    if np.einsum("ij,ij->", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) < 0:
        triangles = triangles[:, ::-1]
        corners = places[triangles]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    _, index = np.unique(np.round(places, 9), axis=0, return_inverse=True)
    total = np.zeros((index.max() + 1, 3))
    np.add.at(total, index[triangles].reshape(-1), np.repeat(across, 3, axis=0))
    normals = total[index]
    return places, normals / np.maximum(np.linalg.norm(normals, axis=1), 1e-300)[:, None], triangles.astype(np.int32)
