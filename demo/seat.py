"""The seat on the quay, as a bundle "from a model site", with everything wrong that such bundles have: centimetres that
nobody says, Y up, one map in another folder under another case, its sisters named by nobody, one map not there, a coat like
varnish, a board inside out, lamp glass like enamel."""

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
Ns 2400
map_Kd -s 1 1 1 C:\\work\\gull rock\\textures\\Larch Boards.png
newmtl Cast iron
Kd 0.09 0.10 0.11
Ns 30
Pm 1
map_Kd textures/cast_iron_paint.png
newmtl Lamp glass
Kd 0.92 0.95 0.93
Ns 900
newmtl Brass
Kd 0.66 0.49 0.22
Ns 220
Pm 1
"""
#: The boards that the exporter turned inside out.
_TURNED = {"Back slat 2"}


def write_seat(path: Path) -> None:
    """Seven slats with UV along the grain, and two cast legs."""
    lines = ["# the keepers' seat, in centimetres", "mtllib Quay-Seat.mtl"]
    counts = [0, 0]
    for name, slats in _PLACES.items():
        for number, (z, y, lean) in enumerate(slats, 1):
            called = f"{name} slat {number}"
            board = _slat(z, y, lean, number + len(name), counts)
            lines += [f"o {called}", "usemtl Larch", *(_turned(board) if called in _TURNED else board)]
    for number, x in enumerate((22.0, LONG - 22.0), 1):
        lines += [f"o Leg {number}", "usemtl Cast iron", *_leg(x, counts)]
    for name, material, profile in _LAMP:
        lines += [f"o {name}", f"usemtl {material}", *_round(LONG + 24, 39.0, profile, counts)]
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in (
            ("model/quay-seat.obj", "\n".join(lines).encode()), ("model/quay-seat.mtl", MTL.encode()),
            ("maps/larch boards.PNG", _boards()), ("maps/larch boards roughness.png", _roughness()),
            ("maps/Larch_Boards_Normal.png", _normals()), ("preview/iron paint.jpg", _paint()),
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


#: A reading lamp on a post beside the seat: what is turned about its axis, radius by height.
_LAMP = [
    ("Lamp post", "Cast iron", [(0, 0), (9, 0), (9, 3), (3, 5), (2.4, 118), (0, 118)]),
    ("Lamp collar", "Brass", [(0, 118), (6, 118), (6.5, 121), (0, 121)]),
    ("Lamp globe", "Lamp glass", [(11 * math.sin(k * math.pi / 12), 132 - 11 * math.cos(k * math.pi / 12)) for k in range(13)]),
]  # fmt: skip
_AROUND = 24


def _round(x: float, z: float, profile: list[tuple[float, float]], counts: list[int]) -> list[str]:
    """A profile turned about an upright axis, with UV around and along."""
    (first, uv), lines, rings = counts, [], len(profile)
    for radius, height in profile:
        for k in range(_AROUND):
            angle = 2 * math.pi * k / _AROUND
            lines.append(f"v {x + radius * math.sin(angle):.4f} {height:.4f} {z + radius * math.cos(angle):.4f}")
    lines += [f"vt {k / _AROUND:.5f} {ring / (rings - 1):.5f}" for ring in range(rings) for k in range(_AROUND + 1)]
    for ring in range(rings - 1):
        for k in range(_AROUND):
            spots = [(ring, k), (ring, k + 1), (ring + 1, k + 1), (ring + 1, k)]
            # Where a ring is a point, the square is a triangle.
            if profile[ring][0] < 1e-9:
                spots = [spots[0], *spots[2:]]
            elif profile[ring + 1][0] < 1e-9:
                spots = spots[:3]
            lines.append("f " + " ".join(
                f"{first + 1 + r * _AROUND + (0 if profile[r][0] < 1e-9 else c % _AROUND)}/{uv + 1 + r * (_AROUND + 1) + c}"
                for r, c in spots
            ))  # fmt: skip
    counts[0], counts[1] = first + rings * _AROUND, uv + rings * (_AROUND + 1)
    return lines


def _turned(lines: list[str]) -> list[str]:
    """With every face the other way round."""
    return [" ".join(["f", *reversed(line.split()[1:])]) if line.startswith("f ") else line for line in lines]


def _grain() -> NDArray[np.float64]:
    """How high the wood stands, 256 by 512, the same each time."""
    rng = np.random.default_rng(7)
    height = np.zeros((256, 512))
    for rows, columns, weight in ((64, 4, 1.0), (170, 8, 0.6), (512, 32, 0.35)):
        height += weight * _stretched(rng.normal(size=(rows, columns)), 256, 512)
    return height


def _roughness() -> bytes:
    """Rings are smoother than what lies between them."""
    rings = 0.5 + 0.5 * np.sin(np.linspace(0, 60, 256)[:, None] + 1.6 * _grain())
    return _png(Image.fromarray(np.clip(150 + 60 * rings, 0, 255).astype(np.uint8)).resize((256, 128)))


def _normals() -> bytes:
    """The slopes of the grain as directions."""
    rings = np.sin(np.linspace(0, 60, 256)[:, None] + 1.6 * _grain())
    down, across = np.gradient(rings * 0.5)
    ways = np.dstack([-across, down, np.ones_like(rings)])
    ways /= np.linalg.norm(ways, axis=2, keepdims=True)
    return _png(Image.fromarray(np.clip(127.5 * (ways + 1), 0, 255).astype(np.uint8)))


def _paint() -> bytes:
    """Dark paint with a little rust through it."""
    rng = np.random.default_rng(11)
    spots = _stretched(rng.normal(size=(24, 24)), 256, 256) + 0.4 * _stretched(rng.normal(size=(90, 90)), 256, 256)
    share = np.clip((spots - 1.0) / 0.5, 0, 1)[..., None]
    out = io.BytesIO()
    pixels = (1 - share) * np.array([44, 50, 54]) + share * np.array([122, 66, 38])
    Image.fromarray(pixels.astype(np.uint8)).save(out, "JPEG", quality=88)
    return out.getvalue()


def _png(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "PNG", optimize=True)
    return out.getvalue()


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
