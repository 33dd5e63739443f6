"""Colours and shine as older formats have them, in the terms of newer ones."""

import numpy as np
from numpy.typing import NDArray


def linear(colours: NDArray[np.floating], alpha: NDArray[np.floating] | None = None) -> NDArray[np.float32]:
    """sRGB (n, 3), 0 to 1, to linear light with opacity, (n, 4) (IEC 61966-2-1)."""
    given = np.clip(colours, 0, 1)
    light = np.where(given <= 0.04045, given / 12.92, ((given + 0.055) / 1.055) ** 2.4)
    opacity = np.ones(len(light)) if alpha is None else np.clip(alpha, 0, 1)
    return np.column_stack([light, opacity]).astype(np.float32)


def roughness_of_exponent(exponent: float) -> float:
    """Perceptual roughness (glTF 2.0, appendix B: its square is alpha) for a Phong exponent.

    alpha = sqrt(2 / (n + 2)): B. Walter et al., "Microfacet models for refraction through rough surfaces",
    EGSR 2007, gives it for matching the Beckmann distribution, and by that GGX, to Phong's.
    """
    return float((2 / (max(exponent, 0.0) + 2)) ** 0.25)
