import { useQuery } from "@tanstack/react-query";

import { api, type Decisions, need } from "../../../api/client";
import { useBench } from "../../../bench/bench";
import { bytes, count } from "../../../ui/format";

export type JoinBy = NonNullable<Decisions["ship"]["target"]["group"]>;
/** What one mesh can be for when shipped. */
export const JOINS: Record<JoinBy, string> = {
  part: "each part",
  material: "each material",
  layer: "each layer",
  class: "each class",
  storey: "each storey",
  group: "each group",
  source: "each source",
  one: "all of it",
};

/** What a mesh is when shipped, with what each choice gives and takes. */
export function Joins() {
  const { job, result, decisions, decide } = useBench();
  const asked = useQuery({
    queryKey: ["joins", job.id, job.decisions_id, result?.model_key, result?.triangles],
    queryFn: async () => need(await api.GET("/api/jobs/{job_id}/sort/joins", { params: { path: { job_id: job.id } } })),
    placeholderData: (before) => before,
  });
  const now = decisions.ship.target.group ?? "part";
  const set = (group: JoinBy) =>
    decide(
      (all) => ({ ...all, ship: { ...all.ship, target: { ...all.ship.target, group } } }),
      `One mesh for ${JOINS[group]}`,
    );
  const chosen = asked.data?.find(({ group }) => group === now);
  return (
    <section aria-label="One mesh for" className="grid gap-1.5">
      <h3 className="font-semibold">When shipped, one mesh for</h3>
      <table className="w-full border-collapse tabular-nums">
        <thead className="text-[12px] text-ink-soft">
          <tr className="border-b border-line">
            <th className="py-1 text-left font-medium">One for</th>
            <th className="text-right font-medium">Meshes</th>
            <th className="text-right font-medium">Draw calls</th>
            <th className="text-right font-medium">Size, about</th>
          </tr>
        </thead>
        <tbody>
          {asked.data?.map((one) => (
            <tr key={one.group} className={`border-b border-cloth-deep ${one.group === now ? "font-semibold" : ""}`}>
              <td className="py-0.5">
                <label className="flex items-center gap-2">
                  <input
                    type="radio"
                    name="joins"
                    checked={one.group === now}
                    onChange={() => set(one.group as JoinBy)}
                    className="accent-sea"
                  />
                  {JOINS[one.group as JoinBy]}
                </label>
              </td>
              <td className="text-right">{count(one.meshes)}</td>
              <td className="text-right">{count(one.draw_calls)}</td>
              <td className="text-right">{bytes(one.bytes)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {chosen && <p className="text-ink-soft">Lost with it: {chosen.loses}.</p>}
    </section>
  );
}
