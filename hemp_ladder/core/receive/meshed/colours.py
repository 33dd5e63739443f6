"""Colours and shine as older formats have them, in the terms of newer ones."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray


def linear(colours: NDArray[np.floating], alpha: NDArray[np.floating] | None = None) -> NDArray[np.float32]:
    """sRGB (n, 3), 0 to 1, to linear light with opacity, (n, 4) (IEC 61966-2-1)."""
    given = np.clip(colours, 0, 1)
    light = np.where(given <= 0.04045, given / 12.92, ((given + 0.055) / 1.055) ** 2.4)
    opacity = np.ones(len(light)) if alpha is None else np.clip(alpha, 0, 1)
    return np.column_stack([light, opacity]).astype(np.float32)


def linear_to_share(colours: NDArray[np.float64]) -> NDArray[np.float32]:
    """Linear light (n, 3) with opacity beside it, (n, 4)."""
    return np.column_stack([np.clip(colours, 0, 1), np.ones(len(colours))]).astype(np.float32)


def roughness_of_exponent(exponent: float) -> float:
    """Perceptual roughness (glTF 2.0, appendix B: its square is alpha) for a Phong exponent.

    alpha = sqrt(2 / (n + 2)): B. Walter et al., "Microfacet models for refraction through rough surfaces",
    EGSR 2007, gives it for matching the Beckmann distribution, and by that GGX, to Phong's.
    """
    return float((2 / (max(exponent, 0.0) + 2)) ** 0.25)


#: What a body that is no metal reflects, looked at straight (glTF 2.0, appendix B).
_DIELECTRIC = 0.04


def from_specular(diffuse: Sequence[float], specular: Sequence[float]) -> tuple[tuple[float, float, float], float]:
    """Base colour and metalness, linear, for the diffuse and the specular colour of an older model.

    The conversion that was published with KHR_materials_pbrSpecularGlossiness ("convertBetweenWorkflows"): metalness is
    solved for from the brightness of both, the base colour mixed from what each of them gives.
    """
    rest = 1 - max(specular)
    bright, shine = _brightness(diffuse), _brightness(specular)
    metalness = 0.0
    if shine >= _DIELECTRIC:
        b = bright * rest / (1 - _DIELECTRIC) + shine - 2 * _DIELECTRIC
        root = max(b * b - 4 * _DIELECTRIC * (_DIELECTRIC - shine), 0.0) ** 0.5
        metalness = min(max((root - b) / (2 * _DIELECTRIC), 0.0), 1.0)
    least = 1e-6

    def mixed(d: float, s: float) -> float:
        by_diffuse = d * rest / (1 - _DIELECTRIC) / max(1 - metalness, least)
        by_specular = (s - _DIELECTRIC * (1 - metalness)) / max(metalness, least)
        share = metalness * metalness
        return min(max(by_diffuse * (1 - share) + by_specular * share, 0.0), 1.0)

    red, green, blue = (mixed(d, s) for d, s in zip(diffuse, specular, strict=True))
    return (red, green, blue), metalness


def _brightness(colour: Sequence[float]) -> float:
    red, green, blue = colour
    return float((0.299 * red * red + 0.587 * green * green + 0.114 * blue * blue) ** 0.5)
