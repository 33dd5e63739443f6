import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, needJob } from "../api/client";
import { Button } from "../ui/controls";
import { plural } from "../ui/format";
import { useBench } from "./bench";

const KEY = ["steps"];

/** Runs of decisions that are kept: each can be done again, on the parts that are chosen or on those it was for. */
export function Runs() {
  const { job, change, view } = useBench();
  const queries = useQueryClient();
  const kept = useQuery({ queryKey: KEY, queryFn: async () => need(await api.GET("/api/steps")) });
  const chosen = [...view.chosen];
  const again = (number: number, parts: number[] | null) =>
    change(async () =>
      needJob(
        await api.POST("/api/jobs/{job_id}/steps/{number}", {
          params: { path: { job_id: job.id, number } },
          body: { parts },
        }),
      ),
    );
  const forget = async (number: number) => {
    await api.DELETE("/api/steps/{number}", { params: { path: { number } } });
    await queries.invalidateQueries({ queryKey: KEY });
  };
  if (!kept.data?.length) return null;
  return (
    <section aria-label="Kept runs" className="pb-2">
      <h3 className="font-name pb-1 font-semibold">Done again by a click</h3>
      <ul>
        {kept.data.map(({ number, name, lines }) => (
          <li key={number} className="grid gap-0.5 border-t border-cloth-deep py-1.5">
            <div className="flex items-center gap-2">
              <b className="min-w-0 flex-1 truncate font-semibold" title={name}>
                {name}
              </b>
              {chosen.length > 0 && (
                <Button
                  aria-label={`${name}: On ${plural(chosen.length, "chosen part")}`}
                  onClick={() => again(number, chosen)}
                >
                  On {plural(chosen.length, "chosen part")}
                </Button>
              )}
              <Button aria-label={`${name}: As it was`} onClick={() => again(number, null)}>
                As it was
              </Button>
              <Button quiet className="!px-1" aria-label={`Forget ${name}`} onClick={() => void forget(number)}>
                ×
              </Button>
            </div>
            {lines.map((line) => (
              <p key={line} className="text-[12.5px] break-words text-ink-soft">
                {line}
              </p>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Names the run between the decisions that are ticked, the first and the last. */
export function KeepRun({ ticked, onDone }: { ticked: readonly number[]; onDone: () => void }) {
  const { job } = useBench();
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [problem, setProblem] = useState("");
  const keep = async () => {
    try {
      const body = { name: name.trim(), first: Math.min(...ticked), last: Math.max(...ticked) };
      need(await api.POST("/api/jobs/{job_id}/steps", { params: { path: { job_id: job.id } }, body }));
      await queries.invalidateQueries({ queryKey: KEY });
      onDone();
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "The server did not answer.");
    }
  };
  return (
    <form
      aria-label="Keep a run"
      className="grid gap-1.5 border-y border-line py-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() && ticked.length) void keep();
      }}
    >
      <p className="text-ink-soft">
        {ticked.length
          ? `From the ${ticked.length > 1 ? "first to the last" : "one"} that is ticked; what lies between comes along.`
          : "Tick the first and the last decision of the run."}
      </p>
      <div className="flex gap-2">
        <input
          aria-label="Name of the run"
          placeholder="Name of the run"
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.target.value)}
          className="min-w-0 flex-1 rounded-md border border-field bg-white px-2 py-1"
        />
        <button
          type="submit"
          disabled={!name.trim() || !ticked.length}
          className="rounded-md border border-ink bg-ink px-2.5 py-1 font-semibold text-white disabled:opacity-45"
        >
          Keep
        </button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
      {problem && (
        <p role="alert" className="text-signal">
          {problem}
        </p>
      )}
    </form>
  );
}
