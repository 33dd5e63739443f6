import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, need, needJob, type Source, type Views } from "../../api/client";
import { useBench } from "../../bench/bench";
import { Board } from "../../bench/Board";
import { Button } from "../../ui/controls";
import { box, bytes, count, plural } from "../../ui/format";
import { AddFiles } from "./AddFiles";

type Candidate = Views["CandidateView"];
type Column = "name" | "bytes" | "triangles" | "parts" | "materials" | "pixels" | "size" | "findings";

const COLUMNS: { by: Column; label: string; of: (row: Candidate) => number }[] = [
  { by: "bytes", label: "File", of: (row) => row.bytes },
  { by: "triangles", label: "Triangles", of: (row) => row.triangles ?? Infinity },
  { by: "parts", label: "Parts", of: (row) => row.parts },
  { by: "materials", label: "Materials", of: (row) => row.materials },
  { by: "pixels", label: "Textures", of: (row) => row.pixels },
  { by: "size", label: "Size", of: (row) => Math.max(0, ...row.size) },
  { by: "findings", label: "Findings", of: (row) => row.errors * 1e6 + row.warnings * 1e3 + row.notes },
];

/** Several files for the same thing, side by side; one of them is the source, the others stay with the job. */
export function CandidatesBoard({ source, onClose }: { source: Source; onClose: () => void }) {
  const { job, change } = useBench();
  const [by, setBy] = useState<{ column: Column; down: boolean } | null>(null);
  const path = { job_id: job.id, ref: source.ref };
  const rows = useQuery({
    queryKey: ["candidates", job.id, source.ref, job.stamp, source.revision],
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/sources/{ref}/candidates", { params: { path } })),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) =>
      state.data?.some((row) => row.state === "waiting" || row.state === "reading") ? 1000 : false,
  });
  const sorted = [...(rows.data ?? [])];
  const column = COLUMNS.find((item) => item.by === by?.column);
  if (column) sorted.sort((a, b) => (by!.down ? -1 : 1) * (column.of(a) - column.of(b)));
  return (
    <Board
      title="Candidates"
      description={`Files for ${source.name}, from one camera. One is the source; the others stay with the job until they are dropped.`}
      onClose={onClose}
    >
      <div className="col-span-2 grid min-h-0 grid-rows-[auto_minmax(0,1fr)]">
        <div className="flex items-center gap-3 px-4 py-2.5 text-[13px]">
          <AddFiles
            label="Add candidates…"
            hint="Files to compare, each a candidate of its own"
            onSent={(files) =>
              change(async () => {
                const job = needJob(
                  await api.POST("/api/jobs/{job_id}/sources/{ref}/candidates", { params: { path }, body: { files } }),
                );
                void rows.refetch();
                return job;
              })
            }
          />
          <span className="text-ink-soft">A model with its maps goes in as one ZIP.</span>
          {rows.isError && (
            <span role="alert" className="text-signal">
              They did not arrive: {rows.error.message}
            </span>
          )}
        </div>
        <div className="min-h-0 overflow-auto px-4 pb-4">
          <table className="w-full border-collapse text-[13px]">
            <thead className="sticky top-0 z-10 bg-paper">
              <tr className="border-b border-line text-[12px] text-ink-soft">
                <th className="py-1 text-left font-medium">Candidate</th>
                {COLUMNS.map(({ by: name, label }) => {
                  const on = by?.column === name;
                  return (
                    <th
                      key={name}
                      aria-sort={on ? (by.down ? "descending" : "ascending") : "none"}
                      className="text-right font-medium"
                    >
                      <button
                        type="button"
                        className={`px-1.5 py-1 hover:text-ink ${on ? "font-semibold text-ink" : ""}`}
                        onClick={() => setBy({ column: name, down: on ? !by.down : false })}
                      >
                        {label} {on ? (by.down ? "↓" : "↑") : ""}
                      </button>
                    </th>
                  );
                })}
                <th className="w-28">
                  <span className="sr-only">What to do</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {sorted.map((row) => (
                <Row key={row.number} row={row} path={path} onDone={() => void rows.refetch()} />
              ))}
            </tbody>
          </table>
          {rows.data?.length === 1 && (
            <p className="py-3 text-ink-soft">Nothing to compare yet: add other files for the same thing.</p>
          )}
        </div>
      </div>
    </Board>
  );
}

function Row({ row, path, onDone }: { row: Candidate; path: { job_id: number; ref: string }; onDone: () => void }) {
  const { change } = useBench();
  const ready = row.state === "ready";
  const now = row.number === 0;
  return (
    <tr className={`border-b border-cloth-deep align-middle ${now ? "bg-sea-pale" : ""}`}>
      <td className="py-2">
        <div className="flex items-center gap-3">
          <Glance row={row} />
          <div className="min-w-0">
            <p className="font-semibold break-words">{row.name}</p>
            <p className="text-[12.5px] text-ink-soft">{ready ? row.format : says(row.state)}</p>
            {row.remark && <p className="text-[12.5px] text-signal">{row.remark}</p>}
          </div>
        </div>
      </td>
      <td className="px-1.5 text-right whitespace-nowrap">{bytes(row.bytes)}</td>
      {ready ? (
        <>
          <td className="px-1.5 text-right">{row.triangles === null ? "exact" : count(row.triangles!)}</td>
          <td className="px-1.5 text-right">{count(row.parts)}</td>
          <td className="px-1.5 text-right">{count(row.materials)}</td>
          <td className="px-1.5 text-right whitespace-nowrap">
            {row.textures ? count(row.textures) : "none"}
            {row.largest && <span className="block text-[12px] text-ink-soft">to {row.largest} px</span>}
          </td>
          <td className="px-1.5 text-right whitespace-nowrap">{box(row.size)}</td>
          <td className="px-1.5 text-right whitespace-nowrap">
            {row.errors > 0 && <b className="block text-signal">{plural(row.errors, "error")}</b>}
            {row.warnings > 0 && <span className="block text-signal">{plural(row.warnings, "warning")}</span>}
            <span className="text-ink-soft">{plural(row.notes, "note")}</span>
          </td>
        </>
      ) : (
        <td colSpan={6} />
      )}
      <td className="pl-2 text-right">
        {now ? (
          <span className="font-semibold text-sea">the source</span>
        ) : (
          <span className="grid justify-items-end gap-1">
            <Button
              disabled={!ready}
              aria-label={`Use this one: ${row.name}`}
              onClick={() =>
                change(async () => {
                  const job = needJob(
                    await api.POST("/api/jobs/{job_id}/sources/{ref}/candidates/{number}/use", {
                      params: { path: { ...path, number: row.number } },
                    }),
                  );
                  onDone();
                  return job;
                })
              }
            >
              Use this one
            </Button>
            <Button
              quiet
              className="!px-0 !py-0 text-[12.5px]"
              aria-label={`Drop it: ${row.name}`}
              onClick={() =>
                change(async () => {
                  const job = needJob(
                    await api.DELETE("/api/jobs/{job_id}/candidates/{number}", {
                      params: { path: { job_id: path.job_id, number: row.number } },
                    }),
                  );
                  onDone();
                  return job;
                })
              }
            >
              Drop it
            </Button>
          </span>
        )}
      </td>
    </tr>
  );
}

const says = (state: string) =>
  ({ waiting: "waiting to be read", reading: "reading…", refused: "could not be read", cancelled: "stopped" })[state] ??
  state;

/** The file as a small picture, where it has triangles. */
function Glance({ row }: { row: Candidate }) {
  const [none, setNone] = useState(false);
  return (
    <span className="stage-ground grid h-[88px] w-[132px] shrink-0 place-items-center rounded border border-line text-center text-[12px] text-ink-soft">
      {row.model_key && row.state === "ready" && row.triangles !== null && !none ? (
        <img
          src={`/api/glances/${row.model_key}?up=${encodeURIComponent(row.up)}`}
          alt={`${row.name}, from the front right`}
          className="size-full object-contain"
          onError={() => setNone(true)}
        />
      ) : row.state === "ready" ? (
        "meshed when used"
      ) : (
        ""
      )}
    </span>
  );
}
