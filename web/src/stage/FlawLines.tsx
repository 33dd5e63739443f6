import { useQueries } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { Matrix4, Vector3 } from "three";

import { useBench } from "../bench/bench";
import { studyOf } from "../rungs/mend/useStudy";
import { plural } from "../ui/format";
import { partAt } from "./cuts";
import { layoutOf } from "./layout";
import type { StageScene } from "./StageScene";

/** Chosen parts whose flaws are shown, placements of each, and points in all, at the most. */
const [PARTS, PLACES, POINTS] = [8, 50, 400_000];

const SAID: Record<string, [string, string?]> = {
  holes: ["open edge"],
  against: ["edge wound one way on both sides", "edges wound one way on both sides"],
  "over-shared": ["over-shared edge"],
  duplicate: ["doubled triangle"],
  degenerate: ["triangle without area", "triangles without area"],
  inward: ["shell facing inward", "shells facing inward"],
  "t-joints": ["T-joint"],
  crossing: ["crossing triangle"],
  sharp: ["edge that stayed sharp", "edges that stayed sharp"],
};

/** Where the flaws of the chosen parts lie, drawn through everything while Mend is open; and how many of each. */
export function FlawLines({ scene, centre }: { scene: StageScene; centre: number[] }) {
  const { job, structure, result, view } = useBench();
  const chosen = [...view.chosen].filter((part) => result?.parts[part]?.triangles != null).slice(0, PARTS);
  const found = useQueries({
    queries: chosen.map((part) => studyOf(job.id, part, result?.parts[part])),
    combine: (results) => results.map((one) => one.data ?? null),
  });
  const [off, setOff] = useState<ReadonlySet<string>>(NOISY);
  const known = found.map((one, at) => (one ? `${chosen[at]} ${result?.parts[chosen[at]!]?.mesh}` : "")).join();
  const lines = useMemo(() => {
    if (!structure || !result) return null;
    const partOf = partAt(structure, result);
    const { worlds } = layoutOf(structure, result);
    const points: number[] = [];
    const spot = new Vector3();
    found.forEach((study, at) => {
      if (!study?.flaws) return;
      const part = chosen[at]!;
      const nodes = result.placements.filter((node) => partOf(node) === part).slice(0, PLACES);
      const all = Object.entries(study.flaws).flatMap(([kind, text]) => (off.has(kind) ? [] : [decoded(text)]));
      for (const node of nodes) {
        const place = new Matrix4().fromArray(worlds, node * 16);
        place.premultiply(new Matrix4().makeTranslation(-centre[0]!, -centre[1]!, -centre[2]!));
        place.multiply(new Matrix4().makeTranslation(...(study.origin as [number, number, number])));
        for (const values of all)
          for (let k = 0; k + 2 < values.length && points.length < POINTS * 3; k += 3) {
            spot.fromArray(values, k).applyMatrix4(place);
            points.push(spot.x, spot.y, spot.z);
          }
      }
    });
    return points.length ? Float32Array.from(points) : null;
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what is known of whom says it all
  }, [known, structure, result?.placements, centre, off]);
  useEffect(() => {
    scene.flaws(lines);
    return () => scene.flaws(null);
  }, [scene, lines]);
  const sums = new Map<string, number>();
  for (const part of chosen)
    for (const [kind, count] of Object.entries(result?.parts[part]?.flaws ?? {}))
      if (SAID[kind]) sums.set(kind, (sums.get(kind) ?? 0) + count);
  for (const part of chosen) {
    const sharp = result?.parts[part]?.effects["round.sharp"] ?? 0;
    if (sharp) sums.set("sharp", (sums.get("sharp") ?? 0) + sharp);
  }
  if (!sums.size) return null;
  return (
    <ul
      aria-label="Flaws of what is chosen"
      className="absolute top-14 left-3.5 grid gap-0.5 rounded-[5px] border border-signal bg-paper/90 px-2 py-1 text-[12px]"
    >
      {[...sums].map(([kind, count]) => (
        <li key={kind}>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={!off.has(kind)}
              onChange={() =>
                setOff((now) => {
                  const next = new Set(now);
                  if (!next.delete(kind)) next.add(kind);
                  return next;
                })
              }
              className="size-3.5 accent-signal"
            />
            {kind === "holes" ? plural(count, "hole") : plural(count, ...SAID[kind]!)}
          </label>
        </li>
      ))}
    </ul>
  );
}

/** What is often so much that nothing else would be seen for it; shown when asked for. */
const NOISY: ReadonlySet<string> = new Set(["crossing"]);

/** 32 bit numbers out of base64. */
function decoded(text: string): Float32Array {
  const raw = atob(text);
  const bytes = new Uint8Array(raw.length);
  for (let at = 0; at < raw.length; at++) bytes[at] = raw.charCodeAt(at);
  return new Float32Array(bytes.buffer);
}
