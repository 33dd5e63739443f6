"""How different colours look: CIELAB and CIEDE2000."""

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.model.colour import Colour

Array = NDArray[np.float64]


def lab(colour: Colour) -> Array:
    """CIELAB (3,) by CIE 15:2004, D65, from linear sRGB (IEC 61966-2-1)."""
    matrix = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
    x, y, z = (matrix @ np.array(colour.linear)) / (0.95047, 1.0, 1.08883)
    f = [v ** (1 / 3) if v > (6 / 29) ** 3 else v / (3 * (6 / 29) ** 2) + 4 / 29 for v in (x, y, z)]
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


def ciede2000(first: Array, second: Array) -> Array:
    """The difference CIEDE2000 between colours in CIELAB, (..., 3) each.

    After G. Sharma, W. Wu, E. N. Dalal, "The CIEDE2000 color-difference formula: implementation notes, supplementary test
    data, and mathematical observations", Color Research & Application 30(1), 2005. About 1 is what can just be seen.
    """
    (l1, a1, b1), (l2, a2, b2) = np.moveaxis(first, -1, 0), np.moveaxis(second, -1, 0)
    mean_chroma = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    stretch = 1 + 0.5 * (1 - np.sqrt(mean_chroma**7 / (mean_chroma**7 + 25.0**7)))
    c1, c2 = np.hypot(stretch * a1, b1), np.hypot(stretch * a2, b2)
    h1, h2 = (np.degrees(np.arctan2(b, stretch * a)) % 360 for a, b in ((a1, b1), (a2, b2)))
    grey = c1 * c2 == 0
    turn = np.where(grey, 0.0, (h2 - h1 + 180) % 360 - 180)
    # At just half a turn the sign does not matter to the square, but to the rotation term.
    turn = np.where(~grey & (np.abs(h2 - h1) == 180), h2 - h1, turn)
    lightness, chroma = l2 - l1, c2 - c1
    hue = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn / 2))
    mean_l, mean_c = (l1 + l2) / 2, (c1 + c2) / 2
    across = np.abs(h1 - h2) > 180
    mean_h = np.where(grey, h1 + h2, (h1 + h2 + np.where(across, np.where(h1 + h2 < 360, 360, -360), 0)) / 2)

    def cos(degrees: Array) -> Array:
        return np.asarray(np.cos(np.radians(degrees)))

    t = (
        1 - 0.17 * cos(mean_h - 30) + 0.24 * cos(2 * mean_h) + 0.32 * cos(3 * mean_h + 6) - 0.20 * cos(4 * mean_h - 63)
    )  # fmt: skip
    swing = 30 * np.exp(-(((mean_h - 275) / 25) ** 2))
    rotation = -np.sin(np.radians(2 * swing)) * 2 * np.sqrt(mean_c**7 / (mean_c**7 + 25.0**7))
    by_l = lightness / (1 + 0.015 * (mean_l - 50) ** 2 / np.sqrt(20 + (mean_l - 50) ** 2))
    by_c, by_h = chroma / (1 + 0.045 * mean_c), hue / (1 + 0.015 * mean_c * t)
    return np.asarray(np.sqrt(by_l**2 + by_c**2 + by_h**2 + rotation * by_c * by_h))
