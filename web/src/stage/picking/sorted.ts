import type { BufferGeometry } from "three";
import { MeshBVH } from "three-mesh-bvh";

/** Sort the triangles for picking. Indirect: into a list of its own, for runs of faces point into them as they stand. */
export function makePickable(geometry: BufferGeometry): void {
  geometry.boundsTree ??= new MeshBVH(geometry, { indirect: true });
}
