import { useState } from "react";

import { api, type Finding, need } from "../../api/client";
import { goTo, useBench } from "../../bench/bench";
import { Button } from "../../ui/controls";
import { plural } from "../../ui/format";

/** Findings that are about triangles and are put right here: what of the figures each counts, and what that is called. */
const HERE: Record<string, [kind: string, one: string, several?: string] | null> = {
  "not-done": null,
  "inside-out": null,
  "no-normals": ["missing", "missing normal"],
  "duplicate-triangles": ["duplicate", "double triangle"],
  "degenerate-triangles": ["degenerate", "triangle without area", "triangles without area"],
  "t-joints": ["t-joints", "T-joint"],
  "over-shared": ["over-shared", "over-shared edge"],
  "crossing-triangles": ["crossing", "crossing triangle"],
  holes: ["holes", "hole"],
  "against-winding": ["against", "edge wound against", "edges wound against"],
  "inward-shells": ["inward", "shell facing inward", "shells facing inward"],
  "bad-normals": ["normals", "bad normal"],
};

/** What is wrong with triangles, each with its remedy, and all safe remedies at once. */
export function Damage() {
  const bench = useBench();
  const { job, result, change } = bench;
  const [told, setTold] = useState<{ of: number; said: string[] } | null>(null);
  const found = (result?.findings ?? []).filter((item) => item.code in HERE && !item.settled);
  const safe = found.filter((item) => item.offers.some((offer) => offer.safe));
  const putRight = () =>
    change(async () => {
      const params = { path: { job_id: job.id } };
      const { taken, job: now } = need(await api.POST("/api/jobs/{job_id}/mend/right", { params }));
      setTold({ of: now.decisions_id, said: taken });
      return now as typeof job;
    });
  const just = told?.of === job.decisions_id ? told.said : null;
  if (!result) return null;
  return (
    <section aria-label="Damage" className="grid grid-cols-[minmax(0,1fr)] gap-1">
      <div className="flex items-center justify-between gap-2">
        <p className="font-semibold">
          {found.length ? `${plural(found.length, "thing")} wrong with triangles` : "Nothing wrong with any triangle"}
        </p>
        {safe.length > 0 && (
          <Button main title="Only what nobody can have meant; undo takes it back" onClick={putRight}>
            Put all right
          </Button>
        )}
      </div>
      {just && (
        <p role="status" className="rounded bg-sea-pale px-2 py-1 text-[12.5px] text-sea">
          {job.climb.state === "done" ? "Put right: " : "Being put right: "}
          {just.join(" ")}
        </p>
      )}
      <ul className="grid grid-cols-[minmax(0,1fr)]">
        {found.map((item) => (
          <DamageLine key={`${item.code} ${item.message}`} item={item} />
        ))}
      </ul>
    </section>
  );
}

function DamageLine({ item }: { item: Finding }) {
  const bench = useBench();
  const { result } = bench;
  const known = HERE[item.code];
  const count = item.parts.reduce((sum, part) => {
    const made = result?.parts[part];
    return sum + (made?.flaws[known?.[0] ?? ""] ?? made?.bad_normals[known?.[0] ?? ""] ?? 0);
  }, 0);
  const said = known && count ? plural(count, known[1], known[2]) : item.message;
  return (
    <li className="flex items-center gap-1 border-t border-cloth-deep py-0.5">
      <span className="min-w-0 flex-1 truncate" title={`${item.message} ${item.why} ${item.remedy}`}>
        {item.parts.length > 0 ? (
          <button
            type="button"
            aria-label={`Show ${said}`}
            onClick={() => goTo(bench, item.parts)}
            className="max-w-full truncate rounded py-1 underline decoration-line underline-offset-4 hover:decoration-ink"
          >
            {said}
          </button>
        ) : (
          said
        )}
      </span>
      {item.offers.map((offer) => (
        <Button
          key={offer.label}
          className="!px-1.5"
          title={offer.safe ? undefined : "Look at the result: it may change what was meant"}
          onClick={() => bench.take(item, offer)}
        >
          {offer.label}
        </Button>
      ))}
    </li>
  );
}
