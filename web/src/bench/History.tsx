import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";

import { api, need, needJob, type Views } from "../api/client";
import { Button } from "../ui/controls";
import { moment } from "../ui/format";
import { useBench } from "./bench";
import { KeepRun, Runs } from "./Runs";
import { Sheet } from "./Sheet";

type Line = Views["HistoryLine"];

/** Everything that was decided and received; any of it can be gone back to. */
export function History() {
  const { job } = useBench();
  const [open, setOpen] = useState(false);
  const [ticked, setTicked] = useState<ReadonlySet<number> | null>(null);
  const lines = useQuery({
    enabled: open,
    queryKey: ["history", job.id, job.decisions_id, job.sources.map((source) => source.revision)],
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/history", { params: { path: { job_id: job.id } } })),
  });
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button>History</Button>
      </Dialog.Trigger>
      <Sheet
        title="History"
        description="Newest first. What was undone stays and can be gone back to."
        className="top-16 right-4 w-[460px]"
      >
        {lines.isError && (
          <p role="alert" className="py-2 text-signal">
            The history did not arrive: {lines.error.message}{" "}
            <Button quiet onClick={() => void lines.refetch()}>
              Ask again
            </Button>
          </p>
        )}
        <Runs />
        {ticked ? (
          <KeepRun ticked={[...ticked]} onDone={() => setTicked(null)} />
        ) : (
          <Button disabled={!lines.data} className="mb-2" onClick={() => setTicked(new Set())}>
            Keep a run of decisions…
          </Button>
        )}
        {lines.isPending && <p className="py-2 text-ink-soft">Looking it up…</p>}
        <ol>
          {lines.data?.map((line) => (
            <Entry
              key={`${line.kind} ${line.id}`}
              line={line}
              ticked={ticked?.has(line.id)}
              onTick={
                ticked && line.kind === "decision" && line.standing
                  ? () =>
                      setTicked((now) => {
                        const next = new Set(now);
                        if (!next.delete(line.id)) next.add(line.id);
                        return next;
                      })
                  : undefined
              }
            />
          ))}
        </ol>
      </Sheet>
    </Dialog.Root>
  );
}

function Entry({ line, ticked, onTick }: { line: Line; ticked?: boolean; onTick?: () => void }) {
  const { job, change } = useBench();
  const goBack = () =>
    change(async () => {
      const to =
        line.kind === "decision"
          ? api.POST("/api/jobs/{job_id}/history/decisions/{decisions_id}", {
              params: { path: { job_id: job.id, decisions_id: line.id } },
            })
          : api.POST("/api/jobs/{job_id}/history/sources/{revision_id}", {
              params: { path: { job_id: job.id, revision_id: line.id } },
            });
      return needJob(await to);
    });
  const decision = line.kind === "decision";
  return (
    <li
      aria-current={decision && line.now ? "step" : undefined}
      className={`grid grid-cols-[52px_minmax(0,1fr)_auto] items-start gap-x-3 border-t border-cloth-deep py-1.5 ${line.standing ? "" : "text-ink-soft"}`}
    >
      <time dateTime={line.created} className="text-[12px] text-ink-soft">
        {moment(line.created)}
      </time>
      <div className="min-w-0">
        <span className={`break-words ${line.now && decision ? "font-semibold" : ""}`}>{line.label}</span>
        {!line.standing && <span className="text-[12px]"> · {decision ? "undone" : "replaced"}</span>}
        {line.changes.map((one) => (
          <p key={one} className="text-[12.5px] break-words text-ink-soft">
            {one}
          </p>
        ))}
      </div>
      {onTick ? (
        <input
          type="checkbox"
          aria-label={`In the run: ${line.label}`}
          checked={ticked ?? false}
          onChange={onTick}
          className="mt-1 size-4 accent-sea"
        />
      ) : line.now ? (
        <span className="text-[12px] whitespace-nowrap text-ink-soft">{decision ? "in force" : "newest"}</span>
      ) : (
        <Button
          quiet
          className="!px-0 !py-0 text-[12.5px]"
          aria-label={`${decision ? "Go back to this" : "Use again"}: ${line.label}`}
          onClick={goBack}
        >
          {decision ? "Go back to this" : "Use again"}
        </Button>
      )}
    </li>
  );
}
