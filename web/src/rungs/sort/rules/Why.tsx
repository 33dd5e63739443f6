import { useQuery } from "@tanstack/react-query";

import { api, need } from "../../../api/client";
import { useBench } from "../../../bench/bench";

/** Why what was pointed at last wears what it does, and what other rules would have said. */
export function Why() {
  const { job, view, structure } = useBench();
  const node = view.chosen.size ? view.node : null;
  const asked = useQuery({
    queryKey: ["why", job.id, job.decisions_id, node],
    enabled: node !== null,
    queryFn: async () =>
      need(await api.GET("/api/jobs/{job_id}/sort/why/{node}", { params: { path: { job_id: job.id, node: node! } } })),
    retry: false,
  });
  const part = node === null ? -1 : (structure?.node_parts[node] ?? -1);
  const name = node === null ? "" : structure?.node_names[node] || structure?.parts[part]?.label || "";
  const others = asked.data?.reasons.filter(({ decided }) => !decided) ?? [];
  return (
    <p role="status" aria-label="Why" className="mt-2 border-t border-dashed border-line pt-2 text-[12.5px]">
      {node === null ? (
        <span className="text-ink-soft">Point at something beside here, and its material is explained.</span>
      ) : asked.isError ? (
        <span className="text-ink-soft">{asked.error.message}</span>
      ) : asked.data ? (
        <>
          <b className="font-semibold">{name}</b> wears {asked.data.materials.join(", ")}, by {asked.data.why}.
          {others.length > 0 && (
            <span className="text-ink-soft">
              {" "}
              Later rules would have said:{" "}
              {others
                .slice(0, 3)
                .map(({ rule, material }) => `${rule + 1} ${material}`)
                .join(", ")}
              {others.length > 3 && " and more"}.
            </span>
          )}
        </>
      ) : (
        "…"
      )}
    </p>
  );
}
