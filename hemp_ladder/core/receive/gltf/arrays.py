"""The arrays of a glTF document: buffers, views, accessors (glTF 2.0, 3.6)."""

import base64
import binascii
from pathlib import Path
from typing import Any
from urllib.parse import unquote

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.findings import clip
from hemp_ladder.core.receive.gltf.meshopt import Damaged, unpack
from hemp_ladder.core.receive.gltf.values import as_dict

_COMPONENTS = {5120: "<i1", 5121: "<u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
#: Bytes of a compressed view when it is unpacked.
_MOST_UNPACKED = 2 << 30
_COLUMNS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}


def damaged(what: str) -> UnreadableSource:
    return UnreadableSource(f"The glTF file is damaged: {what}.", "Ask for it again.")


class Arrays:
    """Looks up accessors. Whatever leads out of what is there raises UnreadableSource."""

    def __init__(self, document: dict[str, Any], binary: bytes, folder: Path) -> None:
        self._document, self._binary, self._folder = document, binary, folder
        self._buffers: dict[int, bytes] = {}
        self._unpacked: dict[int, bytes] = {}

    def _buffer(self, number: int) -> bytes:
        entry = self._entry("buffers", number)
        if number not in self._buffers:
            uri = entry.get("uri")
            if uri is None:
                self._buffers[number] = self._binary
            elif not isinstance(uri, str):
                raise damaged("a buffer has no address")
            elif uri.startswith("data:"):
                self._buffers[number] = _decoded(uri)
            else:
                # Only what lies beside it, by its bare name, whatever path or address is written there.
                beside = self._folder / unquote(uri).replace("\\", "/").rpartition("/")[2]
                if not beside.is_file():
                    raise UnreadableSource(
                        f"Its triangles lie in “{clip(unquote(uri), 80)}”, which is not there.",
                        "Put that file into the same drop or ZIP, or ask for a GLB.",
                    )
                self._buffers[number] = beside.read_bytes()
        return self._buffers[number]

    def image(self, number: Any) -> tuple[str, bytes | None] | None:
        """A picture's name, and its bytes where they lie in the document; None where there is none."""
        rows = self._document.get("images")
        if not isinstance(rows, list) or not isinstance(number, int) or not 0 <= number < len(rows):
            return None
        entry = self._entry("images", number)
        name, uri = str(entry.get("name") or f"picture {number + 1}")[:200], entry.get("uri")
        if isinstance(uri, str) and uri.startswith("data:"):
            return name, _decoded(uri)
        if isinstance(uri, str):
            return unquote(uri), None
        view = self._entry("bufferViews", entry.get("bufferView"))
        start, length = _whole(view.get("byteOffset", 0)), _whole(view.get("byteLength", 0))
        return name, self._buffer(view.get("buffer", 0))[start : start + length]

    def _entry(self, table: str, number: Any) -> dict[str, Any]:
        rows = self._document.get(table)
        if not isinstance(rows, list) or not isinstance(number, int) or not 0 <= number < len(rows):
            raise damaged(f"it refers to an entry of {table} that is not there")
        row = rows[number]
        if not isinstance(row, dict):
            raise damaged(f"an entry of {table} is none")
        return row

    def scaled(self, number: Any, values: NDArray[Any]) -> NDArray[Any]:
        """Values that were packed apart, as their accessor means them: integers that stand for 0 to 1 as such."""
        entry = self._entry("accessors", number)
        kind = _component(entry) or "<f4"
        if entry.get("normalized") and kind != "<f4" and values.dtype.kind in "iu":
            return np.asarray(np.maximum(values.astype(np.float32) / float(np.iinfo(kind).max), np.float32(-1.0)))
        return values

    def accessor(self, number: Any) -> NDArray[Any]:
        """Its values, (n, k); integers that stand for 0 to 1 as such (3.6.2.5)."""
        entry = self._entry("accessors", number)
        kind, columns = _component(entry), _COLUMNS.get(str(entry.get("type")))
        if kind is None or columns is None:
            raise damaged("an accessor makes no sense")
        count = _whole(entry.get("count"))
        if "bufferView" in entry:
            values = self._view(entry["bufferView"], _whole(entry.get("byteOffset", 0)), kind, columns, count)
        else:
            if count > 50_000_000:
                raise damaged(f"it claims {count:,} values that are not there")
            values = np.zeros((count, columns), kind)
        sparse = entry.get("sparse")
        if isinstance(sparse, dict):
            values = self._sparse(values, sparse, kind, columns)
        if entry.get("normalized") and kind != "<f4":
            most = float(np.iinfo(kind).max)
            scaled: NDArray[np.float32] = np.maximum(values.astype(np.float32) / most, np.float32(-1.0))
            return scaled
        return values

    def _view(self, number: Any, offset: int, kind: str, columns: int, count: int) -> NDArray[Any]:
        view = self._entry("bufferViews", number)
        packed = as_dict(as_dict(view.get("extensions")).get("EXT_meshopt_compression"))
        start, length = _whole(view.get("byteOffset", 0)), _whole(view.get("byteLength", 0))
        if packed:
            data, start = self._unpack(number, packed), 0
            length = len(data)
        else:
            data = self._buffer(view.get("buffer", 0))
        size = np.dtype(kind).itemsize * columns
        stride = _whole(view.get("byteStride", 0)) or size
        needed = offset + stride * (count - 1) + size if count else 0
        if needed > length or start + length > len(data):
            raise damaged("it is shorter than it says")
        if stride == size:
            return np.frombuffer(data, kind, count * columns, start + offset).reshape(count, columns)
        raw = np.ndarray((count, columns), kind, data, start + offset, (stride, np.dtype(kind).itemsize))
        return raw.copy()

    def _unpack(self, number: int, packed: dict[str, Any]) -> bytes:
        """What a compressed view holds (EXT_meshopt_compression)."""
        if number not in self._unpacked:
            count, stride = _whole(packed.get("count", 0)), _whole(packed.get("byteStride", 0))
            start, length = _whole(packed.get("byteOffset", 0)), _whole(packed.get("byteLength", 0))
            if count * stride > _MOST_UNPACKED:
                raise damaged(f"it claims {count:,} values that are not there")
            data = self._buffer(packed.get("buffer", 0))[start : start + length]
            try:
                mode, filtered = str(packed.get("mode")), str(packed.get("filter", "NONE"))
                self._unpacked[number] = unpack(data, count, stride, mode, filtered)
            except Damaged as error:
                raise damaged(str(error)) from error
        return self._unpacked[number]

    def draco(self, packed: dict[str, Any]) -> tuple[NDArray[np.int64], dict[str, NDArray[Any]]]:
        """Triangles and attributes by name of a primitive that KHR_draco_mesh_compression packed."""
        import DracoPy

        view = self._entry("bufferViews", packed.get("bufferView"))
        start, length = _whole(view.get("byteOffset", 0)), _whole(view.get("byteLength", 0))
        try:
            mesh = DracoPy.decode(bytes(self._buffer(view.get("buffer", 0))[start : start + length]))
            found = {item["unique_id"]: np.asarray(item["data"]) for item in mesh.attributes}
            faces = np.asarray(mesh.faces, np.int64).reshape(-1, 3)
        except Exception as error:  # whatever the decoder raises
            raise damaged("a compressed mesh cannot be decoded") from error
        wanted = as_dict(packed.get("attributes"))
        return faces, {name: found[id_] for name, id_ in wanted.items() if id_ in found and found[id_].ndim == 2}

    def _sparse(self, values: NDArray[Any], sparse: dict[str, Any], kind: str, columns: int) -> NDArray[Any]:
        count, where, what = (
            _whole(sparse.get("count", 0)),
            as_dict(sparse.get("indices")),
            as_dict(sparse.get("values")),
        )
        at = self._view(
            where.get("bufferView"), _whole(where.get("byteOffset", 0)), _component(where) or "<u4", 1, count,
        )  # fmt: skip
        own = self._view(what.get("bufferView"), _whole(what.get("byteOffset", 0)), kind, columns, count)
        if len(at) and at.max() >= len(values):
            raise damaged("a sparse value has no place")
        out = np.array(values)
        out[at[:, 0]] = own
        return out


def _component(entry: dict[str, Any]) -> str | None:
    """How the numbers of an entry are written; None where it does not say so."""
    told = entry.get("componentType")
    return _COMPONENTS.get(told) if isinstance(told, int) else None


def _decoded(uri: str) -> bytes:
    try:
        return base64.b64decode(uri.partition(",")[2], validate=True)
    except (binascii.Error, ValueError) as error:
        raise damaged("what is packed in it cannot be decoded") from error


def _whole(value: Any) -> int:
    if not isinstance(value, int) or isinstance(value, bool) or value < 0:
        raise damaged("a length in it is none")
    return value
