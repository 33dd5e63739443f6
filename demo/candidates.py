"""Two more seats "from a model site", to be held against the first: a heavy one in a small file, a light one in a large."""

import io
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from hemp_ladder.core.ship.glb import GlbWriter

Array = NDArray[np.float64]


def write_heavy(path: Path) -> None:
    """Every board a dense grid, in quantised numbers, with the camera and the lamps of whoever made it; small pictures."""
    seat = _Seat(grid=48)
    seat.camera_and_lamps()
    seat.write(path, _boards(64))


def write_light(path: Path) -> None:
    """Plain boxes under a picture that is far too large for them."""
    seat = _Seat(grid=1)
    seat.write(path, _boards(1536))


class _Seat:
    """A bench of nine boards on two sides, in metres, as glTF wants it."""

    def __init__(self, grid: int) -> None:
        self._writer = GlbWriter()
        self._nodes: list[dict[str, Any]] = []
        board = self._board(grid)
        self._writer.json["meshes"] = [board, self._side(grid)]
        for k in range(5):
            self._nodes.append({"name": f"Board {k + 1}", "mesh": 0, "translation": [0, 0.44, 0.06 + 0.095 * k]})
        for k in range(4):
            self._nodes.append({
                "name": f"Rail {k + 1}", "mesh": 0, "translation": [0, 0.56 + 0.1 * k, -0.02 - 0.02 * k],
                "rotation": [float(np.sin(np.radians(-39))), 0, 0, float(np.cos(np.radians(-39)))],
            })  # fmt: skip
        for name, x in (("Left side", 0.12), ("Right side", 1.44)):
            self._nodes.append({"name": name, "mesh": 1, "translation": [x, 0, 0]})

    def _primitive(self, spots: Array, uv: Array, triangles: NDArray[np.int32], material: int) -> dict[str, Any]:
        attributes = self._writer.vertices(spots, {"uv": uv.astype(np.float32)})
        indices = self._writer.indices(triangles, len(spots))
        return {"attributes": attributes, "indices": indices, "material": material}

    def _board(self, grid: int) -> dict[str, Any]:
        """1.6 m by 9 cm by 2.6 cm, with UV along the grain."""
        return {"name": "Board", "primitives": [self._primitive(*_box((1.6, 0.026, 0.09), grid, 0.5), 0)]}

    def _side(self, grid: int) -> dict[str, Any]:
        return {"name": "Side", "primitives": [self._primitive(*_box((0.05, 0.44, 0.5), max(1, grid // 3), 1.0), 1)]}

    def camera_and_lamps(self) -> None:
        document = self._writer.json
        document["cameras"] = [{"type": "perspective", "perspective": {"yfov": 0.5, "aspectRatio": 1.6, "znear": 0.01}}]
        self._nodes.append({"name": "Catalogue view", "camera": 0, "translation": [0.8, 1.1, 3.4]})
        document["extensionsUsed"] = ["KHR_lights_punctual"]
        document["extensions"] = {"KHR_lights_punctual": {"lights": [{"type": "point", "intensity": 40}] * 3}}
        for number, place in enumerate(([2, 3, 2], [-2, 3, 2], [0, 3, -3])):
            node = {"name": f"Lamp {number + 1}", "translation": place}
            self._nodes.append({**node, "extensions": {"KHR_lights_punctual": {"light": number}}})

    def write(self, path: Path, picture: bytes) -> None:
        document = self._writer.json
        view = self._writer.block(picture)
        document["images"] = [{"name": "boards", "bufferView": view, "mimeType": "image/jpeg"}]
        document["samplers"] = [{"wrapS": 10497, "wrapT": 10497}]
        document["textures"] = [{"source": 0, "sampler": 0}]
        shine = {"metallicFactor": 0, "roughnessFactor": 0.1, "baseColorTexture": {"index": 0}}
        iron = {"baseColorFactor": [0.02, 0.02, 0.025, 1], "metallicFactor": 1, "roughnessFactor": 0.5}
        document["materials"] = [
            {"name": "Boards", "pbrMetallicRoughness": shine}, {"name": "Iron", "pbrMetallicRoughness": iron},
        ]  # fmt: skip
        document["nodes"] = self._nodes
        document["scenes"] = [{"nodes": list(range(len(self._nodes)))}]
        document["asset"] = {"version": "2.0", "generator": "Gull Rock model shelf"}
        head = self._writer.head()
        with path.open("wb") as file:
            self._writer.write(file, head)


def _box(size: tuple[float, float, float], grid: int, tile: float) -> tuple[Array, Array, NDArray[np.int32]]:
    """A box on its corner, each of its sides a grid of squares; a picture is `tile` metres long."""
    spots, uv, triangles = [], [], []
    start = 0
    sides = np.array(size)
    for axis in range(3):
        a, b = (axis + 1) % 3, (axis + 2) % 3
        for far in (0, 1):
            i, j = np.mgrid[0 : grid + 1, 0 : grid + 1] / grid
            own = np.zeros((grid + 1, grid + 1, 3))
            own[..., axis] = far * sides[axis]
            own[..., a], own[..., b] = i * sides[a], j * sides[b]
            long, short = (a, b) if sides[a] >= sides[b] else (b, a)
            spots.append(own.reshape(-1, 3))
            uv.append(np.stack([own[..., long], own[..., short]], axis=-1).reshape(-1, 2) / tile)
            at = np.arange((grid + 1) ** 2).reshape(grid + 1, grid + 1) + start
            squares = np.stack([at[:-1, :-1], at[1:, :-1], at[1:, 1:], at[:-1, 1:]], axis=-1).reshape(-1, 4)
            if not far:
                squares = squares[:, ::-1]
            triangles += [squares[:, [0, 1, 2]], squares[:, [0, 2, 3]]]
            start += (grid + 1) ** 2
    return np.concatenate(spots), np.concatenate(uv), np.concatenate(triangles).astype(np.int32)


def _boards(side: int) -> bytes:
    """Boards from rings of stretched noise, a square of so many pixels."""
    rng = np.random.default_rng(5)
    rows = np.interp(np.linspace(0, 90, side), np.arange(91), rng.normal(size=91))
    along = np.interp(np.linspace(0, 6, side), np.arange(7), rng.normal(size=7))
    rings = 0.5 + 0.5 * np.sin(np.linspace(0, 70, side)[:, None] + 1.3 * rows[:, None] + 0.8 * along[None, :])
    light, dark = np.array([196, 160, 116]), np.array([132, 94, 58])
    pixels = dark + (light - dark) * rings[..., None] + rng.normal(scale=7, size=(side, side, 1))
    out = io.BytesIO()
    Image.fromarray(np.clip(pixels, 0, 255).astype(np.uint8)).save(out, "JPEG", quality=90)
    return out.getvalue()
