import { type PointerEvent, useRef, useState } from "react";

import { type Sheet, type Spot, toMetres } from "./paper";

/** Pixels that a hand may tremble while it clicks. */
const TREMBLE = 4;

/**
 * What a pointer does on a plan: a drag moves the sheet, or the thing that was grabbed; all else is a click.
 * Spots in pixels of the canvas; `pointer` and what is pulled to in metres.
 */
export function useDrag<Thing = never>(
  sheet: Sheet | null,
  setSheet: (sheet: Sheet) => void,
  does: {
    grab?: (at: Spot) => Thing | null;
    pull?: (thing: Thing, to: Spot) => void;
    drop?: () => void;
    click: (at: Spot, event: PointerEvent) => void;
  },
) {
  const held = useRef<{ thing: Thing | null; from: Spot; sheet: Sheet; far: boolean } | null>(null);
  const [pointer, setPointer] = useState<Spot | null>(null);
  return {
    pointer,
    handlers: {
      onPointerDown(event: PointerEvent) {
        if (!sheet) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        const from = spotOf(event);
        held.current = { thing: does.grab?.(from) ?? null, from, sheet, far: false };
      },
      onPointerMove(event: PointerEvent) {
        if (!sheet) return;
        const at = spotOf(event);
        setPointer(toMetres(sheet, at));
        const hold = held.current;
        if (!hold) return;
        const [dx, dy] = [at[0] - hold.from[0], at[1] - hold.from[1]];
        hold.far ||= Math.hypot(dx, dy) > TREMBLE;
        if (!hold.far) return;
        if (hold.thing !== null) does.pull?.(hold.thing, toMetres(sheet, at));
        else {
          const [x, y] = hold.sheet.middle;
          setSheet({ ...sheet, middle: [x - dx / sheet.scale, y + dy / sheet.scale] });
        }
      },
      onPointerUp(event: PointerEvent) {
        const hold = held.current;
        held.current = null;
        if (!hold || !sheet) return;
        if (!hold.far) does.click(spotOf(event), event);
        else if (hold.thing !== null) does.drop?.();
      },
    },
  };
}

const spotOf = (event: PointerEvent): Spot => {
  const bounds = event.currentTarget.getBoundingClientRect();
  return [event.clientX - bounds.left, event.clientY - bounds.top];
};
