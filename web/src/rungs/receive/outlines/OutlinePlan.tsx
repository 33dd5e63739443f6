import { type KeyboardEvent, useEffect, useMemo, useRef } from "react";

import type { Outlines } from "../../../api/client";
import { metric } from "../../../ui/format";
import { Nearer } from "../plan/Nearer";
import { useDrag } from "../plan/useDrag";
import { useSheet } from "../plan/useSheet";
import { drawOutlines, laid, shapeAt } from "./drawOutlines";

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
  const shapes = useMemo(() => laid(view), [view]);
  const { pointer, handlers } = useDrag(sheet, setSheet, {
    click: (at, event) => {
      const number = shapeAt(sheet!, view, shapes, at);
      if (number === null) return onChoose(null, false);
      const shape = view.shapes[number]!;
      const add = event.shiftKey || event.ctrlKey;
      if (!add && chosen.has(shape.part) && shape.role !== "line") onTurn(shape);
      else onChoose(shape.part, add);
    },
  });

  useEffect(() => {
    if (sheet && canvas.current) drawOutlines(canvas.current, sheet, view, shapes, chosen);
  }, [sheet, view, shapes, chosen]);

  // By keys one goes from outline to outline, the largest first, as they are told.
  const at = view.shapes.findIndex((shape) => chosen.has(shape.part));
  const press = (event: KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    const count = view.shapes.length;
    if (by && count) onChoose(view.shapes[(Math.max(at, by < 0 ? 0 : -1) + by + count) % count]!.part, event.shiftKey);
    else if (event.key === "Enter" && at >= 0 && view.shapes[at]!.role !== "line") onTurn(view.shapes[at]!);
    else return;
    event.preventDefault();
  };

  return (
    <div className="relative min-h-0 overflow-hidden bg-white">
      <canvas
        ref={canvas}
        aria-label={`Plan of ${view.shapes.length} outlines, seen from above`}
        className="absolute inset-0 size-full cursor-grab touch-none -outline-offset-2"
        {...handlers}
        tabIndex={0}
        role="application"
        aria-roledescription="plan; arrows go from outline to outline, Enter turns it into a hole or back"
        onKeyDown={press}
      />
      <p role="status" className="sr-only">
        {at >= 0 && `${view.shapes[at]!.label}, ${view.shapes[at]!.role}`}
      </p>
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
