import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, need, type Outlines } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { Stage } from "../../../stage/Stage";
import { Board } from "../../../bench/Board";
import { OneOf } from "../../../ui/controls";
import { CountField, LengthField } from "../../../ui/fields";
import { count, metric, plural } from "../../../ui/format";
import { Chosen } from "./Chosen";
import { Heights } from "./Heights";
import { OutlinePlan } from "./OutlinePlan";
import { type Drawn, type Named, namedOf, say, type Said } from "./said";

/** Outlines on a plan, heights in a table beside it, and what is solid corrected by clicking. */
export function OutlinesBoard({ onClose }: { onClose: () => void }) {
  const { job, decisions, decide, view, setView } = useBench();
  const [by, setBy] = useState<"layer" | "colour">("layer");
  const [shown, setShown] = useState<"plan" | "solid">("plan");
  const found = useQuery({
    queryKey: ["outlines", job.id, job.model_key, job.decisions_id, job.climb.done],
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/outlines", { params: { path: { job_id: job.id } } })),
    placeholderData: keepPreviousData,
  });
  const drawn = decisions.receive.drawn;
  const change = (to: (drawn: Drawn) => Partial<Drawn>, label: string) =>
    decide(({ receive, ...now }) => {
      const { drawn } = receive;
      return { ...now, receive: { ...receive, drawn: { ...drawn, ...to(drawn) } } };
    }, label);
  const tell = (named: Named[], said: Said, label: string) =>
    change((drawn) => ({ rows: named.reduce((rows, one) => say(rows, one, said), drawn.rows) }), label);
  const shapes = found.data?.shapes;
  const roles = useMemo(() => countRoles(shapes ?? []), [shapes]);
  const chosen = shapes?.filter((shape) => view.chosen.has(shape.part)) ?? [];
  return (
    <Board
      title="Outlines and heights"
      description={found.data ? says(found.data, roles) : "Reading the outlines…"}
      onClose={onClose}
    >
      <div className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)_auto] border-r border-line">
        <div className="px-4 pt-3 pb-2">
          <OneOf
            label="Heights by"
            value={by}
            options={[
              { value: "layer", label: "By layer" },
              { value: "colour", label: "By colour" },
            ]}
            onChange={setBy}
          />
        </div>
        <div className="min-h-0 overflow-y-auto px-4">
          {found.isError && <p className="text-signal">The outlines cannot be shown: {found.error.message}</p>}
          {found.data && (
            <Heights
              by={by}
              shapes={found.data.shapes}
              rows={drawn.rows}
              onSay={(group, said, label) => tell([group], said, label)}
            />
          )}
        </div>
        <Footer drawn={drawn} thin={found.data?.thin.length ?? 0} onSet={(to, label) => change(() => to, label)} />
      </div>
      <div className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)_auto]">
        <div className="flex items-center px-4 pt-3 pb-2">
          <div className="w-[180px]">
            <OneOf
              label="How outlines are shown"
              value={shown}
              options={[
                { value: "plan", label: "Plan" },
                { value: "solid", label: "Solid" },
              ]}
              onChange={setShown}
            />
          </div>
        </div>
        {shown === "solid" ? (
          <Stage />
        ) : found.data ? (
          <OutlinePlan
            view={found.data}
            chosen={view.chosen}
            onChoose={(part, add) =>
              setView((now) => {
                if (part === null) return { chosen: new Set() };
                const next = new Set(add ? now.chosen : []);
                if (add && now.chosen.has(part)) next.delete(part);
                else next.add(part);
                return { chosen: next };
              })
            }
            onTurn={(shape) => {
              const hole = shape.role === "hole";
              tell(
                [namedOf(shape)],
                { hand: hole ? "solid" : "hole" },
                `${shape.label} is ${hole ? "solid" : "a hole"}`,
              );
            }}
          />
        ) : (
          <p className="m-auto text-ink-soft">{found.isError ? "" : "Drawing the plan…"}</p>
        )}
        <Chosen shapes={chosen} all={shapes ?? []} drawn={drawn} onSay={tell} />
      </div>
    </Board>
  );
}

type Shape = Outlines["shapes"][number];
function countRoles(shapes: Shape[]) {
  const found = { solid: 0, flat: 0, hole: 0, joined: 0, line: 0, waiting: 0 };
  for (const shape of shapes) found[shape.role === "solid" && !shape.height ? "flat" : shape.role]++;
  return found;
}

function says(view: Outlines, roles: ReturnType<typeof countRoles>) {
  const words = [
    `${count(roles.solid)} solid`,
    roles.flat ? `${count(roles.flat)} flat` : "",
    roles.hole ? plural(roles.hole, "hole") : "",
    roles.joined ? `${count(roles.joined)} joined to others` : "",
    roles.waiting ? `${count(roles.waiting)} await a height` : "",
    roles.line ? plural(roles.line, "line") : "",
  ].filter(Boolean);
  const shown = view.shapes.length;
  return `${plural(shown, "outline")}: ${words.join(", ")}.${view.total > shown ? ` The largest ${count(shown)} of ${count(view.total)} are shown.` : ""}`;
}

/** What holds for all outlines: gaps, the nozzle, segments. */
function Footer({
  drawn,
  thin,
  onSet,
}: {
  drawn: Drawn;
  thin: number;
  onSet: (change: Partial<Drawn>, label: string) => void;
}) {
  const { decisions, decide } = useBench();
  const { segments } = decisions.facet;
  return (
    <div className="grid grid-cols-[1fr_88px] items-center gap-x-3 gap-y-1.5 border-t border-line px-4 py-2.5 text-[13px]">
      <label htmlFor="outline-close">Close outlines whose ends are no farther apart than</label>
      <LengthField
        label="Largest gap that is closed"
        value={drawn.close || null}
        empty="no gap"
        onSet={(value) => onSet({ close: value ?? 0 }, value ? `Gaps up to ${metric(value)} closed` : "No gaps closed")}
      />
      <span>
        Look for walls thinner than the nozzle
        {drawn.nozzle > 0 && (
          <span className={thin ? "text-signal" : "text-sea"}>
            {" "}
            · {thin ? `${plural(thin, "place")} found` : "none found"}
          </span>
        )}
      </span>
      <LengthField
        label="Width of the nozzle"
        value={drawn.nozzle || null}
        empty="not looked"
        onSet={(value) =>
          onSet({ nozzle: value ?? 0 }, value ? `Walls under ${metric(value)} looked for` : "Thin walls not looked for")
        }
      />
      {drawn.nozzle > 0 && (
        <label className="col-span-2 flex items-center gap-2">
          <input
            type="checkbox"
            checked={drawn.thicken}
            onChange={() =>
              onSet({ thicken: !drawn.thicken }, drawn.thicken ? "Thin walls as drawn" : "Thin walls made wide enough")
            }
            className="size-4 accent-sea"
          />
          Make thin walls as wide as the nozzle
        </label>
      )}
      <span>Segments a curve, instead of chord error and angle</span>
      <CountField
        label="Segments a curve"
        value={segments ?? null}
        empty="by chord"
        least={3}
        most={1000}
        onSet={(value) =>
          decide(
            (now) => ({ ...now, facet: { ...now.facet, segments: value } }),
            value ? `${value} segments a curve` : "Curves by chord error",
          )
        }
      />
    </div>
  );
}
