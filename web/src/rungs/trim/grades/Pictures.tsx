import { useEffect, useRef, useState } from "react";

import type { Views } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { GradesScene, spread } from "../../../stage/GradesScene";
import { keptLight } from "../../../stage/LightMenu";
import { useScene } from "../../../stage/useScene";
import { count, metric } from "../../../ui/format";

/** The grades as pictures on one canvas: turned together. */
export function Pictures({ grades, said }: { grades: Views["GradeView"][]; said: string[] }) {
  const { structure, result } = useBench();
  const canvas = useRef<HTMLCanvasElement>(null);
  const { scene, failed: flat } = useScene(canvas, GradesScene);
  const [failed, setFailed] = useState("");
  const [sides, setSides] = useState(true);
  useEffect(() => {
    if (!structure || !result) return;
    scene?.show(grades, structure, result, keptLight()).then(
      () => setFailed(""),
      () => setFailed("Some triangles did not arrive. Close the board and open it again."),
    );
  }, [scene, grades, structure, result]);
  useEffect(() => scene?.showSides(sides), [scene, sides]);
  const { columns, rows } = spread(Math.max(1, grades.length));
  return (
    <div className="stage-ground relative min-h-0 min-w-0 overflow-hidden">
      <canvas
        ref={canvas}
        role="img"
        aria-label={`The same parts ${said.join(", ")}, from one camera`}
        className="absolute inset-0 size-full touch-none"
      />
      <ul
        className="pointer-events-none absolute inset-0 grid"
        style={{ gridTemplateColumns: `repeat(${columns}, 1fr)`, gridTemplateRows: `repeat(${rows}, 1fr)` }}
      >
        {grades.map((grade, at) => (
          <li key={at} className="border-r border-b border-line p-2">
            <span className="rounded-[5px] border border-line bg-paper/90 px-2 py-0.5 text-[12.5px] tabular-nums">
              <b className="font-semibold">{said[at]}</b>{" "}
              {grade.ready
                ? `${count(grade.triangles)} triangles${grade.goal ? `, off by ${metric(grade.deviation)}` : ""}`
                : "being made…"}
            </span>
          </li>
        ))}
      </ul>
      <label className="absolute right-2 bottom-2 flex items-center gap-1.5 rounded-[5px] border border-line bg-paper/90 px-2 py-0.5 text-[12.5px]">
        <input
          type="checkbox"
          checked={sides}
          onChange={(event) => setSides(event.target.checked)}
          className="size-4 accent-ink"
        />
        sides of triangles
      </label>
      {(flat || failed) && (
        <p className="absolute inset-0 m-auto h-fit w-fit rounded bg-paper px-2 text-ink-soft">
          {flat ? "This browser gives no 3D drawing." : failed}
        </p>
      )}
    </div>
  );
}
