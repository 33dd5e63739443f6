import { Matrix4, Vector4 } from "three";

/** Edges of a box on the stage, from -1 to 1 across and up. */
export interface Box {
  left: number;
  right: number;
  bottom: number;
  top: number;
}

/** Triangles of one placement: corners by their numbers, from `first` to `end` of `index`. */
export interface Triangles {
  positions: ArrayLike<number>;
  index: ArrayLike<number>;
  first: number;
  end: number;
  matrix: Matrix4;
}

const corner = new Vector4();
const SIDES: ((at: Vector4, box: Box) => number)[] = [
  (at, box) => at.x - box.left * at.w,
  (at, box) => box.right * at.w - at.x,
  (at, box) => at.y - box.bottom * at.w,
  (at, box) => box.top * at.w - at.y,
  (at) => at.z + at.w,
];

/** How the eight corners of a box in space lie to a box on the stage: none of it can touch, all lies inside, or neither. */
export function lies(corners: readonly Vector4[], box: Box): "outside" | "inside" | "across" {
  let inside = true;
  for (const side of SIDES) {
    const within = corners.filter((at) => side(at, box) >= 0).length;
    if (!within) return "outside";
    inside &&= within === corners.length;
  }
  return inside ? "inside" : "across";
}

/** Whether any triangle touches the box, as the eye sees it: cut by its edges one after the other, something is left
 *  (I. E. Sutherland and G. W. Hodgman, "Reentrant polygon clipping", Communications of the ACM 17(1), 1974). */
export function touches({ positions, index, first, end, matrix }: Triangles, seen: Matrix4, box: Box): boolean {
  const whole = new Matrix4().multiplyMatrices(seen, matrix);
  for (let at = first; at < end; at += 3) {
    let polygon: Vector4[] = [];
    for (let k = 0; k < 3; k++) {
      const from = index[at + k]! * 3;
      corner.set(positions[from]!, positions[from + 1]!, positions[from + 2]!, 1).applyMatrix4(whole);
      polygon.push(corner.clone());
    }
    for (const side of SIDES) {
      const cut: Vector4[] = [];
      polygon.forEach((to, k) => {
        const back = polygon[(k + polygon.length - 1) % polygon.length]!;
        const [a, b] = [side(back, box), side(to, box)];
        if (a >= 0 !== b >= 0) cut.push(back.clone().lerp(to, a / (a - b)));
        if (b >= 0) cut.push(to);
      });
      polygon = cut;
      if (!polygon.length) break;
    }
    if (polygon.length) return true;
  }
  return false;
}
