import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useRef, useState } from "react";

import { api, type JobLine, need, needJob, Problem, uploadAll } from "../api/client";
import { droppedFiles } from "../api/dropped";
import { go, Link } from "../ui/address";
import { Button, Progress } from "../ui/controls";
import { bytes, count } from "../ui/format";
import { Mark } from "../ui/Mark";

/** All jobs, and the place to drop files for a new one. */
export function JobsPage() {
  const queries = useQueryClient();
  const jobs = useQuery({
    queryKey: ["jobs"],
    queryFn: async () => need(await api.GET("/api/jobs")),
    refetchInterval: (query) => (query.state.data?.some((job) => isBusy(job)) ? 1000 : 15_000),
  });
  const [wrong, setWrong] = useState("");
  const remove = async (job: JobLine) => {
    if (!confirm(`Remove the job “${job.name}” with its decisions and deliveries?`)) return;
    const answer = await api.DELETE("/api/jobs/{job_id}", { params: { path: { job_id: job.id } } }).catch(() => null);
    setWrong(answer?.response.ok ? "" : `“${job.name}” could not be removed. The server did not answer; try again.`);
    await queries.invalidateQueries({ queryKey: ["jobs"] });
  };
  return (
    <div className="mx-auto flex min-h-full max-w-[1080px] flex-col px-8 py-6">
      {wrong && (
        <p role="alert" className="mb-3 rounded border border-signal bg-signal-pale px-3 py-1.5">
          {wrong}
        </p>
      )}
      <header className="flex items-center gap-3 pb-5">
        <Mark />
        <h1 className="font-name text-[22px] font-semibold">Hemp Ladder</h1>
        <span className="text-ink-soft">from drawing office to render, rung by rung</span>
        <a href="/api/docs" className="ml-auto text-[13px] text-ink-soft underline decoration-line underline-offset-4">
          HTTP interface
        </a>
      </header>
      <main>
        <DropPlace />
        <h2 className="font-name pt-8 pb-2 text-[17px] font-semibold">Jobs</h2>
        {jobs.isPending && <p className="text-ink-soft">Looking for jobs…</p>}
        {jobs.isError && (
          <p role="alert" className="text-signal">
            The jobs cannot be shown: {jobs.error.message}
          </p>
        )}
        {jobs.data?.length === 0 && (
          <p className="text-ink-soft">There are none yet. Drop a file above and the first one begins.</p>
        )}
        {!!jobs.data?.length && (
          <table className="w-full border-collapse text-[14px]">
            <thead>
              <tr className="border-b border-line text-left text-[12px] text-ink-soft">
                {["Job", "Sources", "Size", "Parts", "Placements", "Begun", "Last delivery", ""].map((name, column) => (
                  <th
                    key={name || "act"}
                    className={`py-1.5 pr-4 font-medium ${[2, 3, 4].includes(column) ? "text-right" : ""}`}
                  >
                    {name || <span className="sr-only">Actions</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {jobs.data.map((job) => (
                <tr key={job.id} className="border-b border-cloth-deep hover:bg-paper">
                  <td className="py-2 pr-4">
                    <Link href={`/jobs/${job.id}`} className="font-name text-[15px] font-semibold hover:underline">
                      {job.name}
                    </Link>
                  </td>
                  <td className="max-w-[220px] truncate pr-4 text-ink-soft" title={job.files.join(", ")}>
                    {job.files[0]}
                    {job.files.length > 1 && ` and ${job.files.length - 1} more`}
                  </td>
                  <td className="pr-4 text-right">{bytes(job.bytes)}</td>
                  <td className="pr-4 text-right">{job.parts === null ? "–" : count(job.parts)}</td>
                  <td className="pr-4 text-right">{job.placements === null ? "–" : count(job.placements)}</td>
                  <td className="pr-4 text-ink-soft">
                    {new Date(job.created).toLocaleDateString("en-GB", { day: "numeric", month: "short" })}
                  </td>
                  <td className="pr-4">
                    <Standing job={job} />
                  </td>
                  <td className="text-right">
                    <Button quiet aria-label={`Remove ${job.name}`} onClick={() => void remove(job)}>
                      Remove
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </main>
    </div>
  );
}

const isBusy = (job: JobLine) => ["waiting", "reading"].includes(job.state) || job.shipped === "busy";

function Standing({ job }: { job: JobLine }) {
  if (job.state === "refused") return <span className="font-semibold text-signal">source refused</span>;
  if (job.state === "cancelled") return <span className="text-ink-soft">stopped</span>;
  if (job.state !== "ready") return <span className="text-ink-soft">reading…</span>;
  if (job.shipped === "ok") return <span className="font-semibold text-sea">receipt in order</span>;
  if (job.shipped === "failed") return <span className="font-semibold text-signal">receipt failed</span>;
  return <span className="text-ink-soft">{job.shipped === "busy" ? "being written…" : "not shipped yet"}</span>;
}

function DropPlace() {
  const input = useRef<HTMLInputElement>(null);
  const stop = useRef<AbortController | null>(null);
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<{ name: string; share: number } | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);

  const take = async (list: FileList | File[] | null) => {
    const files = [...(list ?? [])];
    if (!files.length || sending) return;
    setProblem(null);
    stop.current = new AbortController();
    try {
      const sent = await uploadAll(files, (name, share) => setSending({ name, share }), stop.current.signal);
      const name = files[0]!.name.replace(/\.[^.]+$/, "").replace(/[_-]+/g, " ");
      const job = needJob(await api.POST("/api/jobs", { body: { name: name || "Untitled", files: sent } }));
      go(`/jobs/${job.id}`);
    } catch (error) {
      setProblem(error instanceof Problem ? error : new Problem("The upload failed.", "Try again."));
    } finally {
      setSending(null);
    }
  };

  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void droppedFiles(event.dataTransfer).then(take);
  };

  return (
    <section
      aria-label="New job"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
      className={`flex items-center gap-6 rounded-lg border-2 border-dashed px-7 py-7 ${over ? "border-sea bg-sea-pale" : "border-line bg-paper"}`}
    >
      <div className="min-w-0 flex-1">
        <p className="font-name text-[18px] font-semibold">
          {sending ? `Taking in ${sending.name}` : "Drop models, buildings, drawings and vector art here"}
        </p>
        {sending ? (
          <div className="pt-2">
            <Progress share={sending.share} label="Upload" />
          </div>
        ) : (
          <p className="text-ink-soft">
            STEP, IFC, IGES, BREP, DXF or SVG. Several at once, or a ZIP of them, make one job; files of one assembly
            find each other. What comes in is kept byte for byte.
          </p>
        )}
        {problem && (
          <p role="alert" className="pt-1 text-signal">
            {problem.message} {problem.remedy}
          </p>
        )}
      </div>
      <input
        ref={input}
        type="file"
        multiple
        className="sr-only"
        aria-label="Files for a new job"
        tabIndex={-1}
        onChange={(event) => void take(event.target.files)}
      />
      {sending ? (
        <Button onClick={() => stop.current?.abort()}>Stop</Button>
      ) : (
        <Button main className="px-4 py-2" onClick={() => input.current?.click()}>
          Choose files…
        </Button>
      )}
    </section>
  );
}
