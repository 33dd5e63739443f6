"""The mesh optimisation library meshoptimizer, as it is published for browsers: its WebAssembly run inside Python.

Its package for Python is older and lacks what is used here. What comes in
and goes out is held in the module's own memory, so a fault in it can harm
nothing else.
"""

import ctypes
import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

_MODULE = (
    Path(__file__).resolve().parents[3] / "web" / "node_modules" / "meshoptimizer" / "meshopt_simplifier.js"
)  # fmt: skip
#: Borders of the surface stay as they are; errors are lengths.
LOCK_BORDER, ABSOLUTE = 1, 4
#: An error that nothing reaches.
ANY = 1e30


@dataclass(frozen=True)
class Simplified:
    """Triangles (m, 3) over the same vertices, of which fewer are in use; their positions and attributes are moved to where
    they serve best."""

    triangles: NDArray[np.int32]
    positions: NDArray[np.float32]
    attributes: NDArray[np.float32]


def simplify(
    triangles: NDArray[np.integer],
    positions: NDArray[np.float32],
    attributes: NDArray[np.float32],
    weights: NDArray[np.float32],
    count: int,
    error: float,
    options: int = 0,
) -> Simplified:
    """Fewer triangles: down to `count`, or as far as an error of about `error` allows.

    positions (n, 3); attributes (n, k) with a weight for each column, (k,). Vertices in one position that differ in
    attributes are a seam, and stay one. By quadrics of positions and attributes: M. Garland and P. Heckbert (1997) and
    H. Hoppe (1999), as that library does it. What it says of its error is no bound and is not asked.
    """
    heap = _Heap()
    index = heap.put(np.ascontiguousarray(triangles, np.uint32))
    spots = heap.put(np.ascontiguousarray(positions, np.float32))
    told = heap.put(np.ascontiguousarray(attributes, np.float32))
    weighed = heap.put(np.ascontiguousarray(weights, np.float32))
    unasked = heap.room(4)
    vertices, columns = len(positions), attributes.shape[1]
    left = heap.call(
        "meshopt_simplifyWithUpdate", index, triangles.size, spots, vertices, 12, told, 4 * columns, weighed, columns, 0,
        3 * count, float(error), options | ABSOLUTE, unasked,
    )  # fmt: skip
    return Simplified(
        heap.get(index, np.uint32, left).reshape(-1, 3).astype(np.int32),
        heap.get(spots, np.float32, 3 * vertices).reshape(-1, 3),
        heap.get(told, np.float32, columns * vertices).reshape(vertices, columns),
    )


def remesh(
    triangles: NDArray[np.integer], positions: NDArray[np.float32], resolution: int
) -> NDArray[np.float32]:  # fmt: skip
    """A closed surface around a mesh, made anew on a grid of `resolution` cells (4 to 256): corners (m, 3, 3). Of a mesh
    that encloses nothing both its sides."""
    heap = _Heap()
    spots = heap.put(np.ascontiguousarray(positions, np.float32))
    index = heap.put(np.ascontiguousarray(triangles, np.uint32))
    given = (index, triangles.size, spots, len(positions), 12, resolution, _SOLVE)
    room = heap.call("meshopt_remesh", 0, 0, *given)
    if not room:
        given = (*given[:-1], _SOLVE | _SHELL)
        room = heap.call("meshopt_remesh", 0, 0, *given)
    out = heap.room(36 * room)
    count = heap.call("meshopt_remesh", out, room, *given)
    return heap.get(out, np.float32, 9 * min(count, room)).reshape(-1, 3, 3)


#: Both sides of the surface; corners where the surface is met best.
_SHELL, _SOLVE = 1, 2


class _Heap:
    """One use of the module, with memory of its own that goes when it does."""

    def __init__(self) -> None:
        import wasmtime

        engine, module = _compiled()
        self._store = wasmtime.Store(engine)
        self._exports = wasmtime.Instance(self._store, module, []).exports(self._store)
        self._memory: Any = self._exports["memory"]
        self.call("__wasm_call_ctors")

    def call(self, name: str, *values: float) -> int:
        function: Any = self._exports[name]
        # Addresses beyond two gigabytes come as negative numbers.
        return int(function(self._store, *values) or 0) & 0xFFFFFFFF

    def room(self, size: int) -> int:
        return self.call("sbrk", size + -size % 16)

    def put(self, values: NDArray[Any]) -> int:
        at = self.room(max(values.nbytes, 16))
        self._seen(at, values.nbytes)[:] = values.reshape(-1).view(np.uint8)
        return at

    def get(self, at: int, kind: Any, count: int) -> NDArray[Any]:
        return np.array(self._seen(at, np.dtype(kind).itemsize * count).view(kind))

    def _seen(self, at: int, size: int) -> NDArray[np.uint8]:
        """The memory itself, until it grows."""
        if at + size > self._memory.data_len(self._store):
            raise MemoryError("The mesh is too large for the module's memory.")
        start = ctypes.addressof(self._memory.data_ptr(self._store).contents) + at
        return np.ctypeslib.as_array((ctypes.c_uint8 * size).from_address(start))


@cache
def _compiled() -> tuple[Any, Any]:
    import wasmtime

    engine = wasmtime.Engine()
    return engine, wasmtime.Module(engine, _unpacked(_MODULE.read_text("utf-8")))


def _unpacked(script: str) -> bytes:
    """The module's bytes, which the script that is published holds as letters: common bytes by a table in one letter,
    others in two."""
    found = re.search(r"var wasm =\s*'([^']*)'", script)
    table = re.search(r"wasmpack = new Uint8Array\(\[([^\]]*)\]", script)
    if found is None or table is None:
        raise RuntimeError("The mesh optimisation module is not as it was: its script cannot be read.")
    common = [int(value) for value in table.group(1).replace("\n", " ").split(",") if value.strip()]
    letters = np.frombuffer(found.group(1).encode("ascii"), np.uint8).astype(np.int64)
    codes = iter(np.where(letters > 96, letters - 97, np.where(letters > 64, letters - 39, letters + 4)).tolist())
    return bytes(common[code] if code < 60 else (code - 60) * 64 + next(codes) for code in codes)
