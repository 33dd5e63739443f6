import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, needJob } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { Button } from "../../../ui/controls";
import { count, plural } from "../../../ui/format";

/** Milliseconds until copies that are being looked for are asked for again. */
const AGAIN = 700;

/** Parts of one shape that the source has apart: found by their triangles, shared with what that saves. */
export function Copies() {
  const { job, result, change, decide, decisions, setView } = useBench();
  const [tolerance, setTolerance] = useState(0.01);
  const asked = useQuery({
    queryKey: ["copies", job.id, job.decisions_id, result?.model_key, result?.triangles, tolerance],
    enabled: !!result && job.climb.state !== "working",
    queryFn: async () => {
      const answer = await api.GET("/api/jobs/{job_id}/sort/copies", {
        params: { path: { job_id: job.id }, query: { tolerance: tolerance / 1000 } },
      });
      return answer.response.status === 202 ? null : need(answer);
    },
    refetchInterval: (query) => (query.state.data === null ? AGAIN : false),
  });
  const found = asked.data;
  const shared = decisions.sort.shared.length;
  return (
    <section aria-label="Copies" className="grid gap-1.5">
      <h3 className="font-semibold">Copies in all but record</h3>
      <p role="status" className="text-ink-soft">
        {asked.isError
          ? asked.error.message
          : !found
            ? "Looking for parts of one shape…"
            : found.copies
              ? `${plural(found.copies, "part")} ${found.copies === 1 ? "is a copy" : "are copies"} of ${plural(found.shapes.length, "other")}${found.mirrored ? `, ${count(found.mirrored)} mirrored` : ""}; shared, ${plural(found.triangles, "triangle")} need not be stored.`
              : "No part is another's copy up to a move, a turn or a mirror."}
        {shared > 0 && ` ${plural(shared, "copy", "copies")} ${shared === 1 ? "shares" : "share"} already.`}
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-2 text-ink-soft">
          Within
          <input
            type="number"
            aria-label="Copies agree within, in millimetres"
            min={0.001}
            step={0.01}
            value={tolerance}
            onChange={(event) => setTolerance(Math.min(1000, Math.max(0.001, Number(event.target.value) || 0.001)))}
            className="w-20 rounded-md border border-field bg-white px-2 py-1 text-ink"
          />
          mm
        </label>
        {found && found.copies > 0 && (
          <>
            <Button
              className="ml-auto"
              onClick={() =>
                change(async () =>
                  needJob(
                    await api.POST("/api/jobs/{job_id}/sort/copies", {
                      params: { path: { job_id: job.id } },
                      body: { tolerance: tolerance / 1000 },
                    }),
                  ),
                )
              }
            >
              Share them
            </Button>
            <Button
              quiet
              className="!px-0"
              aria-label="Choose copies"
              onClick={() => setView((now) => ({ chosen: new Set(found.shapes.flat()), framed: now.framed + 1 }))}
            >
              Choose
            </Button>
          </>
        )}
        {shared > 0 && (
          <Button
            onClick={() =>
              decide((now) => ({ ...now, sort: { ...now.sort, shared: [] } }), "Copies are separate again")
            }
          >
            Make all separate
          </Button>
        )}
      </div>
    </section>
  );
}
