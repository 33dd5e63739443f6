"""Meshes of a COLLADA document: sources of numbers, and primitives that index into them corner by corner."""

from collections.abc import Iterator, Mapping
from itertools import pairwise
from xml.etree.ElementTree import Element

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.receive.collada.values import array, child, count, ref, text_of, whole
from hemp_ladder.core.receive.meshed.parts import Polygons, cornered
from hemp_ladder.core.receive.meshed.polygons import strips, triangulated

#: What an input is called here, and how many numbers it has.
_STREAMS = {"NORMAL": ("normal", 3), "TEXCOORD": ("uv", 2), "COLOR": ("colour", 4)}
_SURFACES = ("triangles", "polylist", "polygons", "tristrips", "trifans")


class Geometry:
    """Turns geometries into polygons; sources that several use are read once."""

    def __init__(self, by_id: Mapping[str, Element]) -> None:
        self._by_id = by_id
        self._sources: dict[str, NDArray[np.float64]] = {}

    def mesh(self, geometry: Element, bound: Mapping[str, str]) -> tuple[Polygons | None, int]:
        """A geometry's triangles, `bound` gives the material of each symbol; and how many primitives are lines."""
        mesh = child(geometry, "mesh")
        if mesh is None:
            mesh = child(geometry, "convex_mesh")
        if mesh is None:
            return None, len(geometry.findall("spline"))
        lines = sum(1 for item in mesh if item.tag in ("lines", "linestrips"))
        pieces, materials = [], dict.fromkeys([""])
        for item in mesh:
            if item.tag in _SURFACES:
                materials.setdefault(item.get("material", ""))
                pieces.append((list(materials).index(item.get("material", "")), *self._primitive(item)))
        pieces = [piece for piece in pieces if len(piece[2])]
        if not pieces:
            return None, lines
        return self._joined(pieces, [bound.get(symbol) or None for symbol in materials]), lines

    def _joined(
        self, pieces: list[tuple[int, dict[str, tuple[NDArray[np.float64], NDArray[np.int64]]], NDArray[np.int64]]],
        materials: list[str | None],
    ) -> Polygons:  # fmt: skip
        spots, corners, groups, hung = [], [], [], []
        start = 0
        for group, streams, triangles in pieces:
            positions, own = streams.pop("position")
            inside = (own >= 0) & (own < len(positions))
            safe = np.where(inside, own, 0)
            if not len(positions):
                continue
            fine = {
                name: (values.astype(np.float32), index)
                for name, (values, index) in streams.items()
                if len(values) and len(index) == len(own) and ((index >= 0) & (index < len(values))).all()
            }
            places, vertex, attributes = cornered(positions, safe, fine)
            spots.append(places)
            corners.append(np.where(inside[triangles], vertex[triangles] + start, -1))
            groups.append(np.full(len(triangles), group))
            hung.append(attributes)
            start += len(places)
        if not spots:
            return Polygons(np.zeros((0, 3)), np.zeros((0, 3), np.int64))
        shared = [name for name in hung[0] if all(name in item for item in hung)]
        return Polygons(
            np.concatenate(spots), np.concatenate(corners),
            {name: np.concatenate([item[name] for item in hung]) for name in shared}, np.concatenate(groups), materials,
        )  # fmt: skip

    def _primitive(
        self, item: Element
    ) -> tuple[dict[str, tuple[NDArray[np.float64], NDArray[np.int64]]], NDArray[np.int64]]:
        """What hangs on each corner, as values and indices; and triangles as places among the corners."""
        inputs = [told for told in item if told.tag == "input"]
        stride = 1 + max((count(told.get("offset"), 0) for told in inputs), default=0)
        rows = [whole(p.text) for p in item.iter("p")]
        if item.tag == "polylist":
            counts = whole(text_of(child(item, "vcount")))
        elif item.tag in ("polygons", "tristrips", "trifans"):
            counts = np.array([len(row) // stride for row in rows], np.int64)
        else:
            counts = np.full(sum(len(row) for row in rows) // stride // 3, 3, np.int64)
        table = np.concatenate([row[: len(row) // stride * stride] for row in rows] or [np.zeros(0, np.int64)])
        table = table.reshape(-1, stride)
        counts = counts[np.cumsum(counts) <= len(table)] if len(counts) else counts
        counts = np.maximum(counts, 0)
        table = table[: int(counts.sum())]
        streams: dict[str, tuple[NDArray[np.float64], NDArray[np.int64]]] = {}
        sets = 0
        for semantic, id_, offset in self._inputs(inputs):
            if offset >= stride:
                continue
            if semantic == "POSITION":
                streams["position"] = (self._source(id_, 3), table[:, offset])
            elif semantic in _STREAMS:
                name, width = _STREAMS[semantic]
                if name == "uv":
                    name, sets = f"uv{sets or ''}", sets + 1
                streams.setdefault(name, (self._source(id_, width), table[:, offset]))
        if "position" not in streams or not len(table):
            return {}, np.zeros((0, 3), np.int64)
        positions, own = streams["position"]
        if item.tag in ("tristrips", "trifans"):
            starts = np.concatenate([[0], np.cumsum(counts)])
            runs = [strips(np.arange(a, b), item.tag == "trifans") for a, b in pairwise(starts.tolist())]
            return streams, np.concatenate([*runs, np.zeros((0, 3), np.int64)])
        safe = np.where((own >= 0) & (own < len(positions)), own, 0)
        places, _ = triangulated(positions, safe, counts)
        return streams, places

    def _inputs(self, inputs: list[Element]) -> Iterator[tuple[str, str, int]]:
        """Semantics with their sources; those of vertices stand in an element of their own."""
        for told in inputs:
            offset, semantic, id_ = count(told.get("offset"), 0), told.get("semantic", ""), ref(told, "source")
            if semantic != "VERTEX":
                yield semantic, id_, offset
                continue
            vertices = self._by_id.get(id_)
            for inner in vertices if vertices is not None else ():
                if inner.tag == "input":
                    yield inner.get("semantic", ""), ref(inner, "source"), offset

    def _source(self, id_: str, width: int) -> NDArray[np.float64]:
        """Its numbers, (n, width); colours without opacity are opaque."""
        if id_ not in self._sources:
            self._sources[id_] = self._read(id_)
        values = self._sources[id_]
        if values.shape[1] >= width:
            return values[:, :width]
        filled = np.ones((len(values), width)) if width == 4 else np.zeros((len(values), width))
        filled[:, : values.shape[1]] = values
        return filled

    def _read(self, id_: str) -> NDArray[np.float64]:
        source = self._by_id.get(id_)
        values = array(text_of(child(source, "float_array")))
        accessor = next(source.iter("accessor"), None) if source is not None else None
        stride = max(1, count(accessor.get("stride"), 3)) if accessor is not None else 3
        offset = count(accessor.get("offset"), 0) if accessor is not None else 0
        values = values[offset:]
        return values[: len(values) // stride * stride].reshape(-1, stride)
