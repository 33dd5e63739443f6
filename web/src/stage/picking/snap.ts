import { Matrix4, Vector3 } from "three";

import type { Tool } from "../../bench/bench";
import { CENTRE, CORNER, FACE, type Marks, MIDDLE } from "./marks";

/** Pixels within which a point snaps. */
const NEAR = 16;
/** Of the nearest so many are looked at closer, whether something lies before them. */
const TRIED = 8;
/** Some are meant sooner than others that are as near: a circle's centre lies in the open. */
const FAVOUR: Record<number, number> = { [CORNER]: 0, [CENTRE]: -3, [MIDDLE]: 3, [FACE]: 5 };

export interface Candidate {
  node: number;
  marks: Marks;
  /** The part's coordinates to metres from the middle of the model. */
  place: Matrix4;
}

export interface Snapped {
  node: number;
  /** A mark by its number, or none: a point on the surface. */
  mark: number | null;
  kind: number | null;
  /** In metres from the middle of the model. */
  at: Vector3;
  candidate: Candidate | null;
}

export interface Sight {
  /** World to clip space. */
  view: Matrix4;
  width: number;
  height: number;
  eye: Vector3;
}

const WANTED: Record<Tool["takes"], number[]> = {
  point: [CORNER, MIDDLE, CENTRE, FACE],
  edge: [MIDDLE, CENTRE],
  circle: [CENTRE],
  face: [FACE],
  direction: [MIDDLE, CENTRE, FACE],
};

/**
 * The mark nearest to the pointer on the screen, of those that a tool takes; `hit` is where the pointer meets the
 * surface. What something lies before is not taken, but for centres, which lie in holes.
 */
export function snap(
  candidates: Candidate[],
  sight: Sight,
  x: number,
  y: number,
  takes: Tool["takes"],
  hit: { node: number; at: Vector3; normal: Vector3 } | null,
  isSeen: (at: Vector3, x: number, y: number) => boolean,
): Snapped | null {
  if (takes === "face" && hit) return faceUnder(candidates, hit);
  const near: { score: number; x: number; y: number; found: Snapped }[] = [];
  for (const candidate of candidates) {
    const { marks, place } = candidate;
    const whole = new Matrix4().multiplyMatrices(sight.view, place);
    const add = (mark: number, score: number, px: number, py: number) => {
      const kind = marks.kind[mark]!;
      const at = new Vector3().fromArray(marks.at, mark * 3).applyMatrix4(place);
      near.push({ score, x: px, y: py, found: { node: candidate.node, mark, kind, at, candidate } });
    };
    const project = projector(whole, sight);
    for (let mark = 0; mark < marks.kind.length; mark++) {
      const spot = project(marks.at, mark * 3);
      if (!spot || !WANTED[takes].includes(marks.kind[mark]!)) continue;
      const away = Math.hypot(spot[0] - x, spot[1] - y);
      if (away <= NEAR) add(mark, away + FAVOUR[marks.kind[mark]!]!, spot[0], spot[1]);
    }
    // An edge is taken anywhere along it, for its direction or its circle.
    if (takes !== "point" && takes !== "face")
      for (let edge = 0; edge < marks.of.length; edge++) {
        const mark = marks.of[edge]!;
        if (mark < 0 || !WANTED[takes].includes(marks.kind[mark]!)) continue;
        let before: [number, number] | null = null;
        for (let k = marks.starts[edge]!; k < marks.starts[edge + 1]!; k++) {
          const spot = project(marks.lines, k * 3);
          const away = spot && before ? fromSegment(x, y, before, spot) : Infinity;
          if (away < NEAR / 2) add(mark, away + 6, x, y);
          before = spot;
        }
      }
  }
  near.sort((one, two) => one.score - two.score);
  for (const { found, x: px, y: py } of near.slice(0, TRIED))
    // A circle's centre lies in the open, and an edge is taken where it was pointed at.
    if (found.kind === CENTRE || (px === x && py === y) || isSeen(found.at, px, py)) return found;
  return hit && (takes === "point" || takes === "direction" || takes === "face")
    ? { node: hit.node, mark: null, kind: null, at: hit.at, candidate: null }
    : null;
}

/** Pixels of points; null behind the eye. */
function projector(whole: Matrix4, { width, height }: Sight) {
  const e = whole.elements;
  return (points: Float64Array, at: number): [number, number] | null => {
    const [x, y, z] = [points[at]!, points[at + 1]!, points[at + 2]!];
    const w = e[3]! * x + e[7]! * y + e[11]! * z + e[15]!;
    if (w <= 0) return null;
    const px = (e[0]! * x + e[4]! * y + e[8]! * z + e[12]!) / w;
    const py = (e[1]! * x + e[5]! * y + e[9]! * z + e[13]!) / w;
    return [((px + 1) / 2) * width, ((1 - py) / 2) * height];
  };
}

function fromSegment(x: number, y: number, [ax, ay]: [number, number], [bx, by]: [number, number]): number {
  const [dx, dy] = [bx - ax, by - ay];
  const long = dx * dx + dy * dy;
  const along = long ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / long)) : 0;
  return Math.hypot(ax + along * dx - x, ay + along * dy - y);
}

/** The flat face that was pointed at: in its plane, the nearest; a bent one is taken where it was pointed at. */
function faceUnder(candidates: Candidate[], hit: { node: number; at: Vector3; normal: Vector3 }): Snapped {
  let best: { away: number; found: Snapped } | null = null;
  for (const candidate of candidates) {
    if (candidate.node !== hit.node) continue;
    const { marks, place } = candidate;
    const turn = place.clone().invert().transpose();
    for (let mark = 0; mark < marks.kind.length; mark++) {
      if (marks.kind[mark] !== FACE) continue;
      const normal = new Vector3().fromArray(marks.way, mark * 3).transformDirection(turn);
      if (Math.abs(normal.dot(hit.normal)) < 0.999) continue;
      const at = new Vector3().fromArray(marks.at, mark * 3).applyMatrix4(place);
      const away = at.distanceTo(hit.at);
      const off = Math.abs(new Vector3().subVectors(at, hit.at).dot(normal));
      if (off > 1e-3 * Math.max(away, 1e-6) + 1e-6 || (best && away >= best.away)) continue;
      best = { away, found: { node: hit.node, mark, kind: FACE, at, candidate } };
    }
  }
  return best?.found ?? { node: hit.node, mark: null, kind: null, at: hit.at, candidate: null };
}
