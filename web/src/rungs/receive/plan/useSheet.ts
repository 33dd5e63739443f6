import { type RefObject, useEffect, useState } from "react";

import { fitting, type Sheet, zoomed } from "./paper";

/** The sheet of a canvas: as large as its frame, the box in it at first, nearer and farther by the wheel. */
export function useSheet(canvas: RefObject<HTMLCanvasElement | null>, box: number[][] | undefined) {
  const [sheet, setSheet] = useState<Sheet | null>(null);
  const size = box?.flat().join();

  useEffect(() => {
    if (!size || !canvas.current) return;
    const flat = size.split(",").map(Number);
    const frame = canvas.current.parentElement!;
    const watch = new ResizeObserver(() => {
      const { clientWidth: width, clientHeight: height } = frame;
      setSheet((now) => (now ? { ...now, width, height } : fitting([flat.slice(0, 2), flat.slice(2)], width, height)));
    });
    watch.observe(frame);
    return () => watch.disconnect();
  }, [canvas, size]);

  // Wheel events must not scroll the page, which only a listener of our own can say.
  useEffect(() => {
    const element = canvas.current!;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      setSheet((now) => now && zoomed(now, Math.exp(-event.deltaY / 400), [event.offsetX, event.offsetY]));
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [canvas]);

  return [sheet, setSheet] as const;
}
