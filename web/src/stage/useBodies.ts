import { useCallback, useEffect, useMemo, useRef } from "react";
import type { Matrix4 } from "three";

import { useBench } from "../bench/bench";
import { Arranger } from "./arrange";
import { MaterialShelf } from "./materials";
import { tinted } from "./tints";
import type { PackShelf } from "./shelf";
import type { StageScene } from "./StageScene";
import type { Held } from "./usePacks";

/** Milliseconds of work before the page gets its turn. */
const TURN = 16;

/** Keeps the stage showing what is to be seen, a little at a time. */
export function useBodies(scene: StageScene | null, packs: PackShelf, held: Held, centre: number[]) {
  const { structure, result, view } = useBench();
  const { look, compare, chosen, places } = view;
  const hidden = useMemo(() => ({ parts: view.hidden, places: view.hiddenPlaces }), [view.hidden, view.hiddenPlaces]);
  // At Fit what is compared is where everything stood, elsewhere of which triangles it was.
  const atFit = view.open === "Fit";
  const materials = useMemo(() => new MaterialShelf(() => scene?.draw()), [scene]);
  const now = useMemo(() => new Arranger(packs, materials, false), [packs, materials]);
  const before = useMemo(() => new Arranger(packs, materials, true), [packs, materials]);
  const picked = useRef({ chosen, places });
  useEffect(() => {
    picked.current = { chosen, places };
    scene?.show("veil", now.veil(chosen, places));
    scene?.draw();
  }, [scene, now, chosen, places, look]);
  const tints = useMemo(
    () => (view.open === "Facet" && result ? tinted(view.tint, result).parts : null),
    [view.open, view.tint, result],
  );
  useEffect(() => {
    if (!scene || !structure || !result) return;
    now.aim(structure, result, look, hidden, centre, false, tints);
    if (compare) before.aim(structure, result, look, hidden, centre, atFit);
    let stale = false;
    let wait: ReturnType<typeof setTimeout> | undefined;
    const work = () => {
      const until = performance.now() + TURN;
      const more = now.step(until);
      const moreBefore = compare && before.step(until);
      scene.show("now", now.bodies());
      scene.show("before", compare ? before.bodies() : []);
      if (now.isFull || before.isFull)
        scene.whenCalm(() => {
          now.drawn();
          before.drawn();
          if (!stale) work();
        });
      else if (more || moreBefore) wait = setTimeout(work);
      else scene.show("veil", now.veil(picked.current.chosen, picked.current.places));
    };
    work();
    return () => {
      stale = true;
      clearTimeout(wait);
    };
  }, [scene, now, before, structure, result, look, hidden, compare, centre, held.arrived, atFit, tints]);
  useEffect(
    () => () => {
      now.dispose();
      before.dispose();
    },
    [now, before],
  );
  return useCallback(
    (nudge: { member: number | null; by: Matrix4 } | null) => {
      now.drag(nudge);
      scene?.show("now", now.bodies());
      // A hand waits for it.
      scene?.draw();
    },
    [now, scene],
  );
}
