import { useQuery } from "@tanstack/react-query";

import { api, type Views } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { soon } from "../../../bench/soon";
import { Button } from "../../../ui/controls";
import { count, metric } from "../../../ui/format";

/** Of an exact part: coarser facets with as many triangles as a grade has, held against it. */
export function Facets({ part, grades, onUsed }: { part: number; grades: Views["GradeView"][]; onUsed: () => void }) {
  const { result, structure } = useBench();
  const exact = (result?.parts[part]?.chord ?? 0) > 0;
  if (!exact || !structure) return null;
  const reduced = grades.filter(({ goal, ready }) => goal && ready);
  return (
    <section aria-label="Coarser facets instead" className="grid gap-1 pt-3">
      <p className="font-semibold">Coarser facets instead</p>
      <p className="text-[12.5px] text-ink-soft">
        {structure.parts[part]!.label} is exact: its true surface is known, and facets can be made anew at the same
        count. Both ways are measured against facets four times finer.
      </p>
      <ul className="grid gap-1">
        {reduced.map((grade, at) => (
          <Line key={at} part={part} wanted={grade.triangles / timesOf(grades[0]!)} onUsed={onUsed} />
        ))}
      </ul>
    </section>
  );
}

/** How often the part stands, from what the full grade says of it and of all. */
const timesOf = (full: Views["GradeView"]) => full.triangles / Math.max(1, full.parts[0]?.triangles ?? 1);

function Line({ part, wanted, onUsed }: { part: number; wanted: number; onUsed: () => void }) {
  const { job, take, result, structure } = useBench();
  const triangles = Math.max(4, Math.round(wanted));
  const made = result?.parts[part];
  const { data: found } = useQuery(
    soon<Views["FacetsView"]>(
      ["facets", job.id, part, made?.chord, made?.degrees, triangles, result?.sources],
      () =>
        api.GET("/api/jobs/{job_id}/parts/{part}/facets", {
          params: { path: { job_id: job.id, part }, query: { count: triangles } },
        }),
      true,
    ),
  );
  if (found && found.times == null) return null;
  if (!found) return <li className="text-[12.5px] text-ink-soft">Looking for {count(triangles)} triangles…</li>;
  const better = (found.reduced_off ?? 0) / Math.max(found.off ?? 0, 1e-12);
  const source =
    structure?.members.find((one) => part >= one.first_part && part < one.first_part + one.parts)?.ref ?? "";
  return (
    <li className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-2 border-t border-cloth-deep pt-1 text-[12.5px] tabular-nums">
      <span>
        {count(found.triangles ?? 0)} triangles, off by <b className="font-semibold">{metric(found.off ?? 0)}</b>;
        reduced to {count(found.reduced ?? 0)}, {metric(found.reduced_off ?? 0)}
        {better > 1.05 ? (
          <span className="text-sea"> ({Number(better.toPrecision(2))} times as far)</span>
        ) : (
          <span className="text-ink-soft"> (no farther)</span>
        )}
      </span>
      <Button
        aria-label={`Use facets of ${count(found.triangles ?? 0)} triangles`}
        onClick={() => {
          take(
            { source, parts: [part] },
            { label: "Coarser facets", does: "coarser", values: { times: found.times! } },
          );
          onUsed();
        }}
      >
        Use facets
      </Button>
    </li>
  );
}
