"""`python -m bench.meshes`: reading a million triangles against numpy's own time or another library's, and looking at
200 MB of pictures; each in a process of its own."""

import io
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import trimesh
from PIL import Image

from bench.measure import run
from house.places import PYTHON, ROOT

OUT = ROOT / "bench" / "out"
#: What is held against what, and how many times its time is allowed.
RACES = {"stl": ("numpy and the weld", 1.5), "ply": ("numpy and the weld", 1.5), "glb": ("numpy and the weld", 1.5),
         "obj": ("the general-purpose library", 1.0)}  # fmt: skip


def main() -> None:
    """Print one line a figure: what, how much, and what is allowed."""
    for kind, (other, allowed) in RACES.items():
        path = written(kind)
        ours, theirs = (run([str(PYTHON), "-m", "bench.meshes", who, str(path)], ROOT) for who in ("ours", "theirs"))
        took = [float(item.output.split()[-1]) for item in (ours, theirs)]
        mark = "ok  " if took[0] <= allowed * took[1] else "OVER"
        print(
            f"{mark} reading {kind} of 1.3 million triangles, ours / {other}: {took[0] / took[1]:.2f} (at most {allowed})"
        )
        print(
            f"  ours {took[0]:.1f} s, {ours.peak:.0f} MB (at most 1,500); theirs {took[1]:.1f} s, {theirs.peak:.0f} MB"
        )
    done = run([str(PYTHON), "-m", "bench.meshes", "pictures", str(pictures())], ROOT)
    seconds, megabytes = done.output.split()[-2:]
    print(
        f"{'ok  ' if float(seconds) <= 3 else 'OVER'} small pictures of {megabytes} MB of textures, two at once: {seconds} s (at most 3)"
    )


def written(kind: str) -> Path:
    """A ball of 1.3 million triangles, by another library; as OBJ with UV and normals at every corner."""
    OUT.mkdir(exist_ok=True)
    path = OUT / f"ball.{kind}"
    if path.exists():
        return path
    ball = trimesh.creation.icosphere(subdivisions=8)
    if kind != "obj":
        ball.export(path)
        return path
    with path.open("w") as file:
        for form, rows in (
            ("v %.6f %.6f %.6f", ball.vertices), ("vt %.5f %.5f", ball.vertices[:, :2]), ("vn %.4f %.4f %.4f", ball.vertices),
            ("f %d/%d/%d %d/%d/%d %d/%d/%d", np.repeat(ball.faces + 1, 3, axis=1)),
        ):  # fmt: skip
            file.write("\n".join(map(form.__mod__, map(tuple, rows.tolist()))) + "\n")
    return path


def pictures() -> Path:
    """Photographs by noise, 200 MB of them in JPEG."""
    folder = OUT / "pictures"
    folder.mkdir(parents=True, exist_ok=True)
    rng = np.random.default_rng(2)
    number = 0
    while sum(path.stat().st_size for path in folder.iterdir()) < 200e6:
        out = folder / f"{number}.jpg"
        if not out.exists():
            pixels = rng.integers(0, 255, (4096, 4096, 3), np.uint8)
            Image.fromarray(pixels).save(out, quality=80)
        number += 1
    return folder


def ours(path: Path) -> None:
    from hemp_ladder.core.receive.readers import need_reader
    from hemp_ladder.core.receive.report import Kept

    # The children of the house have their libraries in memory before a file comes.
    small = OUT / f"small{path.suffix}"
    trimesh.creation.box().export(small)
    need_reader(small).read(small, Kept())
    began = time.monotonic()
    need_reader(path).read(path, Kept())
    print(f"{time.monotonic() - began:.2f}")


def theirs(path: Path) -> None:
    """The bytes as arrays, and equal points found; OBJ by the library that reads it quickest of those that we have."""
    began = time.monotonic()
    data = path.read_bytes()
    if path.suffix == ".obj":
        trimesh.load_mesh(io.BytesIO(data), file_type="obj", process=False)
        print(f"{time.monotonic() - began:.2f}")
        return
    if path.suffix == ".stl":
        kind = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
        points = np.frombuffer(data, kind, offset=84)["corners"].reshape(-1, 3).copy()
    else:
        count = 655_362
        start = data.find(b"end_header\n") + 11 if path.suffix == ".ply" else len(data) - count * 12
        points = np.frombuffer(data, "<f4", count * 3, start).reshape(-1, 3).copy()
        np.frombuffer(data, np.uint8).copy()
    np.unique(points.view(np.dtype((np.void, 12))).ravel(), return_inverse=True)
    print(f"{time.monotonic() - began:.2f}")


def small(folder: Path) -> None:
    from hemp_ladder.api import decoding

    files = [path.read_bytes() for path in sorted(folder.iterdir())]
    decoding.small(files[0], 16)
    began = time.monotonic()
    with ThreadPoolExecutor(8) as asking:
        list(asking.map(lambda data: decoding.small(data, 192), files))
    print(f"{time.monotonic() - began:.1f} {sum(map(len, files)) / 1e6:.0f}")
    decoding.close()


if __name__ == "__main__":
    if len(sys.argv) == 1:
        main()
    else:
        who, where = sys.argv[1], Path(sys.argv[2])
        work: dict[str, Callable[[Path], None]] = {"ours": ours, "theirs": theirs}
        if who == "pictures":
            small(where)
        else:
            work[who](where)
