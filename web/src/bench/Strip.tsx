import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";

import { api, need } from "../api/client";
import { goTo, useBench } from "./bench";
import { Link } from "../ui/address";
import { Button, Progress } from "../ui/controls";
import { box, boxImperial, count, plural } from "../ui/format";
import { Mark } from "../ui/Mark";

/** The top of the bench: the job, its size, what it weighs, what is open, and the way back and on. */
export function Strip() {
  const bench = useBench();
  const { job, result } = bench;
  const working = job.climb.state === "working";
  const loose = result?.loose_parts.length ?? 0;
  return (
    <header className="col-span-2 flex items-center gap-5 border-b border-line px-4">
      <Link href="/" aria-label="All jobs" className="flex items-center rounded">
        <Mark />
      </Link>
      <h1 className="font-name max-w-[240px] truncate text-[17px] font-semibold" title={job.name}>
        {job.name}
      </h1>
      {result && (
        <>
          <div className="leading-[1.15]">
            <b className="block text-[15px] font-semibold">{box(result.size)}</b>
            <span className="text-[12px] text-ink-soft">{boxImperial(result.size)}</span>
          </div>
          <div className="w-[150px] leading-[1.15]" aria-live="polite">
            <b className="text-[15px] font-semibold">{count(result.triangles)}</b>{" "}
            <span className="text-[12px] text-ink-soft">triangles</span>
            {working ? (
              <div className="pt-1">
                <Progress share={job.climb.done / Math.max(1, job.climb.total)} label="Meshing" />
              </div>
            ) : (
              <span className="block text-[12px] text-ink-soft">
                {result.triangles_before === null
                  ? `${count(result.vertices)} vertices`
                  : `${count(result.triangles_before)} before`}
              </span>
            )}
          </div>
          <button
            type="button"
            disabled={!loose}
            onClick={() => {
              bench.setView({ open: "Sort", look: "colours" });
              goTo(bench, result.loose_parts);
            }}
            className="rounded text-left leading-[1.15]"
          >
            <b className={`block text-[15px] font-semibold ${loose ? "text-signal" : "text-sea"}`}>{count(loose)}</b>
            <span className="text-[12px] text-ink-soft">{loose === 1 ? "loose end" : "loose ends"}</span>
          </button>
        </>
      )}
      <div className="ml-auto flex items-center gap-2">
        {!bench.connected ? (
          <span role="alert" className="max-w-56 text-[12.5px] leading-tight text-signal">
            No connection. What you see may be old; it goes on by itself.
          </span>
        ) : (
          bench.pending > 0 && (
            <span role="status" className="text-[12.5px] text-ink-soft">
              deciding…
            </span>
          )
        )}
        {working && (
          <Button onClick={() => bench.act("cancel")}>
            Stop{" "}
            <span className="font-normal">{`${count(job.climb.done)} of ${plural(job.climb.total, "mesh", "meshes")}`}</span>
          </Button>
        )}
        {job.climb.state === "cancelled" && <Button onClick={() => bench.act("resume")}>Go on meshing</Button>}
        {job.climb.message && job.climb.state === "failed" && (
          <span role="alert" className="max-w-72 text-[12.5px] text-signal">
            {job.climb.message}
          </span>
        )}
        {(job.climb.failed > 0 || job.climb.state === "failed") && (
          <Button onClick={() => bench.act("resume")} title="Make again what could not be made">
            {job.climb.failed ? `${plural(job.climb.failed, "mesh", "meshes")} failed: try again` : "Try again"}
          </Button>
        )}
        <Button disabled={!job.can_undo} onClick={() => bench.act("undo")}>
          Undo
        </Button>
        <Button disabled={!job.can_redo} onClick={() => bench.act("redo")}>
          Redo
        </Button>
        <History />
        <Button main className="px-3 py-1.5" disabled={!result} onClick={() => bench.setView({ open: "Ship" })}>
          Ship…
        </Button>
      </div>
    </header>
  );
}

function History() {
  const { job } = useBench();
  const lines = useQuery({
    queryKey: ["history", job.id, job.decisions_id],
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/history", { params: { path: { job_id: job.id } } })),
  });
  return (
    <Dialog.Root>
      <Dialog.Trigger asChild>
        <Button>History</Button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content className="fixed top-16 right-4 z-50 max-h-[75vh] w-[380px] overflow-auto rounded-lg border border-line bg-paper p-5 shadow-xl">
          <Dialog.Title className="font-name text-[17px] font-semibold">History</Dialog.Title>
          <Dialog.Description className="pb-3 text-ink-soft">
            Every decision in force, newest first. Undo goes down this list.
          </Dialog.Description>
          <ol>
            {lines.data?.map((line) => (
              <li key={line.id} className="flex justify-between gap-4 border-t border-cloth-deep py-1.5">
                <span className={line.now ? "font-semibold" : ""}>{line.label}</span>
                <time className="shrink-0 text-ink-soft">
                  {new Date(line.created).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}
                </time>
              </li>
            ))}
          </ol>
          <Dialog.Close asChild>
            <Button className="mt-3">Close</Button>
          </Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
