// Packs arrays by the library that the extension came with, and prints them as JSON: what our reader is held against.
import { createRequire } from "node:module";

const { MeshoptEncoder: encoder } = createRequire(`${process.argv[2]}/package.json`)("meshoptimizer");
await encoder.ready;
const told = JSON.parse(process.argv[3]);
const base64 = (data) => Buffer.from(data).toString("base64");
const floats = new Float32Array(told.floats);
const bytes = new Uint8Array(floats.buffer);
const triangles = new Uint32Array(told.triangles);
const octahedral = encoder.encodeFilterOct(new Float32Array(told.normals), told.normals.length / 4, 8, 16);
const exponential = encoder.encodeFilterExp(floats, floats.length / 3, 12, 15);
const quaternion = encoder.encodeFilterQuat(new Float32Array(told.quaternions), told.quaternions.length / 4, 8, 16);
const attributes = (data, count, stride) => base64(encoder.encodeGltfBuffer(data, count, stride, "ATTRIBUTES", 0));
console.log(
  JSON.stringify({
    plain: attributes(bytes, floats.length / 3, 12),
    octahedral: attributes(octahedral, told.normals.length / 4, 8),
    exponential: attributes(exponential, floats.length / 3, 12),
    quaternion: attributes(quaternion, told.quaternions.length / 4, 8),
    triangles: base64(encoder.encodeGltfBuffer(new Uint8Array(triangles.buffer), triangles.length, 4, "TRIANGLES", 0)),
    indices: base64(encoder.encodeGltfBuffer(new Uint8Array(triangles.buffer), triangles.length, 4, "INDICES", 0)),
  }),
);
