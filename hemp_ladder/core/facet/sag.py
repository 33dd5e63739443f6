"""Where a triangle strays most, from how its sides do."""

import numpy as np

from hemp_ladder.core.facet.patch import Floats


def bulge(sides: Floats) -> Floats:
    """Barycentric coordinates (k, 3) of the place where a triangle strays most, from the sags of its sides (k, 3).

    A quadric over a triangle strays by 4 (s01 l0 l1 + s12 l1 l2 + s20 l2 l0),
    which is largest where l0 : l1 : l2 = s12 (s20 + s01 - s12) : ... (by
    Lagrange's multiplier; on a sphere this is the centre of the circle through
    the corners). Where that lies outside, a side is the worst, and the middle is taken.
    """
    total = sides.sum(axis=1, keepdims=True)
    opposite = sides[:, [1, 2, 0]]
    weights = opposite * (total - 2 * opposite)
    inside = (weights > 0).all(axis=1, keepdims=True)
    weights = np.where(inside, weights, 1.0)
    return np.asarray(weights / weights.sum(axis=1, keepdims=True))
