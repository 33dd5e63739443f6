import { useEffect, useRef } from "react";
import { Vector3 } from "three";

import type { StageScene } from "../StageScene";

/** Something drawn over the stage: a line through points in metres from the middle of the model, and what is said. */
export interface Drawn {
  key: string;
  points: Vector3[];
  label?: string;
  tone: "note" | "wrong" | "picked" | "aim";
}

const TONES = {
  note: ["#1d2730", "border-line bg-paper/95 text-ink"],
  wrong: ["#a63d22", "border-signal bg-signal-pale text-signal"],
  picked: ["#2a6f7f", "border-sea bg-sea-pale text-ink"],
  aim: ["#2a6f7f", "border-sea bg-paper/95 text-ink"],
} as const;

/** Lines and labels over the stage, which follow every picture it draws. */
export function Overlay({ scene, drawn }: { scene: StageScene; drawn: Drawn[] }) {
  const frame = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const place = () => {
      const root = frame.current;
      if (!root) return;
      const project = screen(scene);
      for (const item of drawn) {
        const spots = item.points.map(project);
        const shown = spots.every((spot) => spot !== null);
        const line = root.querySelector<SVGGElement>(`[data-line="${item.key}"]`);
        const label = root.querySelector<HTMLElement>(`[data-label="${item.key}"]`);
        if (line) {
          line.style.display = shown ? "" : "none";
          const path = spots.map((spot) => `${spot?.[0] ?? 0},${spot?.[1] ?? 0}`).join(" ");
          line.querySelector("polyline")?.setAttribute("points", path);
          line.querySelectorAll("circle").forEach((circle, at) => {
            circle.setAttribute("cx", String(spots[at]?.[0] ?? 0));
            circle.setAttribute("cy", String(spots[at]?.[1] ?? 0));
          });
        }
        if (label) {
          label.style.display = shown ? "" : "none";
          if (!shown) continue;
          const x = spots.reduce((sum, spot) => sum + spot![0], 0) / spots.length;
          const y = spots.reduce((sum, spot) => sum + spot![1], 0) / spots.length;
          label.style.transform = `translate(${x + 10}px, ${y - 26}px)`;
        }
      }
    };
    place();
    return scene.watch(place);
  }, [scene, drawn]);
  return (
    <div ref={frame} className="pointer-events-none absolute inset-0 overflow-hidden">
      <svg className="absolute inset-0 size-full" aria-hidden>
        {drawn.map((item) => (
          <g key={item.key} data-line={item.key} stroke={TONES[item.tone][0]} fill="none" strokeWidth={1.6}>
            {item.points.length > 1 && <polyline strokeDasharray={item.tone === "note" ? undefined : "5 3"} />}
            {item.points.map((_, at) => (
              <circle key={at} r={item.tone === "aim" ? 7 : 4} fill={item.tone === "aim" ? "none" : "#fffdf8"} />
            ))}
          </g>
        ))}
      </svg>
      {drawn.map(
        (item) =>
          item.label && (
            <span
              key={item.key}
              data-label={item.key}
              className={`absolute top-0 left-0 rounded-[5px] border px-1.5 py-0.5 text-[12px] whitespace-nowrap ${TONES[item.tone][1]}`}
            >
              {item.label}
            </span>
          ),
      )}
    </div>
  );
}

/** From metres around the middle of the model to pixels; null behind the eye. */
export function screen(scene: StageScene): (point: Vector3) => [number, number] | null {
  const { view, width, height } = scene.eyes;
  const spot = new Vector3();
  const e = view.elements;
  return (point) => {
    if (e[3]! * point.x + e[7]! * point.y + e[11]! * point.z + e[15]! <= 0) return null;
    spot.copy(point).applyMatrix4(view);
    return [((spot.x + 1) / 2) * width, ((1 - spot.y) / 2) * height];
  };
}
