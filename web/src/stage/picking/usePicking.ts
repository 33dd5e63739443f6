import { useEffect, useMemo, useRef, useState } from "react";
import { Matrix4, Vector3 } from "three";

import { api, need, Problem, type Result, type Structure } from "../../api/client";
import { useBench } from "../../bench/bench";
import { partAt } from "../cuts";
import { layoutOf } from "../layout";
import type { StageScene } from "../StageScene";
import { MarkShelf } from "./marks";
import { type Candidate, type Snapped, snap } from "./snap";

/** Parts near the pointer that stay pickable: a circle's centre lies in a hole, where there is nothing. */
const REMEMBERED = 6;
const BESIDE = [
  [0, 0],
  [2, 2],
  [-2, 2],
  [2, -2],
  [-2, -2],
] as const;
/** Pixels beside the pointer where parts are looked for too. */
const AROUND = [
  [9, 9],
  [-9, 9],
  [9, -9],
  [-9, -9],
] as const;

export interface Picking {
  /** What would be picked now, in metres from the middle of the model, and in a few words. */
  spot: { at: Vector3; said: string } | null;
  problem: string | null;
  point: (x: number, y: number) => void;
  leave: () => void;
  take: (x: number, y: number) => Promise<void>;
}

const SAID = ["corner", "middle of an edge", "centre of a circle", "flat face"];

/** Pointing at the stage while a tool asks for points. */
export function usePicking(scene: StageScene | null, centre: number[]): Picking {
  const { job, structure, result, view, setView } = useBench();
  const { tool } = view;
  // Both belong to the tool that they were said for.
  const [spot, setSpot] = useState<{ of: string; at: Vector3; said: string } | null>(null);
  const [problem, setProblem] = useState<{ of: string; said: string } | null>(null);
  const [arrivals, arrived] = useState(0);
  const shelf = useMemo(() => new MarkShelf(job.id, () => arrived((now) => now + 1)), [job.id]);
  useEffect(() => () => shelf.close(), [shelf]);
  const near = useRef<number[]>([]);
  const last = useRef<{ x: number; y: number } | null>(null);

  const find = (x: number, y: number): Snapped | null => {
    if (!scene || !tool || tool.onHit || !structure || !result) return null;
    const hit = scene.hit(x, y);
    // A corner may be pointed at just beside its part: what is around the pointer can be picked too.
    const around = AROUND.map(([dx, dy]) => scene.hit(x + dx, y + dy)?.node);
    for (const node of [...around, hit?.node])
      if (node !== undefined) near.current = [node, ...near.current.filter((other) => other !== node)];
    near.current = near.current.slice(0, REMEMBERED);
    const candidates = near.current.flatMap((node) => candidate(structure, result, shelf, node, centre));
    outline(scene, candidates[0]);
    const sight = scene.eyes;
    // Beside its own pixel a corner is seen where nothing nearer is on one side at least.
    const isSeen = (at: Vector3, px: number, py: number) =>
      BESIDE.some(([dx, dy]) => {
        const before = scene.hit(px + dx, py + dy);
        return !before || scene.depth(before.at) >= scene.depth(at) * 0.995 - 1e-9;
      });
    return snap(candidates, sight, x, y, tool.takes, hit, isSeen);
  };
  const point = (x: number, y: number) => {
    last.current = { x, y };
    const found = tool?.onHit ? (scene?.hit(x, y) ?? null) : find(x, y);
    const said = !found || !("kind" in found) || found.kind == null ? "point on the surface" : SAID[found.kind]!;
    setSpot(found && tool ? { of: tool.id, at: found.at, said } : null);
  };
  useEffect(() => {
    near.current = [];
    last.current = null;
    if (!tool && scene) outline(scene, undefined);
  }, [tool, scene]);
  // What came meanwhile is what is pointed at already.
  useEffect(() => {
    if (arrivals && last.current) point(last.current.x, last.current.y);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each arrival
  }, [arrivals]);
  const take = async (x: number, y: number) => {
    if (tool?.onHit) {
      const hit = scene?.hit(x, y);
      setProblem(hit ? null : { of: tool.id, said: "Nothing is there; point at the model." });
      if (hit) tool.onHit(hit.node, metresOf(hit.at, centre));
      return;
    }
    const found = find(x, y);
    if (!tool || !found) return;
    if (found.kind === null && ["edge", "circle"].includes(tool.takes)) {
      setProblem({ of: tool.id, said: tool.takes === "edge" ? "That is no edge." : "That is no circle." });
      return;
    }
    const hit = found.kind === null || tool.takes === "face" ? scene!.hit(x, y) : null;
    const place = (value: Vector3) => metresOf(value, centre);
    const pick =
      found.mark !== null
        ? { node: found.node, mark: found.mark }
        : {
            node: found.node,
            mark: null,
            at: place(found.at),
            normal: hit ? (hit.normal.toArray() as [number, number, number]) : null,
          };
    try {
      const [told] = need(
        await api.POST("/api/jobs/{job_id}/fit/spots", {
          params: { path: { job_id: job.id } },
          body: { picks: [pick] },
        }),
      );
      setProblem(null);
      setView((now) => (now.tool?.id === tool.id ? { picks: [...now.picks, told!].slice(-tool.need) } : {}));
    } catch (error) {
      const said = error instanceof Problem ? `${error.message} ${error.remedy}` : "The server did not answer.";
      setProblem({ of: tool.id, said });
    }
  };
  return {
    spot: spot && spot.of === tool?.id ? spot : null,
    problem: problem && problem.of === tool?.id ? problem.said : null,
    point,
    leave: () => {
      last.current = null;
      setSpot(null);
    },
    take,
  };
}

/** A point around the middle of the model in metres, Z up. */
const metresOf = (at: Vector3, centre: number[]) =>
  at.toArray().map((value, axis) => value + centre[axis]!) as [number, number, number];

/** A placed part with its marks, where they are here. */
function candidate(
  structure: Structure,
  result: Result,
  shelf: MarkShelf,
  node: number,
  centre: number[],
): Candidate[] {
  const part = partAt(structure, result)(node);
  const made = result.parts[part];
  // By what it is made of alone: where it is put, or the origin, changes nothing of what can be picked on it.
  const marks = made?.mesh ? shelf.get(part, `${part} ${made.mesh}`) : undefined;
  if (!marks) return [];
  const place = new Matrix4().fromArray(layoutOf(structure, result).worlds, node * 16);
  place.premultiply(new Matrix4().makeTranslation(-centre[0]!, -centre[1]!, -centre[2]!));
  return [{ node, marks, place }];
}

/** What is outlined now: it is the same for as long as the pointer stays on a part. */
const outlined = new WeakMap<StageScene, { marks: Candidate["marks"]; node: number }>();

/** The edges of the part under the pointer, drawn through everything. */
function outline(scene: StageScene, found: Candidate | undefined) {
  const now = outlined.get(scene);
  if (now?.marks === found?.marks && now?.node === found?.node) return;
  if (!found) {
    outlined.delete(scene);
    return scene.outline(null);
  }
  const { marks, place } = found;
  const points: number[] = [];
  const spot = new Vector3();
  for (let edge = 0; edge < marks.of.length; edge++)
    for (let k = marks.starts[edge]!; k + 1 < marks.starts[edge + 1]!; k++)
      for (const at of [k, k + 1]) {
        spot.fromArray(marks.lines, at * 3).applyMatrix4(place);
        points.push(spot.x, spot.y, spot.z);
      }
  scene.outline(Float32Array.from(points));
  outlined.set(scene, { marks, node: found.node });
}
