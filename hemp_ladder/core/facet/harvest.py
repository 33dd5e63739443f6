"""The kernel's triangles as numpy arrays, outside out."""

import io
import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from OCP import BinTools as _bin
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepLib import BRepLib_ToolTriangulatedShape
from OCP.TopAbs import TopAbs_Orientation
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Compound, TopoDS_Face

from hemp_ladder.core.facet.patch import Patch
from hemp_ladder.core.kernel.shapes import ShapeMap, matrix_of

_BLOCK = b"\nTriangulations "


def patch_of(faces: list[TopoDS_Face]) -> tuple[Patch, list[int]]:
    """The faces' triangulations, outside out, and the numbers of the faces that have none.

    Node by node through the binding runs at 0.1 to 0.2 million triangles a
    second. Bare faces that carry nothing but their triangulation, written to
    memory in the kernel's binary form and read with numpy, run at over a
    million.
    """
    builder, bundle = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(bundle)
    # Faces that are one face in several places share their triangles, which are written once.
    unplaced = ShapeMap()
    block_of: dict[int, int] = {}
    kept: list[int] = []
    taken: list[int] = []
    moves: list[NDArray[np.float64] | None] = []
    failed: list[int] = []
    for number, face in enumerate(faces):
        location = TopLoc_Location()
        triangles = BRep_Tool.Triangulation_s(face, location)
        if triangles is None or triangles.NbTriangles() == 0:
            failed.append(number)
            continue
        which = unplaced.Add(face.Located(TopLoc_Location()))
        if which not in block_of:
            BRepLib_ToolTriangulatedShape.ComputeNormals_s(face, triangles)
            bare = TopoDS_Face()
            builder.MakeFace(bare, triangles)
            builder.Add(bundle, bare)
            block_of[which] = len(block_of)
        taken.append(block_of[which])
        kept.append(number)
        moves.append(None if location.IsIdentity() else matrix_of(location.Transformation()))
    blocks: list[_Block] = []
    if kept:
        stream = io.BytesIO()
        version = _bin.BinTools_FormatVersion.BinTools_FormatVersion_VERSION_4
        _bin.BinTools.Write_s(bundle, stream, True, True, version)
        parsed = _parse(stream.getvalue())
        for number, move, which in zip(kept, moves, taken, strict=True):
            reversed_ = faces[number].Orientation() == TopAbs_Orientation.TopAbs_REVERSED
            blocks.append(_outside_out(parsed[which], move, reversed_))
    return _gathered(blocks, kept), failed


@dataclass(frozen=True)
class _Block:
    """One face's triangulation: positions (n, 3), uv (n, 2), triangles (m, 3), normals (n, 3)."""

    positions: NDArray[np.float64]
    uv: NDArray[np.float64]
    triangles: NDArray[np.int32]
    normals: NDArray[np.float32]


def _gathered(blocks: list[_Block], numbers: list[int]) -> Patch:
    """All faces' triangles with their vertices behind one another."""
    sizes = [len(block.positions) for block in blocks]
    offsets = np.cumsum([0, *sizes])
    triangles = [block.triangles + offset for block, offset in zip(blocks, offsets, strict=False)]
    count = sum(len(part) for part in triangles)
    return Patch(
        np.concatenate([np.zeros((0, 3)), *(block.positions for block in blocks)]),
        np.concatenate([np.zeros((0, 3), np.float32), *(block.normals for block in blocks)]),
        np.concatenate([np.zeros((0, 2)), *(block.uv for block in blocks)]),
        np.repeat(np.array(numbers, dtype=np.int32), sizes),
        np.zeros((offsets[-1], 2), dtype=bool),
        np.concatenate([np.zeros((0, 3)), *triangles]).astype(np.int32),
        np.full((count, 3), np.nan),
        np.full(count, np.nan),
    )


def _outside_out(block: _Block, move: NDArray[np.float64] | None, reversed_: bool) -> _Block:
    """Apply the face's own placement and orientation: the kernel applies neither to triangles."""
    positions, normals, triangles = block.positions, block.normals, block.triangles
    mirrored = False
    if move is not None:
        scale = np.linalg.det(move[:3, :3])
        mirrored = scale < 0
        positions = positions @ move[:3, :3].T + move[:3, 3]
        # Rotations and uniform scales only, so normals turn as directions do.
        normals = (normals @ (move[:3, :3] / math.cbrt(abs(scale))).T).astype(np.float32)
    if reversed_:
        normals = -normals
    if reversed_ != mirrored:
        triangles = np.ascontiguousarray(triangles[:, ::-1])
    return replace(block, positions=positions, normals=normals, triangles=triangles)


def _parse(data: bytes) -> list[_Block]:
    """Read the triangulations out of the kernel's binary form, version 4.

    The block opens with a line `Triangulations N`. Each holds counts of nodes
    and triangles (int32), two flags (UV, normals), the deflection (float64),
    nodes (float64 x 3), UVs (float64 x 2), triangles (int32 x 3, from 1) and
    normals (float32 x 3). Layout read off the bytes of kernel 8.0.
    """
    at = data.index(_BLOCK) + len(_BLOCK)
    end = data.index(b"\n", at)
    count, at = int(data[at:end]), end + 1
    blocks: list[_Block] = []

    def take(kind: str, rows: int, columns: int) -> NDArray[np.generic]:
        nonlocal at
        block = np.frombuffer(data, dtype=kind, count=rows * columns, offset=at)
        at += block.nbytes
        return block.reshape(rows, columns)

    for _ in range(count):
        nodes, triangles = np.frombuffer(data, dtype="<i4", count=2, offset=at)
        has_uv, has_normals = data[at + 8], data[at + 9]
        at += 18
        positions = take("<f8", nodes, 3)
        uv = take("<f8", nodes, 2) if has_uv else np.zeros((nodes, 2))
        corners = take("<i4", triangles, 3) - 1
        normals = take("<f4", nodes, 3) if has_normals else np.zeros((nodes, 3), np.float32)
        blocks.append(_Block(positions, uv, corners, normals))  # type: ignore[arg-type]
    return blocks
