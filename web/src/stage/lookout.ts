import { type Box3, type PerspectiveCamera, Vector3 } from "three";

import type { Views } from "../api/client";

/** Have the stage's camera look as a lookout does; `centre` is the point that everything is drawn around. Metres. */
export function lookFrom(
  camera: PerspectiveCamera,
  target: Vector3,
  { eye, way, up, tall, reach }: Views["LookoutView"],
  centre: number[],
  box: Box3,
) {
  const from = new Vector3().fromArray(eye).sub(new Vector3().fromArray(centre));
  const ahead = new Vector3().fromArray(way);
  // What is looked at lies as far ahead as the middle of the model.
  const middle = box.getCenter(new Vector3()).sub(from).dot(ahead);
  let away = Math.max(middle, box.getSize(new Vector3()).length() * 0.05, 1e-3);
  if (tall) camera.fov = Math.min(150, (tall * 180) / Math.PI);
  else if (reach) away = reach / 2 / Math.tan((camera.fov * Math.PI) / 360);
  // The stage keeps up what is up; a camera that rolls is looked from level.
  camera.up.set(0, 0, 1);
  if (Math.abs(ahead.z) > 0.999) camera.up.fromArray(up);
  camera.position.copy(from);
  target.copy(from).addScaledVector(ahead, away);
}

/** What a camera that looks at a target sees, to be kept. */
export function seenBy(
  camera: PerspectiveCamera,
  target: Vector3,
  centre: number[],
  isParallel: boolean,
): Views["Seen"] {
  const tall = (camera.fov * Math.PI) / 180;
  return {
    eye: camera.position.toArray().map((value, axis) => value + centre[axis]!) as [number, number, number],
    way: target.clone().sub(camera.position).normalize().toArray() as [number, number, number],
    up: [0, 0, 1],
    tall: isParallel ? 0 : tall,
    wide: camera.aspect,
    reach: isParallel ? 2 * Math.tan(tall / 2) * camera.position.distanceTo(target) : 0,
  };
}
