import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, need, needJob, type Views } from "../../../api/client";
import { Pictures } from "../../../stage/beside/Pictures";
import { Board } from "../../../bench/Board";
import { useBench } from "../../../bench/bench";
import { Button, Select } from "../../../ui/controls";
import { bytes, count, metric, pixels, plural } from "../../../ui/format";
import { percent } from "../operations/reduce";
import { Facets } from "./Facets";

type Goal = Views["GoalIn"];
type Grade = Views["GradeView"];

/** Milliseconds until grades that are being made are asked for again. */
const AGAIN = 250;
const MOST = 4;
const OFFERED: Goal[] = [
  ...[0.5, 0.25, 0.1, 0.05, 0.02].map((value) => ({ by: "share" as const, value })),
  ...[0.0001, 0.0005, 0.001, 0.005].map((value) => ({ by: "error" as const, value })),
];
const said = (goal: Goal | null | undefined) =>
  !goal
    ? "full"
    : goal.by === "share"
      ? percent(goal.value)
      : goal.by === "error"
        ? `within ${metric(goal.value)}`
        : "";
const nameOf = (goal: Goal) => `${goal.by} ${goal.value}`;

/** Two to four grades of some parts beside each other, from one camera; nothing is decided before one is used. */
export function GradesBoard({ parts, onClose }: { parts: number[]; onClose: () => void }) {
  const { job, structure, result, change } = useBench();
  const [goals, setGoals] = useState<Goal[]>(OFFERED.slice(0, 3));
  const [shown, setShown] = useState<number | null>(null);
  const asked = useQuery({
    queryKey: ["grades", job.id, job.decisions_id, result?.model_key, parts, goals],
    queryFn: async () =>
      need(
        await api.POST("/api/jobs/{job_id}/trim/grades", {
          params: { path: { job_id: job.id } },
          body: { parts, goals },
        }),
      ),
    placeholderData: (before) => before,
    refetchInterval: (query) => (query.state.data?.grades.every(({ ready }) => ready) ? false : AGAIN),
  });
  const grades = useMemo(() => asked.data?.grades ?? [], [asked.data]);
  const pictures = useMemo(
    () =>
      grades.map(({ parts, goal, ready, triangles, deviation }) => ({
        parts,
        label: said(goal),
        note: ready ? `${count(triangles)} triangles${goal ? `, off by ${metric(deviation)}` : ""}` : "being made…",
      })),
    [grades],
  );
  const labels = (part: number | null | undefined) => (part == null ? "" : (structure?.parts[part]?.label ?? ""));
  const name = parts.length === 1 ? labels(parts[0]) : plural(parts.length, "part");
  const use = (goal: Goal, hold: boolean) =>
    change(async () =>
      needJob(
        await api.POST("/api/jobs/{job_id}/trim/reduce", {
          params: { path: { job_id: job.id } },
          body: { parts, everything: false, goal, hold: hold ? job.decisions.trim.lost : null, borders: false },
        }),
      ),
    );
  const full = grades[0];
  return (
    <Board
      title="Grades"
      description={`${name} at several grades, from one camera. Nothing is decided until one is used.`}
      onClose={onClose}
    >
      <div className="min-h-0 overflow-auto border-r border-line px-4 py-3 text-[13px]">
        {asked.isError && (
          <p role="alert" className="text-signal">
            {asked.error.message}
          </p>
        )}
        <table className="w-full border-collapse tabular-nums">
          <thead>
            <tr className="border-b border-line text-[12px] text-ink-soft">
              <th className="py-1 text-left font-medium">Grade</th>
              <th className="text-right font-medium">Triangles</th>
              <th className="text-right font-medium">Size</th>
              <th className="text-right font-medium">Deviation</th>
              <th>
                <span className="sr-only">What to do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {grades.map((grade, at) => (
              <Row
                key={at}
                grade={grade}
                full={full!}
                worst={labels(grade.worst)}
                several={parts.length > 1}
                isShown={shown === at}
                onShow={() => setShown(shown === at ? null : at)}
                onUse={(hold) => {
                  use(grade.goal!, hold);
                  onClose();
                }}
                onDrop={goals.length > 1 ? () => setGoals((now) => now.filter((_, k) => k !== at - 1)) : undefined}
              />
            ))}
          </tbody>
        </table>
        {goals.length < MOST && (
          <div className="grid grid-cols-[auto_180px] items-center justify-start gap-2 pt-2">
            <span className="text-ink-soft">Compare with</span>
            <Select
              label="Another grade"
              value=""
              empty="Add a grade…"
              options={OFFERED.filter((goal) => !goals.some((one) => nameOf(one) === nameOf(goal))).map((goal) => ({
                value: nameOf(goal),
                label: said(goal),
              }))}
              onChange={(next) => setGoals((now) => [...now, OFFERED.find((goal) => nameOf(goal) === next)!])}
            />
          </div>
        )}
        {shown !== null && grades[shown] && <Parts grade={grades[shown]} full={full!} label={labels} />}
        {parts.length === 1 && full?.ready && <Facets part={parts[0]!} grades={grades} onUsed={onClose} />}
      </div>
      {structure && result && <Pictures pictures={pictures} />}
    </Board>
  );
}

function Row({
  grade,
  full,
  worst,
  several,
  isShown,
  onShow,
  onUse,
  onDrop,
}: {
  grade: Grade;
  full: Grade;
  worst: string;
  several: boolean;
  isShown: boolean;
  onShow: () => void;
  onUse: (hold: boolean) => void;
  onDrop?: () => void;
}) {
  const lost = grade.parts.filter((part) => part.lost?.length).length;
  const name = said(grade.goal);
  return (
    <>
      <tr className="align-baseline">
        <th scope="row" className="py-1.5 text-left font-semibold whitespace-nowrap">
          {name}
        </th>
        <td className="text-right">
          {grade.ready ? count(grade.triangles) : "…"}
          {grade.ready && grade.goal && (
            <span className="block text-[12px] text-ink-soft">
              {percent(grade.triangles / Math.max(1, full.triangles))}
            </span>
          )}
        </td>
        <td className="text-right whitespace-nowrap">{grade.ready ? bytes(grade.bytes) : "…"}</td>
        <td className="text-right whitespace-nowrap">
          {!grade.goal ? "" : grade.ready ? metric(grade.deviation) : "…"}
          {grade.pixels != null && grade.goal && (
            <span className="block text-[12px] text-ink-soft">{pixels(grade.pixels)}</span>
          )}
        </td>
        <td className="w-[74px] pl-2 text-right">
          {grade.goal && (
            <Button main disabled={!grade.ready} aria-label={`Use ${name}`} onClick={() => onUse(false)}>
              Use
            </Button>
          )}
        </td>
      </tr>
      {grade.goal && (
        <tr className="border-b border-cloth-deep text-[12.5px]">
          <td colSpan={5} className="pb-1.5">
            <span className="flex flex-wrap items-baseline gap-x-3">
              {grade.ready && several && worst && <span className="text-ink-soft">worst: {worst}</span>}
              {lost > 0 && (
                <>
                  <span className="text-signal">
                    {several ? `${plural(lost, "part")} lost shape` : grade.parts[0]!.lost!.join(", ")}
                  </span>
                  <Button
                    quiet
                    className="!px-0 !py-0"
                    aria-label={`Use ${name}, shape held`}
                    onClick={() => onUse(true)}
                  >
                    Use as far as the shape holds
                  </Button>
                </>
              )}
              {several && (
                <Button
                  quiet
                  className="!px-0 !py-0"
                  aria-expanded={isShown}
                  aria-label={`Parts at ${name}`}
                  onClick={onShow}
                >
                  {isShown ? "Hide parts" : "Each part"}
                </Button>
              )}
              {onDrop && (
                <Button quiet className="!px-0 !py-0" aria-label={`Leave out ${name}`} onClick={onDrop}>
                  Leave out
                </Button>
              )}
              {!several && grade.parts[0]?.note && <span className="text-ink-soft">{grade.parts[0].note}</span>}
            </span>
          </td>
        </tr>
      )}
    </>
  );
}

/** Every part at a grade, the worst first. */
function Parts({ grade, full, label }: { grade: Grade; full: Grade; label: (part: number) => string }) {
  const rows = [...grade.parts].sort((one, two) => (two.deviation ?? 0) - (one.deviation ?? 0));
  const before = new Map(full.parts.map((part) => [part.part, part.triangles]));
  return (
    <section aria-label={`Parts at ${said(grade.goal)}`} className="pt-3">
      <p className="pb-1 font-semibold">Parts at {said(grade.goal)}</p>
      <ul className="grid grid-cols-[minmax(0,1fr)_auto_auto] gap-x-3 gap-y-0.5 tabular-nums">
        {rows.map((row) => (
          <li key={row.part} className="contents">
            <span className="truncate">
              {label(row.part)} {row.lost?.length ? <span className="text-signal">{row.lost.join(", ")}</span> : null}
              {row.note && <span className="text-ink-soft">{row.note}</span>}
            </span>
            <span className="text-right text-ink-soft">
              {count(before.get(row.part) ?? 0)} to {row.triangles == null ? "…" : count(row.triangles)}
            </span>
            <span className="text-right">{row.deviation == null ? "…" : metric(row.deviation)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
