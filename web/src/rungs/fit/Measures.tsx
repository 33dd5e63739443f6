import { useEffect } from "react";

import type { Decisions, Views } from "../../api/client";
import { type Tool, useBench } from "../../bench/bench";
import { Button } from "../../ui/controls";
import { LengthField, NumberField } from "../../ui/fields";
import { imperial, metric } from "../../ui/format";
import { figure, noted } from "./said";
import { useTool } from "../../bench/useTool";

type Note = NonNullable<Decisions["fit"]["notes"]>[number];
type Kind = Note["kind"];
const BETWEEN: Tool = {
  id: "distance",
  need: 2,
  takes: "point",
  hint: ["Pick where the distance begins.", "Pick where it ends."],
};
const ANGLE: Tool = {
  id: "angle",
  need: 2,
  takes: "direction",
  hint: ["Pick a face or an edge.", "Pick the face or edge that the angle is to."],
};
const RADIUS: Tool = {
  id: "radius",
  need: 1,
  takes: "circle",
  hint: ["Pick a circle: the rim of a hole, a round end."],
};

/** Measurements that stay with the job, each with the figure it should have, checked after every change. */
export function Measures({ fit }: { fit: Views["FittingView"] | undefined }) {
  const { decide, fit: take, view, structure } = useBench();
  const distance = useTool(BETWEEN);
  const x = useTool({ ...BETWEEN, id: "along x" });
  const y = useTool({ ...BETWEEN, id: "along y" });
  const z = useTool({ ...BETWEEN, id: "along z" });
  const angle = useTool(ANGLE);
  const radius = useTool(RADIUS);
  const set = (change: (now: Note[]) => Note[], label: string) =>
    decide((now) => ({ ...now, fit: { ...now.fit, notes: change(now.fit.notes ?? []) } }), label);
  const add = (kind: Kind, picks: Views["SpotView"][], axis: Note["axis"] = null, part: string | null = null) =>
    take({ does: "measure", kind, axis, spots: picks.map((pick) => pick.spot), part }, `measured: ${kind}`);
  const finished = [distance, x, y, z, angle, radius].findIndex((tool) => tool.complete);
  useEffect(() => {
    if (finished < 0) return;
    const [kind, axis, tool] = (
      [
        ["distance", null, distance],
        ["along", "x", x],
        ["along", "y", y],
        ["along", "z", z],
        ["angle", null, angle],
        ["radius", null, radius],
      ] as const
    )[finished]!;
    add(kind, tool.picks, axis);
    tool.done();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each time that all is picked
  }, [finished]);
  const change = (id: number, part: Partial<Note>, label: string) =>
    set((now) => now.map((note) => (note.id === id ? { ...note, ...part } : note)), label);
  const [chosen] = view.chosen;
  const part = chosen === undefined ? undefined : structure?.parts[chosen];
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2">
      <div className="flex flex-wrap gap-1.5">
        <Button on={distance.active} onClick={distance.ask}>
          Distance
        </Button>
        {[x, y, z].map((tool, at) => (
          <Button key={at} on={tool.active} onClick={tool.ask} aria-label={`Distance along ${"XYZ"[at]}`}>
            Along {"XYZ"[at]}
          </Button>
        ))}
        <Button on={angle.active} onClick={angle.ask}>
          Angle
        </Button>
        <Button on={radius.active} onClick={radius.ask}>
          Radius
        </Button>
        <Button onClick={() => add("box", [], null, part?.ref ?? null)}>
          {part ? `Box of ${part.label.slice(0, 18)}` : "Overall box"}
        </Button>
      </div>
      {fit?.disagree && (
        <p role="alert" className="text-[12.5px] text-signal">
          {fit.disagree}
        </p>
      )}
      <ul className="grid grid-cols-[minmax(0,1fr)] gap-1.5">
        {fit?.notes.map((item) => (
          <li
            key={item.note.id}
            className="grid grid-cols-[minmax(0,1fr)] gap-1 rounded border border-cloth-deep bg-white px-2 py-1.5"
          >
            <div className="flex items-baseline gap-2">
              <span className="min-w-0 flex-1 truncate" title={item.said}>
                {item.said}
              </span>
              <Button
                quiet
                className="!px-0"
                aria-label={`Remove measurement ${item.note.id}`}
                onClick={() => set((now) => now.filter((note) => note.id !== item.note.id), "measurement removed")}
              >
                Remove
              </Button>
            </div>
            {item.lost ? (
              <p role="alert" className="text-signal">
                {item.lost}
              </p>
            ) : (
              <>
                <div className={item.agrees ? "" : "text-signal"}>
                  <b className="font-semibold">{item.box ? figure(item) : noted(item)}</b>
                  {item.box && (
                    <span className="block text-[12px] text-ink-soft">{item.box.map(imperial).join(" × ")}</span>
                  )}
                </div>
                {item.changed != null && (
                  <p className="text-[12.5px] text-signal">
                    It was {item.note.kind === "angle" ? `${item.changed.toFixed(2)}°` : metric(item.changed)} when it
                    was measured.
                  </p>
                )}
                <label className="grid grid-cols-[76px_1fr] items-center gap-2.5 text-[12.5px]">
                  Drawn as
                  {item.note.kind === "angle" ? (
                    <NumberField
                      label={`Angle of measurement ${item.note.id} on the drawing`}
                      unit="°"
                      value={Number((item.note.should ?? item.value).toFixed(2))}
                      least={0.001}
                      most={180}
                      onSet={(should) => change(item.note.id, { should }, `should be ${should}°`)}
                    />
                  ) : (
                    <LengthField
                      label={`Length of measurement ${item.note.id} on the drawing`}
                      value={item.note.should ?? null}
                      empty="not given"
                      onSet={(should) =>
                        change(
                          item.note.id,
                          { should },
                          should === null ? "nothing to be held against" : `should be ${metric(should)}`,
                        )
                      }
                    />
                  )}
                </label>
              </>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
