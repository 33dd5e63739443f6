import { type BufferGeometry, InstancedBufferAttribute, InstancedMesh, Matrix4 } from "three";

import type { Material, Result, Structure } from "../api/client";
import type { Look } from "../bench/bench";
import { partAt } from "./cuts";
import { CHOSEN, CHOSEN_FAINT, EDGES, type MaterialShelf } from "./materials";
import { dressedGeometry, type PackShelf } from "./packs";

/** Placements that share triangles, dress and handedness: drawn together. */
interface Batch {
  geometry: BufferGeometry;
  materials: Material[];
  mirrored: boolean;
  nodes: number[];
  parts: number[];
  matrices: Matrix4[];
}

const MIRROR = new Matrix4().makeScale(-1, 1, 1);
const worlds = new WeakMap<Structure, Float64Array>();

/** For each node the number of its source. */
function sourcesOf(structure: Structure): Uint16Array {
  const found = new Uint16Array(structure.node_names.length);
  structure.members.forEach((piece, number) => found.fill(number, piece.first_node, piece.first_node + piece.nodes));
  return found;
}

const sources = new WeakMap<Structure, Uint16Array>();

/** The placements' matrices, column-major, decoded once. */
export function worldsOf(structure: Structure): Float64Array {
  let found = worlds.get(structure);
  if (!found) {
    const raw = atob(structure.world);
    const bytes = Uint8Array.from(raw, (character) => character.charCodeAt(0));
    found = new Float64Array(bytes.buffer);
    worlds.set(structure, found);
  }
  return found;
}

/**
 * Where a mesh around `origin` stands, in metres from the middle of the model.
 * Worked out in double precision; only the sum goes to the graphics card.
 */
export function placement(
  structure: Structure,
  result: Result,
  node: number,
  origin: number[],
  centre: number[],
): Matrix4 {
  const world = new Matrix4().fromArray(worldsOf(structure), node * 16);
  let numbers = sources.get(structure);
  if (!numbers) sources.set(structure, (numbers = sourcesOf(structure)));
  const whole = new Matrix4().fromArray(result.sources[numbers[node]!]!.matrix).multiply(world);
  whole.multiply(new Matrix4().makeTranslation(origin[0]!, origin[1]!, origin[2]!));
  const e = whole.elements;
  e[12] = e[12]! - centre[0]!;
  e[13] = e[13]! - centre[1]!;
  e[14] = e[14]! - centre[2]!;
  return whole;
}

/** Instances for everything that is shown and has triangles. */
export class Arranger {
  private readonly geometries = new Map<string, BufferGeometry>();

  constructor(
    private readonly packs: PackShelf,
    private readonly materials: MaterialShelf,
  ) {}

  arrange(
    structure: Structure,
    result: Result,
    look: Look,
    hidden: ReadonlySet<number>,
    centre: number[],
    before: boolean,
  ): InstancedMesh[] {
    const batches = new Map<string, Batch>();
    const palette = new Map(result.materials.map((material) => [material.id, material]));
    const used = new Set<string>();
    const partOf = partAt(structure, result);
    result.placements.forEach((node, at) => {
      const part = structure.node_parts[node]!;
      if (hidden.has(part)) return;
      const made = result.parts[partOf(node)]!;
      const here = !before && made.mesh !== null && this.packs.get(made.mesh) !== undefined;
      // Until the new triangles are here the old ones stand in for them.
      const key = here ? made.mesh : made.mesh_before;
      const mesh = key ? this.packs.get(key) : undefined;
      if (!mesh) return;
      const dress = result.dresses[result.dress_of[at]!]!;
      const matrix = placement(structure, result, node, mesh.origin, centre);
      const mirrored = matrix.determinant() < 0;
      const shape = `${key}${made.flipped ? "~" : ""}:${dress.face_slots.length ? result.dress_of[at] + result.model_key + dress.face_slots.join(";") : ""}`;
      const batchKey = `${shape}|${result.dress_of[at]}|${mirrored}`;
      let batch = batches.get(batchKey);
      if (!batch) {
        used.add(shape);
        let geometry = this.geometries.get(shape);
        if (!geometry) {
          geometry = dressedGeometry(
            mesh,
            dress.face_slots as [number, number][],
            dress.materials.length,
            made.flipped,
          );
          this.geometries.set(shape, geometry);
        }
        batch = {
          geometry,
          materials: dress.materials.map((id) => palette.get(id)!),
          mirrored,
          nodes: [],
          parts: [],
          matrices: [],
        };
        batches.set(batchKey, batch);
      }
      batch.nodes.push(node);
      batch.parts.push(part);
      batch.matrices.push(matrix);
    });
    if (this.geometries.size > 3 * used.size + 200)
      for (const [shape, geometry] of this.geometries)
        if (!used.has(shape)) {
          geometry.dispose();
          this.geometries.delete(shape);
        }
    return [...batches.values()].flatMap((batch) => this.draw(batch, look));
  }

  private draw(batch: Batch, look: Look): InstancedMesh[] {
    const material = batch.materials.map((item) => this.materials.get(item, look));
    const body = instanced(batch, material);
    body.userData = { nodes: batch.nodes, parts: batch.parts };
    if (look !== "edges") return [body];
    const lines = instanced(batch, [EDGES]);
    lines.raycast = () => {};
    for (const group of lines.geometry.groups)
      if (group.materialIndex) lines.material = batch.geometry.groups.map(() => EDGES);
    return [body, lines];
  }

  /** A veil over what is chosen: the same instances again, so that choosing much is as quick as choosing little. */
  veil(shown: InstancedMesh[], look: Look, chosen: ReadonlySet<number>): InstancedMesh[] {
    if (!chosen.size) return [];
    const over = look === "facing" ? CHOSEN_FAINT : CHOSEN;
    return shown.flatMap((mesh) => {
      const parts = mesh.userData.parts as number[] | undefined;
      const mine = parts?.flatMap((part, at) => (chosen.has(part) ? [at] : [])) ?? [];
      if (!mine.length) return [];
      const veil = new InstancedMesh(
        mesh.geometry,
        Array.isArray(mesh.material) ? mesh.material.map(() => over) : over,
        0,
      );
      if (mine.length === parts!.length) veil.instanceMatrix = mesh.instanceMatrix;
      else {
        const all = mesh.instanceMatrix.array;
        const some = new Float32Array(mine.length * 16);
        mine.forEach((at, to) => some.set(all.subarray(at * 16, at * 16 + 16), to * 16));
        veil.instanceMatrix = new InstancedBufferAttribute(some, 16);
      }
      veil.count = mine.length;
      veil.applyMatrix4(mesh.matrix);
      veil.frustumCulled = false;
      veil.raycast = () => {};
      veil.renderOrder = 2;
      return [veil];
    });
  }
}

/** three decides which side is the front by the object's matrix alone, so a mirror goes there. */
function instanced(batch: Batch, material: InstancedMesh["material"]): InstancedMesh {
  const mesh = new InstancedMesh(batch.geometry, material, batch.matrices.length);
  const turned = new Matrix4();
  batch.matrices.forEach((matrix, at) =>
    mesh.setMatrixAt(at, batch.mirrored ? turned.multiplyMatrices(MIRROR, matrix) : matrix),
  );
  if (batch.mirrored) mesh.applyMatrix4(MIRROR);
  mesh.frustumCulled = false;
  return mesh;
}
