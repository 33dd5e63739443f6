import { useState } from "react";

import { needJob, api } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { Button, Select } from "../../../ui/controls";
import { count, plural } from "../../../ui/format";
import { Swatch } from "../../../ui/Swatch";
import type { Value } from "./useRules";
import type { By, Choice } from "./values";

/** Every value of a kind that occurs, with what it wears; giving one a material makes or changes a rule. */
export function Values({ by, values, materials }: { by: By; values: Value[]; materials: readonly Choice[] }) {
  const { change, job } = useBench();
  const [text, setText] = useState("");
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const named = new Map(materials.map((item) => [item.value, item]));
  const wanted = text.trim().toLowerCase();
  const shown = values.filter(({ label }) => label.toLowerCase().includes(wanted));
  const some = shown.filter(({ value }) => marked.has(value));
  const give = (which: string[], material: string) => {
    setMarked(new Set());
    change(async () =>
      needJob(
        await api.POST("/api/jobs/{job_id}/sort/assign", {
          params: { path: { job_id: job.id } },
          body: { by, values: which, material },
        }),
      ),
    );
  };
  return (
    <div className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)]">
      <div className="flex flex-wrap items-center gap-2 pb-1.5">
        <input
          aria-label={`Find a ${by}`}
          placeholder="Find…"
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="w-32 rounded-md border border-field bg-white px-2 py-1"
        />
        <span className="text-ink-soft">{plural(shown.length, "value")}</span>
        <Button quiet onClick={() => setMarked(new Set(some.length ? [] : shown.map(({ value }) => value)))}>
          {some.length ? "Mark none" : "Mark all"}
        </Button>
        {some.length > 0 && (
          <Select
            label={`Material of ${some.length} marked`}
            empty={`Give the ${some.length} marked…`}
            value=""
            options={materials}
            onChange={(material) =>
              give(
                some.map(({ value }) => value),
                material,
              )
            }
          />
        )}
      </div>
      <div className="min-h-0 scroll-pt-8 overflow-auto" tabIndex={0} aria-label="Values">
        <table className="w-full border-collapse text-[13px] tabular-nums">
          <thead className="sticky top-0 bg-paper text-[12px] text-ink-soft">
            <tr className="border-b border-line text-left">
              <th className="w-7 py-1">
                <span className="sr-only">Marked</span>
              </th>
              <th className="font-medium">Value</th>
              <th className="w-[88px] text-right font-medium">Placements</th>
              <th className="w-[88px] text-right font-medium">Triangles</th>
              <th className="w-[56px] text-right font-medium">Rule</th>
              <th className="w-[190px] pl-3 font-medium">Wears</th>
            </tr>
          </thead>
          <tbody>
            {shown.slice(0, 300).map((item) => {
              const [first, ...others] = item.worn;
              const known = first && named.get(first.material);
              return (
                <tr key={item.value} className="border-b border-cloth-deep">
                  <td>
                    <input
                      type="checkbox"
                      aria-label={`Mark ${item.label}`}
                      checked={marked.has(item.value)}
                      onChange={() =>
                        setMarked((now) => {
                          const next = new Set(now);
                          if (!next.delete(item.value)) next.add(item.value);
                          return next;
                        })
                      }
                      className="size-4 accent-sea"
                    />
                  </td>
                  <td className="max-w-0 truncate py-1" title={item.label}>
                    {by === "colour" && <Swatch colour={item.value.slice(0, 7)} />} {item.label}
                  </td>
                  <td className="text-right">{count(item.placements)}</td>
                  <td className="text-right">{item.triangles ? count(item.triangles) : "…"}</td>
                  <td className="text-right text-ink-soft">
                    {item.rules.length ? item.rules.map((rule) => rule + 1).join(", ") : "none"}
                  </td>
                  <td className="py-0.5 pl-3">
                    <Select
                      label={`Material of ${item.label}`}
                      className="w-full"
                      empty={first ? "loose end" : ""}
                      value={others.length ? "" : (known?.value ?? "")}
                      options={
                        others.length
                          ? [{ value: "", label: `${item.worn.length} materials` }, ...materials]
                          : materials
                      }
                      onChange={(material) => material && give([item.value], material)}
                    />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {shown.length > 300 && (
          <p className="py-2 text-ink-soft">{count(shown.length - 300)} more; find some by their names.</p>
        )}
        {!shown.length && <p className="py-2 text-ink-soft">Nothing that enters has that.</p>}
      </div>
    </div>
  );
}
