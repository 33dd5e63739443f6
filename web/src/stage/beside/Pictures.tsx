import { useEffect, useRef, useState } from "react";

import { useBench } from "../../bench/bench";
import { OneOf } from "../../ui/controls";
import { keptLight } from "../LightMenu";
import { useScene } from "../useScene";
import { BesideScene, type Look, type Shown, spread } from "./BesideScene";

const LOOKS: { value: Look; label: string }[] = [
  { value: "shaded", label: "Shaded" },
  { value: "facets", label: "Facets" },
  { value: "outline", label: "Outline" },
];

/** One of several pictures: what it shows, what it is called, and what is said of it. */
export interface Picture extends Shown {
  label: string;
  note: string;
}

/** Pictures of the same parts on one canvas: turned, moved and zoomed together. */
export function Pictures({ pictures, onScale }: { pictures: Picture[]; onScale?: (pixels: number) => void }) {
  const { structure, result } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const { scene, failed: flat } = useScene(canvas, BesideScene);
  const [failed, setFailed] = useState("");
  const [sides, setSides] = useState(true);
  const [look, setLook] = useState<Look>("shaded");
  useEffect(() => {
    if (!structure || !result) return;
    scene?.show(pictures, structure, result, keptLight()).then(
      () => setFailed(""),
      () => setFailed("Some triangles did not arrive. Close the board and open it again."),
    );
  }, [scene, pictures, structure, result]);
  useEffect(() => {
    if (onScale) scene?.tellScale(onScale);
  }, [scene, onScale]);
  useEffect(() => scene?.showSides(sides), [scene, sides]);
  useEffect(() => scene?.showLook(look), [scene, look]);
  const { columns, rows } = spread(Math.max(1, pictures.length));
  return (
    <div className="stage-ground relative min-h-0 min-w-0 overflow-hidden">
      <canvas
        ref={canvas}
        role="img"
        aria-label={`The same parts ${pictures.map(({ label }) => label).join(", ")}, from one camera`}
        className="absolute inset-0 size-full touch-none"
      />
      <ul
        className="pointer-events-none absolute inset-0 grid"
        style={{ gridTemplateColumns: `repeat(${columns}, 1fr)`, gridTemplateRows: `repeat(${rows}, 1fr)` }}
      >
        {pictures.map((picture, at) => (
          <li key={at} className="border-r border-b border-line p-2">
            <p className="w-fit max-w-full rounded-[5px] border border-line bg-paper/90 px-2 py-0.5 text-[12.5px] tabular-nums">
              <b className="font-semibold">{picture.label}</b> {picture.note}
            </p>
          </li>
        ))}
      </ul>
      <div className="absolute right-2 bottom-2 flex items-center gap-3 rounded-[5px] border border-line bg-paper/90 px-2 py-0.5 text-[12.5px]">
        <OneOf label="Pictures show" value={look} options={LOOKS} onChange={setLook} />
        <label className="flex items-center gap-1.5 whitespace-nowrap">
          <input
            type="checkbox"
            checked={sides}
            onChange={(event) => setSides(event.target.checked)}
            className="size-4 accent-ink"
          />
          sides of triangles
        </label>
      </div>
      {(flat || failed) && (
        <p className="absolute inset-0 m-auto h-fit w-fit rounded bg-paper px-2 text-ink-soft">
          {flat ? "This browser gives no 3D drawing." : failed}
        </p>
      )}
    </div>
  );
}
