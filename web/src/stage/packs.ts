import { BufferAttribute, BufferGeometry } from "three";

import type { Result } from "../api/client";

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
  index: Uint16Array | Uint32Array;
}

interface Gltf {
  meshes?: {
    primitives: { attributes: { POSITION: number; NORMAL: number }; indices: number }[];
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
    const values = count * (type === "VEC3" ? 3 : 1);
    if (componentType === 5126) return new Float32Array(data, offset, values);
    return componentType === 5123 ? new Uint16Array(data, offset, values) : new Uint32Array(data, offset, values);
  };
  return (gltf.meshes ?? []).map(({ primitives, extras }) => {
    const { attributes, indices } = primitives[0]!;
    return {
      key: extras.key,
      origin: extras.origin,
      faces: extras.runs.face,
      positions: block(attributes.POSITION) as Float32Array,
      normals: block(attributes.NORMAL) as Float32Array,
      index: block(indices) as Uint16Array | Uint32Array,
    };
  });
}

/** Fetches packs once and hands out meshes by key. */
export class PackShelf {
  private readonly meshes = new Map<string, PackedMesh>();
  private readonly asked = new Map<string, Promise<void>>();

  get(key: string): PackedMesh | undefined {
    return this.meshes.get(key);
  }

  /** Resolves when the pack's meshes are here; a pack that cannot be had rejects and can be asked again. */
  fetch(pack: string): Promise<void> {
    let asked = this.asked.get(pack);
    if (!asked) {
      asked = fetch(`/api/packs/${pack}`)
        .then((answer) => {
          if (!answer.ok) throw new Error(`pack ${answer.status}`);
          return answer.arrayBuffer();
        })
        .then((data) => {
          for (const mesh of readPack(data)) this.meshes.set(mesh.key, mesh);
        });
      asked.catch(() => this.asked.delete(pack));
      this.asked.set(pack, asked);
    }
    return asked;
  }

  /** Whether every mesh of a result is here. */
  isHere(result: Result | undefined): boolean {
    return !!result?.parts.every((part) => !part.mesh || (part.pack && this.meshes.has(part.mesh)));
  }

  /** Let go of meshes that nobody shows any more. */
  keep(packs: ReadonlySet<string>, keys: ReadonlySet<string>) {
    if (this.meshes.size < 4 * keys.size + 400) return;
    for (const key of this.meshes.keys()) if (!keys.has(key)) this.meshes.delete(key);
    for (const pack of this.asked.keys()) if (!packs.has(pack)) this.asked.delete(pack);
  }
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
  let index = mesh.index;
  if (slots.length) {
    const slotOf = new Uint32Array(mesh.faces.count);
    for (const [face, slot] of slots) slotOf[face] = slot;
    index = new (mesh.index.constructor as Uint32ArrayConstructor)(mesh.index.length);
    let at = 0;
    for (let slot = 0; slot < count; slot++) {
      const began = at;
      const { first, of } = mesh.faces;
      for (let run = 0; run + 1 < first.length; run++) {
        if ((slotOf[of ? of[run]! : run] ?? 0) !== slot) continue;
        const piece = mesh.index.subarray(first[run]! * 3, first[run + 1]! * 3);
        index.set(piece, at);
        at += piece.length;
      }
      if (at > began) geometry.addGroup(began, at - began, slot);
    }
  } else geometry.addGroup(0, index.length, 0);
  if (flipped) {
    index = index.slice();
    for (let i = 0; i < index.length; i += 3) [index[i], index[i + 2]] = [index[i + 2]!, index[i]!];
  }
  geometry.setIndex(new BufferAttribute(index, 1));
  return geometry;
}
