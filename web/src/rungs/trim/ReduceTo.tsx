import { useState } from "react";

import { api, needJob, type Part, type Views } from "../../api/client";
import { lengths, numbers } from "../../api/read";
import { goTo, useBench } from "../../bench/bench";
import { Button, OneOf } from "../../ui/controls";
import { LogField } from "../../ui/fields";
import { bytes, count, metric, plural } from "../../ui/format";
import { heaviest, weigh } from "./heavy";
import { Holding, percent } from "./operations/reduce";

type By = Views["GoalIn"]["by"];

const START: Record<By, number> = { share: 0.25, count: 10_000, bytes: 1_000_000, error: 0.0005 };

/** Who is meant, and to what goal: nothing runs before both are said. */
export function ReduceTo({ chosen, onGrades }: { chosen: Part[]; onGrades: (parts: number[]) => void }) {
  const bench = useBench();
  const { job, result, structure, change, library, decisions } = bench;
  const [everything, setEverything] = useState(false);
  const [by, setBy] = useState<By>("share");
  const [goals, setGoals] = useState(START);
  const [hold, setHold] = useState(false);
  if (!result || !structure) return null;
  const some = chosen.map((part) => structure.parts.indexOf(part));
  const all = !some.length && everything;
  const meant = all ? result.parts.flatMap((part, at) => (part.triangles ? [at] : [])) : some;
  const exact = meant.filter((part) => (result.parts[part]?.chord ?? 0) > 0);
  const weight = weigh(result, structure, meant);
  const done = job.climb.state === "done";
  const value = goals[by];
  const range = by === "bytes" ? { least: 1e4, most: 1e9, start: 1e6 } : library.ranges[`reduce.${by}`]!;
  const set = (next: number) => setGoals((now) => ({ ...now, [by]: by === "count" ? Math.round(next) : next }));
  const run = () =>
    change(async () =>
      needJob(
        await api.POST("/api/jobs/{job_id}/trim/reduce", {
          params: { path: { job_id: job.id } },
          body: {
            parts: all ? [] : meant,
            everything: all,
            goal: { by, value },
            hold: hold ? decisions.trim.lost : null,
            borders: false,
          },
        }),
      ),
    );
  return (
    <section aria-label="Reduce to a goal" className="grid grid-cols-[minmax(0,1fr)] gap-2">
      <div className="flex items-baseline justify-between gap-2">
        <p className="min-w-0">
          <b className="font-semibold">
            {meant.length
              ? all
                ? "Everything"
                : meant.length === 1
                  ? chosen[0]!.label
                  : plural(meant.length, "part")
              : "No part is chosen yet"}
          </b>{" "}
          <span className="text-ink-soft tabular-nums">
            {meant.length > 0 && `${count(weight)} of ${count(result.triangles)} triangles`}
          </span>
        </p>
        {!some.length && (
          <label className="flex shrink-0 items-center gap-1.5 text-[12.5px]">
            <input
              type="checkbox"
              checked={everything}
              onChange={(event) => setEverything(event.target.checked)}
              className="size-4 accent-ink"
            />
            Everything
          </label>
        )}
      </div>
      {!meant.length ? (
        <p className="text-[12.5px] text-ink-soft">
          Choose parts on the stage or in the list, or begin with{" "}
          <button
            type="button"
            className="rounded underline decoration-line underline-offset-4 hover:decoration-ink"
            onClick={() => goTo(bench, heaviest(result, structure))}
          >
            the heaviest
          </button>
          .
        </p>
      ) : (
        <>
          <OneOf
            label="Goal"
            value={by}
            options={[
              { value: "share", label: "share" },
              { value: "count", label: "count" },
              { value: "bytes", label: "file size" },
              { value: "error", label: "error" },
            ]}
            onChange={setBy}
          />
          <LogField
            key={by}
            label={{ share: "Share kept", count: "Triangles", bytes: "File size", error: "Error" }[by]}
            value={value}
            range={range}
            show={{ share: percent, count, bytes, error: metric }[by]}
            read={
              by === "error"
                ? lengths("mm")
                : by === "share"
                  ? numbers("%", 0.01)
                  : by === "bytes"
                    ? numbers("MB", 1e6)
                    : numbers("")
            }
            onMove={set}
            onSet={set}
          />
          <Holding hold={hold} onHold={setHold} />
          {exact.length > 0 && by === "share" && (
            <p className="text-[12.5px] text-ink-soft">
              {exact.length === meant.length ? "Exact" : `${plural(exact.length, "part")} of them exact`}: facets made
              anew reach about as few from the true surface.{" "}
              <button
                type="button"
                className="rounded underline decoration-line underline-offset-4 hover:decoration-ink disabled:opacity-50"
                disabled={!done}
                onClick={() =>
                  bench.take(
                    { source: "", parts: exact },
                    { label: "Coarser facets", does: "coarser", values: { times: value ** -1.5 } },
                  )
                }
              >
                Coarser facets first
              </button>
            </p>
          )}
          <div className="flex flex-wrap gap-2">
            <Button main disabled={!done} onClick={run}>
              Reduce {all ? "everything" : plural(meant.length, "part")}
            </Button>
            <Button
              disabled={!done || all}
              title={all ? "Choose some parts to compare" : undefined}
              onClick={() => onGrades(meant)}
            >
              Compare grades…
            </Button>
          </div>
        </>
      )}
    </section>
  );
}
