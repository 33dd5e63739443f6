import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";

import { api, need, type Result, type Structure } from "../api/client";
import { useDecide, useJob, useResult, useStructure } from "../api/job";
import { BenchContext, type Bench, type View } from "../bench/bench";
import { Ledger } from "../ledger/Ledger";
import { Ladder } from "../bench/Ladder";
import { Stage } from "../stage/Stage";
import { Link } from "../ui/address";
import { Shortcuts } from "../bench/Shortcuts";
import { useKeptHidden } from "../bench/keptHidden";
import { Strip } from "../bench/Strip";

const START: View = {
  open: "Facet",
  look: "shaded",
  chosen: new Set(),
  node: null,
  hidden: new Set(),
  compare: false,
  framed: 0,
};

/** A structure and a result of the same model; the last such pair while one of them is behind. */
function useMatching(structure: Structure | undefined, result: Result | undefined) {
  const fresh = useMemo(() => ({ structure, result }), [structure, result]);
  const [kept, keep] = useState<{ structure?: Structure; result?: Result }>({});
  if (!structure || !result) return fresh;
  if (structure.model_key !== result.model_key) return kept.result ? kept : { structure, result: undefined };
  if (kept.structure !== structure || kept.result !== result) keep(fresh);
  return fresh;
}

/** Where a job is worked on: strip, ladder, stage and ledger. */
export function BenchPage({ jobId }: { jobId: number }) {
  const job = useJob(jobId);
  const structure = useStructure(job.data);
  const result = useResult(job.data);
  const library = useQuery({
    queryKey: ["library"],
    queryFn: async () => need(await api.GET("/api/library")),
    staleTime: Infinity,
  });
  const { problem, forget, decide, act, take, change } = useDecide(jobId);
  const [view, keepView] = useState<View>(START);
  const [wide, setWide] = useState(false);
  const setView = useCallback<Bench["setView"]>(
    (change) => keepView((now) => ({ ...now, ...(typeof change === "function" ? change(now) : change) })),
    [],
  );
  const ship = useCallback(
    () => void api.POST("/api/jobs/{job_id}/deliveries", { params: { path: { job_id: jobId } } }),
    [jobId],
  );
  useEffect(() => {
    if (job.data) document.title = `${job.data.name} · Hemp Ladder`;
    return () => {
      document.title = "Hemp Ladder";
    };
  }, [job.data]);
  const readable = job.data?.state === "ready";
  useKeptHidden(jobId, (readable && job.data?.model_key) || undefined, view.hidden, setView);
  // Node and part numbers of the two belong together; while a source comes in, the old pair stays.
  const pair = useMatching(structure.data, result.data);
  const bench = useMemo<Bench | null>(
    () =>
      job.data && library.data
        ? {
            job: job.data,
            structure: pair.structure,
            result: pair.result,
            library: library.data,
            decisions: job.data.decisions,
            decide,
            act,
            take,
            change,
            ship,
            // Before the source is read there is only Receive to look at.
            view: readable ? view : { ...view, open: "Receive" },
            setView,
          }
        : null,
    [job.data, pair, library.data, decide, act, take, change, ship, view, setView, readable],
  );

  if (job.isError)
    return (
      <main className="grid h-full place-content-center gap-2 text-center">
        <h1 className="font-name text-[20px] font-semibold">This job cannot be shown</h1>
        <p role="alert" className="text-ink-soft">
          {job.error.message}
        </p>
        <Link href="/" className="underline">
          To the list of jobs
        </Link>
      </main>
    );
  if (!bench) return <main className="grid h-full place-content-center text-ink-soft">Opening the job…</main>;
  return (
    <BenchContext value={bench}>
      <div
        className={`grid h-full min-h-0 ${wide ? "grid-cols-[0_1fr]" : "grid-cols-[348px_1fr]"} grid-rows-[52px_1fr]`}
      >
        <Strip />
        <Ladder />
        <main className="grid min-h-0 min-w-0 grid-rows-[minmax(0,1fr)_auto] border-l border-line">
          <Stage wide={wide} onWide={() => setWide((now) => !now)} />
          {!wide && <Ledger />}
        </main>
      </div>
      <Shortcuts />
      {problem && (
        <div
          role="alert"
          className="fixed bottom-4 left-1/2 z-40 flex max-w-xl -translate-x-1/2 items-baseline gap-4 rounded-md border border-signal bg-signal-pale px-4 py-2 shadow-lg"
        >
          <span>
            {problem.message} {problem.remedy}
          </span>
          <button type="button" className="font-semibold underline" onClick={forget}>
            Close
          </button>
        </div>
      )}
    </BenchContext>
  );
}
