import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, type JobLine, need } from "../api/client";
import { Button, Select } from "../ui/controls";
import { Mark } from "../ui/Mark";
import { Title } from "../ui/Title";
import { DropPlace } from "./jobs/DropPlace";
import { JobRow } from "./jobs/JobRow";
import { isBusy, ORDERS, type Order, sorted } from "./jobs/order";

/** All jobs, and the place to drop files for a new one. */
export function JobsPage() {
  const queries = useQueryClient();
  const jobs = useInfiniteQuery({
    queryKey: ["jobs"],
    queryFn: async ({ pageParam }) =>
      need(await api.GET("/api/jobs", { params: { query: { before: pageParam, limit: PAGE } } })),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (page) => (page.length === PAGE ? page.at(-1)!.id : undefined),
    refetchInterval: (query) => (query.state.data?.pages.some((page) => page.some(isBusy)) ? 1000 : 15_000),
  });
  const [wrong, setWrong] = useState("");
  const [text, setText] = useState("");
  const [order, setOrder] = useState<Order>(() => {
    const kept = localStorage.getItem("order of jobs");
    return ORDERS.find((item) => item.value === kept)?.value ?? "newest";
  });
  const all = useMemo(() => jobs.data?.pages.flat() ?? [], [jobs.data]);
  const shown = useMemo(() => sorted(all, text, order), [all, text, order]);
  const told = async (work: Promise<{ response: Response }>, failed: string) => {
    const answer = await work.catch(() => null);
    setWrong(answer?.response.ok ? "" : `${failed} The server did not answer; try again.`);
    await queries.invalidateQueries({ queryKey: ["jobs"] });
  };
  const remove = (job: JobLine) =>
    told(
      api.DELETE("/api/jobs/{job_id}", { params: { path: { job_id: job.id } } }),
      `“${job.name}” could not be removed.`,
    );
  const rename = (job: JobLine, name: string) =>
    told(
      api.PATCH("/api/jobs/{job_id}", { params: { path: { job_id: job.id } }, body: { name } }),
      `“${job.name}” could not be renamed.`,
    );
  return (
    <div className="mx-auto flex min-h-full max-w-[1080px] flex-col px-8 py-6">
      <header className="flex items-center gap-3 pb-5">
        <Mark />
        <Title className="text-[22px]">Hemp Ladder</Title>
        <span className="text-ink-soft">from drawing office to render, rung by rung</span>
        <a href="/api/docs" className="ml-auto text-[13px] text-ink-soft underline decoration-line underline-offset-4">
          HTTP interface
        </a>
      </header>
      <main>
        <DropPlace />
        <div className="flex items-center gap-3 pt-7 pb-2">
          <h2 className="font-name text-[17px] font-semibold">Jobs</h2>
          {all.length > 1 && (
            <>
              <input
                aria-label="Find a job by name or file"
                placeholder="Find a name or a file…"
                value={text}
                onChange={(event) => setText(event.target.value)}
                className="ml-auto w-60 rounded-md border border-field bg-white px-2.5 py-1 text-[13px] placeholder:text-ink-soft"
              />
              <Select
                label="Order of the jobs"
                value={order}
                options={ORDERS}
                className="w-40"
                onChange={(next) => {
                  setOrder(next as Order);
                  localStorage.setItem("order of jobs", next);
                }}
              />
            </>
          )}
        </div>
        {wrong && (
          <p role="alert" className="mb-3 rounded border border-signal bg-signal-pale px-3 py-1.5">
            {wrong}
          </p>
        )}
        {jobs.isPending && <p className="text-ink-soft">Looking for jobs…</p>}
        {jobs.isError && (
          <p role="alert" className="text-signal">
            The jobs cannot be shown: {jobs.error.message}{" "}
            <Button quiet onClick={() => void jobs.refetch()}>
              Ask again
            </Button>
          </p>
        )}
        {jobs.data && !all.length && (
          <p className="text-ink-soft">There are none yet. Drop a file above and the first one begins.</p>
        )}
        <p role="status" className={text ? "pb-1 text-[13px] text-ink-soft" : "sr-only"}>
          {text &&
            (shown.length ? `${shown.length} of ${all.length} jobs` : `No job has “${text}” in its name or files.`)}
        </p>
        <ul aria-label="Jobs">
          {shown.map((job) => (
            <JobRow
              key={job.id}
              job={job}
              onRename={(name) => void rename(job, name)}
              onRemove={() => void remove(job)}
            />
          ))}
        </ul>
        {jobs.hasNextPage && (
          <Button className="mt-4" disabled={jobs.isFetchingNextPage} onClick={() => void jobs.fetchNextPage()}>
            Older jobs
          </Button>
        )}
      </main>
    </div>
  );
}

/** Jobs that are asked for at once. */
const PAGE = 100;
