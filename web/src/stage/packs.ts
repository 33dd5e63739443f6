import { BufferAttribute, BufferGeometry } from "three";

/** Which triangles belong to which face: run k, from first[k] to first[k + 1], to of[k], or to k itself. */
interface Runs {
  first: number[];
  of: number[] | null;
  count: number;
}

/** A mesh as it came: geometry around its own origin, and which triangles belong to which face. */
export interface PackedMesh {
  key: string;
  origin: [number, number, number];
  faces: Runs;
  positions: Float32Array;
  normals: Float32Array;
  /** From the lower left, where the mesh has any. */
  uv: Float32Array | null;
  /** The second set, which some occlusion maps lie by. */
  uv1: Float32Array | null;
  /** Of each vertex, linear, with opacity. */
  colours: Float32Array | null;
  index: Uint16Array | Uint32Array;
}

interface Gltf {
  meshes?: {
    primitives: {
      attributes: { POSITION: number; NORMAL: number; TEXCOORD_0?: number; TEXCOORD_1?: number; COLOR_0?: number };
      indices: number;
    }[];
    extras: { key: string; origin: [number, number, number]; runs: { face: Runs } };
  }[];
  accessors: { bufferView: number; componentType: number; count: number; type: string }[];
  bufferViews: { byteOffset: number; byteLength: number }[];
}

/** Read a pack: a GLB whose layout is ours, so that its arrays can be used where they lie. */
export function readPack(data: ArrayBuffer): PackedMesh[] {
  const view = new DataView(data);
  const length = view.getUint32(12, true);
  const gltf = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 20, length))) as Gltf;
  const start = 20 + length + 8;
  const block = (accessor: number) => {
    const { bufferView, componentType, count, type } = gltf.accessors[accessor]!;
    const offset = start + gltf.bufferViews[bufferView]!.byteOffset;
    const values = count * (type === "SCALAR" ? 1 : Number(type.slice(3)));
    if (componentType === 5126) return new Float32Array(data, offset, values);
    return componentType === 5123 ? new Uint16Array(data, offset, values) : new Uint32Array(data, offset, values);
  };
  const own = (accessor: number | undefined) => (accessor === undefined ? null : (block(accessor) as Float32Array));
  return (gltf.meshes ?? []).map(({ primitives, extras }) => {
    const { attributes, indices } = primitives[0]!;
    return {
      key: extras.key,
      origin: extras.origin,
      faces: extras.runs.face,
      positions: block(attributes.POSITION) as Float32Array,
      normals: block(attributes.NORMAL) as Float32Array,
      uv: own(attributes.TEXCOORD_0),
      uv1: own(attributes.TEXCOORD_1),
      colours: own(attributes.COLOR_0),
      index: block(indices) as Uint16Array | Uint32Array,
    };
  });
}

/**
 * Geometry with its triangles ordered by slot, one group a slot, so that each
 * material is one draw call; turned over for parts that were flipped by hand.
 */
export function dressedGeometry(
  mesh: PackedMesh,
  slots: [number, number][],
  count: number,
  flipped: boolean,
): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(mesh.positions, 3));
  geometry.setAttribute("normal", new BufferAttribute(flipped ? mesh.normals.map((value) => -value) : mesh.normals, 3));
  if (mesh.uv) geometry.setAttribute("uv", new BufferAttribute(mesh.uv, 2));
  if (mesh.uv1) geometry.setAttribute("uv1", new BufferAttribute(mesh.uv1, 2));
  if (mesh.colours) geometry.setAttribute("color", new BufferAttribute(mesh.colours, 4));
  const runs = indexBySlot(mesh, slots, count);
  let index =
    runs.length === 1 ? runs[0]!.index : new (mesh.index.constructor as Uint32ArrayConstructor)(mesh.index.length);
  let at = 0;
  for (const run of runs) {
    if (index !== run.index) index.set(run.index, at);
    geometry.addGroup(at, run.index.length, run.slot);
    at += run.index.length;
  }
  if (flipped) {
    index = index.slice();
    for (let i = 0; i < index.length; i += 3) [index[i], index[i + 2]] = [index[i + 2]!, index[i]!];
  }
  geometry.setIndex(new BufferAttribute(index, 1));
  return geometry;
}

/** The triangles of each slot that has any; all of them where nothing is said. */
export function indexBySlot(
  mesh: PackedMesh,
  slots: [number, number][],
  count: number,
): { slot: number; index: Uint16Array | Uint32Array }[] {
  if (!slots.length) return [{ slot: 0, index: mesh.index }];
  const slotOf = new Uint32Array(mesh.faces.count);
  for (const [face, slot] of slots) slotOf[face] = slot;
  const { first, of } = mesh.faces;
  const sizes = new Uint32Array(count);
  const slotAt = (run: number) => slotOf[of ? of[run]! : run] ?? 0;
  for (let run = 0; run + 1 < first.length; run++) sizes[slotAt(run)]! += (first[run + 1]! - first[run]!) * 3;
  const found = Array.from(sizes, (size) => new (mesh.index.constructor as Uint32ArrayConstructor)(size));
  const filled = new Uint32Array(count);
  for (let run = 0; run + 1 < first.length; run++) {
    const slot = slotAt(run);
    const piece = mesh.index.subarray(first[run]! * 3, first[run + 1]! * 3);
    found[slot]!.set(piece, filled[slot]);
    filled[slot]! += piece.length;
  }
  return found.flatMap((index, slot) => (index.length ? [{ slot, index }] : []));
}
