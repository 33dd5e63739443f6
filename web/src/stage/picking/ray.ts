import { InstancedMesh, Matrix4, type Mesh, type Raycaster, Vector3 } from "three";

import type { Shown } from "../drawn";
import { makePickable } from "./sorted";

/** What a ray meets first: which node, where, and what stands off the surface there, towards the eye. */
export interface Hit {
  node: number;
  distance: number;
  at: Vector3;
  normal: Vector3;
}

/** The nearest of what a ray meets of these bodies; null for nothing. */
export function nearestHit(ray: Raycaster, bodies: Shown[]): Hit | null {
  let nearest: Hit | null = null;
  for (const { object, nodes, hit: placed } of bodies) {
    // Triangles are sorted for picking only of what the ray comes near.
    if (!comesNear(ray, object)) continue;
    makePickable(object.geometry);
    const hit = ray.intersectObject(object, false)[0];
    if (!hit || (nearest && hit.distance >= nearest.distance)) continue;
    const node = nodes[placed(hit)];
    if (node === undefined) continue;
    const turned = hit.instanceId === undefined ? object.matrixWorld : placeOf(object as InstancedMesh, hit.instanceId);
    const normal = (hit.face?.normal ?? new Vector3(0, 0, 1))
      .clone()
      .transformDirection(turned.clone().invert().transpose());
    if (normal.dot(ray.ray.direction) > 0) normal.negate();
    nearest = { node, distance: hit.distance, at: hit.point, normal };
  }
  return nearest;
}

/** Where one of many placements stands. */
function placeOf(object: InstancedMesh, at: number): Matrix4 {
  const own = new Matrix4();
  object.getMatrixAt(at, own);
  return own.premultiply(object.matrixWorld);
}

/** Whether a ray meets the ball around a body, where all its placements lie. */
function comesNear(ray: Raycaster, body: Mesh): boolean {
  const own = body instanceof InstancedMesh ? body : body.geometry;
  if (!own.boundingSphere) own.computeBoundingSphere();
  return ray.ray.intersectsSphere(own.boundingSphere!.clone().applyMatrix4(body.matrixWorld));
}
