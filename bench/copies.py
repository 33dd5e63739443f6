"""`python -m bench.copies`: copies looked for among 5,000 parts of 500 shapes, turned, moved and some mirrored, and among
2,000 of one that is alike all round; seconds of processor, beside numpy's sort of as many numbers in the same run."""

import numpy as np

from bench.operations import best, sides
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.sort.copies import copies

#: Seconds of processor for 5,000 parts.
ALLOWED = 10.0


def main() -> None:
    """Print one line a figure."""
    print(f"sorting the sides of a million triangles: {sides(3_000_000):.2f} s")
    dice = np.random.default_rng(1)
    lumps = [_ball(np.random.default_rng(number)) for number in range(500)]
    parts = {number: _moved(*lumps[number % 500], dice, number % 7 == 0) for number in range(5000)}
    took = best(lambda: copies(parts, 1e-5))
    print(f"{'ok  ' if took <= ALLOWED else 'OVER'} 5,000 parts of 500 shapes: {took:.1f} s (at most {ALLOWED})")
    round_ = {number: _moved(*_ball(None), dice, False) for number in range(2000)}
    print(f"     2,000 of one shape that is alike all round: {best(lambda: copies(round_, 1e-5)):.1f} s")


def _ball(dice: np.random.Generator | None) -> tuple[np.ndarray, np.ndarray]:
    """A ball of 162 points and 320 triangles, with lumps where there are dice."""
    import trimesh

    ball = trimesh.creation.icosphere(2)
    spots = np.asarray(ball.vertices)
    return spots * (1 if dice is None else 1 + 0.2 * dice.random((len(spots), 1))), np.asarray(ball.faces)


def _moved(spots: np.ndarray, faces: np.ndarray, dice: np.random.Generator, mirrored: bool) -> Mesh:
    turn = np.linalg.qr(dice.normal(size=(3, 3)))[0]
    if (np.linalg.det(turn) < 0) != mirrored:
        turn[:, 0] *= -1
    order = dice.permutation(len(spots))
    triangles = np.argsort(order)[faces].astype(np.int32)
    points = spots[order] @ turn.T + dice.normal(size=3)
    return Mesh.of(
        points, points.astype(np.float32), triangles[:, ::-1] if mirrored else triangles, np.array([0, len(triangles)])
    )


if __name__ == "__main__":
    main()
