import { useEffect, useState } from "react";
import { Matrix4 } from "three";

import type { Result, Structure } from "../api/client";
import { layoutOf, placement } from "./layout";
import type { PackShelf } from "./shelf";
import type { StageScene } from "./StageScene";

/** What is known of the meshes that come: `arrived` is another number whenever some have. */
export interface Held {
  arrived: number;
  lost: number;
  over: number;
  budget: number;
}

/** Has the packs fetched that a result names, those that are seen first. */
export function usePacks(
  scene: StageScene | null,
  packs: PackShelf,
  structure: Structure | undefined,
  result: Result | undefined,
  centre: number[],
  compare: boolean,
): Held {
  const [held, setHeld] = useState<Held>({ arrived: 0, lost: 0, over: 0, budget: 0 });
  useEffect(() => {
    packs.listen(() => setHeld(({ arrived }) => ({ arrived: arrived + 1, ...packs.standing })));
    return () => packs.dispose();
  }, [packs]);
  useEffect(() => {
    if (!structure || !result || !scene) return;
    const wanted = new Set<string>();
    for (const part of result.parts) {
      if (part.pack) wanted.add(part.pack);
      // What was there before stands in for what is not there yet.
      if (part.pack_before && (compare || packs.has(part.pack_before))) wanted.add(part.pack_before);
    }
    packs.want(wanted, urgencyOf(scene, structure, result, centre));
  }, [packs, scene, structure, result, centre, compare]);
  return held;
}

/** For each pack how far off the nearest of what it holds stands; what is out of view comes after all that is in it. */
function urgencyOf(scene: StageScene, structure: Structure, result: Result, centre: number[]) {
  let made = 0;
  let known = new Map<string, number>();
  return () => {
    if (performance.now() - made < 400) return known;
    known = new Map();
    const layout = layoutOf(structure, result);
    const see = scene.sight();
    const matrix = new Matrix4();
    for (const group of layout.groups) {
      const { pack, pack_before: before } = result.parts[group.made]!;
      const name = pack ?? before;
      if (!name) continue;
      let nearest = known.get(name) ?? Infinity;
      for (const node of group.nodes) {
        const e = placement(layout, node, [0, 0, 0], centre, matrix).elements;
        const { seen, away } = see(e[12]!, e[13]!, e[14]!);
        nearest = Math.min(nearest, seen ? away : away + 1e7);
      }
      known.set(name, nearest);
    }
    made = performance.now();
    return known;
  };
}
