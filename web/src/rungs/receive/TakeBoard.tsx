import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, type Decisions, type Tally } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Board } from "../../bench/Board";
import { Button, OneOf } from "../../ui/controls";
import { count, plural } from "../../ui/format";
import { alone, enters, ticked } from "./choices";
import { PlanBoard } from "./plan/PlanBoard";

type By = Tally["by"];
type Receive = Decisions["receive"];
/** Changes what is in force by then, which an answer under way may have changed. */
type DecideReceive = (change: (now: Receive) => Partial<Receive>, label: string) => void;
const KINDS: { value: By; label: string }[] = [
  { value: "layer", label: "Layers" },
  { value: "class", label: "Classes" },
  { value: "storey", label: "Storeys" },
  { value: "group", label: "Groups" },
];

/** Choose what enters: names to tick with what each would add, and a polygon on the plan. */
export function TakeBoard({ onClose }: { onClose: () => void }) {
  const { job, result, decisions, decide } = useBench();
  const [by, setBy] = useState<By | null>(null);
  const tallies = useQuery({
    queryKey: ["tallies", job.id, job.model_key, job.decisions_id, job.climb.done],
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/tallies", { params: { path: { job_id: job.id } } })),
    placeholderData: keepPreviousData,
  });
  const there = KINDS.filter((kind) => tallies.data?.some((item) => item.by === kind.value));
  const shown = by ?? there.find((kind) => kind.value === "storey")?.value ?? there[0]?.value ?? "layer";
  const decideReceive: DecideReceive = (change, label) =>
    decide((now) => ({ ...now, receive: { ...now.receive, ...change(now.receive) } }), label);
  const entered = result?.placements.length ?? 0;
  return (
    <Board
      title="What enters"
      description={
        <>
          <b className="font-semibold text-ink">{count(entered)}</b> of {count(entered + (result?.left_out ?? 0))}{" "}
          placements, {plural(result?.triangles ?? 0, "triangle")} so far. What is left out stays in the source.
        </>
      }
      onClose={onClose}
    >
      <div className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)_auto] border-r border-line">
        <div className="px-4 pt-3 pb-2">
          <OneOf label="Choose by" value={shown} options={there.length ? there : KINDS.slice(0, 1)} onChange={setBy} />
        </div>
        <div className="min-h-0 overflow-y-auto px-4">
          {tallies.isPending && <p className="text-ink-soft">Counting…</p>}
          {tallies.isError && <p className="text-signal">This cannot be counted: {tallies.error.message}</p>}
          {tallies.data && !there.length && (
            <p className="text-ink-soft">
              The sources name no layers, classes, storeys or groups. Single parts can be left out in the ledger, and a
              polygon can be drawn on the plan.
            </p>
          )}
          {tallies.data && (
            <Names
              tallies={tallies.data.filter((item) => item.by === shown)}
              choices={decisions.receive.choices}
              onChoices={(change, label) => decideReceive(({ choices }) => ({ choices: change(choices) }), label)}
            />
          )}
        </div>
        <Extras decideReceive={decideReceive} />
      </div>
      <PlanBoard
        region={decisions.receive.region ?? null}
        onRegion={(change, label) => decideReceive((now) => ({ region: change(now.region ?? null) }), label)}
      />
    </Board>
  );
}

/** Names of one kind as a table, source by source. */
function Names({
  tallies,
  choices,
  onChoices,
}: {
  tallies: Tally[];
  choices: Receive["choices"];
  onChoices: (change: (now: Receive["choices"]) => Receive["choices"], label: string) => void;
}) {
  const { job } = useBench();
  const sources = [...new Set(tallies.map((item) => item.source))];
  return sources.map((ref) => (
    <table key={ref} className="mb-4 w-full border-collapse text-[13px]">
      <caption className="sr-only">{ref}</caption>
      <thead className="sticky top-0 bg-paper">
        <tr className="border-b border-line text-[12px] text-ink-soft">
          <th className="py-1 text-left font-medium">
            {job.sources.length > 1 ? job.sources.find((item) => item.ref === ref)?.name : "Name"}
          </th>
          <th className="w-12 text-right font-medium">Parts</th>
          <th className="w-16 text-right font-medium">Enter</th>
          <th className="w-20 text-right font-medium">Triangles</th>
          <th className="w-10">
            <span className="sr-only">Only this</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {tallies
          .filter((item) => item.source === ref)
          .map((item) => {
            const on = enters(choices, item);
            const id = `take-${item.by}-${item.source}-${item.match}`;
            return (
              <tr key={item.match} className={`border-b border-cloth-deep ${on ? "" : "text-ink-soft"}`}>
                <td className="max-w-0 py-1">
                  <span className="flex items-center gap-2">
                    <input
                      id={id}
                      type="checkbox"
                      checked={on}
                      onChange={() =>
                        onChoices((now) => ticked(now, item), `${item.match} ${on ? "left out" : "taken"}`)
                      }
                      className="size-4 shrink-0 accent-sea"
                    />
                    <label htmlFor={id} className="truncate" title={item.match}>
                      {item.match}
                    </label>
                    {item.off && <span className="shrink-0 text-[11.5px] text-signal">off in the file</span>}
                  </span>
                </td>
                <td className="text-right">{count(item.parts)}</td>
                <td className="text-right" title="placements that enter, of all that have it">
                  {item.taken === item.placements
                    ? count(item.taken)
                    : `${count(item.taken)} of ${count(item.placements)}`}
                </td>
                <td
                  className="text-right"
                  title={item.estimated ? "reckoned by faces; not all is meshed yet" : undefined}
                >
                  {item.estimated && "about "}
                  {count(item.triangles)}
                </td>
                <td className="text-right">
                  <Button
                    quiet
                    className="!px-1 text-[12px]"
                    aria-label={`Only ${item.match}`}
                    onClick={() => onChoices((now) => alone(now, item), `Only ${item.match}`)}
                  >
                    only
                  </Button>
                </td>
              </tr>
            );
          })}
      </tbody>
    </table>
  ));
}

/** What stays out unless asked, and copies. */
function Extras({ decideReceive }: { decideReceive: DecideReceive }) {
  const { decisions, structure } = useBench();
  const { also, without_copies: noCopies } = decisions.receive;
  const kinds = (["space", "opening", "annotation"] as const).filter((kind) =>
    structure?.tags.some((tags) => tags.kind === kind),
  );
  const tick = (label: string, on: boolean, set: () => void) => (
    <label key={label} className="flex items-center gap-2">
      <input type="checkbox" checked={on} onChange={set} className="size-4 accent-sea" />
      {label}
    </label>
  );
  return (
    <div className="flex flex-wrap gap-x-5 gap-y-1 border-t border-line px-4 py-2.5 text-[13px]">
      {kinds.map((kind) =>
        tick(`Also ${kind}s`, also.includes(kind), () =>
          decideReceive(
            (now) => {
              const others = now.also.filter((one) => one !== kind);
              return { also: also.includes(kind) ? others : [...others, kind].sort() };
            },
            also.includes(kind) ? `${kind}s stay out` : `${kind}s enter`,
          ),
        ),
      )}
      {tick("No copies in the same place", noCopies, () =>
        decideReceive(() => ({ without_copies: !noCopies }), noCopies ? "Copies enter" : "One of each copy"),
      )}
    </div>
  );
}
