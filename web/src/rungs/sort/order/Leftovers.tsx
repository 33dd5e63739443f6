import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, needJob } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { Button } from "../../../ui/controls";
import { count, plural } from "../../../ui/format";

/** What came along and nobody wants in a picture: seen first, left out in one move. */
export function Leftovers() {
  const { job, result, change, setView } = useBench();
  const [tiny, setTiny] = useState(5);
  const [kept, setKept] = useState<ReadonlySet<string>>(new Set());
  const asked = useQuery({
    queryKey: ["leftovers", job.id, job.decisions_id, result?.model_key, tiny],
    queryFn: async () =>
      need(
        await api.GET("/api/jobs/{job_id}/sort/leftovers", {
          params: { path: { job_id: job.id }, query: { tiny: tiny / 1000 } },
        }),
      ),
    placeholderData: (before) => before,
    // What needs the meshes is looked for by a worker.
    refetchInterval: (query) => (query.state.data?.some(({ waiting }) => waiting) ? 1500 : false),
  });
  const rows = asked.data ?? [];
  const here = rows.filter(({ placements }) => placements > 0);
  const gone = rows.filter(({ left }) => left > 0);
  const waiting = rows.some((row) => row.waiting);
  const wanted = here.filter(({ kind }) => !kept.has(kind));
  return (
    <section aria-label="Leftovers" className="grid gap-1.5">
      <h3 className="font-semibold">Leftovers</h3>
      {here.map(({ kind, placements, parts }) => (
        <div key={kind} className="flex items-center gap-2">
          <label className="flex min-w-0 flex-1 items-center gap-2">
            <input
              type="checkbox"
              checked={!kept.has(kind)}
              onChange={() =>
                setKept((now) => {
                  const next = new Set(now);
                  if (!next.delete(kind)) next.add(kind);
                  return next;
                })
              }
              className="size-4 accent-sea"
            />
            <span className="truncate">
              {kind}: {plural(placements, "placement")}
            </span>
          </label>
          <Button
            quiet
            className="!px-0"
            aria-label={`Choose ${kind}`}
            onClick={() => setView((now) => ({ chosen: new Set(parts), framed: now.framed + 1 }))}
          >
            Choose
          </Button>
        </div>
      ))}
      {waiting ? (
        <p role="status" className="text-ink-soft">
          Looking for what stands wholly inside something else…
        </p>
      ) : (
        asked.data && !here.length && <p className="text-ink-soft">Nothing of that kind enters the job.</p>
      )}
      <div className="flex items-center gap-2">
        <label className="flex items-center gap-2 text-ink-soft">
          Tiny is under
          <input
            type="number"
            aria-label="Tiny is under, in millimetres"
            min={0.1}
            step={1}
            value={tiny}
            onChange={(event) => setTiny(Math.max(0.1, Number(event.target.value) || 0.1))}
            className="w-16 rounded-md border border-field bg-white px-2 py-1 text-ink"
          />
          mm
        </label>
        <Button
          className="ml-auto"
          disabled={!wanted.length}
          onClick={() =>
            change(async () =>
              needJob(
                await api.POST("/api/jobs/{job_id}/sort/leftovers", {
                  params: { path: { job_id: job.id } },
                  body: { kinds: wanted.map(({ kind }) => kind), tiny: tiny / 1000 },
                }),
              ),
            )
          }
        >
          Leave them out
        </Button>
      </div>
      {gone.length > 0 && (
        <p className="text-ink-soft">
          Left behind already: {gone.map(({ kind, left }) => `${count(left)} ${kind}`).join(", ")}.
        </p>
      )}
    </section>
  );
}
