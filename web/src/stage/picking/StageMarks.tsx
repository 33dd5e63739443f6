import { useMemo } from "react";
import { Vector3 } from "three";

import { useBench } from "../../bench/bench";
import { useFit } from "../../rungs/fit/useFit";
import { noted } from "../../rungs/fit/said";
import { Button } from "../../ui/controls";
import type { StageScene } from "../StageScene";
import { type Drawn, Overlay } from "./Overlay";
import type { Picking } from "./usePicking";

/** What stands on the stage beside the model: measurements, what was picked, what would be picked now. */
export function StageMarks({ scene, centre, picking }: { scene: StageScene; centre: number[]; picking: Picking }) {
  const { view, setView, decisions } = useBench();
  const measured = !!decisions.fit.notes?.length;
  const fit = useFit(measured);
  const { tool, picks } = view;
  const notes = measured ? fit?.notes : undefined;
  const drawn = useMemo(() => {
    const place = (point: number[]) => new Vector3().fromArray(point.map((value, axis) => value - centre[axis]!));
    const all: Drawn[] = [];
    for (const item of notes ?? [])
      if (!item.lost && item.note.kind !== "box")
        all.push({
          key: `note ${item.note.id}`,
          points: item.points.map(place),
          label: noted(item),
          tone: item.agrees ? "note" : "wrong",
        });
    if (tool)
      picks.forEach((pick, at) =>
        all.push({ key: `pick ${at}`, points: [place(pick.where)], label: `${at + 1}`, tone: "picked" }),
      );
    if (tool && picks.length === 2)
      all.push({ key: "between", points: picks.map((pick) => place(pick.where)), tone: "picked" });
    if (tool && picking.spot)
      all.push({ key: "aim", points: [picking.spot.at], label: picking.spot.said, tone: "aim" });
    return all;
  }, [notes, tool, picks, picking.spot, centre]);
  return (
    <>
      <Overlay scene={scene} drawn={drawn} />
      {tool && (
        <div
          role="status"
          className="pointer-events-none absolute top-14 left-3.5 flex w-max max-w-[80%] items-center gap-3 rounded-md border border-sea bg-paper px-3 py-1.5 text-[13px] shadow-lg"
        >
          <span>
            {picking.problem ?? tool.hint[Math.min(picks.length, tool.hint.length - 1)]}{" "}
            {!tool.onHit && (
              <span className="text-ink-soft">
                {Math.min(picks.length, tool.need)} of {tool.need} picked
              </span>
            )}
          </span>
          {!tool.onHit && (
            <Button
              quiet
              className="pointer-events-auto !px-0"
              disabled={!picks.length}
              onClick={() => setView({ picks: picks.slice(0, -1) })}
            >
              One back
            </Button>
          )}
          <Button quiet className="pointer-events-auto !px-0" onClick={() => setView({ tool: null, picks: [] })}>
            Stop
          </Button>
        </div>
      )}
    </>
  );
}
