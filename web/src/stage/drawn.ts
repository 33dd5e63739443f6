import {
  Box3,
  BufferAttribute,
  BufferGeometry,
  InstancedBufferAttribute,
  InstancedMesh,
  Matrix4,
  Mesh,
  Sphere,
  Vector3,
} from "three";
import type { Intersection, Material as ThreeMaterial } from "three";

import type { Triangles } from "./picking/box";

/** A body on the stage, and which placements it shows. */
export interface Shown {
  object: Mesh;
  nodes: number[];
  parts: number[];
  /** The placement that was hit, by its number here. */
  hit: (hit: Intersection) => number;
  /** Around one of its placements, in metres from the middle of the model. */
  box: (at: number) => Box3;
  /** The triangles of one of its placements, and how they are put where they stand. */
  corners: (at: number) => Triangles;
  /** The same triangles of some of its placements, in another material. */
  veil: (chosen: number[], material: ThreeMaterial) => Mesh;
}

const spot = new Vector3();
const MIRROR = new Matrix4().makeScale(-1, 1, 1);

/** Many placements of one geometry. `matrices` are where they stand, 16 to each. */
export function instances(
  geometry: BufferGeometry,
  materials: ThreeMaterial[],
  group: { nodes: number[]; parts: number[]; mirrored: boolean },
  matrices: Matrix4[],
): Shown {
  const mesh = new InstancedMesh(geometry, materials, matrices.length);
  const turned = new Matrix4();
  // three decides which side is the front by the object's matrix alone, so a mirror goes there.
  matrices.forEach((matrix, at) =>
    mesh.setMatrixAt(at, group.mirrored ? turned.multiplyMatrices(MIRROR, matrix) : matrix),
  );
  if (group.mirrored) mesh.applyMatrix4(MIRROR);
  return {
    object: mesh,
    nodes: group.nodes,
    parts: group.parts,
    hit: (hit) => hit.instanceId ?? -1,
    box: (at) => {
      if (!geometry.boundingBox) geometry.computeBoundingBox();
      mesh.getMatrixAt(at, turned);
      return geometry.boundingBox!.clone().applyMatrix4(turned.premultiply(mesh.matrix));
    },
    corners: (at) => {
      const own = new Matrix4();
      mesh.getMatrixAt(at, own);
      const { attributes, index } = geometry;
      const matrix = own.premultiply(mesh.matrix);
      return { positions: attributes.position!.array, index: index!.array, first: 0, end: index!.count, matrix };
    },
    veil: (chosen, material) => {
      const veil = new InstancedMesh(
        geometry,
        materials.map(() => material),
        0,
      );
      if (chosen.length === matrices.length) veil.instanceMatrix = mesh.instanceMatrix;
      else {
        const all = mesh.instanceMatrix.array;
        const some = new Float32Array(chosen.length * 16);
        chosen.forEach((at, to) => some.set(all.subarray(at * 16, at * 16 + 16), to * 16));
        veil.instanceMatrix = new InstancedBufferAttribute(some, 16);
      }
      veil.count = chosen.length;
      veil.applyMatrix4(mesh.matrix);
      return veil;
    },
  };
}

/** Triangles of one placement, as they go into a chunk: of a mesh where it stands, those from the index. */
export interface Piece {
  node: number;
  part: number;
  positions: Float32Array;
  normals: Float32Array;
  uv: Float32Array | null;
  uv1: Float32Array | null;
  colours: Float32Array | null;
  index: Uint16Array | Uint32Array;
  matrix: Matrix4;
  /** Its triangles are to be turned over: it is mirrored, or was flipped by hand, but not both. */
  turned: boolean;
  /** Its normals are to be turned round: it was flipped by hand. */
  flipped: boolean;
}

/** Small pieces of one material in one geometry, so that thousands of them are one call of the graphics card. */
export function chunk(pieces: Piece[], material: ThreeMaterial): Shown {
  let vertices = 0;
  let corners = 0;
  for (const piece of pieces) {
    vertices += piece.positions.length / 3;
    corners += piece.index.length;
  }
  const positions = new Float32Array(vertices * 3);
  const normals = new Float32Array(vertices * 3);
  const index = new Uint32Array(corners);
  const first = new Uint32Array(pieces.length + 1);
  const boxes = new Float32Array(pieces.length * 6);
  let [vertex, corner] = [0, 0];
  pieces.forEach((piece, at) => {
    bake(piece, positions, normals, vertex * 3, boxes.subarray(at * 6, at * 6 + 6));
    const { index: own, turned } = piece;
    for (let k = 0; k < own.length; k += 3) {
      index[corner + k] = own[turned ? k + 2 : k]! + vertex;
      index[corner + k + 1] = own[k + 1]! + vertex;
      index[corner + k + 2] = own[turned ? k : k + 2]! + vertex;
    }
    vertex += piece.positions.length / 3;
    corner += own.length;
    first[at + 1] = corner / 3;
  });
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(positions, 3));
  geometry.setAttribute("normal", new BufferAttribute(normals, 3));
  hang(geometry, "uv", pieces, vertices, 2, 0);
  hang(geometry, "uv1", pieces, vertices, 2, 0);
  hang(geometry, "colours", pieces, vertices, 4, 1);
  geometry.setIndex(new BufferAttribute(index, 1));
  const whole = new Box3();
  for (let at = 0; at < boxes.length; at += 6) {
    whole.expandByPoint(spot.fromArray(boxes, at));
    whole.expandByPoint(spot.fromArray(boxes, at + 3));
  }
  geometry.boundingSphere = whole.getBoundingSphere(new Sphere());
  const object = new Mesh(geometry, material);
  return {
    object,
    nodes: pieces.map((piece) => piece.node),
    parts: pieces.map((piece) => piece.part),
    hit: (hit) => {
      let [low, high] = [0, pieces.length - 1];
      while (low < high) {
        const middle = (low + high + 1) >> 1;
        if (first[middle]! <= hit.faceIndex!) low = middle;
        else high = middle - 1;
      }
      return low;
    },
    box: (at) => {
      const box = new Box3();
      box.min.fromArray(boxes, at * 6);
      box.max.fromArray(boxes, at * 6 + 3);
      return box.applyMatrix4(object.matrix);
    },
    corners: (at) => ({ positions, index, first: first[at]! * 3, end: first[at + 1]! * 3, matrix: object.matrix }),
    veil: (chosen, over) => {
      const some = new BufferGeometry();
      some.attributes = geometry.attributes;
      some.boundingSphere = geometry.boundingSphere;
      let count = 0;
      for (const at of chosen) count += (first[at + 1]! - first[at]!) * 3;
      const picked = new Uint32Array(count);
      let to = 0;
      for (const at of chosen) {
        const run = index.subarray(first[at]! * 3, first[at + 1]! * 3);
        picked.set(run, to);
        to += run.length;
      }
      some.setIndex(new BufferAttribute(picked, 1));
      const veil = new Mesh(some, over);
      veil.applyMatrix4(object.matrix);
      return veil;
    },
  };
}

/** What some pieces have at their vertices, with a plain value for the others. */
function hang(
  geometry: BufferGeometry,
  name: "uv" | "uv1" | "colours",
  pieces: Piece[],
  vertices: number,
  size: number,
  plain: number,
) {
  if (!pieces.some((piece) => piece[name])) return;
  const values = new Float32Array(vertices * size).fill(plain);
  let at = 0;
  for (const piece of pieces) {
    const own = piece[name];
    if (own) values.set(own, at);
    at += (piece.positions.length / 3) * size;
  }
  geometry.setAttribute(name === "colours" ? "color" : name, new BufferAttribute(values, size));
}

/** A piece's vertices where it stands; its box into `box`. */
function bake(piece: Piece, positions: Float32Array, normals: Float32Array, start: number, box: Float32Array) {
  const m = piece.matrix.elements as unknown as number[];
  const [a, b, c, d, e, f, g, h, i] = [m[0]!, m[1]!, m[2]!, m[4]!, m[5]!, m[6]!, m[8]!, m[9]!, m[10]!];
  // Normals go by the cofactors of the matrix, which for a mirror point the other way.
  const sign = piece.flipped === piece.matrix.determinant() < 0 ? 1 : -1;
  const n = [e * i - f * h, f * g - d * i, d * h - e * g, c * h - b * i, a * i - c * g, b * g - a * h].map(
    (value) => value * sign,
  );
  n.push((b * f - c * e) * sign, (c * d - a * f) * sign, (a * e - b * d) * sign);
  const { positions: p, normals: q } = piece;
  let [x0, y0, z0, x1, y1, z1] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let k = 0; k < p.length; k += 3) {
    const [x, y, z] = [p[k]!, p[k + 1]!, p[k + 2]!];
    const px = a * x + d * y + g * z + m[12]!;
    const py = b * x + e * y + h * z + m[13]!;
    const pz = c * x + f * y + i * z + m[14]!;
    positions[start + k] = px;
    positions[start + k + 1] = py;
    positions[start + k + 2] = pz;
    if (px < x0) x0 = px;
    if (px > x1) x1 = px;
    if (py < y0) y0 = py;
    if (py > y1) y1 = py;
    if (pz < z0) z0 = pz;
    if (pz > z1) z1 = pz;
    const [u, v, w] = [q[k]!, q[k + 1]!, q[k + 2]!];
    const nx = n[0]! * u + n[3]! * v + n[6]! * w;
    const ny = n[1]! * u + n[4]! * v + n[7]! * w;
    const nz = n[2]! * u + n[5]! * v + n[8]! * w;
    const length = Math.hypot(nx, ny, nz) || 1;
    normals[start + k] = nx / length;
    normals[start + k + 1] = ny / length;
    normals[start + k + 2] = nz / length;
  }
  box.set([x0, y0, z0, x1, y1, z1]);
}

/** Have a body stand elsewhere: moved by this from where it was made. */
export function shift(shown: Shown, by: Matrix4, mirrored: boolean) {
  shown.object.matrixAutoUpdate = false;
  shown.object.matrix.copy(by);
  if (mirrored && shown.object instanceof InstancedMesh) shown.object.matrix.multiply(MIRROR);
  shown.object.matrixWorldNeedsUpdate = true;
}

/** Let go of a veil; what it shares with the body below it stays. */
export function drop(veil: Mesh) {
  if (veil instanceof InstancedMesh) veil.dispose();
  else {
    veil.geometry.attributes = {};
    veil.geometry.dispose();
  }
}

/** Let go of what is only in this body; geometries of instances are shared. */
export function dispose(shown: Shown) {
  if (shown.object instanceof InstancedMesh) shown.object.dispose();
  else shown.object.geometry.dispose();
}
