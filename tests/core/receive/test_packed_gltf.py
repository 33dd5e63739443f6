"""Compressed geometry of glTF, against what the libraries of both extensions pack; meshes that stand many times."""

import base64
import json
import struct
import subprocess
from pathlib import Path
from typing import Any

import DracoPy
import numpy as np
import trimesh

from hemp_ladder.core.receive.gltf.meshopt import Damaged, unpack
from tests.core.receive.test_mesh_files import MeshCase
from tests.support import ROOT


def data_uri(data: bytes) -> dict[str, Any]:
    return {"uri": "data:;base64," + base64.b64encode(data).decode(), "byteLength": len(data)}


class Meshopt(MeshCase):
    packed: dict[str, bytes]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        ball = trimesh.creation.icosphere(subdivisions=3)
        cls.ball = ball
        cls.normals = np.column_stack([ball.vertices, np.zeros(len(ball.vertices))])
        turns = np.random.default_rng(3).normal(size=(40, 4))
        cls.turns = turns / np.linalg.norm(turns, axis=1)[:, None]
        told = {
            "floats": ball.vertices.astype(np.float32).ravel().tolist(), "triangles": ball.faces.ravel().tolist(),
            "normals": cls.normals.ravel().tolist(), "quaternions": cls.turns.ravel().tolist(),
        }  # fmt: skip
        script = Path(__file__).with_name("pack_views.mjs")
        run = subprocess.run(
            ["node", str(script), str(ROOT / "web"), json.dumps(told)], capture_output=True, text=True, check=True
        )
        cls.packed = {name: base64.b64decode(data) for name, data in json.loads(run.stdout).items()}

    def test_bytes_come_out_as_they_went_in(self) -> None:
        count = len(self.ball.vertices)
        plain = np.frombuffer(unpack(self.packed["plain"], count, 12, "ATTRIBUTES", "NONE"), "<f4").reshape(-1, 3)
        np.testing.assert_array_equal(plain, self.ball.vertices.astype(np.float32))
        indices = np.frombuffer(unpack(self.packed["indices"], self.ball.faces.size, 4, "INDICES", "NONE"), "<u4")
        np.testing.assert_array_equal(indices.reshape(-1, 3), self.ball.faces)
        # Triangles may come out turned about: the same corners in the same sense.
        found = np.frombuffer(unpack(self.packed["triangles"], self.ball.faces.size, 4, "TRIANGLES", "NONE"), "<u4")
        for ours, theirs in zip(found.reshape(-1, 3).tolist(), self.ball.faces.tolist(), strict=True):
            self.assertIn(theirs, [ours, ours[1:] + ours[:1], ours[2:] + ours[:2]])

    def test_filters(self) -> None:
        count = len(self.ball.vertices)
        directions = np.frombuffer(unpack(self.packed["octahedral"], count, 8, "ATTRIBUTES", "OCTAHEDRAL"), "<i2")
        np.testing.assert_allclose(directions.reshape(-1, 4)[:, :3] / 32767, self.ball.vertices, atol=2e-4)
        numbers = np.frombuffer(unpack(self.packed["exponential"], count, 12, "ATTRIBUTES", "EXPONENTIAL"), "<f4")
        np.testing.assert_allclose(numbers.reshape(-1, 3), self.ball.vertices, atol=2e-4)
        turns = np.frombuffer(unpack(self.packed["quaternion"], 40, 8, "ATTRIBUTES", "QUATERNION"), "<i2").reshape(
            -1, 4
        )
        same = np.abs(np.einsum("ij,ij->i", turns / 32767, self.turns))
        np.testing.assert_allclose(same, 1, atol=1e-3)

    def test_damage_is_said(self) -> None:
        for data in (b"", b"\x00\x01", self.packed["plain"][:40]):
            with self.assertRaises(Damaged):
                unpack(data, 642, 12, "ATTRIBUTES", "NONE")
        with self.assertRaises(Damaged):
            unpack(self.packed["triangles"][:60], self.ball.faces.size, 4, "TRIANGLES", "NONE")

    def test_a_document_of_compressed_views(self) -> None:
        plain, faces = self.packed["plain"], self.packed["triangles"]
        count, corners = len(self.ball.vertices), self.ball.faces.size

        def view(offset: int, length: int, stride: int, values: int, mode: str) -> dict[str, Any]:
            packed = {
                "buffer": 0,
                "byteOffset": offset,
                "byteLength": length,
                "byteStride": stride,
                "count": values,
                "mode": mode,
            }
            return {"buffer": 1, "byteLength": values * stride, "extensions": {"EXT_meshopt_compression": packed}}

        document = {
            "asset": {"version": "2.0"}, "extensionsRequired": ["EXT_meshopt_compression"], "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0}], "buffers": [data_uri(plain + faces), {"byteLength": count * 12 + corners * 4}],
            "bufferViews": [view(0, len(plain), 12, count, "ATTRIBUTES"), view(len(plain), len(faces), 4, corners, "TRIANGLES")],
            "accessors": [
                {"bufferView": 0, "componentType": 5126, "count": count, "type": "VEC3"},
                {"bufferView": 1, "componentType": 5125, "count": corners, "type": "SCALAR"},
            ],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
        }  # fmt: skip
        _, (mesh,) = self.read("packed.gltf", json.dumps(document))
        self.assertAlmostEqual(mesh.volume(), self.ball.volume, places=5)


class Draco(MeshCase):
    def test_a_mesh_packed_by_the_format_s_own_library(self) -> None:
        ball = trimesh.creation.icosphere(subdivisions=3)
        uv = np.random.default_rng(1).random((len(ball.vertices), 2))
        data = DracoPy.encode(
            ball.vertices.astype(np.float32), ball.faces.astype(np.uint32), quantization_bits=16, tex_coord=uv
        )
        ids = {item["attribute_type"]: item["unique_id"] for item in DracoPy.decode(data).attributes}
        packed = {"bufferView": 0, "attributes": {"POSITION": ids[0], "TEXCOORD_0": ids[3]}}
        document = {
            "asset": {"version": "2.0"}, "extensionsRequired": ["KHR_draco_mesh_compression"], "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0}], "buffers": [data_uri(data)], "bufferViews": [{"buffer": 0, "byteLength": len(data)}],
            "accessors": [
                {"componentType": 5126, "count": len(ball.vertices), "type": "VEC3"},
                {"componentType": 5126, "count": len(ball.vertices), "type": "VEC2"},
            ],
            "meshes": [
                {
                    "primitives": [
                        {
                            "attributes": {"POSITION": 0, "TEXCOORD_0": 1},
                            "extensions": {"KHR_draco_mesh_compression": packed},
                        }
                    ]
                }
            ],
        }  # fmt: skip
        _, (mesh,) = self.read("draco.gltf", json.dumps(document))
        self.assertAlmostEqual(mesh.volume(), ball.volume, delta=1e-3)
        self.assertEqual(len(mesh.triangles), len(ball.faces))
        self.assertGreater(float(np.ptp(mesh.attributes["uv"])), 0.9)
        document["buffers"] = [data_uri(data[: len(data) // 2])]
        self.assertIn("cannot be decoded", self.refused("cut.gltf", json.dumps(document)))


class Instances(MeshCase):
    def test_one_node_many_placements(self) -> None:
        corners = struct.pack("<9f", 0, 0, 0, 1, 0, 0, 0, 1, 0)
        places = struct.pack("<6f", 5, 0, 0, 0, 7, 0)
        scales = struct.pack("<6f", 1, 1, 1, 2, 2, 2)
        data = corners + places + scales
        document = {
            "asset": {"version": "2.0"}, "scenes": [{"nodes": [0]}], "buffers": [data_uri(data)],
            "nodes": [{"mesh": 0, "extensions": {"EXT_mesh_gpu_instancing": {"attributes": {"TRANSLATION": 1, "SCALE": 2}}}}],
            "bufferViews": [{"buffer": 0, "byteLength": len(data)}],
            "accessors": [
                {"bufferView": 0, "byteOffset": offset, "componentType": 5126, "count": count, "type": "VEC3"}
                for offset, count in ((0, 3), (36, 2), (60, 2))
            ],
            "meshes": [{"name": "Leaf", "primitives": [{"attributes": {"POSITION": 0}}]}],
        }  # fmt: skip
        model, _ = self.read("leaves.gltf", json.dumps(document))
        self.assertEqual(len(model.placements), 2)
        np.testing.assert_allclose(model.box, [[0, 0, 0], [6, 9, 0]])
