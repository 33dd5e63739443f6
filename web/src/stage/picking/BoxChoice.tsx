import { type PointerEvent, useEffect, useRef, useState } from "react";

import { useBench } from "../../bench/bench";
import type { StageScene } from "../StageScene";
import { boxed } from "./picked";

interface Pull {
  from: [number, number];
  to: [number, number];
}

/** Over the stage: a box is drawn with the pointer, and what it touches is chosen; with Shift or Ctrl besides what is. */
export function BoxChoice({ scene, onEnd }: { scene: StageScene; onEnd: () => void }) {
  const { structure, setView } = useBench();
  const [pull, setPull] = useState<Pull | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  useEffect(() => frame.current?.focus(), []);
  const at = (event: PointerEvent): [number, number] => {
    const { left, top } = frame.current!.getBoundingClientRect();
    return [event.clientX - left, event.clientY - top];
  };
  const take = (event: PointerEvent) => {
    if (!pull) return;
    const { width, height } = frame.current!.getBoundingClientRect();
    const [xs, ys] = [0, 1].map((k) => [pull.from[k]!, pull.to[k]!].sort((a, b) => a - b)) as [number[], number[]];
    setPull(null);
    const nodes = scene.touching({
      left: (xs[0]! / width) * 2 - 1,
      right: (xs[1]! / width) * 2 - 1,
      bottom: 1 - (ys[1]! / height) * 2,
      top: 1 - (ys[0]! / height) * 2,
    });
    setView((now) => boxed(now, structure!, nodes, event.shiftKey || event.ctrlKey));
  };
  return (
    <div
      ref={frame}
      tabIndex={-1}
      role="application"
      aria-label="Draw a box with the pointer to choose what it touches"
      className="absolute inset-0 cursor-crosshair touch-none outline-none"
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        onEnd();
      }}
      onPointerDown={(event) => {
        if (event.button) return onEnd();
        event.currentTarget.setPointerCapture(event.pointerId);
        setPull({ from: at(event), to: at(event) });
      }}
      onPointerMove={(event) => pull && setPull({ ...pull, to: at(event) })}
      onPointerUp={take}
      onPointerCancel={() => setPull(null)}
    >
      {pull && (
        <div
          className="absolute border border-ink bg-sea/15"
          style={{
            left: Math.min(pull.from[0], pull.to[0]),
            top: Math.min(pull.from[1], pull.to[1]),
            width: Math.abs(pull.to[0] - pull.from[0]),
            height: Math.abs(pull.to[1] - pull.from[1]),
          }}
        />
      )}
      <p className="pointer-events-none absolute inset-x-0 top-14 mx-auto w-fit rounded-[5px] border border-line bg-paper/95 px-2.5 py-1 text-[12.5px]">
        Draw a box: what it touches is chosen, also what lies behind. Shift adds; Escape ends.
      </p>
    </div>
  );
}
