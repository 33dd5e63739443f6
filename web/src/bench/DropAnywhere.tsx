import { type DragEvent, type ReactNode, useRef, useState } from "react";

import { api, needJob, Problem, uploadAll } from "../api/client";
import { droppedFiles } from "../api/dropped";
import { Button, Progress } from "../ui/controls";
import { useBench } from "./bench";

/** What lies on a place that carries a source's name is a new revision of that source; elsewhere, one more source. */
const REVISED = "data-takes-revision";

/** Takes files and folders that are dropped anywhere on the bench. */
export function DropAnywhere({ children, className }: { children: ReactNode; className: string }) {
  const { job, change } = useBench();
  const [over, setOver] = useState<string | null>(null);
  const [sending, setSending] = useState<{ name: string; share: number } | null>(null);
  const stop = useRef<AbortController | null>(null);
  const refAt = (event: DragEvent) => (event.target as Element).closest(`[${REVISED}]`)?.getAttribute(REVISED) ?? "";
  const drop = (event: DragEvent) => {
    // Text that is dragged into a field is none of ours.
    if (!event.dataTransfer.types.includes("Files")) return;
    event.preventDefault();
    setOver(null);
    const ref = refAt(event);
    const taken = droppedFiles(event.dataTransfer);
    change(async () => {
      stop.current = new AbortController();
      try {
        const files = await uploadAll(await taken, (name, share) => setSending({ name, share }), stop.current.signal);
        if (!files.length) throw new Problem("Nothing that was dropped is a file.", "Drop files or folders.");
        return needJob(
          ref
            ? await api.PUT("/api/jobs/{job_id}/sources/{ref}", {
                params: { path: { job_id: job.id, ref } },
                body: { files },
              })
            : await api.POST("/api/jobs/{job_id}/sources", { params: { path: { job_id: job.id } }, body: { files } }),
        );
      } finally {
        setSending(null);
      }
    });
  };
  const name = over && job.sources.find((source) => source.ref === over)?.name;
  return (
    <div
      className={className}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes("Files")) return;
        event.preventDefault();
        setOver(refAt(event));
      }}
      onDragLeave={(event) => event.currentTarget.contains(event.relatedTarget as Node | null) || setOver(null)}
      onDrop={drop}
    >
      {children}
      {(over !== null || sending) && (
        <div
          role="status"
          className="pointer-events-none fixed bottom-4 left-1/2 z-50 flex w-96 -translate-x-1/2 items-center gap-3 rounded-md border border-sea bg-sea-pale px-4 py-2 shadow-lg"
        >
          {sending ? (
            <>
              <span className="min-w-0 flex-1">
                <span className="block truncate">Taking in {sending.name}</span>
                <Progress share={sending.share} label="Upload" />
              </span>
              <Button className="pointer-events-auto" onClick={() => stop.current?.abort()}>
                Stop
              </Button>
            </>
          ) : name ? (
            `Drop it here: a new revision of ${name}.`
          ) : (
            "Drop it here: one more source. On a source at Receive it is a new revision of that."
          )}
        </div>
      )}
    </div>
  );
}
