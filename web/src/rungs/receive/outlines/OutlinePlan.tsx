import { useEffect, useMemo, useRef, useState } from "react";

import type { Outlines } from "../../../api/client";
import { metric } from "../../../ui/format";
import { Nearer } from "../plan/Nearer";
import { type Sheet, type Spot, toMetres } from "../plan/paper";
import { useSheet } from "../plan/useSheet";
import { drawOutlines, laid, shapeAt } from "./draw";

type Shape = Outlines["shapes"][number];

/** Outlines seen from above: drag moves, the wheel comes closer, a click chooses, a click on what is chosen turns it. */
export function OutlinePlan({
  view,
  chosen,
  onChoose,
  onTurn,
}: {
  view: Outlines;
  chosen: ReadonlySet<number>;
  onChoose: (part: number | null, add: boolean) => void;
  onTurn: (shape: Shape) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [sheet, setSheet] = useSheet(canvas, view.box);
  const [pointer, setPointer] = useState<Spot | null>(null);
  const shapes = useMemo(() => laid(view), [view]);
  const held = useRef<{ from: Spot; sheet: Sheet; far: boolean } | null>(null);

  useEffect(() => {
    if (sheet && canvas.current) drawOutlines(canvas.current, sheet, view, shapes, chosen);
  }, [sheet, view, shapes, chosen]);

  const spotOf = (event: React.PointerEvent): Spot => {
    const bounds = canvas.current!.getBoundingClientRect();
    return [event.clientX - bounds.left, event.clientY - bounds.top];
  };
  const move = (event: React.PointerEvent) => {
    if (!sheet) return;
    const at = spotOf(event);
    setPointer(toMetres(sheet, at));
    const hold = held.current;
    if (!hold) return;
    const [dx, dy] = [at[0] - hold.from[0], at[1] - hold.from[1]];
    hold.far ||= Math.hypot(dx, dy) > 4;
    if (hold.far)
      setSheet({
        ...sheet,
        middle: [hold.sheet.middle[0] - dx / sheet.scale, hold.sheet.middle[1] + dy / sheet.scale],
      });
  };
  const up = (event: React.PointerEvent) => {
    const hold = held.current;
    held.current = null;
    if (!hold || hold.far || !sheet) return;
    const number = shapeAt(sheet, view, shapes, spotOf(event));
    if (number === null) return onChoose(null, false);
    const shape = view.shapes[number]!;
    const add = event.shiftKey || event.ctrlKey;
    if (!add && chosen.has(shape.part) && shape.role !== "line") onTurn(shape);
    else onChoose(shape.part, add);
  };
  return (
    <div className="relative min-h-0 overflow-hidden bg-white">
      <canvas
        ref={canvas}
        aria-label={`Plan of ${view.shapes.length} outlines, seen from above`}
        className="absolute inset-0 size-full cursor-grab touch-none"
        onPointerDown={(event) => {
          if (!sheet) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          held.current = { from: spotOf(event), sheet, far: false };
        }}
        onPointerMove={move}
        onPointerUp={up}
      />
      {!view.shapes.length && (
        <p className="absolute inset-0 m-auto h-fit w-fit text-ink-soft">
          Nothing in this job was drawn as an outline.
        </p>
      )}
      <div className="absolute top-2.5 right-3 flex">
        <Nearer box={view.box} onSheet={setSheet} />
      </div>
      {pointer && (
        <p className="pointer-events-none absolute right-3 bottom-2 rounded bg-paper/90 px-1.5 text-[12px] text-ink-soft">
          {`X ${metric(pointer[0])}, Y ${metric(pointer[1])}`}
        </p>
      )}
    </div>
  );
}
