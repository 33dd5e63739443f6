import { type Box3, Matrix4, type PerspectiveCamera, Spherical, Vector3 } from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";

/** three counts angles from Y. */
const TO_Y_UP = new Matrix4().makeRotationX(-Math.PI / 2);

/** The stage's camera and the point it looks at, and how both move. Metres, Z up. */
export class Eye {
  isParallel = false;

  constructor(
    readonly camera: PerspectiveCamera,
    readonly controls: OrbitControls,
  ) {}

  get target() {
    return this.controls.target;
  }

  /** Half of what is seen from bottom to top, at a distance of one. */
  private get half() {
    return Math.tan((this.camera.fov * Math.PI) / 360);
  }

  /** Go around what is looked at, in radians; never over the top. */
  turn(across: number, up: number) {
    const from = new Spherical().setFromVector3(this.camera.position.clone().sub(this.target).applyMatrix4(TO_Y_UP));
    from.theta += across;
    from.phi -= up;
    from.makeSafe();
    const away = new Vector3().setFromSpherical(from).applyMatrix4(TO_Y_UP.clone().transpose());
    this.camera.position.copy(this.target).add(away);
    this.controls.update();
  }

  /** Shift what is looked at, by shares of the stage's height. */
  shift(right: number, up: number) {
    const away = this.camera.position.distanceTo(this.target);
    const tall = 2 * this.half * away;
    const by = new Vector3(right * tall, up * tall, 0).applyQuaternion(this.camera.quaternion);
    this.camera.position.add(by);
    this.target.add(by);
    this.controls.update();
  }

  /** Come nearer, to this share of the distance; farther above 1. */
  approach(share: number) {
    this.camera.position.sub(this.target).multiplyScalar(share).add(this.target);
    this.controls.update();
  }

  /** How far off the camera stands, in a direction from the box's middle, so that the box just fills the stage. */
  distance(box: Box3, centre: Vector3, from: Vector3): number {
    const right = new Vector3().crossVectors(this.camera.up, from).normalize();
    const up = new Vector3().crossVectors(from, right);
    const tall = this.half;
    const corner = new Vector3();
    let away = 1e-4;
    for (let k = 0; k < 8; k++) {
      corner
        .set(k & 1 ? box.max.x : box.min.x, k & 2 ? box.max.y : box.min.y, k & 4 ? box.max.z : box.min.z)
        .sub(centre);
      const across = Math.max(
        Math.abs(corner.dot(up)) / tall,
        Math.abs(corner.dot(right)) / (tall * this.camera.aspect),
      );
      away = Math.max(away, corner.dot(from) + across);
    }
    return away;
  }

  /** Between these everything is seen: nothing within arm's reach is clipped, on the largest site as on a watch. */
  setDepths(box: Box3) {
    const whole = Math.max(box.getSize(new Vector3()).length() / 2, 1e-5);
    const off = box.distanceToPoint(this.camera.position);
    this.camera.near = Math.max(Math.min(0.05, whole * 0.01), off * 0.3);
    this.camera.far = off + whole * 14;
    this.camera.updateProjectionMatrix();
    if (this.isParallel) {
      const tall = this.half * this.camera.position.distanceTo(this.target);
      const across = tall * this.camera.aspect;
      this.camera.near = off - whole * 4;
      this.camera.projectionMatrix.makeOrthographic(-across, across, tall, -tall, this.camera.near, this.camera.far);
    }
    this.camera.projectionMatrixInverse.copy(this.camera.projectionMatrix).invert();
  }
}
