"""The seat on the quay, as a bundle "from a model site": OBJ in centimetres, Y up, its picture in another folder."""

import io
import math
import zipfile
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

#: Centimetres.
LONG, SLAT, THICK = 160.0, 9.0, 2.6
_PLACES = {
    "Seat": [(6 + 10.5 * k, 44.0, 0.0) for k in range(4)],
    "Back": [(-2.0 - 2.2 * k, 52 + 10.5 * k, 78.0) for k in range(3)],
}

MTL = """# Gull Rock model shelf
newmtl Larch
Kd 1 1 1
Ks 0.9 0.9 0.9
Ns 600
map_Kd -s 1 1 1 C:\\work\\gull rock\\textures\\Larch Boards.png
newmtl Cast iron
Kd 0.09 0.10 0.11
Ns 30
Pm 1
"""


def write_seat(path: Path) -> None:
    """Seven slats with UV along the grain, and two cast legs."""
    lines = ["# the keepers' seat, in centimetres", "mtllib Quay-Seat.mtl"]
    counts = [0, 0]
    for name, slats in _PLACES.items():
        for number, (z, y, lean) in enumerate(slats, 1):
            lines += [f"o {name} slat {number}", "usemtl Larch", *_slat(z, y, lean, number + len(name), counts)]
    for number, x in enumerate((22.0, LONG - 22.0), 1):
        lines += [f"o Leg {number}", "usemtl Cast iron", *_leg(x, counts)]
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in (
            ("model/quay-seat.obj", "\n".join(lines).encode()), ("model/quay-seat.mtl", MTL.encode()),
            ("maps/larch boards.PNG", _boards()),
        ):  # fmt: skip
            archive.writestr(zipfile.ZipInfo(name, (2026, 1, 1, 0, 0, 0)), data, zipfile.ZIP_DEFLATED)


def _slat(z: float, y: float, lean: float, seed: int, counts: list[int]) -> list[str]:
    """A board along X with a rounded front edge; UV run 2 m of wood along it, a band of the picture for each."""
    turn = math.radians(lean)
    ring = [(0.0, 0.0), (SLAT - 1.0, 0.0), (SLAT - 0.3, 0.3), (SLAT, 1.0), (SLAT, THICK - 1), (SLAT - 0.3, THICK - 0.3),
            (SLAT - 1.0, THICK), (0.0, THICK)]  # fmt: skip
    around = [0.0]
    for (a, b), (c, d) in zip(ring, [*ring[1:], ring[0]], strict=True):
        around.append(around[-1] + math.hypot(c - a, d - b))
    band, size = (seed * 0.37) % 0.8, len(ring)
    lines, (first, uv) = [], counts
    for x in (0.0, LONG):
        for a, b in ring:
            lines.append(
                f"v {x:.4f} {y + a * math.sin(turn) + b * math.cos(turn):.4f} {z + a * math.cos(turn) - b * math.sin(turn):.4f}"
            )
    for x in (0.0, LONG):
        lines += [f"vt {x / 200 + band:.5f} {band + length / 60:.5f}" for length in around]
    for k in range(size):
        n = (k + 1) % size
        corners = [(k, k), (n, k + 1), (n + size, k + 1 + size + 1), (k + size, k + size + 1)]
        lines.append("f " + " ".join(f"{first + 1 + v}/{uv + 1 + t}" for v, t in reversed(corners)))
    lines.append("f " + " ".join(f"{first + 1 + k}/{uv + 1 + k}" for k in range(size)))
    lines.append("f " + " ".join(f"{first + 1 + size + k}/{uv + 1 + size + 1 + k}" for k in reversed(range(size))))
    counts[0], counts[1] = first + 2 * size, uv + 2 * (size + 1)
    return lines


def _leg(x: float, counts: list[int]) -> list[str]:
    """A flat casting, dented on purpose: a foot, a curved post, an arm that carries the back. Seen from the side."""
    outline = [
        (4.0, 0.0),
        (12, 0),
        (14, 20),
        (24, 38),
        (46, 41),
        (48, 43.5),
        (2, 43.5),
        (-12, 84),
        (-15, 83),
        (-3, 40),
        (6, 30),
    ]
    lines, first, size = [], counts[0], len(outline)
    for side in (x - 2.2, x + 2.2):
        lines += [f"v {side:.3f} {y:.3f} {z:.3f}" for z, y in outline]
    lines.append("f " + " ".join(str(first + 1 + k) for k in range(size)))
    lines.append("f " + " ".join(str(first + 1 + size + k) for k in reversed(range(size))))
    for k in range(size):
        n = (k + 1) % size
        lines.append("f " + " ".join(str(first + 1 + corner) for corner in (k, k + size, n + size, n)))
    counts[0] = first + 2 * size
    return lines


def _boards() -> bytes:
    """Larch: grain along X from layers of stretched noise, 512 by 256 pixels, the same each time."""
    rng = np.random.default_rng(7)
    tall, wide = 256, 512
    height = np.zeros((tall, wide))
    for rows, columns, weight in ((64, 4, 1.0), (170, 8, 0.6), (512, 32, 0.35)):
        height += weight * _stretched(rng.normal(size=(rows, columns)), tall, wide)
    rings = 0.5 + 0.5 * np.sin(np.linspace(0, 60, tall)[:, None] + 1.6 * height)
    light, dark = np.array([203, 152, 98]), np.array([138, 88, 48])
    pixels = dark + (light - dark) * rings[..., None] + rng.normal(scale=4, size=(tall, wide, 1))
    out = io.BytesIO()
    Image.fromarray(np.clip(pixels, 0, 255).astype(np.uint8)).save(out, "PNG", optimize=True)
    return out.getvalue()


def _stretched(noise: NDArray[np.float64], tall: int, wide: int) -> NDArray[np.float64]:
    """Noise drawn out to a size, smooth, and the same at both ends."""
    rows = np.linspace(0, noise.shape[0], tall, endpoint=False)
    columns = np.linspace(0, noise.shape[1], wide, endpoint=False)
    r, c = rows.astype(int), columns.astype(int)
    fr, fc = ((1 - np.cos(np.pi * (part % 1))) / 2 for part in (rows[:, None], columns[None, :]))
    up, right = (r + 1) % noise.shape[0], (c + 1) % noise.shape[1]
    above = noise[np.ix_(r, c)] * (1 - fc) + noise[np.ix_(r, right)] * fc
    below = noise[np.ix_(up, c)] * (1 - fc) + noise[np.ix_(up, right)] * fc
    return np.asarray(above * (1 - fr) + below * fr)
