import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";

import { api, type Decisions, need } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { Button, OneOf } from "../../../ui/controls";
import { metric } from "../../../ui/format";
import { drawPlan } from "./drawPlan";
import { Nearer } from "./Nearer";
import { areaOf, crossesItself, readCorners, type Spot, toMetres, toPixels, written } from "./paper";
import { useDrag } from "./useDrag";
import { useSheet } from "./useSheet";

type Region = NonNullable<Decisions["receive"]["region"]>;
const NEAR = 9;

/** The plan, and a polygon on it: what lies inside enters. Drawn by clicks, dragged by its corners, or typed. */
export function PlanBoard({
  region,
  onRegion,
}: {
  region: Region | null;
  /** What becomes of the polygon that is in force by then. */
  onRegion: (change: (now: Region | null) => Region | null, label: string) => void;
}) {
  const { job } = useBench();
  const plan = useQuery({
    queryKey: ["plan", job.id, job.model_key, job.decisions_id],
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/plan", { params: { path: { job_id: job.id } } })),
    placeholderData: keepPreviousData,
  });
  const corners = useMemo(() => {
    const bytes = Uint8Array.from(atob(plan.data?.corners ?? ""), (character) => character.charCodeAt(0));
    return new Float32Array(bytes.buffer);
  }, [plan.data]);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [drawing, setDrawing] = useState<Spot[] | null>(null);
  const [moved, setMoved] = useState<Spot[] | null>(null);
  const kept = (region?.polygon ?? []) as Spot[];
  const ring = drawing ?? moved ?? kept;
  const box = plan.data?.box;
  const [sheet, setSheet] = useSheet(canvas, box);

  const give = (polygon: Spot[]) => {
    setDrawing(null);
    setMoved(null);
    if (polygon.length < 3 || crossesItself(polygon)) return;
    onRegion((now) => ({ polygon, cut: now?.cut ?? false }), region ? "Polygon redrawn" : "Polygon drawn");
  };
  const cornerAt = (spot: Spot) => {
    const found = ring.findIndex((corner) => Math.hypot(...minus(toPixels(sheet!, corner), spot)) < NEAR);
    return found < 0 ? null : found;
  };
  const { pointer, handlers } = useDrag<number>(sheet, setSheet, {
    grab: (at) => (drawing ? null : cornerAt(at)),
    pull: (corner, to) => setMoved(ring.map((spot, k) => (k === corner ? to : spot))),
    drop: () => moved && give(moved),
    click: (at) => {
      if (!drawing || !sheet) return;
      if (drawing.length > 2 && Math.hypot(...minus(toPixels(sheet, drawing[0]!), at)) < NEAR) give(drawing);
      else setDrawing([...drawing, toMetres(sheet, at)]);
    },
  });
  useEffect(() => {
    if (sheet && plan.data && canvas.current)
      drawPlan(canvas.current, sheet, plan.data, corners, ring, drawing ? pointer : null);
  }, [sheet, plan.data, corners, ring, drawing, pointer]);

  const crossing = ring.length > 3 && crossesItself(ring);
  return (
    <div className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)_auto]">
      <div className="flex flex-wrap items-center gap-2 px-4 pt-3 pb-2">
        {drawing ? (
          <>
            <Button main disabled={drawing.length < 3 || crossing} onClick={() => give(drawing)}>
              Close the polygon
            </Button>
            <Button disabled={!drawing.length} onClick={() => setDrawing(drawing.slice(0, -1))}>
              Last corner away
            </Button>
            <Button onClick={() => setDrawing(null)}>Leave it</Button>
          </>
        ) : (
          <>
            <Button onClick={() => setDrawing([])}>{region ? "Draw anew" : "Draw a polygon"}</Button>
            {region && <Button onClick={() => onRegion(() => null, "Polygon removed")}>Remove</Button>}
          </>
        )}
        {region && !drawing && (
          <OneOf
            label="What the polygon keeps"
            value={region.cut ? "cut" : "whole"}
            options={[
              { value: "whole", label: "Whole parts" },
              { value: "cut", label: "Cut at its edge" },
            ]}
            onChange={(value) =>
              onRegion(
                (now) => now && { ...now, cut: value === "cut" },
                value === "cut" ? "Cut at the polygon" : "Whole parts",
              )
            }
          />
        )}
        <Nearer box={box} onSheet={setSheet} />
      </div>
      <div className="relative min-h-0 overflow-hidden border-y border-cloth-deep bg-white">
        <canvas
          ref={canvas}
          aria-label="Plan of what the choices let in, seen from above"
          className={`absolute inset-0 size-full touch-none ${drawing ? "cursor-crosshair" : "cursor-grab"}`}
          {...handlers}
          onDoubleClick={() => drawing && drawing.length > 2 && give(drawing)}
        />
        {plan.isPending && <p className="absolute inset-0 m-auto h-fit w-fit text-ink-soft">Drawing the plan…</p>}
        {plan.isError && <p className="absolute inset-0 m-auto h-fit w-fit text-signal">{plan.error.message}</p>}
      </div>
      <div className="flex items-start gap-4 px-4 py-2 text-[12.5px] text-ink-soft">
        <p className="min-w-0 flex-1" aria-live="polite">
          {crossing ? (
            <span className="text-signal">The outline crosses itself. Move a corner.</span>
          ) : drawing ? (
            drawing.length < 3 ? (
              "Click corner by corner; the first corner or Close ends it. Drag to move the plan."
            ) : (
              `${drawing.length} corners, ${areaText(drawing)}`
            )
          ) : region ? (
            `${kept.length} corners, ${areaText(kept)}. Drag a corner to move it.`
          ) : (
            "No polygon: everything that is ticked enters. Drag to move the plan, turn the wheel to come closer."
          )}
        </p>
        {pointer && <p className="whitespace-nowrap">{`X ${metric(pointer[0])}, Y ${metric(pointer[1])}`}</p>}
        <Corners key={written(kept)} ring={kept} onSet={give} />
      </div>
    </div>
  );
}

const minus = (a: Spot, b: Spot): Spot => [a[0] - b[0], a[1] - b[1]];

const areaText = (ring: Spot[]) => {
  const area = areaOf(ring);
  return area >= 1e6
    ? `${(area / 1e6).toFixed(2)} km²`
    : area >= 1
      ? `${area.toFixed(1)} m²`
      : `${(area * 1e4).toFixed(0)} cm²`;
};

/** The corners as numbers, for whoever has them or draws without a pointer. */
function Corners({ ring, onSet }: { ring: Spot[]; onSet: (ring: Spot[]) => void }) {
  const [text, setText] = useState(written(ring));
  const read = readCorners(text);
  const good = read !== null && read.length >= 3 && !crossesItself(read);
  return (
    <details>
      <summary className="cursor-pointer font-semibold text-ink">Corners in metres</summary>
      <textarea
        aria-label="Corners in metres, X and Y, one to a line"
        aria-invalid={!good}
        rows={4}
        value={text}
        placeholder={"0, 0\n12, 0\n12, 8"}
        onChange={(event) => setText(event.target.value)}
        className="mt-1 block w-[190px] rounded-md border border-field bg-white px-2 py-1 text-[12.5px] text-ink"
      />
      <Button className="mt-1" disabled={!good || text === written(ring)} onClick={() => onSet(read!)}>
        Take these corners
      </Button>
    </details>
  );
}
