import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments } from "three";

/** Lines drawn through everything, in metres around the middle of the model. */
export class Lines {
  readonly object: LineSegments;

  constructor(color: string, opacity: number) {
    const material = new LineBasicMaterial({ color, transparent: true, opacity, depthTest: false });
    this.object = new LineSegments(new BufferGeometry(), material);
    this.object.renderOrder = 3;
    this.object.visible = false;
    this.object.frustumCulled = false;
  }

  /** Pairs of points; none to show none. */
  set(points: Float32Array | null) {
    this.object.visible = !!points;
    if (!points) return;
    this.object.geometry.dispose();
    this.object.geometry = new BufferGeometry().setAttribute("position", new BufferAttribute(points, 3));
  }
}
