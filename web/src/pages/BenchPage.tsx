import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { api, need, needJob, Problem, type Result, type Structure } from "../api/client";
import { useDecide, useJob, useStructure } from "../api/job";
import { useResult } from "../api/result";
import { BenchContext, type Bench, changed, type View } from "../bench/bench";
import { ThingsMenu } from "../bench/menu/ThingsMenu";
import { BoardPlace, STRIP } from "../bench/Board";
import { DropAnywhere } from "../bench/DropAnywhere";
import { Ledger } from "../ledger/Ledger";
import { Ladder } from "../bench/Ladder";
import { grow } from "../stage/cuts";
import { Stage } from "../stage/Stage";
import { Link } from "../ui/address";
import { Notice } from "../ui/controls";
import { Boundary } from "../ui/Boundary";
import { Shortcuts } from "../bench/Shortcuts";
import { renumbered, useKeptHidden } from "../bench/keptHidden";
import { Strip } from "../bench/Strip";

const START: View = {
  open: "Facet",
  look: "shaded",
  tint: "none",
  chosen: new Set(),
  places: null,
  single: false,
  node: null,
  hidden: new Set(),
  hiddenPlaces: new Set(),
  menu: null,
  boxing: false,
  compare: false,
  framed: 0,
  board: false,
  tool: null,
  picks: [],
  handled: null,
};

/** A structure and a result of the same model; the last such pair while one of them is behind. */
function useMatching(structure: Structure | undefined, result: Result | undefined) {
  const same = structure && result && structure.model_key === result.model_key;
  const grown = useMemo(() => (same ? grow(structure, result) : structure), [same, structure, result]);
  const fresh = useMemo(() => ({ structure: grown, result }), [grown, result]);
  const [kept, keep] = useState<{ structure?: Structure; result?: Result }>({});
  if (!structure || !result) return fresh;
  if (structure.model_key !== result.model_key) return kept.result ? kept : { structure, result: undefined };
  if (kept.structure !== grown || kept.result !== result) keep(fresh);
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
    refetchInterval: (query) => (query.state.status === "error" ? 3000 : false),
  });
  const { problem, forget, decide, act, take, fit, change, pending } = useDecide(jobId);
  const [view, keepView] = useState<View>(START);
  const [wide, setWide] = useState(false);
  const [place, setPlace] = useState<HTMLElement | null>(null);
  // Node and part numbers of the two belong together; while a source comes in, the old pair stays.
  const pair = useMatching(structure.data, result.data);
  const refs = job.data?.decisions.sort.locked;
  const locked = useMemo(() => {
    const names = new Set(refs);
    return new Set(pair.structure?.parts.flatMap((part, index) => (names.has(part.ref) ? [index] : [])));
  }, [refs, pair.structure]);
  const choosing = useRef({ structure: pair.structure, locked });
  useEffect(() => {
    choosing.current = { structure: pair.structure, locked };
  }, [pair.structure, locked]);
  const setView = useCallback<Bench["setView"]>(
    (change) =>
      keepView((now) => {
        const { structure, locked } = choosing.current;
        return changed(now, typeof change === "function" ? change(now) : change, structure, locked);
      }),
    [],
  );
  const ship = useCallback(
    () =>
      change(async () => {
        const params = { path: { job_id: jobId } };
        need(await api.POST("/api/jobs/{job_id}/deliveries", { params }));
        return needJob(await api.GET("/api/jobs/{job_id}", { params }));
      }),
    [jobId, change],
  );
  useEffect(() => {
    if (job.data) document.title = `${job.data.name} · Hemp Ladder`;
    return () => {
      document.title = "Hemp Ladder";
    };
  }, [job.data]);
  const readable = job.data?.state === "ready";
  useKeptHidden(jobId, pair.structure, view.hidden, view.hiddenPlaces, setView);
  // After a revision parts have other numbers: what is chosen and hidden stays what it is called.
  const known = useRef(pair.structure);
  useEffect(() => {
    const [before, now] = [known.current, pair.structure];
    known.current = now;
    if (!before || !now || before === now) return;
    if (before.model_key === now.model_key && before.parts.length <= now.parts.length) return;
    setView((view) => ({
      chosen: renumbered(view.chosen, before, now),
      hidden: renumbered(view.hidden, before, now),
      hiddenPlaces: new Set(),
      node: null,
    }));
  }, [pair.structure, setView]);
  const bench = useMemo<Bench | null>(
    () =>
      job.data && library.data
        ? {
            job: job.data,
            structure: pair.structure,
            result: pair.result,
            library: library.data,
            decisions: job.data.decisions,
            locked,
            decide,
            act,
            take,
            fit,
            change,
            ship,
            pending,
            connected: job.connected,
            // Before the source is read there is only Receive to look at.
            view: readable ? view : { ...view, open: "Receive" },
            setView,
          }
        : null,
    [
      job.data,
      job.connected,
      pair,
      library.data,
      decide,
      act,
      take,
      fit,
      change,
      ship,
      pending,
      view,
      setView,
      readable,
      locked,
    ],
  );

  if (job.isError && !job.data)
    return (
      <main className="grid h-full place-content-center gap-2 text-center">
        <h1 className="font-name text-[20px] font-semibold">This job cannot be shown</h1>
        <p role="alert" className="text-ink-soft">
          {job.error.message} {job.error instanceof Problem && job.error.remedy}
        </p>
        <Link href="/" className="underline">
          To the list of jobs
        </Link>
      </main>
    );
  if (library.isError)
    return (
      <main role="alert" className="grid h-full place-content-center gap-2 text-center">
        <p>The server does not answer. This goes on by itself as soon as it does.</p>
        <button type="button" className="underline" onClick={() => void library.refetch()}>
          Ask again now
        </button>
      </main>
    );
  if (!bench) return <main className="grid h-full place-content-center text-ink-soft">Opening the job…</main>;
  return (
    <BenchContext value={bench}>
      <DropAnywhere
        className={`grid h-full min-h-0 ${wide ? "grid-cols-[0_1fr]" : "grid-cols-[348px_1fr]"} grid-rows-[52px_1fr]`}
      >
        <Strip />
        <BoardPlace value={place}>
          <Boundary name="The ladder">
            <Ladder away={wide} />
          </Boundary>
        </BoardPlace>
        <main ref={setPlace} className="relative min-h-0 min-w-0 border-l border-line">
          <div
            inert={view.board === true}
            className={`grid h-full grid-rows-[minmax(0,1fr)_auto] ${view.board === "beside" ? STRIP : ""}`}
          >
            <Boundary name="The stage" of={pair.result?.model_key}>
              <Stage wide={wide} onWide={() => setWide((now) => !now)} />
            </Boundary>
            {!wide && view.board !== "beside" && (
              <Boundary name="The ledger" of={pair.result?.model_key}>
                <Ledger />
              </Boundary>
            )}
          </div>
        </main>
      </DropAnywhere>
      <Shortcuts />
      <ThingsMenu place={place} />
      <Notice text={problem ? [problem.message, problem.remedy].filter(Boolean).join(" ") : null} onClose={forget} />
    </BenchContext>
  );
}
